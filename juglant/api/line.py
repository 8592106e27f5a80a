"""Line: what the bass may begin with."""

from fastapi import APIRouter

from juglant.core.recipes.bass import PATTERNS
from juglant.core.recipes.notes import Note

router = APIRouter(prefix="/api/line", tags=["line"])


@router.get("/patterns")
def patterns() -> dict[str, tuple[Note, ...]]:
    """Starting patterns for the bass, by name."""
    return PATTERNS
