"""One gesture is one step of undo; a sound leaves the page; the page can be installed."""

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Locator, Page, expect

from tests.browser.serving import Server, go, middle, saved, settled, tab

# What an address of the page's own stands for.
KEEPS_BLOBS = """
window.blobs = {};
const create = URL.createObjectURL;
URL.createObjectURL = (blob) => {
  const at = create.call(URL, blob);
  window.blobs[at] = blob;
  return at;
};
"""


@pytest.fixture
def duck(page: Page, demo: Server) -> Locator:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    return page.get_by_role("slider", name="Return of the bass")


def _drag(page: Page, handle: Locator, *ways: float, rest_ms: float = 0) -> None:
    x, y = middle(handle)
    page.mouse.move(x, y)
    page.mouse.down()
    for way in ways:
        x += way
        page.mouse.move(x, y, steps=4)
        page.wait_for_timeout(rest_ms)
    page.mouse.up()


def test_a_drag_that_rests_on_its_way_is_one_step_of_undo(page: Page, duck: Locator) -> None:
    was = str(duck.get_attribute("aria-valuetext"))
    _drag(page, duck, 20, 20, 20, rest_ms=700)
    expect(duck).not_to_have_attribute("aria-valuetext", was)
    saved(page)
    page.keyboard.press("Control+z")
    expect(duck).to_have_attribute("aria-valuetext", was)


def test_two_drags_in_quick_succession_are_two_steps_of_undo(page: Page, duck: Locator) -> None:
    was = str(duck.get_attribute("aria-valuetext"))
    _drag(page, duck, 25)
    between = str(duck.get_attribute("aria-valuetext"))
    _drag(page, duck, 25)
    saved(page)
    assert was != between != duck.get_attribute("aria-valuetext")
    page.keyboard.press("Control+z")
    expect(duck).to_have_attribute("aria-valuetext", between)
    saved(page)
    page.keyboard.press("Control+z")
    expect(duck).to_have_attribute("aria-valuetext", was)


def test_the_equaliser_is_taken_by_its_curve(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    tab(page, "shape")
    page.get_by_label("Add a stage").select_option("equaliser")
    curve = page.get_by_role("group", name="The equaliser’s curve")
    bell = curve.get_by_role("slider", name="Bell on the curve", exact=True)
    settled(page)
    was = bell.get_attribute("aria-valuetext")
    assert was == "350 Hz, 0.0 dB"
    x, y = middle(bell)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 25, steps=8)
    page.mouse.up()
    settled(page)
    # It stays under the pointer, and the controls and the curve say the same.
    assert middle(bell) == pytest.approx((x + 30, y + 25), abs=1.5)
    told = re.fullmatch(r"(\d+) Hz, −(\d+\.\d) dB", bell.get_attribute("aria-valuetext") or "")
    assert told
    expect(page.get_by_label("Bell, typed, in dB", exact=True)).to_have_value(f"−{told[2]}")
    expect(page.get_by_label("Bell at, typed, in Hz", exact=True)).to_have_value(told[1])
    expect(page.get_by_role("group", name="What the stage did")).to_contain_text(f"−{told[2][:-2]}")
    bell.press("ArrowUp")
    expect(page.get_by_label("Bell, typed, in dB", exact=True)).to_have_value(
        f"−{float(told[2]) - 0.5:.1f}"
    )
    # Filters without a gain move along the curve's middle only.
    low = curve.get_by_role("slider", name="High-pass on the curve")
    low.press("ArrowUp")
    expect(low).to_have_attribute("aria-valuetext", "20 Hz")
    low.press("Shift+ArrowRight")
    expect(low).not_to_have_attribute("aria-valuetext", "20 Hz")
    page.mouse.dblclick(*middle(bell))
    expect(bell).to_have_attribute("aria-valuetext", was)


def test_a_hit_is_dragged_out_of_the_page_saved_and_copied_as_numbers(
    page: Page, seen: Server, tmp_path: Path
) -> None:
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.add_init_script(KEEPS_BLOBS)
    page.goto(f"{seen.address}/tracks/1")
    go(page, "Hits")
    settled(page)
    button = page.get_by_role("button", name="Save WAV")
    with page.expect_response("**/api/hits/sound"):
        button.hover()
    page.wait_for_timeout(200)
    # What the browser is given when the drag begins: kind, name, and where the bytes are.
    given = button.evaluate(
        """one => {
          const dataTransfer = new DataTransfer();
          one.dispatchEvent(new DragEvent("dragstart", { dataTransfer, bubbles: true, cancelable: true }));
          return dataTransfer.getData("DownloadURL");
        }"""
    )
    kind, name, address = given.split(":", 2)
    assert (kind, name) == ("audio/wav", "Kick.wav")
    dragged = bytes(
        page.evaluate(
            "async at => Array.from(new Uint8Array(await window.blobs[at].arrayBuffer()))", address
        )
    )
    with page.expect_download() as download:
        button.click()
    download.value.save_as(tmp_path / "saved.wav")
    assert (tmp_path / "saved.wav").read_bytes() == dragged
    samples, rate = soundfile.read(tmp_path / "saved.wav")
    assert rate == 48_000
    assert float(np.max(np.abs(samples))) > 0.1
    page.get_by_role("button", name="Copy numbers").click()
    expect(page.get_by_text("The numbers are copied.")).to_be_visible()
    text = page.evaluate("navigator.clipboard.readText()")
    assert re.match(r"Kick: \S+ [−+±][\d.]+ ¢ \([\d.]+ Hz\), length \d+ ms, .* dBFS, .* LUFS$", text)


def test_the_page_can_be_installed_as_an_application(page: Page, seen: Server) -> None:
    page.goto(seen.address)
    manifest = page.context.new_cdp_session(page).send("Page.getAppManifest")
    assert manifest["errors"] == []
    assert manifest["url"].endswith("/manifest.json")
    for icon in ("walnut-192.png", "walnut-512.png"):
        assert page.request.get(f"{seen.address}/{icon}").headers["content-type"] == "image/png"
