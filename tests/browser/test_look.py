"""Legible, reachable and whole on the screens it is meant for."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.serving import STEPS, Server, places, resized, settled, tab

AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text("utf-8")


def _barriers(page: Page, place: str) -> list[tuple[str, str, str, str]]:
    """Violations of any level, as far as axe-core can tell: names, roles, contrast, landmarks, headings.

    The light theme differs in its colours only, so only they are looked at again.
    """
    found = []
    page.evaluate(AXE)
    for theme, only in (("dark", {}), ("light", {"runOnly": ["color-contrast"]})):
        page.evaluate("(theme) => { document.documentElement.dataset.bsTheme = theme; }", theme)
        # What passes fills a long report that nobody reads.
        violations = page.evaluate(
            """async (only) => {
              const report = await window.axe.run(document, { ...only, resultTypes: ["violations"] });
              return report.violations;
            }""",
            only,
        )
        found += [
            (f"{place}, {theme}", rule["id"], node["html"][:120], node["failureSummary"][:200])
            for rule in violations
            for node in rule["nodes"]
        ]
    return found


@pytest.fixture
def still(page: Page) -> Page:
    """A page where nothing glides: a colour half way to another has no contrast of its own."""
    page.emulate_media(reduced_motion="reduce")
    return page


def test_no_step_has_barriers(still: Page, seen: Server) -> None:
    # The tabs of the hits have a test of their own, where there is something on them.
    assert [
        flaw
        for place in places(still, seen)
        if not place.startswith("hits,")
        for flaw in _barriers(still, place)
    ] == []


@pytest.mark.parametrize("track", [1, 2, 3])
def test_every_step_fits_without_scrolling_the_page(page: Page, seen: Server, track: int) -> None:
    page.goto(f"{seen.address}/tracks/{track}/brief")
    for step in STEPS:
        page.get_by_role("navigation", name="Steps").locator(f"a[href$='/{step}']").click()
        expect(page).to_have_url(re.compile(f"/{step}$"))
        settled(page)
        for size in ((1024, 768), (1280, 800)):
            resized(page, *size)
            width, height, inner, outer = page.evaluate(
                """() => [document.documentElement, document.querySelector('.step')].flatMap(
                  (one, index) => [index ? one.scrollHeight : one.scrollWidth, index ? one.clientHeight : one.scrollHeight]
                )"""
            )
            assert (width, height) <= size, step
            if size == (1280, 800):
                assert inner <= outer + 1, step


def test_chromium_filters_as_the_same_cookbook_says(page: Page, seen: Server) -> None:
    # An independent implementation of the Audio EQ Cookbook: Web Audio's BiquadFilterNode.
    import numpy as np
    from scipy import signal

    from juglant.core.process.filters import cookbook

    page.goto(seen.address)
    hz = np.geomspace(20, 20_000, 60)
    for kind, at, q in (("lowpass", 150.0, 0.7071), ("highpass", 62.0, 1.3), ("bandpass", 3200.0, 1.0)):
        # Web Audio takes the Q of low- and high-pass in decibels.
        shown_q = q if kind == "bandpass" else 20 * np.log10(q)
        theirs = page.evaluate(
            """([type, frequency, Q, hz]) => {
              const context = new OfflineAudioContext(1, 1, 48000);
              const node = new BiquadFilterNode(context, { type, frequency, Q });
              const size = new Float32Array(hz.length);
              node.getFrequencyResponse(new Float32Array(hz), size, new Float32Array(hz.length));
              return [...size];
            }""",
            [kind, at, float(shown_q), hz.tolist()],
        )
        ours = np.abs(signal.sosfreqz(cookbook(kind, at, q, 48_000), hz, fs=48_000)[1])
        assert ours == pytest.approx(np.array(theirs), abs=2e-3)


def test_no_tab_of_the_hits_has_barriers(still: Page, demo: Server) -> None:
    page = still
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.get_by_role("button", name="Snare", exact=True).click()
    found = []
    for name in ("layers", "shape", "scatter", "play", "takes"):
        tab(page, name)
        if name == "scatter":
            page.get_by_role("button", name="Throw eight").click()
            expect(page.locator(".variation")).to_have_count(8)
        if name == "takes":
            page.get_by_role("button", name="Simulated workshop").click()
            page.get_by_role("button", name="Cut", exact=True).click()
            expect(page.locator(".take-row")).to_have_count(16)
        settled(page)
        found += _barriers(page, name)
        inner, outer = page.evaluate(
            "() => [document.querySelector('.step').scrollHeight, document.querySelector('.step').clientHeight]"
        )
        assert inner <= outer + 1, name
    assert found == []
