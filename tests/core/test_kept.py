"""What was asked for last is kept, within limits."""

from dataclasses import dataclass, field

import numpy as np
import pytest

from juglant.core.errors import CancelledError
from juglant.core.kept import Kept, Named, gone, held, key_of
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.place import Place


@dataclass(frozen=True)
class _Made:
    """What was made, in order: known as one and the same, whatever is in it."""

    key: str = "made"
    names: list[object] = field(default_factory=list)


def _noted(made: _Made, name: object) -> None:
    made.names.append(name)


def _zeros(made: _Made, name: object, count: int) -> np.ndarray:
    made.names.append(name)
    return np.zeros(count)


def _ones(count: int) -> np.ndarray:
    return np.ones(count)


def test_what_is_not_told_cannot_be_seen_and_what_is_told_is_the_key() -> None:
    there, kept, brief = 2, Kept(10), Brief(bpm=120.0)
    with pytest.raises(TypeError, match="sees more than it is given"):
        kept.once(lambda: there)
    with pytest.raises(TypeError, match="does not say what it is made of"):
        key_of(_ones, np.ones(3))
    with pytest.raises(TypeError, match="does not say what it is made of"):
        key_of(_ones, Named("", np.ones(3)))
    assert key_of(_ones, 3) == key_of(_ones, 3) != key_of(_ones, 4)
    assert key_of(_ones, 3) != key_of(_zeros, 3)
    assert key_of(_ones, Named("a", np.ones(3))) == key_of(_ones, Named("a", np.ones(4)))
    assert key_of(_ones, Place(pan=0.1)) != key_of(_ones, Place(pan=0.2))
    # A record is its fields, and a recipe of which a part is seen is nothing but that part.
    assert key_of(_ones, brief.only("bpm")) == key_of(_ones, Brief(bpm=120.0, tonic="C").only("bpm"))
    assert key_of(_ones, brief.only("bpm")) != key_of(_ones, Brief(bpm=121.0).only("bpm"))
    with pytest.raises(AttributeError):
        brief.only("bpm").tonic  # noqa: B018
    assert brief.only("chord_roots").roots == brief.roots
    assert brief.only("chord_roots", "bpm").bars == brief.bars


def test_the_oldest_goes_when_there_are_too_many_or_they_are_too_large() -> None:
    told = _Made()
    made = told.names

    def asked(kept: Kept, n: int) -> int:
        return int(kept.once(_zeros, told, n, 1000).size)

    few = Kept(3)
    for n in (1, 2, 3, 1, 4, 2):
        asked(few, n)
    assert made == [1, 2, 3, 4, 2]  # 2 was the oldest when 4 came
    made.clear()
    small = Kept(100, most_bytes=20_000)
    for n in (1, 2, 1, 3, 1, 2):
        asked(small, n)
    assert made == [1, 2, 3, 2]


def test_one_result_larger_than_all_is_still_given() -> None:
    kept = Kept(10, most_bytes=100)
    assert kept.once(_ones, 1000).sum() == 1000
    assert kept.once(_ones, 10).sum() == 10


def test_what_a_result_holds_is_counted_within() -> None:
    class Holder:
        def __init__(self) -> None:
            self.samples, self.more = np.zeros(10), {"a": [np.zeros(5)], "b": "text"}

    assert sum(held(Holder()).values()) == 8 * 15
    assert held("text") == {}


def test_what_several_results_share_counts_once_until_the_last_of_them_goes() -> None:
    shared = np.zeros(1000)
    kept = Kept(100, most_bytes=20_000)
    made: list[str] = []

    def asked(name: str, value: object) -> None:
        def make() -> object:
            made.append(name)
            return value

        kept.named(name, make)

    for name in ("whole", "part", "again"):
        asked(name, shared if name != "part" else shared[:10])
    asked("other", np.zeros(1400))
    for name in ("whole", "part", "again", "other"):
        asked(name, shared)
    assert made == ["whole", "part", "again", "other"]
    asked("more", np.zeros(1500))
    # Four had to go before the block that three of them share was free.
    asked("other", np.zeros(900))
    assert made == ["whole", "part", "again", "other", "more", "other"]


def test_nothing_is_made_for_one_who_has_gone_and_what_is_there_is_given() -> None:
    kept = Kept(10)
    made = _Made()
    kept.once(_noted, made, "there")
    token = gone.set(lambda: True)
    try:
        kept.once(_noted, made, "there")
        with pytest.raises(CancelledError):
            kept.once(_noted, made, "not there")
    finally:
        gone.reset(token)
    assert made.names == ["there"]
    # Who comes after finds the place free.
    kept.once(_noted, made, "not there")
    assert made.names == ["there", "not there"]
