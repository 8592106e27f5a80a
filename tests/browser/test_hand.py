"""Parts played by hand: a simulated MIDI keyboard, the computer's keys, and what is recorded."""

from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, saved, settled

# One keyboard that plays what the test tells it, at times of the page's clock.
KEYBOARD = """() => {
  const input = { name: "Simulated keys", state: "connected", onmidimessage: null };
  navigator.requestMIDIAccess = async () => ({ inputs: new Map([["one", input]]), onstatechange: null });
  window.played = (bytes, timeStamp) => input.onmidimessage({ data: Uint8Array.from(bytes), timeStamp });
}"""
# Strokes a beat and a half apart, from now on, each held for an eighth.
STRIKE = """([key, beat, velocities]) => {
  const from = performance.now();
  velocities.forEach((velocity, n) => {
    window.played([0x90, key, velocity], from + 1.5 * n * beat);
    window.played([0x80, key, 0], from + (1.5 * n + 0.5) * beat);
  });
}"""


def _part(page: Page, demo: Server, name: str) -> Any:
    track = page.request.get(f"{demo.address}/api/tracks/1").json()
    return next(one for one in track["state"]["parts"] if one["name"] == name), track["state"]["brief"]


def _softened(page: Page, demo: Server, name: str) -> None:
    """Strokes of a hit so soft that whatever is played over one of them is the harder: nothing is left out,
    wherever in the loop the playing begins.
    """
    track = page.request.get(f"{demo.address}/api/tracks/1").json()
    state = track["state"]
    for part in state["parts"]:
        if part["name"] == name:
            part["steps"] = [{**step, "velocity": 0.01} for step in part["steps"]]
    put = {"state": state, "based_on": track["revision"], "section": track["section"]}
    assert page.request.put(f"{demo.address}/api/tracks/1/state", data=put).ok


def _keyboard(page: Page, demo: Server, part: str, tab_name: str) -> tuple[Any, float]:
    page.add_init_script(f"({KEYBOARD})()")
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.locator(".part-strip").get_by_role("button", name=part, exact=False).first.click()
    page.locator(f"label[for={tab_name}]").click()
    page.get_by_role("button", name="Find MIDI keyboards").click()
    expect(page.get_by_text("Listening to Simulated keys")).to_be_visible()
    found, brief = _part(page, demo, part)
    return found, 60000 / brief["bpm"]


def test_a_hit_is_recorded_over_its_pattern_where_and_as_hard_as_it_was_struck(
    page: Page, demo: Server
) -> None:
    _softened(page, demo, "Snare")
    before, beat = _keyboard(page, demo, "Snare", "tab-play")
    record = page.get_by_role("button", name="Record into the pattern")
    record.click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.locator(".playhead[visibility=visible]")).to_be_attached()
    page.evaluate(STRIKE, [38, beat, [127, 64, 32]])
    page.get_by_role("button", name="Take what was played").click()
    expect(page.get_by_text("3 strokes are in the pattern.")).to_be_visible()
    saved(page)
    after, _ = _part(page, demo, "Snare")
    old = {step["at"] + 4 * before["bars"] * n for step in before["steps"] for n in range(8)}
    fresh = [one for one in after["steps"] if min(abs(one["at"] - at) for at in old) > 1e-6]
    loop = 4 * after["bars"]
    hardest = max(fresh, key=lambda one: one["velocity"])
    since = sorted((one["at"] - hardest["at"]) % loop for one in fresh)
    # To 3 ms at most, which no drummer plays.
    assert [round(one, 2) for one in since] == [0.0, 1.5, 3.0]
    softer = sorted((one["velocity"] for one in fresh), reverse=True)
    assert softer[0] > softer[1] > softer[2]


def test_a_line_is_played_by_the_computers_keys_and_recorded_with_its_notes(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/line")
    settled(page)
    page.locator("label[for=line-hand]").click()
    asked: list[str] = []
    page.on("request", lambda one: asked.append(one.url) if "/api/line/note" in one.url else None)
    octave = page.get_by_role("group", name="An octave of the key")
    expect(octave.get_by_role("button")).to_have_count(8)
    with page.expect_response("**/api/line/note"):
        page.keyboard.press("q")
    # What was played once is there already.
    page.keyboard.press("q")
    page.get_by_text("On the grid").click()
    page.get_by_role("button", name="Record into the pattern").click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.wait_for_timeout(400)
    for key in "qet":
        page.keyboard.down(key)
        page.wait_for_timeout(150)
        page.keyboard.up(key)
        page.wait_for_timeout(150)
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("3 notes are the line’s now.")).to_be_visible()
    assert len(asked) == 3
    saved(page)
    track = page.request.get(f"{demo.address}/api/tracks/1").json()
    line = next(one for one in track["state"]["parts"] if one["part"] == "line")
    pattern = line["bass"]["recipe"]["pattern"]
    assert all(note["at"] % 0.25 == 0 for note in pattern)
    assert len({note["semitones"] for note in pattern}) > 1


def test_without_a_keyboard_the_page_says_so(page: Page, demo: Server) -> None:
    page.add_init_script("delete Navigator.prototype.requestMIDIAccess")
    page.goto(f"{demo.address}/tracks/1/line?tab=hand")
    settled(page)
    page.get_by_role("button", name="Find MIDI keyboards").click()
    expect(page.get_by_text("This browser reaches no MIDI keyboards.")).to_be_visible()
