"""Files and questions broken at random: `make bench` asks ten thousand."""

from pathlib import Path

import pytest

from bench.fuzz import fuzzed


@pytest.mark.parametrize("seed", [3, 4])
def test_nothing_that_is_broken_breaks_anything(tmp_path: Path, seed: int) -> None:
    found = fuzzed(tmp_path, 250, seed)
    assert found.failed == []
