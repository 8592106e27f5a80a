"""What was asked for last is kept, under the hash of what decides it."""

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

from pydantic import BaseModel

from juglant.core import ENGINE_VERSION, RATE

T = TypeVar("T")


def sound_key(*parts: Any) -> str:
    """Hash of what decides a sound's samples: recipes, rate and engine version."""
    # Fields are written in the order of their definition: the same recipe is the same text.
    plain = [part.model_dump_json() if isinstance(part, BaseModel) else json.dumps(part) for part in parts]
    return hashlib.sha256(f"{ENGINE_VERSION} {RATE} {plain}".encode()).hexdigest()


class _Entry:
    """One kept result, or the place where it is being made."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.made = False
        self.value: Any = None


class Kept:
    """The latest results of pure functions. Safe to share by threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._entries: OrderedDict[str, _Entry] = OrderedDict()
        self._lock = Lock()

    def once(self, make: Callable[[], T], *decided_by: Any) -> T:
        """`make`'s result, made only where it is not kept under what decides it."""
        return self.named(sound_key(*decided_by), make)

    def named(self, key: str, make: Callable[[], T]) -> T:
        """The same, under a key that is known already."""
        with self._lock:
            entry = self._entries.pop(key, None) or _Entry()
            self._entries[key] = entry
            while len(self._entries) > self._most:
                self._entries.popitem(last=False)
        # Two requests for the same sound: the second waits rather than rendering it again.
        with entry.lock:
            if not entry.made:
                entry.value, entry.made = make(), True
        return entry.value  # type: ignore[no-any-return]
