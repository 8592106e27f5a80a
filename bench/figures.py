"""What was measured: printed as it comes, kept, and written as one page of text and one of HTML."""

import html
import os
import platform
import resource
from datetime import date
from pathlib import Path
from typing import NamedTuple, SupportsFloat


def memory_mb(pid: int | str) -> float:
    """The resident memory of a process."""
    pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 2**20


class Figure(NamedTuple):
    """One number: what it is, what was asked of it and from which side, and its ratio to a general-purpose
    peer in the same run.
    """

    part: str
    what: str
    measured: float
    unit: str
    asked: float | None
    at_least: bool
    peer: str
    ratio: float | None

    @property
    def met(self) -> bool | None:
        """Whether it is what was asked; None where nothing was."""
        if self.asked is None:
            return None
        return self.measured >= self.asked if self.at_least else self.measured <= self.asked

    @property
    def verdict(self) -> str:
        """The same in a word."""
        return {None: "", True: "met", False: "MISSED"}[self.met]

    def asked_for(self) -> str:
        """What was asked, with its side."""
        if self.asked is None:
            return ""
        return f"{'at least' if self.at_least else 'at most'} {_shown(self.asked)}"


_KEPT: list[Figure] = []
_PART = [""]


def part(title: str) -> None:
    """Begin another part of the report."""
    _PART[0] = title
    print(title)


def figure(
    what: str, measured: SupportsFloat, unit: str = "", asked: float | None = None, *,
    at_least: bool = False, peer: str = "", ratio: float | None = None,
) -> None:  # fmt: skip
    """Print and keep one number; `asked` is the most that it may be, or the least; `ratio` is to a peer."""
    one = Figure(_PART[0], what, float(measured), unit, asked, at_least, peer, ratio)
    _KEPT.append(one)
    print(f"  {_row(one)}")


def _shown(value: float) -> str:
    if abs(value) < 5e-4:
        return "0"
    return f"{value:.0f}" if abs(value) >= 100 or value == round(value) else f"{value:.3g}"


def _row(one: Figure) -> str:
    peer = "" if one.ratio is None else f"{_shown(one.ratio)} × {one.peer}"
    number = f"{_shown(one.measured)} {one.unit}".strip()
    return f"{one.what:<58}{number:>12}  {one.asked_for():<16}{one.verdict:<8}{peer}".rstrip()


def machine() -> str:
    """The class of the machine, without anything that names it."""
    python = platform.python_version()
    return f"{platform.system()}, {platform.machine()}, {os.cpu_count()} cores, Python {python}"


def report(folder: Path) -> None:
    """Write what was kept: `bench.txt`, and `bench.html` with a bar where something was asked."""
    folder.mkdir(parents=True, exist_ok=True)
    missed = sum(one.met is False for one in _KEPT)
    asked = sum(one.met is not None for one in _KEPT)
    head = f"Measured on {date.today().isoformat()}: {machine()}. {asked - missed} of {asked} as asked."
    lines, at = [head], ""
    for one in _KEPT:
        if one.part != at:
            at = one.part
            lines += ["", at]
        lines.append(f"  {_row(one)}")
    (folder / "bench.txt").write_text("\n".join(lines) + "\n", "utf-8")
    (folder / "bench.html").write_text(_page(head), "utf-8")


# A bar is as long as what was measured is of what was asked, up to so many times.
_MOST, _WIDTH = 2.0, 240


def _bar(one: Figure) -> str:
    if one.asked is None:
        return ""
    share = one.measured / one.asked if one.asked else (1.0 if one.measured == 0 else _MOST)
    width, limit = min(share, _MOST) / _MOST * _WIDTH, _WIDTH / _MOST
    kind = "met" if one.met else "missed"
    return (
        f'<svg width="{_WIDTH}" height="14" role="img" aria-label="{_shown(100 * share)} % of what was '
        f'asked"><rect class="{kind}" width="{width:.0f}" height="14"/>'
        f'<line x1="{limit}" x2="{limit}" y2="14"/></svg>'
    )


def _page(head: str) -> str:
    rows, at = [], ""
    for one in _KEPT:
        if one.part != at:
            at = one.part
            rows.append(f'<tr><th colspan="6">{html.escape(at)}</th></tr>')
        peer = "" if one.ratio is None else f"{_shown(one.ratio)} × {one.peer}"
        cells = (one.what, f"{_shown(one.measured)} {one.unit}", one.asked_for(), one.verdict, peer)
        told = "".join(f"<td>{html.escape(cell)}</td>" for cell in cells)
        rows.append(f"<tr>{told}<td>{_bar(one)}</td></tr>")
    return (
        '<!doctype html><html lang="en"><meta charset="utf-8"><title>Juglant, measured</title><style>'
        "body{font:15px sans-serif;margin:2rem}td,th{padding:.15rem .8rem .15rem 0;text-align:left}"
        "th{padding-top:1rem}.met{fill:#7a9a4a}.missed{fill:#c8553d}line{stroke:#222}</style>"
        f"<h1>Juglant, measured</h1><p>{html.escape(head)} The line in a bar is what was asked.</p>"
        f"<table>{''.join(rows)}</table></html>"
    )
