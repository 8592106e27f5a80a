"""Names that people give."""

import unicodedata
from typing import Annotated

from pydantic import AfterValidator, StringConstraints

# Letters that look like nothing.
_BLANK = "\u115f\u1160\u2800\u3164\uffa0"


def _visible(name: str) -> str:
    if not any(unicodedata.category(c)[0] in "LNPS" and c not in _BLANK for c in name):
        raise ValueError("a name needs a letter that can be seen")
    return name


Visible = AfterValidator(_visible)
ShapeName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60), Visible]
NameOfTrack = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=100), Visible
]
