"""Judging: a low end in the places it will be heard in, against another state, blind, and in the log."""

import json
import re
from pathlib import Path
from urllib.request import urlopen

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from bench.tracks import clean
from juglant.core.lowend.session import Session
from juglant.core.rooms.judged import everything
from tests.browser.serving import Server, go, saved, settled
from tests.browser.test_sound import Heard
from tests.files_made import written
from tests.signals import RATE, Array


def _sound(server: Server, key: str) -> Array:
    with urlopen(f"{server.address}/api/sound/{key}") as answer:
        data = np.frombuffer(answer.read(), "<f4").astype(float)
        return np.asarray(data.reshape(int(answer.headers["X-Channels"]), -1).mean(axis=0))


def _place(page: Page, name: str) -> None:
    page.get_by_role("group", name="Places").get_by_role("button", name=name, exact=True).click()


def test_what_is_heard_in_a_place_is_what_was_measured_there_and_by_key_as_made(
    page: Page, demo: Server
) -> None:
    heard = Heard(page, demo)
    page.goto(f"{demo.address}/tracks/2/room?hear=all")
    settled(page)
    _place(page, "Car")
    with page.expect_response("**/api/room/heard") as asked:
        page.get_by_role("button", name="Hear it there").click()
    heard.in_step(_sound(demo, asked.value.json()["key"]))
    expect(page.locator(".room-head .match")).to_contain_text("gain")
    # A control of the place is heard as it is moved.
    with page.expect_response("**/api/room/heard") as asked:
        page.get_by_label("Lift", exact=True).press("ArrowRight")
    heard.in_step(_sound(demo, asked.value.json()["key"]))
    page.locator(".step").focus()
    page.keyboard.press("o")
    heard.in_step(heard.expected())
    page.keyboard.press("o")
    # The place and that it is heard are in the address; how it was set is kept.
    page.reload()
    settled(page)
    expect(page.get_by_role("button", name="Hear it there")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Lift, typed, in dB")).to_have_value("9.5")


def test_the_numbers_of_a_place_its_notes_and_the_hours_of_a_level(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/2/room")
    settled(page)
    _place(page, "Phone")
    page.locator("label[for=room-numbers]").click()
    numbers = page.locator(".room-numbers")
    expect(numbers).to_contain_text("no low end")
    expect(numbers).to_contain_text("at −10.0 LUFS")
    page.get_by_label("Loudness to be", exact=True).press("ArrowRight")
    expect(numbers).to_contain_text("at −9.5 LUFS")
    page.locator("label[for=room-notes]").click()
    expect(page.locator(".room-notes tbody tr").first).to_contain_text("C1")
    page.locator("label[for=room-hours]").click()
    level = page.get_by_label("At your ear, by your meter")
    level.fill("94")
    # NIOSH 98-126: an hour.
    expect(page.locator(".room-hours [role=status]")).to_contain_text("A day: 1.0 hours")
    level.fill("loud")
    expect(page.locator(".room-hours [role=alert]")).to_contain_text("Type the level in dBA")


def test_a_finding_of_a_place_stands_with_the_others_and_is_gone_in_another_step(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/2/room")
    settled(page)
    first = page.locator(".finding").first
    expect(first).to_contain_text("Few club systems play C1")
    # No fix of it was worth taking: in words, what would help.
    expect(first).to_contain_text("A line that stays above them, or another key.")
    go(page, "Duck")
    expect(page.locator(".finding").filter(has_text="Few club systems")).to_have_count(0)


def test_a_place_of_ones_own_is_brought_in_and_taken_out(page: Page, demo: Server, tmp_path: Path) -> None:
    struck = np.zeros(4800)
    struck[0], struck[2400] = 0.9, 0.4
    file = tmp_path / "Rehearsal room.wav"
    file.write_bytes(written(struck, 48_000))
    page.goto(f"{demo.address}/tracks/1/room")
    settled(page)
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="+ own response…").click()
    chooser.value.set_files(file)
    _place(page, "Rehearsal room")
    expect(page.locator(".step")).to_contain_text("it is heard as it was measured")
    page.get_by_role("button", name="Remove Rehearsal room from the places").click()
    expect(page.get_by_role("button", name="Rehearsal room", exact=True)).to_have_count(0)
    expect(page.get_by_role("button", name="Large club")).to_have_attribute("aria-pressed", "true")


def _kept(page: Page, note: str) -> None:
    page.get_by_label("Note for this version").fill(note)
    page.get_by_role("button", name="Keep this version").click()
    expect(page.locator(".log-lines li").filter(has_text=note)).to_be_visible()


def test_the_log_tells_a_change_lets_it_be_heard_blind_and_brings_one_part_back(
    page: Page, demo: Server
) -> None:
    heard = Heard(page, demo)
    page.goto(f"{demo.address}/tracks/3/log?hear=all")
    settled(page)
    _kept(page, "before lunch")
    with page.expect_response("**/state"):
        go(page, "Duck")
        page.get_by_label("Depth", exact=True).press("ArrowRight")
    saved(page)
    go(page, "Log")
    _kept(page, "deeper")
    line = page.locator(".log-lines > li").filter(has_text="deeper")
    expect(line).to_contain_text(re.compile(r"ducking of bass by Kick: depth .* → .* dB"))

    page.get_by_role("button", name="Hear before lunch against now").click()
    bar = page.get_by_role("region", name="A against B")
    expect(bar).to_contain_text("equally loud")
    expect(bar.get_by_role("button", name="B before lunch")).to_have_attribute("aria-pressed", "true")
    heard.in_step(heard.expected())
    page.keyboard.press("a")
    expect(bar.get_by_role("button", name="A now")).to_have_attribute("aria-pressed", "true")
    heard.in_step(heard.expected())

    bar.get_by_role("button", name="Blind…").click()
    # Nothing on the screen tells which is heard.
    expect(page.locator(".output-meter")).to_have_count(0)
    expect(page.locator(".transport .match")).to_have_count(0)
    for n in range(16):
        expect(bar).to_contain_text(f"round {n + 1} of 16")
        bar.get_by_role("button", name="X is B").press("Enter")
    expect(bar).to_contain_text(re.compile(r"\d+ of 16 right: guessing does that in"))
    # The buttons that were pressed are gone: the keyboard goes on in the bar, and then in the step.
    expect(bar).to_be_focused()
    expect(page.locator(".log-lines")).to_contain_text("Blind, now against “before lunch”")
    bar.get_by_role("button", name="Done").click()
    # Two versions against each other: the other one as A.
    page.get_by_role("button", name="Hear deeper as A").click()
    expect(bar.get_by_role("button", name="A deeper")).to_have_attribute("aria-pressed", "true")
    heard.in_step(heard.expected())
    bar.get_by_role("button", name="End the comparison").press("Enter")
    # The keyboard is where the comparison began.
    expect(page.get_by_role("button", name="Hear before lunch against now")).to_be_focused()

    # What is refused is told, and never said to be done.
    part, gone = (
        page.get_by_label("Bring one part of before lunch back"),
        {"detail": "This version is gone."},
    )
    page.route("**/versions/*/part", lambda route: route.fulfill(status=404, json=gone))
    part.select_option(label="ducking 1")
    expect(page.get_by_text("This version is gone.").first).to_be_visible()
    expect(page.get_by_text("That part is as it was")).to_have_count(0)
    page.unroute("**/versions/*/part")
    part.select_option(label="ducking 1")
    expect(page.get_by_text("That part is as it was. Undo takes it back.").first).to_be_visible()
    saved(page)
    _kept(page, "as it was")
    now = page.locator(".log-lines > li").filter(has_text="as it was")
    expect(now).to_contain_text(re.compile("ducking of bass by Kick: depth"))


def test_the_log_is_searched_starred_and_saved(page: Page, demo: Server, tmp_path: Path) -> None:
    page.goto(f"{demo.address}/tracks/3/log")
    settled(page)
    _kept(page, "sent to the mastering")
    _kept(page, "another one")
    page.get_by_label("Note for this version").fill("too loud in the car")
    page.get_by_role("button", name="Add a note only").click()
    lines = page.locator(".log-lines > li")
    expect(lines.first).to_contain_text("too loud in the car")
    page.get_by_role("button", name="Star for sent to the mastering").click()
    tags = page.get_by_label("Tags of sent to the mastering")
    tags.fill("v1")
    tags.press("Enter")
    page.locator("label[for=log-starred]").click()
    expect(lines).to_have_count(1)
    page.locator("label[for=log-starred]").click()
    page.get_by_label("Find in the log").fill("V1")
    expect(lines).to_have_count(1)
    expect(lines).to_contain_text("sent to the mastering")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the log").click()
    assert download.value.suggested_filename == "stonefruit_log.zip"
    page.get_by_label("Find in the log").fill("")
    page.get_by_text("A day in numbers").click()
    expect(page.locator(".days")).to_contain_text("loudness")
    with urlopen(f"{demo.address}/api/tracks/3/days") as answer:
        assert len(json.load(answer)) == 1


def test_a_record_is_held_against_the_track_heard_in_its_place_and_one_number_is_brought_nearer(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    track = clean("techno", 2)
    loop = everything(Session(track.load), track.state).samples
    file = tmp_path / "A record that works.wav"
    soundfile.write(file, 0.5 * np.concatenate([loop] * 5), RATE)
    page.goto(f"{demo.address}/tracks/1/room?tab=reference")
    settled(page)
    expect(page.locator(".references")).to_contain_text("Bring in a record whose low end works")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="+ record from a file…").click()
    chooser.value.set_files(file)
    row = page.locator(".room-records tbody tr")
    expect(row).to_contain_text("A record that works", timeout=60_000)
    expect(page.get_by_role("list", name="Differences, the largest first")).to_contain_text(
        "In the reference"
    )

    with page.expect_response(re.compile("/api/references/[0-9]+/sound")) as asked:
        page.get_by_role("button", name="Hear A record that works against the track").click()
    sound = asked.value
    channels = int(sound.headers["x-channels"])
    heard = Heard(page, demo)
    samples = np.frombuffer(sound.body(), "<f4").astype(float).reshape(channels, -1).mean(axis=0)
    gain = heard.in_step(samples)
    # As loud as is written on it, under the volume of −18 dB and two channels into one.
    match = page.locator(".compare .match").inner_text()
    said = float(re.findall(r"B (−?[0-9.]+) dB", match)[0].replace("−", "-"))
    assert gain == pytest.approx(said - 18.0, abs=0.2)
    page.get_by_role("button", name="End the comparison").click()

    page.get_by_role("button", name="Bring the kick as far over the bass…").click()
    card = page.locator(".on-trial")
    expect(card).to_contain_text("→", timeout=60_000)
    card.get_by_role("button", name="Take it").click()
    saved(page)
    page.get_by_role("button", name="Remove A record that works").click()
    expect(page.locator(".references")).to_contain_text("Bring in a record")


def test_a_hand_over_is_written_beside_the_project_and_a_file_there_is_watched(
    page: Page, demo: Server, tmp_path: Path
) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    file = folder / "pad.wav"
    time = np.arange(4 * RATE) / RATE
    file.write_bytes(written(0.05 * np.sin(440 * np.pi * time), RATE))
    page.goto(f"{demo.address}/tracks/1/duck")
    settled(page)
    page.locator("label[for=duck-others]").click()
    page.get_by_label("Sound file for a stem").set_input_files(file)
    expect(page.get_by_role("group", name="Stem pad")).to_be_visible()
    saved(page)
    go(page, "Hand over")
    page.get_by_label("Folder, its whole path").fill(str(folder))
    page.get_by_role("button", name="Use it").click()
    page.get_by_label("watch its files").click()
    page.get_by_label("What pad.wav is the sound of").select_option(index=1)
    row = page.locator(".outlet tbody tr")
    expect(row).to_contain_text("the same")
    page.get_by_role("button", name="Write this section there").click()
    expect(page.locator(".notice")).to_contain_text("Handed over")
    assert len([one for one in folder.iterdir() if one.is_dir()]) == 1
    go(page, "Log")
    expect(page.locator(".log-lines")).to_contain_text("Handed over Cobnut Rain, version")

    # Changed on the disk while another step is at hand: it is told there, and taken in Hand over.
    file.write_bytes(written(0.2 * np.sin(440 * np.pi * time), RATE))
    expect(page.locator(".notice")).to_contain_text("pad.wav changed on disk: loudness")
    go(page, "Hand over")
    page.get_by_role("button", name="Take pad.wav as it is now").click()
    expect(row).to_contain_text("the same")


def test_the_ear_is_trained_by_what_the_track_sounds_like(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/room?tab=ear")
    settled(page)
    page.get_by_role("button", name="Train: Higher or lower").click()
    trainer = page.get_by_role("region", name="Ear trainer")
    expect(trainer).to_contain_text("Is the second one higher or lower?")
    for name in ("First", "Second"):
        with page.expect_response(re.compile("/api/ear/questions/")):
            trainer.get_by_role("button", name=name).click()
    trainer.get_by_role("button", name="Higher").press("Enter")
    expect(trainer.get_by_role("status")).to_contain_text(re.compile(r"Right\.|No: it was Lower\."))
    trainer.get_by_role("button", name="Next question").press("Enter")
    expect(trainer).to_contain_text("Is the second one higher or lower?")
    trainer.get_by_role("button", name="Leave").click()
    expect(page.locator(".ear-skills tbody tr").nth(1)).to_contain_text("of 1")
