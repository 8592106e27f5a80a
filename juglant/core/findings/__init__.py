"""Numbers become verdicts: measured value, limit, reason, fix."""

from juglant.core.findings.judge import Effect, Finding, effect, findings

__all__ = ["Effect", "Finding", "effect", "findings"]
