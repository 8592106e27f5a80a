"""The stock: a folder is added, what fits is tried in the running loop, taken, filed, and leaves as a kit."""

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth.kick import render_kick
from tests.browser.serving import Server, drop, go, saved, settled, tab
from tests.files_made import written
from tests.signals import RATE, ring


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """300 sounds: twelve kicks, and short rings of all pitches."""
    root = tmp_path_factory.mktemp("samples")
    for n in range(12):
        recipe = KickRecipe(end_hz=40.0 + 3 * n, decay_ms=160.0 + 60 * n, length_ms=900.0)
        data = written(render_kick(recipe, RATE, 126.0), RATE, subtype="PCM_24")
        (root / f"kick {n:02d}.wav").write_bytes(data)
    for n in range(288):
        x = 0.5 * ring(400.0 * 2 ** (n / 96), 30.0 + n / 8, 0.06)
        (root / f"perc {n:03d}.wav").write_bytes(written(np.asarray(x), RATE))
    return root


def test_sounds_that_fit_are_tried_taken_and_filed(page: Page, demo: Server, folder: Path) -> None:
    page.goto(f"{demo.address}/tracks/1/stock")
    settled(page)
    page.get_by_role("button", name="Add a folder of your own").click()
    expect(page.get_by_label("Path of a folder")).to_be_focused()
    page.get_by_label("Path of a folder").fill(str(folder / "nothing"))
    page.keyboard.press("Enter")
    expect(page.get_by_text("There is no folder")).to_be_visible()
    page.get_by_label("Path of a folder").fill(str(folder))
    page.keyboard.press("Enter")
    scan = page.get_by_role("group", name="Scan")
    expect(scan).to_contain_text("of 300")
    scan.get_by_role("button", name="Pause").click()
    expect(scan).to_contain_text("waiting at")
    scan.get_by_role("button", name="Go on").click()
    # A page that is opened anew finds the scan where it is.
    page.reload()
    expect(page.get_by_text("300 sounds")).to_be_visible(timeout=60_000)
    page.locator("label[for=stock-sounds]").click()
    expect(page.get_by_text("12 sounds")).to_be_visible(timeout=30_000)
    # By numbers: none is that short, and what is no note says so.
    page.get_by_role("button", name="Numbers").click()
    page.get_by_label("length, to, in ms").fill("5")
    expect(page.get_by_text("12 sounds")).to_have_count(0)
    page.get_by_label("Note", exact=True).fill("H1")
    expect(page.get_by_text("“H1” is no note.")).to_be_visible()
    page.get_by_label("Note", exact=True).fill("")
    page.get_by_label("length, to, in ms").fill("")
    page.keyboard.press("Escape")
    expect(page.get_by_text("12 sounds")).to_be_visible(timeout=30_000)
    rows = page.get_by_role("listbox", name="Sounds").get_by_role("option")
    expect(rows.first).to_contain_text("ms together in the sub")
    # Five of them in the groove, by key alone.
    sounds = page.get_by_role("listbox", name="Sounds")
    sounds.focus()
    heard = []
    for _ in range(5):
        with page.expect_response("**/api/stock/try") as answer:
            page.keyboard.press("ArrowDown")
        heard.append(answer.value.json()["hit"]["layers"][0]["source"]["audio"])
    assert len(set(heard)) == 5
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    settled(page)
    page.keyboard.press("v")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("v")
    page.get_by_role("button", name="Compare 2 blind").click()
    blind = page.get_by_role("region", name="Compare blind")
    for n in (2, 3):
        blind.get_by_role("button", name="B", exact=True).click()
        blind.get_by_role("button", name="This one, and again").click()
        expect(blind.get_by_role("status")).to_have_text(f"round {n}")
    blind.get_by_role("button", name="B", exact=True).click()
    blind.get_by_role("button", name="This one", exact=True).click()
    expect(page.get_by_text("It is kick")).to_be_visible()
    page.get_by_role("button", name="Take it").click()
    expect(page.get_by_text("is Kick now. Undo takes it back.")).to_be_visible()
    saved(page)
    track = page.request.get(f"{demo.address}/api/tracks/1").json()
    kick = track["state"]["parts"][0]
    assert kick["layers"][0]["source"]["audio"] in heard
    # Two are filed, and one of them goes into another track, whole.
    page.locator("label[for=stock-filed]").click()
    page.get_by_role("button", name="whole").click()
    expect(page.get_by_text("Kick is filed.")).to_be_visible()
    page.locator(".part-strip").get_by_role("button", name="Snare").click()
    page.get_by_role("button", name="whole").click()
    expect(page.get_by_text("Snare is filed.")).to_be_visible()
    page.goto(f"{demo.address}/tracks/2/stock?tab=filed")
    settled(page)
    page.get_by_role("button", name="Add Snare as a part").click()
    expect(page.get_by_text("is a part of the track now")).to_be_visible()
    saved(page)
    there = page.request.get(f"{demo.address}/api/tracks/2").json()["state"]["parts"][-1]
    here = next(part for part in track["state"]["parts"] if part["name"] == "Snare")
    assert {**there, "id": ""} == {**here, "id": ""}
    page.goto(f"{demo.address}/tracks/1/stock")
    settled(page)
    go(page, "Hand over")
    with page.expect_download() as leaving:
        page.get_by_role("button", name="A kit").click()
    with zipfile.ZipFile(io.BytesIO(Path(leaving.value.path()).read_bytes())) as kit:
        names = kit.namelist()
    assert "drums/map.csv" in names
    assert sum(name.endswith(".wav") for name in names) > 10


def test_thirty_dropped_files_are_tried_without_being_in_the_stock(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    for n in range(30):
        recipe = KickRecipe(end_hz=40.0 + n, decay_ms=160.0 + 10 * n, length_ms=500.0)
        (tmp_path / f"kick {n:02d}.wav").write_bytes(written(render_kick(recipe, RATE, 126.0), RATE))
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    drop(page, *sorted(tmp_path.glob("*.wav")))
    asked = page.get_by_role("region", name="Several files")
    expect(asked).to_contain_text("30 files")
    asked.get_by_role("button", name="to be tried in the loop").press("Enter")
    expect(page.get_by_role("region", name="Stock", exact=True)).to_contain_text("Of 30 dropped files")
    sounds = page.get_by_role("listbox", name="Sounds")
    expect(page.get_by_text("30 sounds", exact=True)).to_be_visible()
    sounds.focus()
    sounds.press("ArrowDown")
    expect(page.get_by_text("hearing kick")).to_be_visible()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.keyboard.press(" ")
    page.reload()
    expect(page.get_by_text("30 sounds", exact=True)).to_be_visible()
    sounds.focus()
    sounds.press("ArrowDown")
    heard = page.get_by_text("hearing kick").inner_text().removeprefix("hearing ")
    sounds.press("Enter")
    saved(page)
    page.get_by_role("button", name="All of the stock").press("Enter")
    expect(page.get_by_text("There is nothing in the stock yet.")).to_be_visible()
    go(page, "Hits")
    expect(page.locator(".source-name")).to_have_text(heard)


def test_24_variations_are_filed_and_exported_as_a_kit_in_six_moves(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    tab(page, "scatter")
    many = page.get_by_role("group", name="Many at once")
    expect(many.get_by_label("How many variations")).to_have_value("24")
    many.get_by_label("Scheme of their names").fill("thud {note} {number}")
    many.get_by_role("button", name="File them").press("Enter")
    kit = many.get_by_role("button", name="Kit of the 24")
    expect(kit).to_be_enabled()
    expect(many.get_by_role("button", name="File them")).to_be_focused()
    with page.expect_download() as begun:
        kit.press("Enter")
    with zipfile.ZipFile(begun.value.path()) as archive:
        keys = {name[6:9] for name in archive.namelist() if name.endswith(".wav")}
    assert len(keys) == 24
    # They are in the stock, and any of them are another kit.
    go(page, "Stock")
    page.locator("label[for=stock-filed]").click()
    filed = page.get_by_role("region", name="Filed")
    expect(filed.get_by_role("listitem")).to_have_count(24)
    for name in ("01", "02"):
        filed.get_by_role("checkbox", name=re.compile(f"thud .* {name} into the kit")).check()
    with page.expect_download() as begun:
        filed.get_by_role("button", name="Kit of the 2 chosen").press("Enter")
    assert zipfile.is_zipfile(begun.value.path())
