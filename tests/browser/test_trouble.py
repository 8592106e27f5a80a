"""What goes wrong, told where it belongs, and nothing lost by it."""

from pathlib import Path

import numpy as np
from playwright.sync_api import Browser, Page, expect

from tests.browser.nursery import Nursery
from tests.browser.serving import Server, drop, ended, go, saved, settled
from tests.files_made import BAD, KICK, written


def _depth(page: Page, value: str) -> None:
    depth = page.get_by_label("Depth, typed, in dB")
    depth.fill(value)
    depth.press("Enter")


def test_a_second_tab_is_told_and_its_state_is_kept(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    other = page.context.new_page()
    other.goto(f"{demo.address}/tracks/1/duck")
    settled(other)
    _depth(other, "17")
    saved(other)
    _depth(page, "9")
    expect(page.get_by_role("alert")).to_contain_text("changed elsewhere")
    expect(page.locator(".saving")).to_have_text("changed elsewhere")
    page.get_by_role("button", name="Keep mine as a version").click()
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value("17.0")
    go(page, "Log")
    expect(page.get_by_role("list", name="Kept versions")).to_contain_text("ducked 9 dB")


def test_a_bad_file_gets_a_sentence_and_the_kick_stays(page: Page, demo: Server, tmp_path: Path) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    note = page.locator(".number-big b").inner_text()
    for name in ("ZIP", "NaN", "silent", "truncated", "eight channels"):
        file = tmp_path / f"my 🙂 {name}.wav"
        file.write_bytes(BAD[name][0])
        drop(page, file)
        expect(page.locator(".notice")).to_contain_text(f"my 🙂 {name}.wav")
        expect(page.locator(".notice")).not_to_contain_text("Reading")
        expect(page.locator(".number-big b")).to_have_text(note)
    good = tmp_path / "good.flac"
    good.write_bytes(written(KICK, kind="FLAC"))
    page.get_by_label("Sound file for the hit").set_input_files(good)
    expect(page.locator(".source-name")).to_have_text("good.flac")


def test_what_was_shown_as_saved_survives_a_killed_server(
    browser: Browser, nursery: Nursery, tmp_path: Path
) -> None:
    data = ("--data", str(tmp_path / "data"))
    context = browser.new_context()
    page = context.new_page()
    with ended(nursery.server(*data)) as server:
        page.goto(server.address)
        page.get_by_label("Name of the track").fill("Safe")
        page.get_by_role("button", name="Start a track").click()
        settled(page)
        go(page, "Duck")
        _depth(page, "21")
        saved(page)
        server.kill()
        _depth(page, "25")
        expect(page.get_by_role("alert").first).to_contain_text("does not answer")
        expect(page.locator(".saving")).to_have_text("server away")
        # What is shown of before is no longer taken for what is.
        expect(page.locator(".dim").first).to_be_attached()
    with ended(nursery.server(*data)) as other:
        # As it was saved, seen from elsewhere: the page that waits is still at the old address.
        second = context.new_page()
        second.goto(f"{other.address}/tracks/1/duck")
        settled(second)
        expect(second.get_by_label("Depth, typed, in dB")).to_have_value("21.0")
        second.close()
    port = server.address.rpartition(":")[2]
    with ended(nursery.server(*data, "--port", port)):
        # It comes back by itself, and what was changed meanwhile is saved.
        expect(page.locator(".saving")).to_have_text("saved")
        expect(page.get_by_text("The server is back, and everything is saved.")).to_be_visible()
        settled(page)
        expect(page.get_by_label("Depth, typed, in dB")).to_have_value("25.0")
        page.reload()
        settled(page)
        expect(page.get_by_label("Depth, typed, in dB")).to_have_value("25.0")
    context.close()


def test_a_track_that_is_not_there_leads_back(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/99/duck")
    expect(page.get_by_role("alert")).to_contain_text("no such track")
    page.get_by_role("link", name="To the tracks").click()
    settled(page)


def test_of_a_file_that_is_too_long_a_stretch_is_heard_and_taken(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    # Silence for 65 s, then a kick.
    file = tmp_path / "jam.wav"
    file.write_bytes(written(np.concatenate([np.full(65 * 44_100, 1e-3), KICK]), kind="WAV"))
    drop(page, file)
    long = page.get_by_role("region", name="A stretch of jam.wav")
    expect(long).to_contain_text("usable are up to 60 s")
    end = long.get_by_role("slider", name="End of the stretch")
    expect(end).to_have_attribute("aria-valuenow", "60")
    start = long.get_by_label("Stretch start, in s")
    start.fill("64.95")
    start.press("Enter")
    length = long.get_by_label("Stretch length, in s")
    length.fill("0.4 s")
    length.press("Enter")
    expect(length).to_have_value("0.40")
    # The arrow moves an end by a tenth.
    end.press("ArrowRight")
    expect(length).to_have_value("0.50")
    long.get_by_role("button", name="Hear").click()
    expect(long.get_by_role("button", name="Stop")).to_be_visible()
    expect(long.get_by_role("button", name="Hear")).to_be_visible()
    long.get_by_role("button", name="Take it").click()
    expect(long).to_have_count(0)
    expect(page.locator(".source-name")).to_have_text("jam.wav")
    expect(page.get_by_role("region", name="Hits", exact=True)).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.locator(".source-name")).not_to_have_text("jam.wav")
