"""A track as a file: saved from one studio, opened in another."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, go, settled


def test_a_track_is_saved_as_a_file_and_opened_from_it(
    page: Page, demo: Server, studio: Server, tmp_path: Path
) -> None:
    page.goto(demo.address)
    settled(page)
    go(page, "Hand over")
    with page.expect_download() as saved:
        page.get_by_role("button", name="The track as a file").click()
    packed = tmp_path / saved.value.suggested_filename
    saved.value.save_as(packed)
    assert packed.name == "cobnut-rain_track.zip"
    page.goto(studio.address)
    page.get_by_label("Name of the track").fill("Other")
    page.keyboard.press("Enter")
    settled(page)
    page.get_by_label("Track file").set_input_files(packed)
    expect(page.get_by_role("button", name="Cobnut Rain")).to_be_visible()
    settled(page)
    expect(page.locator(".track-facts")).to_contain_text("132 BPM")
    # What is none is said, and nothing is opened.
    odd = tmp_path / "odd.zip"
    odd.write_bytes(b"PK no track")
    page.get_by_label("Track file").set_input_files(odd)
    expect(page.locator(".notice").last).to_contain_text("“odd.zip” is no track file, or it is damaged.")
