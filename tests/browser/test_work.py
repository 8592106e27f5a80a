"""The whole task as a producer does it: with the mouse, then with the keyboard alone."""

import csv
import io
import re
import struct
import zipfile
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import Page, expect

from tests.browser.serving import Server, all_the_way, drop, go, mend, saved, settled
from tests.files_made import KICK, written


def _start_track(page: Page, studio: Server, name: str) -> None:
    page.goto(studio.address)
    page.get_by_label("Name of the track").fill(name)
    page.get_by_role("button", name="Start a track").click()
    settled(page)


def test_from_an_empty_studio_to_the_zip(page: Page, studio: Server, tmp_path: Path) -> None:
    # 1, 2: a track, its tempo and key; what follows from them stands beside.
    _start_track(page, studio, "First Light")
    tempo = page.get_by_label("Tempo, typed, in BPM")
    tempo.fill("126")
    tempo.press("Enter")
    page.get_by_label("Tonic").select_option("B")
    page.get_by_label("Mode", exact=True).select_option("minor")
    expect(page.locator(".big-facts")).to_contain_text("476.2 ms a beat")
    expect(page.get_by_role("row", name="1/16")).to_contain_text("119.0")
    expect(page.get_by_role("list", name="Low notes of the key")).to_contain_text("B1 61.7")

    # 3: a kick of one's own, dropped, measured, heard.
    go(page, "Hits")
    file = tmp_path / "found kick.wav"
    file.write_bytes(written(KICK))
    drop(page, file)
    expect(page.locator(".source-name")).to_have_text("found kick.wav")
    settled(page)
    numbers = page.get_by_role("group", name="Numbers of the kick")
    expect(numbers).to_contain_text("57.00 Hz")
    expect(numbers).to_contain_text("A#1")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.locator(".notice").first).to_contain_text("damage hearing")
    expect(page.get_by_role("button", name="Understood")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Understood")).to_have_count(0)
    page.wait_for_function("() => window.heard() > 0.01")
    page.get_by_role("button", name="Stop").click()

    # 4: tuned to the nearest note of the key.
    go(page, "Tune")
    expect(page.locator(".move").first).to_contain_text("A1")
    page.get_by_role("button", name="Tune to A1", exact=True).click()
    expect(page.locator(".tune-sounds b").first).to_have_text("A1")
    settled(page)
    cents = page.locator(".tune-sounds").first.inner_text()
    found = re.search(r"[±+−]([\d.]+) ¢", cents)
    assert found, cents
    assert float(found[1]) <= 2.0

    # 5: a bass that plays where the kick does.
    go(page, "Line")
    page.get_by_role("button", name="with the kick").click()
    settled(page)

    # 6, 7: they collide; the fix is heard before it is taken; the numbers before and after.
    go(page, "Duck")
    finding = page.locator(".finding").filter(has_text="covers the kick")
    expect(finding).to_contain_text("limit 10 %")
    mend(page, finding, "Solve the ducking…")
    expect(page.locator(".on-trial strong")).to_contain_text("→")
    page.get_by_role("button", name="Hear now").click()
    page.wait_for_function("() => window.heard() > 0.01")
    page.get_by_role("button", name="Take it").click()
    settled(page)
    expect(page.locator(".finding").filter(has_text="covers the kick")).to_have_count(0)
    row = page.get_by_role("row", name="collision per kick").locator("td")
    before, after = (int(re.findall(r"\d+", text)[0]) for text in row.all_inner_texts())
    assert after <= 0.1 * before
    expect(page.get_by_role("row", name="slack to the next kick")).not_to_contain_text("−")
    page.get_by_text("Before", exact=True).click()
    expect(page.locator(".match")).to_contain_text(re.compile(r"match −\d"))
    page.get_by_role("button", name="Stop").click()

    # 8: kept, changed, undone, found again after closing the page.
    go(page, "Log")
    page.get_by_label("Note for this version").fill("kick in key, bass ducked")
    page.get_by_role("button", name="Keep this version").click()
    expect(page.get_by_role("list", name="Kept versions")).to_contain_text("kick in key, bass ducked")
    go(page, "Duck")
    depth = page.get_by_label("Depth, typed, in dB")
    solved = depth.input_value()
    depth.fill("3")
    depth.press("Enter")
    saved(page)
    page.keyboard.press("Control+z")
    expect(depth).to_have_value(solved)
    saved(page)
    page.goto(studio.address)
    settled(page)
    go(page, "Duck")
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value(solved)

    # 9: everything leaves in one ZIP, read by independent readers.
    go(page, "Hand over")
    expect(page.locator(".sheet")).to_contain_text("B minor")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download the ZIP").click()
    data = Path(download.value.path()).read_bytes()
    assert download.value.suggested_filename == "first-light.zip"
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    assert sorted(files) == [
        "first-light_ducking-control_126bpm.wav",
        "first-light_ducking-controller_126bpm.mid",
        "first-light_ducking-curve_126bpm.csv",
        "first-light_ghost-trigger_126bpm.wav",
        "first-light_kick_A1_126bpm.wav",
        "first-light_line_126bpm.mid",
        "first-light_loop_bass-ducked_126bpm.wav",
        "first-light_loop_bass_126bpm.wav",
        "first-light_loop_kick_126bpm.wav",
        "first-light_loop_mix_126bpm.wav",
        "first-light_sheet.txt",
    ]
    kick = files["first-light_kick_A1_126bpm.wav"]
    at = kick.index(b"smpl") + 8
    assert struct.unpack("<I", kick[at + 12 : at + 16])[0] in (32, 33)
    x, rate = soundfile.read(io.BytesIO(kick))
    assert (
        20 * np.log10(np.max(np.abs(x))) == np.round(-1.0)
        or abs(20 * np.log10(np.max(np.abs(x))) + 1) < 0.01
    )
    spectrum = np.abs(np.fft.rfft(x, 2**19))
    assert abs(1200 * np.log2(np.argmax(spectrum) * rate / 2**19 / 55)) < 10
    mix, _ = soundfile.read(io.BytesIO(files["first-light_loop_mix_126bpm.wav"]))
    assert mix.size == round(2 * 4 * 60 / 126 * 48_000)
    rows = list(csv.DictReader(io.StringIO(files["first-light_ducking-curve_126bpm.csv"].decode())))
    assert abs(min(float(row["gain_db"]) for row in rows) + float(solved)) < 0.1


def test_with_the_keyboard_alone(page: Page, demo: Server) -> None:
    page.goto(demo.address)
    settled(page)
    page.keyboard.press("2")
    expect(page.get_by_role("region", name="Hits")).to_be_visible()
    pitch = page.get_by_role("slider", name="Pitch", exact=True)
    pitch.focus()
    was = page.locator(".number-big small").inner_text()
    page.keyboard.press("ArrowRight")
    expect(page.locator(".number-big small")).not_to_have_text(was)
    page.keyboard.press("k")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    page.wait_for_function("() => window.heard() < 0.0001")
    page.keyboard.press("Space")
    page.wait_for_function("() => window.heard() > 0.01")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play")).to_be_visible()

    page.keyboard.press("3")
    nearest = page.get_by_role("button", name="Tune to G1", exact=True)
    nearest.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".tune-row").first).to_contain_text("✓ in tune")

    page.keyboard.press("6")
    handle = page.get_by_role("slider", name="Depth and hold of the ducking")
    handle.focus()
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value("9.0")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_label("Hold, typed, in ms")).to_have_value("21")
    page.keyboard.press("b")
    expect(page.locator("#hear-before")).to_be_checked()
    page.keyboard.press("h")
    expect(page.locator("#hear-all")).to_be_checked()
    page.keyboard.press("h")
    expect(page.locator("#hear-kick")).to_be_checked()
    page.keyboard.press("l")
    expect(page.locator("#band-low")).to_be_checked()
    page.keyboard.press("]")
    expect(page.locator("#beat-bar-1")).to_be_checked()

    page.keyboard.press("f")
    expect(page.locator(".fix-row button").first).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator(".on-trial")).to_be_focused()
    for _ in range(3):
        page.keyboard.press("Tab")
    expect(page.get_by_role("button", name="Take it")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.locator(".on-trial")).to_have_count(0)

    saved(page)
    all_the_way(page, "Undo", "Control+z")
    expect(page.get_by_label("Depth, typed, in dB")).to_have_value("4.0")
    page.keyboard.press("Control+s")
    expect(page.get_by_label("Note for this version")).to_be_focused()
    page.keyboard.type("by keys")
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Kept versions")).to_contain_text("by keys")
    page.keyboard.press("Tab")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("hear kick, bass, both")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_points_are_dragged_on_the_curves_themselves(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    for name, dx, dy, field, sign in (
        ("Return of the bass", 60, 0, "Release, typed, in ms", 1),
        ("Depth and hold of the ducking", 0, 40, "Depth, typed, in dB", 1),
    ):
        was = float(page.get_by_label(field).input_value())
        box = page.get_by_role("slider", name=name).bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx, y + dy, steps=5)
        page.mouse.up()
        settled(page)
        assert sign * (float(page.get_by_label(field).input_value()) - was) > 3
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    box = page.get_by_role("slider", name="End of the kick").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] - 80, box["y"], steps=5)
    page.mouse.up()
    settled(page)
    assert float(page.get_by_label("Length, typed, in ms", exact=True).input_value()) < 370
