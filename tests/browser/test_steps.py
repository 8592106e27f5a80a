"""Each step's own controls, used as they are meant to be."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from bench.loops import RATE as LOOP_RATE
from bench.loops import make_loop
from tests.browser.serving import Server, all_the_way, drop, go, saved, settled
from tests.files_made import written
from tests.signals import sine


def test_the_brief_changes_everything_that_follows_from_it(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/brief")
    settled(page)
    facts = page.locator(".big-facts")
    expect(facts).to_contain_text("454.5 ms a beat")
    tempo = page.get_by_role("slider", name="Tempo")
    tempo.focus()
    tempo.press("ArrowRight")
    expect(facts).to_contain_text("454.5 ms a beat")  # a hundredth of a BPM
    expect(page.locator(".track-facts")).to_contain_text("132.01 BPM")
    page.get_by_label("Mode", exact=True).select_option("phrygian")
    expect(page.locator(".ladder-head")).to_contain_text("G phrygian")
    expect(page.get_by_role("list", name="Low notes of the key")).to_contain_text("Ab1")
    page.get_by_role("button", name="+ bar").click()
    page.get_by_label("Chord root of bar 3").select_option("Ab")
    expect(page.locator("#beat-bar-2")).to_be_attached()
    for _ in range(2):
        page.get_by_role("button", name="− bar").click()
    expect(page.locator("#beat-bar-1")).to_have_count(0)
    kicks = page.get_by_label("Kick on beat 2", exact=True)
    kicks.click()
    expect(kicks).to_have_attribute("aria-pressed", "false")
    page.get_by_label("bass", exact=True).check()
    expect(page.locator(".track-facts")).to_contain_text("sub: bass")
    a4 = page.get_by_label("A4, typed, in Hz")
    a4.fill("432")
    a4.press("Enter")
    expect(page.get_by_role("list", name="Low notes of the key")).to_contain_text("G1 48.1")
    saved(page)


def test_what_is_typed_beyond_the_limits_or_is_nonsense_is_said_and_changes_nothing(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    decay = page.get_by_label("Decay, typed, in ms", exact=True)
    for typed, shown, said in (
        ("1500", "1500", None), ("1501", "1500", "“1501” is out of range: 30 to 1500 ms."),
        ("a lot", "1500", "“a lot” is not a length, such as 120 ms, 0.12 s or 1/8."), ("123,4", "123", None),
        ("", "123", None),
    ):  # fmt: skip
        decay.fill(typed)
        decay.press("Enter")
        expect(decay).to_have_value(shown)
        expect(page.get_by_role("alert")).to_have_text([said] if said else [])
    decay.fill("700")
    decay.press("Escape")
    page.keyboard.press("Tab")
    expect(decay).to_have_value("123")


def test_the_kick_follows_its_controls_and_its_length_the_tempo(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    numbers = page.get_by_role("group", name="Numbers of the kick")
    page.get_by_label("Length as").select_option("1/8")
    expect(numbers).to_contain_text("227 ms")
    expect(numbers).to_contain_text("1/8 ±0 ms")
    click = page.get_by_role("slider", name="Click", exact=True)
    click.focus()
    click.press("Home")
    expect(page.get_by_label("Click, typed, in dB", exact=True)).to_have_value("off")
    expect(page.get_by_role("slider", name="End of the kick")).to_have_count(0)
    settled(page)
    air = page.get_by_role("list", name=re.compile("Energy per band")).get_by_role("listitem").last
    found = re.search(r"−(\d+)", air.inner_text())
    assert found
    assert int(found[1]) > 40


def test_a_pattern_is_drawn_note_by_note_and_undone(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    page.get_by_role("button", name="off-beats").click()
    third = page.get_by_role("button", name=re.compile("^Bass, place 3,"))
    expect(third).to_have_text("root")
    third.focus()
    third.press("ArrowUp")
    expect(third).to_have_text("+1")
    editor = page.get_by_role("group", name="Selected note")
    expect(editor).to_contain_text("1.8 sixteenths")
    editor.get_by_role("button", name="longer").click()
    expect(editor).to_contain_text("2.3 sixteenths")
    page.get_by_role("button", name="Bass, place 1", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^Bass, place 1,"))).to_have_text("root")
    expect(editor).to_contain_text("0.9 sixteenths")
    saved(page)
    # However many steps the hand's pauses made of it.
    all_the_way(page, "Undo", "Control+z")
    expect(page.get_by_role("button", name="with the kick")).to_have_attribute("aria-pressed", "true")
    all_the_way(page, "Redo", "Control+Shift+z")
    expect(third).to_have_text("+1")


def test_a_loop_of_ones_own_replaces_the_bass_and_the_made_one_comes_back(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    loop = tmp_path / "my loop.aiff"
    loop.write_bytes(written(sine(98, 2.0, -6, 44_100), kind="AIFF"))
    drop(page, loop)
    expect(page.locator(".source-name")).to_have_text("my loop.aiff")
    expect(page.locator(".lead")).to_contain_text("taken to be at 132 BPM")
    expect(page.get_by_label("Gain, typed, in dB")).to_have_value("0.0")
    page.get_by_role("button", name="Made here").click()
    expect(page.get_by_role("button", name="off-beats")).to_have_attribute("aria-pressed", "true")


def test_ducking_is_switched_off_and_solved_again(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.get_by_label("Ducking on").uncheck()
    settled(page)
    expect(page.get_by_role("slider", name="Return of the bass")).to_have_count(0)
    expect(page.locator("#hear-before")).to_be_disabled()
    page.get_by_role("button", name="Solve from kick and bass").click()
    expect(page.get_by_label("Ducking on")).to_be_checked()
    expect(page.locator(".notice")).to_contain_text("the bass gives up")
    settled(page)
    expect(page.get_by_role("row", name="click risk, limit 12")).not_to_have_class(re.compile("beyond"))


def test_a_track_is_renamed_and_another_is_made(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/brief")
    settled(page)
    page.get_by_role("button", name="Green Husk").click()
    page.get_by_role("button", name="Rename…").click()
    name = page.get_by_label("Name of the track")
    name.fill("Greener Husk")
    name.press("Enter")
    page.get_by_role("button", name="Greener Husk").click()
    page.get_by_role("button", name="All tracks, and new ones…").click()
    page.get_by_label("Name of the track").fill("Fourth")
    page.get_by_label("Tonic").select_option("D")
    page.get_by_label("Tempo in BPM").fill("93.5")
    page.get_by_role("button", name="Start a track").click()
    expect(page.locator(".track-facts")).to_contain_text("D minor93.5 BPM")
    settled(page)
    page.get_by_role("button", name="Fourth").click()
    expect(page.get_by_role("button", name="Greener Husk")).to_be_visible()
    page.keyboard.press("Escape")


def test_a_kept_version_is_brought_back_and_that_undone(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/3/log")
    settled(page)
    expect(page.locator(".calm")).to_contain_text("Nothing kept yet")
    page.get_by_label("Note for this version").fill("as found")
    page.get_by_role("button", name="Keep this version").click()
    go(page, "Duck")
    depth = page.get_by_label("Depth, typed, in dB")
    depth.fill("30")
    depth.press("Enter")
    saved(page)
    go(page, "Log")
    page.get_by_role("button", name="Bring back as found").click()
    go(page, "Duck")
    expect(depth).to_have_value("12.0")
    saved(page)
    page.get_by_role("button", name="Undo").click()
    expect(depth).to_have_value("30.0")


def test_colours_are_chosen_and_stay(page: Page, demo: Server) -> None:
    page.goto(demo.address)
    settled(page)
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
    page.get_by_label("Colours").select_option("light")
    page.reload()
    settled(page)
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "light")
    page.emulate_media(color_scheme="dark")
    page.get_by_label("Colours").select_option("system")
    expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")


def test_a_reference_proposes_and_changes_nothing_by_itself(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    page.goto(f"{demo.address}/tracks/1/brief")
    settled(page)
    loop = tmp_path / "ours.wav"
    loop.write_bytes(written(make_loop(2, "major", 104.0), LOOP_RATE))
    page.get_by_label("Loop to take key and tempo from").set_input_files(loop)
    proposal = page.get_by_role("region", name="From a reference")
    expect(proposal).to_contain_text("D major")
    expect(proposal).to_contain_text("104.00 BPM")
    expect(proposal).to_contain_text("16 kick")
    expect(page.get_by_role("banner")).to_contain_text("G minor")
    page.get_by_role("button", name="Take the tempo 104.00").click()
    expect(page.get_by_role("banner")).to_contain_text("104 BPM")
    page.get_by_role("button", name="Take the key D major").press("Enter")
    expect(page.get_by_role("banner")).to_contain_text("D major")
