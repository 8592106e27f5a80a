"""An imported kick made editable: heard beside the file, taken, and changed."""

from pathlib import Path

from playwright.sync_api import Page, expect

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.recipes.hit import MadeKick
from tests.browser.serving import Server, saved, settled
from tests.files_made import written


def test_an_imported_kick_is_made_editable_and_gets_another_length(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    file = tmp_path / "oak.wav"
    file.write_bytes(written(made(MadeKick(), 120.0), RATE))
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.get_by_label("Sound file for the hit").set_input_files(file)
    expect(page.get_by_text("oak.wav").first).to_be_visible()
    settled(page)
    page.get_by_role("button", name="Make it editable").press("Enter")
    found = page.get_by_role("group", name="Taken apart")
    expect(found).to_contain_text("layers, third octaves", timeout=30_000)
    # The keyboard is where the work is, though the button that was pressed is gone.
    expect(found).to_be_focused()
    found.get_by_role("button", name="Hear it made").press("Enter")
    found.get_by_role("button", name="Take it").press("Enter")
    saved(page)
    expect(page.get_by_role("region", name="Hits")).to_be_focused()
    # The body is a recipe now, whose length is a slider as of any other made kick.
    expect(page.get_by_label("Layer at hand")).to_contain_text("click")
    length = page.get_by_label("Length, typed, in ms", exact=True)
    length.fill("200")
    length.press("Enter")
    settled(page)
    page.get_by_role("button", name="Undo").click()
    expect(length).not_to_have_value("200")
