"""Patterns on the grid and off it, and several files at once."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import FilePayload, Page, expect

from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth.kick import render_kick
from tests.browser.serving import Server, drop, saved, settled, tab
from tests.files_made import KICK, written
from tests.signals import RATE


def test_strokes_lie_off_the_grid_are_nudged_snapped_and_never_doubled(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    # The kick over two bars, with a velocity of its own for one stroke.
    page.locator("label[for=beat-pattern-bars-2]").click()
    kick = stave.get_by_role("button", name="Kick, place 5,")
    kick.focus()
    editor = page.get_by_role("group", name="Strokes of Kick")
    expect(editor).to_contain_text("bar 1, beat 2.000")
    velocity = editor.get_by_label("Velocity, typed, in per cent")
    velocity.fill("60")
    expect(kick).to_have_accessible_name("Kick, place 5, velocity 60 per cent")
    # Some ten ms late, in pulses of 0.95 ms: drawn where it is, and its place is taken.
    for name in ("5 ms later", "5 ms later", "1 ms later"):
        editor.get_by_role("button", name=name).press("Enter")
    expect(editor).to_contain_text("late")
    late = stave.get_by_role("button", name="Kick, place 5, velocity 60 per cent, +10 ms off the grid")
    expect(late).to_have_text("+10")
    saved(page)
    page.reload()
    settled(page)
    late.focus()
    editor.get_by_role("button", name="snap").press("Enter")
    expect(kick).to_have_accessible_name("Kick, place 5, velocity 60 per cent")
    # On triplets the sixteenths lie between the places, and are still there to be taken.
    page.get_by_role("combobox", name="grid").select_option("eighth triplets")
    between = stave.get_by_role("button", name="off the grid").first
    expect(between).to_be_visible()
    page.get_by_role("combobox", name="grid").select_option("thirty-seconds")
    expect(stave.get_by_role("button", name="Hat, place", exact=False)).to_have_count(32)
    page.get_by_role("combobox", name="grid").select_option("sixteenths")
    # A click beside a stroke that is 9 ms early takes it away rather than adding a second one.
    hats = stave.get_by_role("button", name="Hat, place 3,")
    hats.focus()
    hat = page.get_by_role("group", name="Strokes of Hat")
    for name in ("5 ms earlier", "5 ms earlier"):
        hat.get_by_role("button", name=name).press("Enter")
    moved = stave.get_by_role("button", name="Hat, place 3, velocity 100 per cent, −9 ms off the grid")
    expect(moved).to_have_count(1)
    moved.press("Enter")
    expect(stave.get_by_role("button", name="Hat, place 3", exact=True)).to_have_attribute(
        "aria-pressed", "false"
    )


def test_the_strokes_of_a_played_stem_become_the_kick_s(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    beat = 60 / 132
    x = np.zeros(round(8 * beat * RATE))
    one = render_kick(KickRecipe(decay_ms=90.0, length_ms=120.0), RATE, 132.0)
    for n, at in enumerate((0.0, 1.03, 2.5, 4.0, 5.27, 7.0)):
        start = round(at * beat * RATE)
        x[start : start + one.size] += one[: x.size - start] * (1.0 if n % 2 == 0 else 0.5)
    stem: FilePayload = {"name": "Played.wav", "mimeType": "audio/wav", "buffer": written(x, RATE)}
    page.get_by_label("Sound file for a stem").set_input_files(files=[stem])
    expect(page.get_by_role("group", name="Stem Played")).to_be_visible()
    saved(page)
    page.get_by_role("navigation", name="Steps").get_by_role("link", name="Line").click()
    settled(page)
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    stave.get_by_role("button", name="Kick, place 1,").focus()
    page.get_by_label("Take the strokes of Kick from").select_option("Played")
    expect(page.locator(".notice")).to_contain_text("6 strokes are the Kick’s now")
    expect(stave.get_by_role("button", name="Kick, place 5, velocity")).to_have_text(
        re.compile(r"^\+1[34]$")
    )
    expect(stave.get_by_role("button", name="Kick, place 11, velocity 100 per cent")).to_have_count(1)
    expect(stave.get_by_role("button", name="Kick, place 9", exact=True)).to_have_attribute(
        "aria-pressed", "false"
    )


def _file(folder: Path, name: str) -> Path:
    path = folder / name
    path.write_bytes(written(KICK))
    return path


def test_several_files_are_asked_what_they_are_and_one_replaces_a_layer_only(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.get_by_role("button", name="Snare", exact=True).press("Enter")
    tab(page, "layers")
    layers = page.get_by_role("list", name="Layers").get_by_role("listitem")
    expect(layers).to_have_count(2)
    page.get_by_label("Sound file for one more layer").set_input_files(_file(tmp_path, "rim.wav"))
    expect(layers).to_have_count(3)
    expect(layers.nth(2)).to_contain_text("rim.wav")
    # A drop replaces the layer at hand; the other layers, chains and the pattern stay.
    page.get_by_role("button", name="2 rattle").press("Enter")
    drop(page, _file(tmp_path, "shaker.wav"))
    expect(page.locator(".notice")).to_contain_text("shaker.wav is layer 2 of the snare now")
    expect(layers).to_have_count(3)
    tab(page, "shape")
    expect(page.get_by_role("button", name="1 equaliser")).to_be_visible()
    saved(page)
    # Several at once change nothing until it is said what they are.
    drop(page, *(_file(tmp_path, name) for name in ("b.wav", "a.wav", "c.wav")))
    asked = page.get_by_role("region", name="Several files")
    expect(asked).to_contain_text("3 files, a.wav, b.wav, c.wav")
    hits = page.get_by_role("group", name="Parts of the track").get_by_role("button")
    before = hits.count()
    asked.get_by_role("button", name="hits of their own").press("Enter")
    expect(page.get_by_role("button", name="a", exact=True)).to_be_visible()
    expect(hits).to_have_count(before + 3)
    expect(asked).to_have_count(0)


def test_a_step_that_has_no_use_for_a_file_takes_none(page: Page, demo: Server, tmp_path: Path) -> None:
    page.goto(f"{demo.address}/tracks/1/tune")
    settled(page)
    drop(page, _file(tmp_path, "stray.wav"))
    expect(page.locator(".notice")).to_contain_text("Nothing here takes a file")
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()


def test_a_stroke_is_struck_and_weighed_by_keyboard_alone(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/line")
    settled(page)
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    stave.get_by_role("button", name="Kick, place 1,").focus()
    for key in ("ArrowRight", "ArrowRight", "Enter"):
        page.keyboard.press(key)
    fresh = stave.get_by_role("button", name="Kick, place 3, velocity 100 per cent")
    expect(fresh).to_be_focused()
    # One stop for every row and its mute, then what is at hand: passing the other rows takes nothing else up.
    velocity = page.get_by_label("Velocity, typed, in per cent")
    for _ in range(20):
        page.keyboard.press("Tab")
        if velocity.evaluate("field => field === document.activeElement"):
            break
    expect(velocity).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("55")
    expect(stave.get_by_role("button", name="Kick, place 3, velocity 55 per cent")).to_be_visible()
    saved(page)
