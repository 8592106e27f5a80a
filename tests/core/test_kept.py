"""What was asked for last is kept, within limits."""

from functools import partial

import numpy as np
import pytest

from juglant.core.errors import CancelledError
from juglant.core.kept import Kept, gone, held


def test_the_oldest_goes_when_there_are_too_many_or_they_are_too_large() -> None:
    made: list[int] = []

    def asked(kept: Kept, n: int) -> int:
        def make() -> np.ndarray:
            made.append(n)
            return np.zeros(1000)

        return int(kept.once(make, n).size)

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
    assert kept.once(lambda: np.ones(1000), "large").sum() == 1000
    assert kept.once(lambda: np.ones(10), "small").sum() == 10


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

        kept.once(make, name)

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
    made: list[int] = []
    kept.once(partial(made.append, 1), "there")
    token = gone.set(lambda: True)
    try:
        kept.once(partial(made.append, 2), "there")
        with pytest.raises(CancelledError):
            kept.once(partial(made.append, 3), "not there")
    finally:
        gone.reset(token)
    assert made == [1]
    # Who comes after finds the place free.
    kept.once(partial(made.append, 4), "not there")
    assert made == [1, 4]
