"""Answers that are kept in numbers. They are no truth of their own: whether a number is right other tests ask;
these say that nothing has moved that nobody meant to move.

After a change that is meant, `python -m tests.kept` writes them anew.
"""

import json
import math
import re
from collections.abc import Callable, Mapping
from dataclasses import fields, is_dataclass
from pathlib import Path

import numpy as np
import pytest
from pydantic import BaseModel

Cases = Mapping[str, Callable[[], object]]
_LONGEST, _PARTS = 24, 12
_SAID = "said"
_NOTHING_DB = -150.0
# What names a sound is no answer.
_DIGEST = re.compile("[0-9a-f]{64}")


def leaves(value: object) -> list[object]:
    """Numbers and short names of anything, in the order in which they stand; of a long row what sums it up."""
    if isinstance(value, BaseModel):
        return leaves(value.model_dump())
    if is_dataclass(value):
        return [leaf for one in fields(value) for leaf in leaves(getattr(value, one.name))]
    if isinstance(value, dict):
        return [leaf for key in sorted(value, key=str) for leaf in leaves(value[key])]
    if isinstance(value, str):
        # Of a sentence its numbers: how it is put may change.
        return (
            [_SAID, *(one for one in words(value) if isinstance(one, float))] if " " in value
            else [] if _DIGEST.fullmatch(value) else [value]
        )  # fmt: skip
    if isinstance(value, np.ndarray) and np.iscomplexobj(value):
        return leaves([value.real, value.imag])
    if isinstance(value, np.ndarray) or (
        isinstance(value, list | tuple) and value and all(type(one) in (int, float) for one in value)
    ):
        row = np.asarray(value, np.float64).ravel()
        if row.size <= _LONGEST:
            return [float(one) for one in row]
        # Its mean size in each part of it.
        sizes = [float(np.mean(one)) for one in np.array_split(np.abs(row), _PARTS)]
        return [row.size, float(row.min()), float(row.max()), float(row.mean()), *sizes]
    if isinstance(value, list | tuple | set):
        return [leaf for one in value for leaf in leaves(one)]
    if isinstance(value, bool | int | float | np.number):
        return [float(value)]
    return [None] if value is None else []


def words(text: str) -> list[object]:
    """A text word by word, its numbers as numbers."""
    found: list[object] = []
    for word in text.replace("|", " ").split():
        try:
            found.append(float(word.strip("(),;:±%").replace("−", "-")))
        except ValueError:
            found.append(word)
    return found


def agrees(path: Path, name: str, cases: Cases) -> None:
    """Fail where an answer is not what it was."""
    was, now = json.loads(path.read_text())[name], leaves(cases[name]())
    assert len(was) == len(now)
    for n, (old, new) in enumerate(zip(was, now, strict=True)):
        if isinstance(old, float | int) and isinstance(new, float | int):
            # Processors with other vectors, and other builds of the same libraries, round no further apart;
            # what is so far down in dB is the rounding of nothing.
            most = 1.0 if max(old, new) < _NOTHING_DB else max(2e-5, min(1e-3 * abs(old), 3e-5))
            assert math.isclose(new, old, rel_tol=1e-4, abs_tol=most), (
                f"{name}, number {n}: {new}, was {old}"
            )
        else:
            assert new == old, f"{name}, number {n}"


def kept_tests(
    path: Path, cases: Cases, thorough: Callable[[str], bool] = lambda name: False
) -> tuple[Callable[[], None], Callable[[str], None]]:
    """The two tests of a file of kept answers; of some names the second is left to the thorough tests."""
    names = [pytest.param(name, marks=pytest.mark.thorough if thorough(name) else ()) for name in cases]

    def test_nothing_is_left_out() -> None:
        assert json.loads(path.read_text()).keys() == cases.keys()

    @pytest.mark.parametrize("name", names)
    def test_an_answer_is_what_it_was(name: str) -> None:
        agrees(path, name, cases)

    return test_nothing_is_left_out, test_an_answer_is_what_it_was


def keep(path: Path, cases: Cases) -> None:
    """Write the answers anew: after a change that is meant."""
    found = {
        name: [float(f"{one:.6g}") if isinstance(one, float) else one for one in leaves(ask())]
        for name, ask in cases.items()
    }
    path.write_text(json.dumps(found, indent=None).replace('], "', '],\n"') + "\n")


if __name__ == "__main__":
    from importlib import import_module

    for name in ("answers", "corners", "rules", "single", "sounds", "tracks", "work"):
        one = import_module(f"tests.core.test_kept_{name}")
        keep(one.KEPT, one.CASES)
