"""Legible, reachable and whole on the screens it is meant for."""

from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.browser.serving import Server, settled

AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text("utf-8")
STEPS = ("brief", "hits", "tune", "line", "duck", "handover", "log")


@pytest.mark.parametrize("theme", ["dark", "light"])
def test_no_step_has_serious_barriers(page: Page, demo: Server, theme: str) -> None:
    # WCAG 2.2 AA as far as axe-core can tell: names, roles, contrast.
    page.add_init_script(f"if (location.host) localStorage.setItem('juglant-theme', '{theme}')")
    found = []
    for step in STEPS:
        page.goto(f"{demo.address}/tracks/1/{step}")
        settled(page)
        page.evaluate(AXE)
        report = page.evaluate("() => window.axe.run(document)")
        found += [
            (step, rule["id"], node["html"][:120], node["failureSummary"][:200])
            for rule in report["violations"]
            if rule["impact"] in ("serious", "critical")
            for node in rule["nodes"]
        ]
    assert found == []


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768)])
@pytest.mark.parametrize("track", [1, 2, 3])
def test_every_step_fits_without_scrolling_the_page(
    page: Page, demo: Server, size: tuple[int, int], track: int
) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for step in STEPS:
        page.goto(f"{demo.address}/tracks/{track}/{step}")
        settled(page)
        width, height = page.evaluate(
            "() => [document.documentElement.scrollWidth, document.documentElement.scrollHeight]"
        )
        assert (width, height) <= size, step
        inner, outer = page.evaluate(
            "() => [document.querySelector('.step').scrollHeight, document.querySelector('.step').clientHeight]"
        )
        if size == (1280, 800):
            assert inner <= outer + 1, step


def test_chromium_filters_as_the_same_cookbook_says(page: Page, demo: Server) -> None:
    # An independent implementation of the Audio EQ Cookbook: Web Audio's BiquadFilterNode.
    import numpy as np
    from scipy import signal

    from juglant.core.process.filters import cookbook

    page.goto(demo.address)
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
