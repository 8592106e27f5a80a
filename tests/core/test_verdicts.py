"""Verdicts on tracks made apart from the product's own generators: common practice calls them clean.

The whole bench has more of both; here is a part of each.
"""

import pytest

from bench.faults import FAULTS, faulty
from bench.tracks import GENRES, clean
from bench.verdicts import judged, told

QUICK = (
    "silence in front of the kick", "a clipped kick", "an offset", "50 Hz hum", "two strokes in the file",
    "kick 40 cents sharp", "bass under the whole kick", "the owner ducked as a whole", "a boxy kick",
    "bass at another tempo", "two lines that cancel",
)  # fmt: skip


@pytest.mark.thorough
@pytest.mark.parametrize("genre", GENRES)
@pytest.mark.parametrize("seed", [0, 1, 2])
def test_a_clean_track_raises_nothing(genre: str, seed: int) -> None:
    assert judged(clean(genre, seed)) == []


@pytest.mark.thorough
@pytest.mark.parametrize("fault", [one for one in FAULTS if one[0] in QUICK], ids=lambda one: one[0])
def test_a_fault_is_found_and_what_is_offered_opens_no_other(fault: tuple) -> None:  # type: ignore[type-arg]
    met, offered = told(faulty(fault, 0), fault[1])
    assert met
    assert all(opens == [] for _, opens in offered)
