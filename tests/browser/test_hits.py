"""Making, recording, cutting, shaping and layering, as a producer does it."""

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from juglant.demo.workshop import workshop_recording
from tests.browser.serving import Server, drop, go, saved, settled, tab
from tests.files_made import written
from tests.signals import RATE


def _takes(page: Page) -> int:
    return page.get_by_role("list", name="Takes").get_by_role("listitem").count()


def test_from_the_microphone_to_a_layered_kick(listening: Page, demo: Server) -> None:
    page = listening
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    # Recorded, with a level to be seen.
    tab(page, "takes")
    page.get_by_role("button", name="Record", exact=True).click()
    meter = page.get_by_role("meter", name="Level of the microphone")
    expect(meter).to_be_visible()
    page.wait_for_function(
        "() => Number(document.querySelector('.record .why')?.textContent.split(' ')[0]) > 2.5"
    )
    page.get_by_role("button", name="Stop recording").click()
    expect(page.get_by_role("slider", name=re.compile("Threshold"))).to_be_visible()
    # Cut, two takes kept by key.
    page.get_by_role("button", name="Cut", exact=True).click()
    expect(page.get_by_role("list", name="Takes").get_by_role("listitem").nth(2)).to_be_visible()
    first = page.get_by_role("button", name=re.compile("^Take 1,"))
    expect(page.locator(".take-row").first).to_contain_text(re.compile("kick|snare|tom|hat"))
    first.focus()
    page.keyboard.press("+")
    expect(page.get_by_role("button", name=re.compile("^Take 1, kept"))).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("+")
    expect(page.get_by_role("button", name=re.compile("^Take 2, kept"))).to_be_focused()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("-")
    expect(page.get_by_role("button", name=re.compile("^Take 3, discarded"))).to_be_visible()
    page.get_by_label("Name for all kept takes").fill("crate")
    page.get_by_role("button", name="name", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^Take 1, kept"))).to_contain_text("crate 1")
    # One of them under the made kick.
    second = page.get_by_role("button", name=re.compile("^Take 2, kept"))
    second.focus()
    page.keyboard.press("-")
    expect(page.get_by_role("button", name="New hit of 1 kept")).to_be_visible()
    page.get_by_role("button", name="As layers of Kick").click()
    tab(page, "layers")
    layers = page.get_by_role("list", name="Layers").get_by_role("listitem")
    expect(layers).to_have_count(2)
    expect(layers.nth(1)).to_contain_text("crate 1")
    # Aligned with it, and back as played.
    page.get_by_role("button", name=re.compile("2 crate 1")).click()
    page.get_by_role("button", name="Find").click()
    expect(page.locator(".align-found")).to_contain_text("correlation")
    moved = page.locator(".align-found").inner_text()
    page.get_by_role("button", name="Take it").click()
    found = re.search(r"Moved by ([±+−])([\d.]+) ms", moved)
    assert found
    offset = page.get_by_label("Offset, typed, in ms")
    expect(offset).not_to_have_value("0.00")
    settled(page)
    # Kept with a note, and there again after closing the page.
    saved(page)
    go(page, "Log")
    page.get_by_label("Note for this version").fill("crate under the kick")
    page.get_by_role("button", name="Keep this version").click()
    expect(page.get_by_role("list", name="Kept versions")).to_contain_text("crate under the kick")
    page.reload()
    settled(page)
    go(page, "Hits")
    tab(page, "takes")
    expect(page.get_by_role("button", name=re.compile("^Take 1, kept"))).to_contain_text("crate 1")
    expect(page.locator(".take-row").first).to_contain_text("dB")
    page.get_by_role("button", name="New hit of 1 kept").click()
    expect(page.get_by_role("group", name="Parts of the track")).to_contain_text("crate 1")
    saved(page)
    # And out of the house.
    go(page, "Hand over")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download the ZIP").click()
    with zipfile.ZipFile(io.BytesIO(Path(download.value.path()).read_bytes())) as archive:
        names = archive.namelist()
        kick = next(name for name in names if re.search("_kick_.*bpm.wav", name) and "loop" not in name)
        crate = next(name for name in names if "_hit_crate-1" in name)
        x, _ = soundfile.read(io.BytesIO(archive.read(kick)))
        y, _ = soundfile.read(io.BytesIO(archive.read(crate)))
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(-1.0, abs=0.01)
    assert 20 * np.log10(np.max(np.abs(y))) == pytest.approx(-1.0, abs=0.01)


def test_a_refused_microphone_is_said_and_the_workshop_stands_in(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    tab(page, "takes")
    page.get_by_role("button", name="Record", exact=True).click()
    expect(page.locator(".notice")).to_contain_text("no microphone to record from")
    page.get_by_role("button", name="Simulated workshop").click()
    page.get_by_role("button", name="Cut", exact=True).click()
    expect(page.get_by_role("list", name="Takes").get_by_role("listitem")).to_have_count(16)
    # A take's end is drawn by keyboard, and lands on a zero crossing.
    end = page.get_by_role("slider", name="End of take 1")
    was = float(end.get_attribute("aria-valuenow") or 0)
    end.focus()
    page.keyboard.press("Shift+ArrowLeft")
    expect(end).not_to_have_attribute("aria-valuenow", str(was))
    # Nearer around the take at hand, by a button and by the wheel, and back.
    near = page.get_by_role("group", name="Zoom of the recording")
    near.get_by_role("button", name="Zoom in").click()
    expect(page.locator(".wave-buttons")).to_contain_text("117 ms to 4917 ms")
    page.locator("svg.wave").hover()
    page.mouse.wheel(0, -200)
    expect(page.locator(".wave-buttons")).not_to_contain_text("117 ms to 4917 ms")
    near.get_by_role("button", name="Show all").click()
    expect(page.locator(".wave-buttons")).to_contain_text("0 ms to 7200 ms")
    threshold = page.get_by_label("Threshold, typed, in dB")
    threshold.fill("30")
    threshold.press("Enter")
    page.get_by_role("button", name="Cut again").click()
    expect(page.locator(".notice").last).to_contain_text("takes. Keep with")
    assert _takes(page) <= 16


def test_a_new_hit_is_made_shaped_and_taken_away(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/hits")
    settled(page)
    page.get_by_label("Add a part").select_option("Clap")
    numbers = page.get_by_role("group", name="Numbers of the clap")
    expect(numbers).to_be_visible()
    settled(page)
    was = numbers.inner_text()
    page.get_by_label("Starting point").select_option("a crowd")
    expect(numbers).not_to_have_text(was)
    page.get_by_role("slider", name="Tail", exact=True).press("Home")
    settled(page)
    # A chain in an order of one's own.
    tab(page, "shape")
    for stage in ("drive", "equaliser"):
        page.get_by_label("Add a stage").select_option(stage)
    expect(page.get_by_role("button", name="2 equaliser")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("slider", name="Bell", exact=True).press("Home")
    expect(page.get_by_role("group", name="What the stage did")).to_contain_text(
        re.compile(r"deepest cut−2[34]\.\d dB")
    )
    page.get_by_role("button", name="Move the stage earlier").click()
    expect(page.get_by_role("button", name="1 equaliser")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="bypass").click()
    expect(page.get_by_role("button", name="1 equaliser (off)")).to_be_visible()
    page.get_by_role("button", name="hear after").click()
    page.wait_for_function("() => window.heard && window.heard() > 0.001")
    # Renamed, removed, brought back.
    page.get_by_role("button", name="Clap", exact=True).click()
    page.get_by_label("Name of the part").fill("Hands")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Hands", exact=True)).to_be_visible()
    saved(page)
    page.get_by_role("button", name="Remove Hands").click()
    expect(page.get_by_role("button", name="Hands", exact=True)).to_have_count(0)
    saved(page)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Hands", exact=True)).to_be_visible()


def test_by_keyboard_strokes_variations_and_an_octave(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.keyboard.press("z")
    page.wait_for_function("() => window.heard && window.heard() > 0.001")
    for _ in range(4):
        page.keyboard.press(".")
    expect(page.get_by_role("button", name="Throw eight")).to_be_visible()
    page.get_by_role("button", name="Throw eight").focus()
    page.keyboard.press("Enter")
    tiles = page.get_by_role("list", name="Variations").get_by_role("listitem")
    expect(tiles).to_have_count(8)
    page.wait_for_function("() => window.heard() < 0.0005")
    page.keyboard.press("w")
    page.wait_for_function("() => window.heard() > 0.001")
    pitch = page.locator(".beat figcaption").inner_text()
    page.get_by_role("button", name="Keep variation 2").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".beat figcaption")).not_to_have_text(pitch)
    page.get_by_label("Click", exact=True).check()
    page.keyboard.press(".")
    octave = page.get_by_role("group", name="An octave of the key")
    expect(octave.get_by_role("button")).to_have_count(8)
    page.wait_for_function("() => window.heard() < 0.0005")
    page.keyboard.press("i")
    page.wait_for_function("() => window.heard() > 0.001")


def test_a_dropped_recording_is_cut_and_not_taken_for_the_kick(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    tab(page, "takes")
    file = tmp_path / "bench.wav"
    file.write_bytes(written(workshop_recording()[: 3 * RATE], RATE))
    drop(page, file)
    expect(page.locator(".notice")).to_contain_text("ready to be cut")
    expect(page.locator(".wave .outline")).to_be_visible()
    tab(page, "sound")
    expect(page.get_by_label("Where the sound comes from")).to_have_value("kick")


def test_any_part_is_at_hand_in_one_strip_whatever_the_step(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    parts = page.get_by_role("group", name="Parts of the track")
    at_hand = parts.locator("[aria-pressed=true]").first
    expect(at_hand).to_have_text("Kick")
    # By key through all of them and round.
    for name in ("Snare", "Hat", "bass", "Sum", "Kick"):
        page.keyboard.press("n")
        expect(at_hand).to_have_text(name)
    page.keyboard.press("p")
    expect(at_hand).to_have_text("Sum")
    # The sum has a chain, and neither a mute nor an end; where it does something it is what is heard.
    expect(parts.get_by_role("button", name="mute")).to_have_count(0)
    page.get_by_label("Add a stage").select_option("limit")
    expect(page.get_by_role("group", name="Loop of Sum")).to_contain_text("limiter")
    with page.expect_response("**/api/sound/plan*") as planned:
        page.locator("label[for=hear-all]").click()
        page.keyboard.press(" ")
    assert planned.value.json()["parts"][-1]["side"] == "sum"
    page.wait_for_function("() => window.heard() > 0.001")
    page.keyboard.press(" ")
    # The address knows the part, the tab and what is heard: all of it is there after a reload.
    assert "part=the-sum" in page.url
    saved(page)
    page.reload()
    settled(page)
    expect(at_hand).to_have_text("Sum")
    expect(page.locator("#hear-all")).to_be_checked()
    page.keyboard.press("p")
    expect(at_hand).to_have_text("bass")
    # A line is edited in Hits as in Line: its sound, and its name.
    page.locator("label[for=line-sound]").click()
    expect(page.get_by_label("Drive, typed, in dB")).to_be_visible()
    at_hand.click()
    page.get_by_label("Name of the part").fill("Low end")
    page.keyboard.press("Enter")
    expect(at_hand).to_have_text("Low end")
    saved(page)
    # A group is added, takes the hat, gets a chain; muted it is crossed out, removed it is gone.
    parts.get_by_label("Add a part").select_option("Copy or group")
    expect(at_hand).to_have_text("Group")
    page.get_by_label("What is taken of Hat").select_option("dry")
    page.get_by_label("Add a stage").select_option("limit")
    expect(page.get_by_role("group", name="Loop of Group")).to_contain_text("limiter")
    saved(page)
    parts.get_by_role("button", name="mute").press("Enter")
    expect(parts.get_by_role("button", name="Group", exact=True)).to_have_class(re.compile("muted"))
    parts.get_by_role("button", name="Remove Group").press("Enter")
    expect(parts.get_by_role("button", name="Group", exact=True)).to_have_count(0)
    # In Line a drum may be at hand; in Hits again it is still the one.
    go(page, "Line")
    expect(at_hand).to_have_text("Low end")
    parts.get_by_role("button", name="Snare", exact=True).click()
    expect(page.locator("label[for=tab-shape]")).to_be_visible()
    go(page, "Hits")
    expect(at_hand).to_have_text("Snare")


def test_by_keyboard_a_list_that_adds_is_opened_first_and_adds_one(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    parts = page.get_by_role("group", name="Parts of the track")
    parts.get_by_label("Add a part").focus()
    pictures = parts.locator("button svg")
    before = pictures.count()
    # An arrow opens it and adds nothing; what is typed then is looked for, and Enter adds that alone.
    page.keyboard.press("ArrowDown")
    expect(pictures).to_have_count(before)
    for key in ("h", "a", "Enter"):
        page.keyboard.press(key)
    expect(parts.locator("[aria-pressed=true]").first).to_have_text("Hat 2")
    expect(pictures).to_have_count(before + 1)
