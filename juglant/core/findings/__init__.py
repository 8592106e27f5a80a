"""Numbers become verdicts: measured value, limit, reason, fix."""

from juglant.core.findings.judge import Effect, effect, findings
from juglant.core.findings.verdict import Finding

__all__ = ["Effect", "Finding", "effect", "findings"]
