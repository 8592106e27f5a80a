"""How hard the next question is: a transformed up-down staircase.

H. Levitt, JASA 49 (1971): two right answers in a row make it harder, one wrong one easier, which comes to
rest where 70.7 % are right. Differences go in equal ratios; the ratio shrinks at the second and the
fourth turn, so that it finds the place first and then reads it.
"""

from typing import NamedTuple

import numpy as np

_RATIOS = ((0, 2.0), (2, 2.0**0.5), (4, 2.0**0.25))
_READ_TURNS = 6


class Staircase(NamedTuple):
    """Where it stands: the difference that is asked next, right answers in a row, which way it goes (1 up
    to easier, -1 down to harder, 0 before it began), the differences at which it turned, how many were
    answered and how many of them were right.
    """

    difference: float
    in_a_row: int = 0
    way: int = 0
    turns: tuple[float, ...] = ()
    answered: int = 0
    right: int = 0


def after(stairs: Staircase, *, right: bool, hardest: float, easiest: float) -> Staircase:
    """The staircase after an answer.

    Parameters
    ----------
    stairs
        As they stand.
    right
        Whether the answer was.
    hardest
        Least difference.
    easiest
        Greatest difference.

    Returns
    -------
    Staircase
        The next one.

    Examples
    --------
    >>> after(after(Staircase(8.0), right=True, hardest=1.0, easiest=16.0), right=True, hardest=1.0,
    ...       easiest=16.0).difference
    4.0
    """
    row = stairs.in_a_row + 1 if right else 0
    way = -1 if row == 2 else 0 if right else 1
    count, hits = stairs.answered + 1, stairs.right + int(right)
    if way == 0:
        return stairs._replace(in_a_row=row, answered=count, right=hits)
    turned = stairs.way not in (0, way)
    turns = (*stairs.turns, stairs.difference) if turned else stairs.turns
    ratio = next(ratio for least, ratio in reversed(_RATIOS) if len(turns) >= least)
    wished = stairs.difference * ratio**way
    return Staircase(min(max(wished, hardest), easiest), 0, way, turns[-24:], count, hits)


def threshold(stairs: Staircase) -> float | None:
    """The difference that is heard in 70.7 %: the geometric mean of the last six turns; None before.

    Parameters
    ----------
    stairs
        As they stand.

    Returns
    -------
    float or None
        In the unit of the difference.

    Examples
    --------
    >>> threshold(Staircase(8.0)) is None
    True
    """
    last = stairs.turns[-_READ_TURNS:]
    return float(np.exp(np.mean(np.log(last)))) if len(last) == _READ_TURNS else None
