"""Pictures from near and far, and the spectrum of what plays."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.serving import Server, go, settled, zoom_of


def _over(page: Page, picture: Locator, along: float, up: float) -> None:
    box = picture.bounding_box()
    assert box
    page.mouse.move(box["x"] + along * box["width"], box["y"] + up * box["height"])


def test_the_beat_window_goes_from_a_cycle_to_the_whole_loop_and_stays_so(page: Page, seen: Server) -> None:
    page.goto(f"{seen.address}/tracks/1/duck")
    settled(page)
    beat = page.locator(".beat svg.zooms")
    _over(page, beat, 0.3, 0.5)
    for _ in range(25):
        page.mouse.wheel(0, -120)
    expect(beat.locator(".wave")).to_have_count(2)
    zoom_of(page, "zoom", lambda start, end: end - start < 5.0)
    # It survives a reload.
    page.reload()
    settled(page)
    expect(beat.locator(".wave")).to_have_count(2)
    beat.focus()
    page.keyboard.press("Home")
    expect(beat.locator(".wave")).to_have_count(0)
    expect(page.get_by_role("button", name="Show all")).to_have_count(0)
    for _ in range(8):
        page.keyboard.press("-")
    # Both bars of the loop.
    expect(beat.get_by_text("2.4", exact=True)).to_be_visible()
    page.keyboard.press("+")
    page.keyboard.press("ArrowRight")
    # Two thirds of them from the middle, and a tenth of that further on.
    start, end = zoom_of(page, "zoom", lambda start, end: start > 700 and 3_100 < end < 3_637)
    # A hit has a zoom of its own, and the loop's is there again after it.
    go(page, "Hits")
    expect(page.get_by_role("group", name="Zoom of the beat window").get_by_role("button")).to_have_count(2)
    go(page, "Duck")
    assert zoom_of(page, "zoom") == (start, end)


def test_a_hat_is_seen_where_its_energy_is(page: Page, seen: Server) -> None:
    page.goto(f"{seen.address}/tracks/1/hits")
    settled(page)
    ladder = page.get_by_role("figure", name="Ladder of notes")
    expect(ladder.get_by_text(re.compile("^sub "))).to_be_visible()
    expect(ladder.get_by_text(re.compile("^air "))).to_have_count(0)
    page.get_by_role("button", name="Hat", exact=True).click()
    expect(ladder.get_by_text(re.compile("^air "))).to_be_visible()
    expect(ladder.get_by_text("G9", exact=True)).to_be_visible()
    # From near, the names of the notes are there again.
    ladder.get_by_role("button", name="Zoom in").click(click_count=5)
    expect(ladder.get_by_text("A4", exact=True)).to_be_visible()
    ladder.get_by_role("button", name="Show all").click()
    expect(ladder.get_by_text("A4", exact=True)).to_have_count(0)


def test_the_spectrum_of_what_plays_is_off_until_it_is_asked_for(page: Page, seen: Server) -> None:
    page.goto(f"{seen.address}/tracks/1/duck")
    settled(page)
    line = page.locator(".live-spectrum")
    expect(line).to_have_count(0)
    page.get_by_role("button", name="Spectrum").click()
    expect(line).to_have_attribute("d", "")
    page.get_by_role("button", name="Play", exact=True).click()
    expect(line).to_have_attribute("d", re.compile(r"^M[\d.]+,[\d.]+L"))

    def strong() -> bool:
        points = [[float(n) for n in one.split(",")] for one in str(line.get_attribute("d"))[1:].split("L")]
        return max(x for x, _ in points) > 40

    for _ in range(40):
        if strong():
            break
        page.wait_for_timeout(100)
    assert strong()
