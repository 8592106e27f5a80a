"""The report of the bench says what was asked and what was reached, and does not flatter."""

from html.parser import HTMLParser
from pathlib import Path

import pytest

from bench import figures


@pytest.fixture
def kept(monkeypatch: pytest.MonkeyPatch) -> list[figures.Figure]:
    monkeypatch.setattr(figures, "_KEPT", [])
    monkeypatch.setattr(figures, "_PART", [""])
    figures.part("Sieve & co.")
    figures.figure("just inside", 4.0, "s", 4.0)
    figures.figure("just outside", 4.01, "s", 4.0, peer="another", ratio=0.25)
    figures.figure("enough", 90.0, "%", 90.0, at_least=True)
    figures.figure("too few", 89.9, "%", 90.0, at_least=True)
    figures.figure("none allowed", 1, "", 0)
    figures.figure("only told", 12.5, "dB")
    return figures._KEPT


def test_limits_are_met_up_to_what_was_asked(kept: list[figures.Figure]) -> None:
    assert [one.met for one in kept] == [True, False, True, False, False, None]


def test_the_report_holds_every_number_once_with_its_verdict(
    kept: list[figures.Figure], tmp_path: Path
) -> None:
    figures.report(tmp_path / "out")
    text = (tmp_path / "out" / "bench.txt").read_text("utf-8")
    assert "2 of 5 as asked." in text
    rows = {line.strip().split("  ")[0]: line for line in text.splitlines() if line.startswith("  ")}
    assert set(rows) == {one.what for one in kept}
    assert "at most 4" in rows["just outside"]
    assert "MISSED" in rows["just outside"]
    assert "0.25 × another" in rows["just outside"]
    assert "at least 90" in rows["too few"]
    assert "MISSED" not in rows["only told"]

    class Bars(HTMLParser):
        met = missed = 0

        def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
            self.met += tag == "rect" and ("class", "met") in attrs
            self.missed += tag == "rect" and ("class", "missed") in attrs

    page = (tmp_path / "out" / "bench.html").read_text("utf-8")
    bars = Bars()
    bars.feed(page)
    assert (bars.met, bars.missed) == (2, 3)
    assert "Sieve &amp; co." in page
    assert "http" not in page
