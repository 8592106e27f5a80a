"""From the hand to the ear, in the real browser: how long a moved slider takes until its sound plays."""

import json
from typing import Any

import numpy as np
from playwright.sync_api import Page

from bench.figures import figure, part
from bench.speed import Line, row, times, with_depth
from tests.browser.serving import chromium, serving, settled

# Notes when a key went down, and when the mixer is told to play something else.
NOTED = """
window.noted = [];
window.pressed = 0;
window.addEventListener("keydown", () => (window.pressed = performance.now()), true);
const post = MessagePort.prototype.postMessage;
MessagePort.prototype.postMessage = function (message, ...rest) {
  if (message && "plan" in message) window.noted.push(performance.now());
  return post.call(this, message, ...rest);
};
"""
MOVED = """async ([label, value]) => {
  const slider = [...document.querySelectorAll("input[type=range]")].find(
    (one) => one.labels[0]?.textContent === label);
  const before = window.noted.length;
  const start = performance.now();
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(slider, String(value));
  slider.dispatchEvent(new Event("input", { bubbles: true }));
  while (window.noted.length === before && performance.now() - start < 5000)
    await new Promise((done) => setTimeout(done, 1));
  return (window.noted[before] ?? NaN) - start;
}"""


def _moves(page: Page, label: str, values: list[float]) -> np.ndarray:
    took = []
    for value in values:
        took.append(page.evaluate(MOVED, [label, value]))
        # A hand pauses between two moves that it listens to.
        page.wait_for_timeout(250)
    # What was not played within five seconds counts as that.
    return np.array([5000.0 if np.isnan(one) else one for one in took])


def main() -> None:
    """A slider moved while everything plays; beside it, the same change asked of the server alone."""
    with serving("--demo") as server, chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(NOTED)
        part("From a moved slider to its sound")
        for step, label, values in (
            ("duck", "Depth", [5.0 + 0.1 * n for n in range(50)]),
            ("hits", "Decay", [200.0 + 5 * n for n in range(50)]),
        ):
            page.goto(f"{server.address}/tracks/1/{step}")
            settled(page)
            page.locator("label[for=hear-all]").click()
            # What was rendered is there already.
            page.wait_for_timeout(2000)
            page.keyboard.press(" ")
            page.wait_for_function("() => window.noted.length > 0")
            begun = page.evaluate("() => window.noted[0] - window.pressed")
            page.wait_for_timeout(500)
            line = Line(server.address)
            state = json.loads(line.get("/api/tracks/1"))["state"]

            def plan(n: int, line: Line = line, state: Any = state) -> None:
                line.post("/api/sound/plan", with_depth(state, 0, 20 + 0.1 * n))

            peer = ("the plan alone", float(np.median(times(plan, 10))))
            row(
                f"{step}: {label.lower()}, all parts playing",
                _moves(page, label, values),
                120,
                peer,
                usual_ms=70,
            )
            figure("key to the first sound", begun, "ms", 50)
