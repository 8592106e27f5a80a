"""The line: drawn, heard with all hits, carried over a change of chords, out and back as MIDI."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from juglant.files.midi import read_midi
from tests.browser.serving import Server, go, mend, saved, settled


def test_drums_are_tuned_a_line_is_written_by_keyboard_and_goes_out_and_back_as_midi(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    # Two drums into key first.
    page.goto(f"{demo.address}/tracks/2/tune")
    settled(page)
    page.get_by_role("button", name="Tune all…").press("Enter")
    page.get_by_role("button", name="Take all").press("Enter")
    expect(page.locator(".tune-head")).to_contain_text("Every hit is where it aims")
    go(page, "Line")
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    page.get_by_role("button", name="Made here").press("Enter")
    page.get_by_role("button", name="long notes").press("Enter")
    first = stave.get_by_role("button", name=re.compile("^Bass, place 1,"))
    first.focus()
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    seventh = stave.get_by_role("button", name=re.compile("^Bass, place 7,"))
    expect(seventh).to_have_text("root")
    for _ in range(7):
        page.keyboard.press("ArrowUp")
    expect(seventh).to_have_text("5th")
    page.keyboard.press("Shift+ArrowUp")
    expect(page.get_by_role("group", name="Selected note")).to_contain_text("1.4 sixteenths")
    page.get_by_role("checkbox", name="glide").press("Space")
    expect(seventh).to_have_text("⤳5th")

    # A second low line over held notes spills; here nothing mends that without harm, and it is said.
    parts = page.get_by_role("group", name="Parts of the track")
    parts.get_by_label("Add a part").select_option("Line")
    expect(parts.locator("[aria-pressed=true]").first).to_have_text("sub")
    page.get_by_role("button", name="off-beats").press("Enter")
    spill = page.locator(".finding").filter(has_text="the sub that starts")
    expect(spill).to_have_count(1)
    parts.get_by_role("button", name="bass", exact=True).press("Enter")

    # A stroke of a drum, softer; then all of it is heard.
    tom = stave.get_by_role("button", name=re.compile("^Low tom, place 3(,|$)"))
    tom.press("Enter")
    tom.press("ArrowDown")
    expect(tom).to_have_text("90")
    page.keyboard.press("h")
    page.keyboard.press("h")
    expect(page.locator("#hear-all")).to_be_checked()
    page.get_by_role("button", name="Play").press("Enter")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    page.get_by_role("button", name="Stop").press("Enter")

    # The chords change, and the line with them.
    saved(page)
    go(page, "Brief")
    page.get_by_role("combobox", name="Chord root of bar 2").select_option("G")
    go(page, "Line")
    expect(page.locator(".ladder")).to_contain_text("root 2")

    page.get_by_text("MIDI", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Save the loop as MIDI").click()
    path = tmp_path / "line.mid"
    download.value.save_as(path)
    read = read_midi(path.read_bytes(), path.name)
    bass = next(track for track in read.tracks if track.name == "Bass")
    # C, its fifth, C again in bar 1; the same above G in bar 2.
    assert [note.midi for note in bass.notes[:6]] == [24, 31, 24, 31, 38, 31]

    page.get_by_label("Open a MIDI file…").set_input_files(path)
    page.get_by_role("button", name="Use Bass as the line").click()
    expect(page.locator(".notice").last).to_contain_text("The line is the file’s now")
    page.get_by_text("Notes", exact=True).click()
    expect(stave.get_by_role("button", name=re.compile("^Bass, place 7,"))).to_have_text("5th")


def test_a_file_that_is_no_midi_is_refused_in_a_sentence(page: Page, demo: Server, tmp_path: Path) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    page.get_by_text("MIDI", exact=True).click()
    path = tmp_path / "words.mid"
    path.write_text("play a low note please")
    page.get_by_label("Open a MIDI file…").set_input_files(path)
    expect(page.locator(".notice")).to_contain_text("words.mid is not a standard MIDI file")


def test_a_spill_is_mended_by_choking(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/3/line")
    settled(page)
    finding = page.locator(".finding").filter(has_text="still sounds at")
    expect(finding).to_contain_text("wobble")
    # Shortening is tried when it is asked for; here choking is what mends it without harm.
    mend(page, finding, re.compile("choke"))
    expect(page.locator(".on-trial")).to_be_visible()
    page.locator(".on-trial").get_by_role("button", name="Take").click()
    expect(finding).to_have_count(0)


def test_a_hit_of_the_track_plays_the_line(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/line")
    settled(page)
    voice = page.get_by_role("combobox", name="Played by a hit")
    expect(voice).to_contain_text("played by 808")
    voice.select_option("Low tom")
    expect(voice).to_contain_text("played by Low tom")
    stave = page.get_by_role("group", name="Bar 1 of the pattern")
    # The notes stay what they were.
    expect(stave.get_by_role("button", name=re.compile("^Bass, place 11,"))).to_have_text("oct")
    page.get_by_text("Sound", exact=True).click()
    expect(page.locator(".lead")).to_contain_text("Low tom plays the line")
    page.get_by_role("slider", name="Release").press("ArrowRight")
    saved(page)
    page.get_by_role("button", name="Play").press("Enter")
    page.wait_for_function("() => window.heard && window.heard() > 0.01")
    page.get_by_role("button", name="Made here").click()
    expect(voice).to_contain_text("or played by a hit")


def test_a_rumble_of_the_kick_is_a_line_that_can_be_shaped_and_muted(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    page.get_by_label("Add a part").select_option("Line")
    page.get_by_role("button", name="Rumble").press("Enter")
    expect(page.locator(".stave-instead")).to_have_text("a rumble of the kick")
    under = page.get_by_label("Under kick, typed, in dB")
    under.fill("14")
    under.press("Enter")
    saved(page)
    page.get_by_role("button", name="Mute Rumble").press("Enter")
    expect(page.locator(".stave-muted")).to_contain_text("Rumble")
    saved(page)
    page.reload()
    settled(page)
    expect(page.locator(".stave-muted")).to_contain_text("Rumble")
