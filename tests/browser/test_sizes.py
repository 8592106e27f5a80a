"""Nothing clipped, covered or too small to hit on a small desk, upright with fingers, enlarged, or on a wide screen."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.serving import Server, middle, places, resized, settled, zoom_of

# 24 CSS pixels: WCAG 2.2, success criterion 2.5.8. A box or a dot is hit by its label too.
FLAWS = """() => {
  const flaws = [];
  const wide = document.documentElement.scrollWidth;
  if (wide > innerWidth) flaws.push(`the page is ${wide} wide`);
  const named = one => `${one.tagName} ${one.getAttribute('aria-label') ?? one.textContent.slice(0, 40)}`;
  const hit = 'button, a[href], input, select, textarea, summary, label.btn, [role=slider]';
  for (const one of document.querySelectorAll(hit)) {
    if (one.closest('.visually-hidden') || one.matches('.btn-check, .skip')) continue;
    const { left, right, width, height } = (one.labels?.[0]?.contains(one) || /checkbox|radio/.test(one.type)
      ? one.labels[0] : one).getBoundingClientRect();
    if (!width || !height) continue;
    if (width < 23.9 || height < 23.9) flaws.push(`small: ${named(one)}, ${width} by ${height}`);
    let scrolls = one.parentElement;
    while (scrolls && !/auto|scroll/.test(getComputedStyle(scrolls).overflowX)) scrolls = scrolls.parentElement;
    if (!scrolls && (left < -1 || right > innerWidth + 1)) flaws.push(`outside: ${named(one)}`);
  }
  const texts = [...document.querySelectorAll(
    '.step :is(label, legend, p, b, span, button, th, td), .transport *, .topbar *, .ladder-head *')]
    .filter(one => !one.children.length && one.textContent.trim() && !one.closest('svg, .visually-hidden'))
    .map(one => {
      const range = document.createRange();
      range.selectNodeContents(one);
      return [one, range.getBoundingClientRect()];
    }).filter(([, box]) => box.width);
  texts.forEach(([one, a], n) => texts.slice(n + 1).forEach(([other, b]) => {
    const over = Math.min(a.right, b.right) - Math.max(a.left, b.left) > 3
      && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 5;
    if (over) flaws.push(`over one another: ${named(one)}, ${named(other)}`);
  }));
  for (const one of document.querySelectorAll('.dial label, .dial-choice, .btn:not(.skip)'))
    if (getComputedStyle(one).overflowX === 'hidden' && one.scrollWidth > one.clientWidth + 1)
      flaws.push(`clipped: ${named(one)}`);
  for (const one of document.querySelectorAll('label[tabindex="0"]')) flaws.push(`no use of Tab: ${named(one)}`);
  return flaws;
}"""


def _flaws(page: Page, server: Server, sizes: tuple[tuple[int, int], ...]) -> list[str]:
    found = []
    for place in places(page, server):
        for width, height in sizes:
            resized(page, width, height)
            found += [f"{place} at {width}: {flaw}" for flaw in page.evaluate(FLAWS)]
        findings = page.get_by_role("region", name="Findings")
        findings.scroll_into_view_if_needed()
        expect(findings).to_be_in_viewport()
    return found


def test_on_a_small_desk_enlarged_twice_and_on_a_wide_screen(page: Page, seen: Server) -> None:
    # 640 by 400 is what 1280 by 800 leaves at 200 %.
    assert _flaws(page, seen, ((2560, 1440), (1024, 768), (640, 400))) == []


@pytest.fixture
def upright(browser: Browser) -> Iterator[Page]:
    with browser.new_context(has_touch=True, viewport={"width": 820, "height": 1180}) as context:
        yield context.new_page()


def test_upright_with_fingers(upright: Page, seen: Server) -> None:
    assert _flaws(upright, seen, ((820, 1180),)) == []


def test_two_fingers_zoom_one_moves_along_and_a_handle_follows_it(upright: Page, demo: Server) -> None:
    upright.goto(f"{demo.address}/tracks/1/duck")
    settled(upright)
    screen = upright.context.new_cdp_session(upright)

    def fingers(*ways: tuple[tuple[float, float], tuple[float, float]]) -> None:
        """Each from a place to another, in ten steps."""
        for n in range(11):
            points = [
                {"x": a + (c - a) * n / 10, "y": b + (d - b) * n / 10, "id": finger}
                for finger, ((a, b), (c, d)) in enumerate(ways)
            ]
            kind = "touchMove" if n else "touchStart"
            screen.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
        screen.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})

    depth = upright.get_by_label("Depth, typed, in dB")
    expect(depth).to_have_value("4.0")
    x, y = middle(upright.get_by_role("slider", name="Depth and hold of the ducking"))
    fingers(((x, y), (x, y + 45)))
    expect(depth).not_to_have_value("4.0")
    assert float(depth.input_value()) > 8

    x, y = middle(upright.locator(".beat svg.zooms"))
    fingers(((x - 20, y), (x - 120, y)), ((x + 20, y), (x + 120, y)))
    # A sixth of the bar of 1818 ms, around the middle.
    near = zoom_of(upright, "zoom", lambda start, end: 250 < end - start < 350)
    assert near[0] < 909 < near[1]
    fingers(((x, y), (x - 200, y)))
    # The address follows the fingers, and may be on the way still.
    along = zoom_of(upright, "zoom", lambda start, end: start > near[0] + 40)
    assert along[1] - along[0] == pytest.approx(near[1] - near[0], abs=0.01)
    x, y = middle(upright.locator(".ladder svg.zooms"))
    fingers(((x, y - 10), (x, y - 60)), ((x, y + 10), (x, y + 60)))
    low, high = zoom_of(upright, "ladder")
    assert high / low < 2
    assert upright.evaluate("visualViewport.scale") == 1

    # Over the beat window a finger moves the page, too.
    upright.set_viewport_size({"width": 820, "height": 700})
    x, y = middle(upright.locator(".beat svg.zooms"))
    fingers(((x, y), (x, y - 150)))
    upright.wait_for_function("() => scrollY > 50")
