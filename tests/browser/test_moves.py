"""Moves: a control of a part follows a curve."""

import re

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, go, saved, settled, tab


def _chain(page: Page, name: str) -> None:
    page.get_by_label("Chain or moves of the loop").select_option(label=name)


def test_a_cut_off_moves_over_a_note_value_and_goes_with_its_stage(page: Page, demo: Server) -> None:
    page.goto(demo.address)
    settled(page)
    go(page, "Hits")
    tab(page, "loop")
    page.get_by_label("Add a stage").select_option("equaliser")
    _chain(page, "moves")
    page.get_by_label("Move a control").select_option(label="Low-pass")
    expect(page.get_by_role("button", name="1 equaliser: low-pass")).to_be_visible()
    page.get_by_role("combobox", name="Over").select_option("1/2")
    page.get_by_label("Begin from a shape").select_option(label="rising")
    curve = page.get_by_role("region", name="Curve of Low-pass")
    points = curve.get_by_role("slider", name=re.compile("Point . of the move"))
    expect(points).to_have_count(2)
    # By keys: a point more, moved up and to the right, and its value typed.
    curve.get_by_role("button", name="Add a point").press("Enter")
    expect(points).to_have_count(3)
    points.nth(1).focus()
    before = points.nth(1).get_attribute("aria-valuetext")
    page.keyboard.press("Shift+ArrowUp")
    page.keyboard.press("ArrowRight")
    expect(points.nth(1)).not_to_have_attribute("aria-valuetext", str(before))
    page.get_by_label("Selected point").select_option("3")
    typed = curve.get_by_label("Point value, in Hz")
    typed.fill("1200")
    typed.press("Enter")
    expect(points.nth(2)).to_have_attribute("aria-valuetext", "100 %, 1200 Hz")
    saved(page)
    page.reload()
    settled(page)
    # Where it moves it has no value of its own, and says so.
    tab(page, "loop")
    _chain(page, "before the duckings")
    low_pass = page.get_by_role("slider", name="Low-pass", exact=True)
    expect(low_pass).to_be_disabled()
    expect(low_pass).to_have_attribute("aria-valuetext", "moves")
    page.get_by_role("button", name="remove", exact=True).click()
    _chain(page, "moves")
    expect(page.get_by_text("Nothing moves yet")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="1 equaliser: low-pass")).to_be_visible()


def test_a_control_of_the_shape_and_the_pitch_of_a_line_are_read_where_a_stroke_starts(
    page: Page, demo: Server
) -> None:
    page.goto(demo.address)
    settled(page)
    go(page, "Hits")
    tab(page, "shape")
    page.get_by_label("Add a stage").select_option("level")
    tab(page, "loop")
    _chain(page, "moves")
    shape = page.locator("optgroup[label='1 level and pan of the shape'] option", has_text="Gain")
    page.get_by_label("Move a control").select_option(value=str(shape.get_attribute("value")))
    expect(page.get_by_role("button", name="1 level and pan of the shape: gain")).to_be_visible()
    saved(page)
    # In the shape it has no value of its own any more, and says so.
    tab(page, "shape")
    gain = page.get_by_role("slider", name="Gain", exact=True)
    expect(gain).to_have_attribute("aria-valuetext", "moves")
    page.get_by_role("button", name="remove", exact=True).click()
    tab(page, "loop")
    _chain(page, "moves")
    expect(page.get_by_text("Nothing moves yet")).to_be_visible()
    # A line bends away.
    page.locator(".strip-parts").get_by_role("button", name="bass", exact=True).click()
    go(page, "Line")
    page.locator("label[for=line-loop]").click()
    _chain(page, "moves")
    page.get_by_label("Move a control").select_option(label="Pitch")
    expect(page.get_by_role("button", name="Notes: pitch")).to_be_visible()
    page.get_by_label("Begin from a shape").select_option(label="falling")
    saved(page)
    page.reload()
    settled(page)
    _chain(page, "moves (1)")
    expect(page.get_by_role("button", name="Notes: pitch")).to_be_visible()
