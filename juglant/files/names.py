"""Names for files."""

import re
import unicodedata
from collections.abc import Iterable

from juglant.core.errors import UserError
from juglant.core.recipes.track import TrackState

# Files of every loop, whatever its parts are called.
_ALWAYS = ("kick", "bass", "bass-ducked", "mix")


def plain_name(text: str) -> str:
    """A name that any file system takes: letters of any script, digits, - and #, in lower case."""
    known = unicodedata.normalize("NFC", text.strip().lower())
    kept = "".join(c if unicodedata.category(c)[0] in "LNM" or c in "#_" else "-" for c in known)
    plain = re.sub(r"-+", "-", kept).strip("-_")
    # Names of files are limited in bytes, and a letter may take four.
    return plain[:60].encode()[:120].decode(errors="ignore").strip("-_") or "track"


def by_scheme(scheme: str, **words: str) -> str:
    """A name by a scheme, as `{name} {number}`. UserError for a word that nothing here has.

    >>> by_scheme("{kind} {number}", kind="kick", number="007")
    'kick 007'
    """

    def word(found: re.Match[str]) -> str:
        if found[1] not in words:
            known = ", ".join(f"{{{one}}}" for one in words)
            raise UserError(f"“{scheme}” names what no sound has: use {known}.", "name")
        return words[found[1]]

    return re.sub(r"\{([^{}]*)\}", word, scheme)


def file_names(state: TrackState) -> dict[str, str]:
    """What each part is called in file names, by its id: no two alike, nor like what is always there."""
    parts = [part for part in state.everything if part is not state.kick]
    plain = [f"{'line-' if part.part == 'line' else ''}{plain_name(part.name)}" for part in parts]
    own = numbered(plain, taken=_ALWAYS)
    return {state.kick.id: "kick", **{part.id: name for part, name in zip(parts, own, strict=True)}}


def numbered(names: list[str], taken: Iterable[str] = ()) -> list[str]:
    """Names for files, each its own: one that was there already, or is taken, gets the next free number."""
    found: list[str] = []
    used = {name.lower() for name in taken}
    for name in names:
        free = name
        number = 2
        while free.lower() in used:
            free, number = f"{name}-{number}", number + 1
        used.add(free.lower())
        found.append(free)
    return found
