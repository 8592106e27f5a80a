"""A track's log as a text that can be read anywhere, with its pictures."""

from dataclasses import dataclass

# A silhouette is drawn this large; levels below the floor are not seen.
_WIDE, _TALL, _FLOOR_DB = 320, 80, -48.0


@dataclass(frozen=True)
class Line:
    """An entry: when, what it says, what was measured or changed, and the name of its picture."""

    made_at: str
    title: str
    lines: tuple[str, ...] = ()
    picture: str | None = None


def silhouette_svg(kick_db: list[int], bass_db: list[int]) -> str:
    """One bar as a picture: the kick above the line, the bass below it, levels in dB.

    Parameters
    ----------
    kick_db
        Level of the kick along the bar.
    bass_db
        Level of the bass along it.

    Returns
    -------
    str
        An SVG.

    Examples
    --------
    >>> silhouette_svg([-20, 0], [0, -20])[:4]
    '<svg'
    """
    half = _TALL / 2

    def side(levels: list[int], sign: int) -> str:
        top = max([*kick_db, *bass_db, -1])
        step = _WIDE / max(len(levels), 1)
        points = [f"0,{half}"]
        for n, level in enumerate(levels):
            tall = max(0.0, 1 - (top - level) / -_FLOOR_DB) * half
            points.append(f"{(n + 0.5) * step:.1f},{half - sign * tall:.1f}")
        return " ".join([*points, f"{_WIDE},{half}"])

    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDE} {_TALL}" width="{_WIDE}" '
        f'height="{_TALL}"><title>one bar: the kick above, the bass below</title>'
        f'<rect width="{_WIDE}" height="{_TALL}" fill="#191310"/>'
        f'<polygon points="{side(kick_db, 1)}" fill="#e0a548"/>'
        f'<polygon points="{side(bass_db, -1)}" fill="#8bab62"/></svg>\n'
    )


def _plain(text: str) -> str:
    """A text that Markdown takes as it is."""
    return "".join(f"\\{one}" if one in r"\`*_{}[]<>#|" else one for one in text.replace("\n", " "))


def as_markdown(name: str, lines: list[Line]) -> str:
    """A log as Markdown, the newest day first, each day under its date.

    Parameters
    ----------
    name
        Of the track.
    lines
        Of the log.

    Returns
    -------
    str
        Markdown.

    Examples
    --------
    >>> print(as_markdown("Husk", [Line("2026-11-26T10:00:00Z", "kick shorter", ("ducked 9 dB",))]))
    # Log of Husk
    <BLANKLINE>
    ## 2026-11-26
    <BLANKLINE>
    **10:00** kick shorter
    <BLANKLINE>
    - ducked 9 dB
    <BLANKLINE>
    """
    out, day = [f"# Log of {_plain(name)}", ""], ""
    for one in sorted(lines, key=lambda line: line.made_at, reverse=True):
        if one.made_at[:10] != day:
            day = one.made_at[:10]
            out += [f"## {day}", ""]
        out += [f"**{one.made_at[11:16]}** {_plain(one.title)}", ""]
        if one.picture:
            out += [f"![one bar: the kick above, the bass below]({one.picture})", ""]
        if one.lines:
            out += [*(f"- {_plain(line)}" for line in one.lines), ""]
    return "\n".join(out)
