"""What a hand does to a control: dragged slowly or fast, finely, given up; and what is typed."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.serving import Server, go, middle, saved, settled


@pytest.fixture
def crossover(page: Page, demo: Server) -> Locator:
    page.goto(f"{demo.address}/tracks/1/separate")
    settled(page)
    handle = page.get_by_role("slider", name="What the bass leaves below")
    handle.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowUp")
    settled(page)
    return handle


def _hz(handle: Locator) -> float:
    return float(str(handle.get_attribute("aria-valuetext")).split()[0])


def test_a_slow_drag_goes_as_far_as_a_fast_one_and_escape_takes_it_back(
    page: Page, crossover: Locator
) -> None:
    was = _hz(crossover)
    reached = []
    for steps in (1, 60):
        x, y = middle(crossover)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y - 30, steps=steps)
        # The value stands beside the pointer while it is held.
        expect(page.locator(".handle-value")).to_have_text(str(crossover.get_attribute("aria-valuetext")))
        reached.append(_hz(crossover))
        page.keyboard.press("Escape")
        assert _hz(crossover) == was
        page.mouse.up()
    assert reached[0] == reached[1] > was + 5


def test_with_shift_it_goes_a_tenth_of_the_way(page: Page, crossover: Locator) -> None:
    x, y = middle(crossover)
    page.keyboard.down("Shift")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 100, steps=20)
    page.mouse.up()
    page.keyboard.up("Shift")
    assert middle(crossover)[1] == pytest.approx(y - 10, abs=1.5)


def test_the_wheel_steps_a_point_and_a_double_click_brings_it_or_a_slider_back(
    page: Page, crossover: Locator
) -> None:
    was = _hz(crossover)
    page.mouse.move(*middle(crossover))
    page.mouse.wheel(0, -100)
    expect(crossover).to_have_attribute("aria-valuetext", f"{was + 1:.0f} Hz")
    seen = page.evaluate("location.search")
    crossover.dblclick()
    expect(crossover).to_have_attribute("aria-valuetext", "20 Hz")
    # The wheel over a point does not zoom what it lies on.
    assert "ladder=" not in seen
    go(page, "Hits")
    decay = page.get_by_role("slider", name="Decay", exact=True)
    expect(page.get_by_label("Decay, typed, in ms", exact=True)).to_have_value(re.compile("^420"))
    decay.dblclick()
    expect(page.get_by_label("Decay, typed, in ms", exact=True)).to_have_value(re.compile("^340"))


def test_typed_units_notes_and_note_values_are_understood_and_the_rest_is_said(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)

    def typed(label: str, text: str) -> None:
        field = page.get_by_label(label)
        field.fill(text)
        field.press("Enter")

    typed("Release, typed, in ms", "1/16")
    # A sixteenth at 132 BPM.
    expect(page.get_by_label("Release, typed, in ms")).to_have_value("114")
    typed("Depth, typed, in dB", "7.5 dB")
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value("7.5")
    typed("Depth, typed, in dB", "60")
    expect(page.get_by_role("alert")).to_have_text("“60” is out of range: 0 to 48 dB.")
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value("7.5")
    typed("Depth, typed, in dB", "deep")
    expect(page.get_by_role("alert")).to_have_text("“deep” is not a level, such as −3 dB.")
    typed("Depth, typed, in dB", "8")
    expect(page.get_by_role("alert")).to_have_count(0)
    go(page, "Brief")
    typed("Tempo, typed, in BPM", "126 bpm")
    expect(page.get_by_label("Tempo, typed, in BPM")).to_have_value("126.00")
    saved(page)
