"""What a finding is made of."""

from collections.abc import Callable
from dataclasses import dataclass

from juglant.core.findings.fixes import Fix
from juglant.core.lowend.session import Answer, Session


@dataclass(frozen=True)
class Finding:
    """One verdict. `fix_label` is None where only the producer can mend it."""

    id: str
    step: str
    sentence: str
    measure: str
    value: float
    limit: float
    unit: str
    why: str
    fix_label: str | None


@dataclass(frozen=True)
class Check:
    """A kind of finding: its number (None if not measurable), its verdict, what mends it."""

    id: str
    number: Callable[[Session, Answer], float | None]
    judge: Callable[[Session, Answer], Finding | None]
    fix: Fix
