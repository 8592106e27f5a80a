"""Numbers become verdicts: measured value, limit, reason, fix."""

from juglant.core.findings.judge import effect, findings, fixes
from juglant.core.findings.trying import Effect, TriedFix
from juglant.core.findings.verdict import Finding

__all__ = ["Effect", "Finding", "TriedFix", "effect", "findings", "fixes"]
