"""What a finding is made of."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from juglant.core.findings.fixes import Fix
from juglant.core.lowend.session import Answer, Session

# The step of the work in which a finding is mended.
Step = Literal["brief", "hits", "tune", "line", "separate", "duck", "room"]


@dataclass(frozen=True)
class Finding:
    """One verdict. `fixes` are ways to mend it that may be tried, by what they are called.

    Empty where only the producer can mend it: `advice` says how.
    """

    id: str
    step: Step
    sentence: str
    measure: str
    value: float
    limit: float
    unit: str
    why: str
    fixes: dict[str, str]
    advice: str = ""


@dataclass(frozen=True)
class Check:
    """A kind of finding: its number (None if not measurable), its verdict, what mends it.

    `fixes` are by the same words as those of the finding.
    """

    id: str
    number: Callable[[Session, Answer], float | None]
    judge: Callable[[Session, Answer], Finding | None]
    fixes: dict[str, Fix]


# The word of a fix that is the only one.
MEND = "mend"


def mend(label: str | None) -> dict[str, str]:
    """The fixes of a finding that has one, or none.

    Parameters
    ----------
    label
        What the button says.

    Returns
    -------
    dict of str to str
        Labels by the way.

    Examples
    --------
    >>> mend("Cut it"), mend(None)
    ({'mend': 'Cut it'}, {})
    """
    return {} if label is None else {MEND: label}


def check(
    id: str,
    number: Callable[[Session, Answer], float | None],
    judge: Callable[[Session, Answer], Finding | None],
    fix: Fix,
) -> Check:
    """A kind of finding with one way to mend it.

    Parameters
    ----------
    id
        Of the finding.
    number
        What is judged.
    judge
        Says what is wrong, or nothing.
    fix
        What mends it.

    Returns
    -------
    Check
        Judges and mends.

    Examples
    --------
    >>> check("x", lambda session, answer: 0.0, lambda session, answer: None, None).id
    'x'
    """
    return Check(id, number, judge, {MEND: fix})
