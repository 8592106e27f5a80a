"""Kick and bass parted: searched for, taken, cancelled, and heard in what follows."""

import zipfile
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, drop, go, mend, saved, settled
from tests.files_made import written
from tests.signals import ring


def test_the_least_that_will_do_is_searched_for_and_taken_by_keyboard(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.keyboard.press("5")
    expect(page.get_by_role("region", name="Separate")).to_be_visible()
    page.get_by_role("button", name="Search for the least that will do").press("Enter")
    degrees = page.get_by_role("region", name="How far to part them").get_by_role("listitem")
    expect(degrees.first).to_contain_text("barely touched", timeout=120_000)
    expect(degrees.last).to_contain_text("fully separated")
    degrees.last.get_by_role("button", name="Take").press("Enter")
    expect(degrees.last).to_contain_text("taken")
    # The keyboard stays where it was.
    expect(degrees.last.get_by_role("button", name="taken")).to_be_focused()
    saved(page)
    # What was covered by the bass is not any more, in every step.
    expect(page.locator(".finding").filter(has_text="The bass covers the kick")).to_have_count(0)
    page.locator("label[for=separate-map]").click()
    expect(page.get_by_role("img", name="Kick and bass over the bar")).to_be_visible()
    go(page, "Duck")
    expect(page.locator(".compared")).to_contain_text("collision per kick")
    page.keyboard.press("Control+z")
    expect(page.locator(".finding").filter(has_text="The bass covers the kick")).to_have_count(1)


def test_one_setting_of_the_plan_is_taken_alone_and_a_cancelling_bass_turned(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/separate")
    settled(page)
    page.get_by_role("button", name="Take: High-pass the bass at 62 Hz").press("Enter")
    expect(page.get_by_role("button", name="Take: High-pass the bass at 62 Hz")).to_have_count(0)
    page.locator("label[for=separate-bass]").click()
    typed = page.get_by_role("textbox", name="High-pass, typed, in Hz")
    expect(typed).to_have_value("62")
    typed.fill("75")
    typed.press("Enter")
    saved(page)
    cancels = page.locator(".finding").filter(has_text="less than their energies")
    mend(page, cancels, "Invert or shift the bass…")
    page.get_by_role("button", name="Take it").click()
    expect(cancels).to_have_count(0)


def test_a_search_can_be_cancelled(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/separate")
    settled(page)
    begin = page.get_by_role("button", name="Search for the least that will do")
    begin.click()
    page.get_by_role("button", name="Cancel").click()
    expect(begin).to_be_visible()
    expect(page.get_by_role("region", name="How far to part them").get_by_role("listitem")).to_have_count(0)


def test_from_mush_to_clear_then_another_kick_and_what_went_stale(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/tune")
    settled(page)
    page.get_by_role("button", name="Tune to G1", exact=True).press("Enter")
    go(page, "Separate")
    page.get_by_role("button", name="Search for the least that will do").click()
    degrees = page.get_by_role("region", name="How far to part them").get_by_role("listitem")
    # The search takes as long as it takes on a busy machine.
    expect(degrees.nth(2)).to_be_visible(timeout=120_000)
    degrees.nth(2).get_by_role("button", name="Take").click()
    expect(degrees.nth(2)).to_contain_text("taken")
    go(page, "Duck")
    page.get_by_role("button", name="Solve from kick and bass").press("Enter")
    stale = page.locator(".finding").filter(has_text="was solved for another kick")
    covers = page.locator(".finding").filter(has_text="The bass covers the kick")
    expect(covers).to_have_count(0)
    expect(stale).to_have_count(0)
    saved(page)

    # Another kick: both solutions say that they are for the old one, and wait.
    kick = tmp_path / "other.wav"
    kick.write_bytes(written(ring(58.0, 350.0, 0.4)))
    go(page, "Hits")
    drop(page, kick)
    expect(page.locator(".notice").last).to_contain_text("other.wav is the kick now")
    expect(stale).to_have_count(2)
    saved(page)
    for fix in ("Search for it again…", "Solve the ducking again…"):
        mend(page, stale.filter(has_text="The separation" if "Search" in fix else "The ducking"), fix)
        page.get_by_role("button", name="Take it").press("Enter")
    expect(stale).to_have_count(0)
    expect(covers).to_have_count(0)
    saved(page)
    go(page, "Hand over")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download the ZIP").click()
    with zipfile.ZipFile(download.value.path()) as archive:
        names = archive.namelist()
        sheet = archive.read(next(name for name in names if name.endswith("_sheet.txt"))).decode()
    assert any("ducking-controller" in name for name in names)
    assert "Bass gives up" in sheet
    assert "solved for another" not in sheet


def test_cuts_are_dragged_on_the_ladder_and_the_ladder_is_seen_at_a_moment(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/2/separate")
    settled(page)
    ladder = page.get_by_role("figure", name="Ladder of notes")
    # Where the bars leave no room for its name, it is told by its mark.
    expect(ladder.locator("title", has_text="low tom")).to_be_attached()
    line = page.get_by_role("slider", name="What the bass leaves below")
    box = line.locator(".handle-reach").bounding_box()
    assert box is not None
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] - 150, steps=6)
    page.mouse.up()
    expect(line).not_to_have_attribute("aria-valuetext", "20 Hz")
    reached = int(str(line.get_attribute("aria-valuenow")))
    assert 30 < reached < 70
    line.press("Shift+ArrowUp")
    expect(line).to_have_attribute("aria-valuetext", f"{reached + 10} Hz")
    page.locator("label[for=separate-bass]").click()
    expect(page.get_by_label("High-pass, typed, in Hz")).to_have_value(str(reached + 10))
    widths = (
        "() => [...document.querySelectorAll('.ladder rect.kick-area')].map(r => r.getAttribute('width'))"
    )
    whole = page.evaluate(widths)
    page.get_by_label("What the ladder shows").select_option("a moment, per note")
    at = page.get_by_role("slider", name="Moment of the ladder")
    for _ in range(6):
        at.press("Shift+ArrowRight")
    page.wait_for_function(f"(before) => String(({widths})()) !== String(before)", arg=whole)
    page.get_by_label("What the ladder shows").select_option("the whole loop, per note")
    page.wait_for_function(f"(before) => String(({widths})()) === String(before)", arg=whole)
    expect(at).to_have_count(0)
    page.get_by_label("What the ladder shows").select_option("the whole loop, per third octave")
    expect(page.locator(".ladder rect.bass-area")).to_have_count(15)
