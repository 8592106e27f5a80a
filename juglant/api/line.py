"""Line: what the bass may begin with."""

from fastapi import APIRouter

from juglant.core.recipes.bass import PATTERNS, Step

router = APIRouter(prefix="/api/line", tags=["line"])


@router.get("/patterns")
def patterns() -> dict[str, tuple[Step, ...]]:
    """Starting patterns for the bass, by name."""
    return PATTERNS
