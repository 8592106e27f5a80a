"""From a recording to a recipe, from a bass to its kick, and the whole low end solved: the way that leads there."""

import re
import time
import zipfile
from functools import partial
from pathlib import Path
from urllib.request import urlopen

from playwright.sync_api import Page, Route, expect

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.recipes.bass import PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import PlayedBass
from juglant.core.recipes.track import TrackState
from tests.browser.serving import Server, go, saved, settled
from tests.files_made import written

# An 808 that owns the sub under a long kick that is full of it, and off its key.
HEAVY = KickRecipe(end_hz=53.4, decay_ms=400.0, length_ms=420.0, level_db=-5.0)
LOW = TrackState.of(
    brief=Brief(bpm=140.0, tonic="F", mode="minor", chord_roots=("F",), sub_owner="bass"),
    kick=Hit.of(MadeKick(recipe=HEAVY), steps=on_beats(1.0, 3.0)),
    bass=PlayedBass(
        recipe=PlayedRecipe(pattern=(Note(at=0.0, beats=1.8), Note(at=2.0, beats=1.8)), level_db=-6.0)
    ),
)


def _once_all_are_over(studio: Server, route: Route) -> None:
    while b'"running"' in urlopen(f"{studio.address}/api/jobs").read():
        time.sleep(0.05)
    route.continue_()


def test_a_kick_is_made_editable_another_designed_for_an_808_and_the_rest_solved(
    page: Page, studio: Server, tmp_path: Path
) -> None:
    asked = page.request
    track = asked.post(f"{studio.address}/api/tracks", data={"name": "Sloe"}).json()
    save = {"based_on": track["revision"], "section": track["section"],
            "state": LOW.model_dump(mode="json")}  # fmt: skip
    assert asked.put(f"{studio.address}/api/tracks/{track['id']}/state", data=save).ok
    file = tmp_path / "oak.wav"
    file.write_bytes(written(made(MadeKick(recipe=HEAVY), 140.0), RATE))
    page.goto(f"{studio.address}/tracks/{track['id']}/hits")
    settled(page)
    page.get_by_label("Sound file for the hit").set_input_files(file)
    expect(page.get_by_text("oak.wav").first).to_be_visible()
    settled(page)
    page.get_by_role("button", name="Make it editable").press("Enter")
    apart = page.get_by_role("group", name="Taken apart")
    expect(apart).to_contain_text("layers, third octaves", timeout=60_000)
    # The keyboard is where the work is, though the button that was pressed is gone.
    expect(apart).to_be_focused()
    apart.get_by_role("button", name="Hear it made").press("Enter")
    apart.get_by_role("button", name="Take it").press("Enter")
    saved(page)
    expect(page.get_by_role("region", name="Hits")).to_be_focused()
    # The body is a recipe now, whose length is a slider as of any other made kick.
    expect(page.get_by_label("Selected layer")).to_contain_text("click")
    length = page.get_by_label("Length, typed, in ms", exact=True)
    length.fill("300")
    length.press("Enter")
    saved(page)

    go(page, "Separate")
    page.locator("label[for=separate-design]").click()
    page.get_by_role("slider", name="Length").press("ArrowRight")
    page.get_by_role("button", name="Design five").press("Enter")
    designed = page.get_by_role("group", name="A sound designed")
    answers = designed.locator("tbody tr")
    expect(answers).to_have_count(5, timeout=90_000)
    lengths = [
        float(re.findall(r"([\d.]+) ms", answers.nth(n).get_by_role("rowheader").inner_text())[0])
        for n in range(5)
    ]
    assert lengths == sorted(lengths)
    # Heard in the loop at once, equally loud, against the kick that is there.
    hear = answers.nth(1).get_by_role("button", name=re.compile("Hear"))
    hear.press("Enter")
    bar = page.get_by_role("region", name="A against B")
    expect(bar).to_contain_text("equally loud")
    expect(hear).to_be_focused()
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    answers.nth(1).get_by_role("button", name=re.compile("Take")).press("Enter")
    saved(page)
    expect(bar).to_have_count(0)
    expect(designed).to_be_focused()
    expect(answers).to_have_count(0)

    page.get_by_role("button", name="Undo").click()
    saved(page)
    page.locator("label[for=separate-whole]").click()
    page.get_by_role("button", name="Solve the low end").click()
    degrees = page.get_by_role("group", name="Degrees").get_by_role("button")
    expect(degrees.last).to_contain_text("as clear as can be", timeout=90_000)
    steps = page.locator(".whole tbody tr")
    first = steps.first.get_by_role("rowheader").inner_text()
    # Work that is over before the page first asks how far it is is told all the same.
    page.route("**/api/jobs", partial(_once_all_are_over, studio), times=1)
    steps.first.get_by_role("button", name="leave out").click()
    expect(page.locator(".whole")).to_contain_text(f"Left out: {first}", timeout=90_000)
    expect(degrees.last).to_contain_text("as clear as can be", timeout=90_000)
    expect(steps.filter(has_text=first)).to_have_count(0)
    # Heard against what there is, equally loud; then taken, and one step of undo.
    degrees.last.click()
    expect(bar).to_contain_text("B as clear as can be")
    expect(bar).to_contain_text("equally loud")
    page.get_by_role("button", name="Take it", exact=True).press("Enter")
    saved(page)
    expect(bar).to_have_count(0)
    expect(page.get_by_role("group", name="The low end as a whole")).to_be_focused()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()

    go(page, "Hand over")
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name=re.compile("Hand over|as a ZIP|Download")).first.click()
    with zipfile.ZipFile(download.value.path()) as handed:
        assert any(name.endswith(".wav") for name in handed.namelist())


def test_every_section_is_solved_and_taken_in_one_step(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/3/separate")
    settled(page)
    page.locator("label[for=separate-whole]").click()
    page.get_by_role("button", name="Solve all 2 sections").press("Enter")
    every = page.get_by_role("group", name="Every section")
    expect(every.locator("tbody tr")).to_have_count(2, timeout=120_000)
    expect(every.locator("tbody tr").first).to_contain_text("Solve the ducking")
    every.get_by_role("button", name="Take it in every section").press("Enter")
    saved(page)
    expect(every.locator("tbody tr")).to_have_count(0)
    expect(page.get_by_role("region", name="Findings")).to_contain_text("Nothing is beyond its limit")
    # One step of undo for all of them.
    page.get_by_role("button", name="Undo").click()
    saved(page)
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
