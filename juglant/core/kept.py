"""What was asked for last is kept, under the hash of what it was made of.

A function that renders or measures sees its arguments and nothing else, and they are its key: what it does
not depend on by name it cannot depend on.
"""

import hashlib
import json
from collections import Counter, OrderedDict
from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from math import isfinite
from threading import Lock
from typing import Any, ParamSpec, TypeVar

import numpy as np
from numpy.typing import NDArray

from juglant.core import ENGINE_VERSION, RATE
from juglant.core.errors import CancelledError
from juglant.core.recipes.fields import Recipe

T = TypeVar("T")
P = ParamSpec("P")


def _waiting() -> bool:
    return False


# Whether whoever asked has gone. Set by those who answer; asked before anything is made.
gone: ContextVar[Callable[[], bool]] = ContextVar("gone", default=_waiting)


def _named(part: Any) -> Any:
    """What stands in a key for what is no plain value: a recipe's text, the key of what has one, or a
    record's fields. TypeError for what does not say what it is.
    """
    if isinstance(part, Recipe):
        return part.text
    if key := getattr(part, "key", ""):
        return key
    if hasattr(part, "__dataclass_fields__") and not hasattr(part, "key"):
        return [getattr(part, name) for name in part.__dataclass_fields__]
    raise TypeError(f"Nothing can be kept under {type(part).__name__}: it does not say what it is made of.")


_encoded = json.JSONEncoder(default=_named).encode
# Most of what a key is made of is this plain, and takes no encoder.
_PLAIN: dict[type, Callable[[Any], str]] = {
    str: json.encoder.encode_basestring_ascii,
    int: int.__repr__,
    float: lambda value: repr(value) if isfinite(value) else _encoded(value),
    bool: {False: "false", True: "true"}.__getitem__,
    type(None): lambda _: "null",
}


def _written(part: Any) -> str:
    plain = _PLAIN.get(type(part))
    if plain is not None:
        return plain(part)
    return part.text if isinstance(part, Recipe) else _encoded(part)


def sound_key(*parts: Any, version: int = ENGINE_VERSION) -> str:
    """Hash of what decides a sound's samples: recipes, rate and engine version.

    Parameters
    ----------
    *parts
        What decides it.
    version
        Of the engine.

    Returns
    -------
    str
        64 hexadecimal digits.

    Examples
    --------
    >>> len(sound_key("kick", 128.0))
    64
    """
    plain = [_written(part) for part in parts]
    return hashlib.sha256(f"{version} {RATE} {plain}".encode()).hexdigest()


@dataclass(frozen=True)
class Named:
    """Samples under the hash of what they were made of."""

    key: str
    samples: NDArray[np.float64]


def held(value: Any, depth: int = 5) -> dict[int, int]:
    """The memory behind a result: bytes of every block that its arrays, and those of what it is made
    of, lie in. A block is named by its id, so that one that several results share counts once.

    Parameters
    ----------
    value
        Any result.
    depth
        How deep is looked.

    Returns
    -------
    dict of int to int
        Bytes by the block.

    Examples
    --------
    >>> sum(held({"a": np.zeros(4)}).values())
    32
    """
    if isinstance(value, np.ndarray):
        block = value
        while isinstance(block.base, np.ndarray):
            block = block.base
        return {id(block): int(block.nbytes)}
    inside: Iterable[Any] = ()
    if isinstance(value, dict):
        inside = value.values()
    elif isinstance(value, list | tuple):
        inside = value
    elif not isinstance(value, Recipe):
        # Settings are small, and many: only what holds arrays is looked into.
        inside = getattr(value, "__dict__", {}).values()
    blocks: dict[int, int] = {}
    if depth > 0:
        for part in inside:
            blocks |= held(part, depth - 1)
    return blocks


def key_of(make: Callable[..., Any], *seen: Any, **named: Any) -> str:
    """The key of what a function makes of what it sees. TypeError for a function that sees more.

    Parameters
    ----------
    make
        A function at the head of a module or a class.
    *seen, **named
        Its arguments.

    Returns
    -------
    str
        64 hexadecimal digits.

    Examples
    --------
    >>> len(key_of(sound_key, 128.0))
    64
    """
    name = make.__qualname__
    if "<" in name:
        raise TypeError(f"{name} sees more than it is given: what it makes cannot be kept under that.")
    return sound_key(make.__module__, name, *seen, *([named] if named else []))


class _Entry:
    """One kept result, or the place where it is being made."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.made = False
        self.value: Any = None
        self.blocks: dict[int, int] = {}
        # How much of it was there when its memory was counted: what is measured later comes on top.
        self.counted = 0

    @property
    def parts(self) -> int:
        """How many fields the result holds by now, itself counted."""
        return 1 + len(getattr(self.value, "__dict__", ()))


class Kept:
    """The latest results of pure functions, by number and by memory. Safe to share by threads."""

    def __init__(self, most: int, most_bytes: int = 1 << 40) -> None:
        self._most, self._most_bytes = most, most_bytes
        self._entries: OrderedDict[str, _Entry] = OrderedDict()
        # How many kept results hold each block of memory.
        self._holders: Counter[int] = Counter()
        self._bytes = 0
        self._lock = Lock()

    def once(self, make: Callable[P, T], *seen: P.args, **named: P.kwargs) -> T:
        """`make`'s result, made only where it is not kept under what it sees. CancelledError where whoever
        asked has gone, TypeError for a function that sees more than its arguments.
        """
        return self.named(key_of(make, *seen, **named), lambda: make(*seen, **named))

    def sound(self, make: Callable[P, NDArray[np.float64]], *seen: P.args, **named: P.kwargs) -> Named:
        """The samples that `make` renders, with their key, so that what is made of them is known by it."""
        key = key_of(make, *seen, **named)
        return Named(key, self.named(key, lambda: make(*seen, **named)))

    def named(self, key: str, make: Callable[[], T]) -> T:
        """`make`'s result under a key that is known already."""
        with self._lock:
            entry = self._entries.pop(key, None) or _Entry()
            self._entries[key] = entry
            self._forget()
        # Two requests for the same sound: the second waits rather than rendering it again.
        with entry.lock:
            if not entry.made:
                if gone.get()():
                    raise CancelledError
                entry.value, entry.made = make(), True
            if entry.counted != entry.parts:
                with self._lock:
                    if self._entries.get(key) is entry:
                        self._count(entry)
                    self._forget()
        return entry.value  # type: ignore[no-any-return]

    def _count(self, entry: _Entry) -> None:
        """Count the memory of a result, with what has been measured of it since."""
        self._uncount(entry)
        entry.blocks, entry.counted = held(entry.value), entry.parts
        for block, size in entry.blocks.items():
            self._bytes += 0 if self._holders[block] else size
            self._holders[block] += 1

    def _uncount(self, entry: _Entry) -> None:
        for block, size in entry.blocks.items():
            self._holders[block] -= 1
            if not self._holders[block]:
                del self._holders[block]
                self._bytes -= size

    def _forget(self) -> None:
        """Leave out the oldest results beyond the limits, the latest one excepted."""
        while len(self._entries) > 1 and (
            len(self._entries) > self._most or self._bytes > self._most_bytes
        ):
            _, gone = self._entries.popitem(last=False)
            self._uncount(gone)
