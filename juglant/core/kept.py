"""What was asked for last is kept, under the hash of what decides it."""

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

import numpy as np
from pydantic import BaseModel

from juglant.core import ENGINE_VERSION, RATE

T = TypeVar("T")


def sound_key(*parts: Any) -> str:
    """Hash of what decides a sound's samples: recipes, rate and engine version."""
    # Fields are written in the order of their definition: the same recipe is the same text.
    plain = [part.model_dump_json() if isinstance(part, BaseModel) else json.dumps(part) for part in parts]
    return hashlib.sha256(f"{ENGINE_VERSION} {RATE} {plain}".encode()).hexdigest()


def held_bytes(value: Any, depth: int = 3) -> int:
    """About how much memory a result holds: its arrays, and those of what it is made of."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if depth == 0:
        return 0
    if isinstance(value, dict):
        return sum(held_bytes(part, depth - 1) for part in value.values())
    if isinstance(value, list | tuple):
        return sum(held_bytes(part, depth - 1) for part in value)
    inside = getattr(value, "__dict__", None)
    # Settings are small, and many: only what holds arrays is looked into.
    if inside is None or isinstance(value, BaseModel):
        return 0
    return sum(held_bytes(part, depth - 1) for part in inside.values())


class _Entry:
    """One kept result, or the place where it is being made."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.made = False
        self.value: Any = None
        self.bytes = 0


class Kept:
    """The latest results of pure functions, by number and by memory. Safe to share by threads."""

    def __init__(self, most: int, most_bytes: int = 1 << 40) -> None:
        self._most, self._most_bytes = most, most_bytes
        self._entries: OrderedDict[str, _Entry] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def once(self, make: Callable[[], T], *decided_by: Any) -> T:
        """`make`'s result, made only where it is not kept under what decides it."""
        return self.named(sound_key(*decided_by), make)

    def named(self, key: str, make: Callable[[], T]) -> T:
        """The same, under a key that is known already."""
        with self._lock:
            entry = self._entries.pop(key, None) or _Entry()
            self._entries[key] = entry
            self._forget()
        # Two requests for the same sound: the second waits rather than rendering it again.
        with entry.lock:
            if not entry.made:
                entry.value, entry.made = make(), True
                with self._lock:
                    if self._entries.get(key) is entry:
                        entry.bytes = held_bytes(entry.value)
                        self._bytes += entry.bytes
                    self._forget()
        return entry.value  # type: ignore[no-any-return]

    def _forget(self) -> None:
        """Leave out the oldest results beyond the limits, the latest one excepted."""
        while len(self._entries) > 1 and (
            len(self._entries) > self._most or self._bytes > self._most_bytes
        ):
            _, gone = self._entries.popitem(last=False)
            self._bytes -= gone.bytes
