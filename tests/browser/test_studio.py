"""The first screen, and the history of a track: what is begun, found again, deleted and brought back."""

import re

from playwright.sync_api import FilePayload, Page, expect

from tests.browser.serving import Server, go, saved, settled
from tests.files_made import written
from tests.signals import ring


def _file(name: str, hz: float) -> FilePayload:
    return {"name": name, "mimeType": "audio/wav", "buffer": written(0.5 * ring(hz, 200, 0.6))}


def test_an_empty_studio_begins_from_an_invented_track_or_from_a_kick_and_a_bass(
    page: Page, studio: Server
) -> None:
    page.goto(studio.address)
    expect(page.get_by_text("No tracks yet. They are listed here")).to_be_visible()
    page.get_by_role("button", name="Green Husk").press("Enter")
    settled(page)
    expect(page.locator(".track-facts")).to_contain_text("124.5 BPM")
    page.goto(f"{studio.address}/?tracks")
    page.get_by_label("Name of the track").fill("Two files")
    page.get_by_label("Kick from a file").set_input_files(files=[_file("boom.wav", 55.0)])
    page.get_by_label("Bass from a file").set_input_files(files=[_file("low.wav", 110.0)])
    page.get_by_label("Mode").select_option("major")
    # A tempo that cannot be is not begun with.
    page.get_by_label("Tempo in BPM").fill("900")
    expect(page.get_by_role("button", name="Start a track")).to_be_disabled()
    page.get_by_label("Tempo in BPM").fill("120")
    page.get_by_role("button", name="Start a track").click()
    settled(page)
    expect(page.locator(".source-name")).to_have_text("boom.wav")
    go(page, "Line")
    page.locator("label[for=line-sound]").click()
    expect(page.get_by_text("Your loop is taken to be at 120 BPM")).to_be_visible()


def test_tracks_are_found_duplicated_deleted_and_brought_back(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/?tracks")
    tracks = page.get_by_role("row")
    expect(tracks).to_have_count(4)
    # Each with its pattern, key and tempo: a kick on every beat of two bars.
    expect(page.get_by_role("img", name="Pattern of Cobnut Rain").locator(".kick")).to_have_count(8)
    expect(tracks.filter(has_text="Cobnut Rain")).to_contain_text("132 BPM")
    page.get_by_label("Search the tracks").fill("HUSK")
    expect(tracks).to_have_count(2)
    page.get_by_role("button", name="Duplicate Green Husk").press("Enter")
    settled(page)
    expect(page.get_by_role("button", name="Green Husk 2")).to_be_visible()
    page.goto(f"{demo.address}/?tracks")
    page.get_by_label("Sorted by").select_option("name")
    expect(tracks.nth(3)).to_contain_text("Green Husk 2")
    page.get_by_role("button", name="Delete Cobnut Rain").press("Enter")
    expect(page.get_by_role("status")).to_contain_text("Cobnut Rain is deleted")
    expect(tracks).to_have_count(4)
    # A page that still has it open says so, and nothing else breaks.
    page.reload()
    page.get_by_role("button", name="Bring back Cobnut Rain").press("Enter")
    expect(tracks).to_have_count(5)
    page.get_by_role("link", name="Cobnut Rain").click()
    settled(page)
    expect(page.locator(".track-facts")).to_contain_text("G minor")


def test_any_step_of_the_history_is_gone_to_by_its_name(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/brief")
    settled(page)
    for bpm in ("128", "126"):
        page.get_by_label("Tempo, typed, in BPM").fill(bpm)
        page.keyboard.press("Enter")
        expect(page.locator(".track-facts")).to_contain_text(f"{bpm} BPM")
        saved(page)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".track-facts")).to_contain_text("128 BPM")
    page.get_by_role("combobox", name="Mode").select_option("major")
    saved(page)
    go(page, "Log")
    history = page.get_by_role("region", name="History of steps")
    steps = history.get_by_role("listitem")
    expect(steps).to_have_count(4)
    expect(steps.nth(0)).to_contain_text("brief: mode")
    expect(steps.nth(0)).to_contain_text("now")
    expect(steps.nth(1)).to_contain_text("left behind by undo")
    expect(steps.nth(3)).to_contain_text("as it began")
    # What undo left behind is there again, and from there the way back.
    steps.nth(1).get_by_role("button", name=re.compile("^Go to brief: tempo")).press("Enter")
    expect(page.locator(".track-facts")).to_contain_text("126 BPM")
    expect(page.locator(".track-facts")).to_contain_text("G minor")
    # The hand stays where it was.
    expect(history).to_be_focused()
    back = steps.nth(0).get_by_role("button", name=re.compile("^Go to brief: mode"))
    # Until the list is there anew it says that this is where one is.
    expect(back).to_be_enabled()
    back.press("Enter")
    expect(page.locator(".track-facts")).to_contain_text("G major")


def test_a_tempo_is_tapped_and_a_sheet_is_printed_alone(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/brief")
    settled(page)
    # By the moments when the keys went down, however late the page gets to hear of them.
    page.evaluate(
        """times => times.forEach(at => {
          const press = new KeyboardEvent("keydown", { key: "t", code: "KeyT", bubbles: true });
          Object.defineProperty(press, "timeStamp", { value: at });
          document.body.dispatchEvent(press);
        })""",
        [500 * n for n in range(1, 6)],
    )
    expect(page.locator(".track-facts")).to_contain_text("120 BPM")
    go(page, "Hand over")
    # Everything is rendered for it: on a busy machine that takes its time.
    sheet = page.get_by_role("region", name="Track sheet")
    expect(sheet).to_contain_text("Cobnut Rain", timeout=90_000)
    page.emulate_media(media="print")
    expect(page.get_by_role("region", name="Track sheet")).to_be_visible()
    for beside in (".topbar", ".steps", ".transport", ".findings", ".beat", ".part-strip"):
        expect(page.locator(beside).first).to_be_hidden()


def test_by_keyboard_a_step_begins_at_its_first_control_and_a_hit_leaves_as_a_file(
    page: Page, demo: Server
) -> None:
    page.goto(f"{demo.address}/tracks/1/hits")
    settled(page)
    page.keyboard.press("Tab")
    expect(page.get_by_role("button", name="To the step")).to_be_focused()
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    expect(page.locator("#tab-sound")).to_be_focused()
    for key, step in enumerate(
        ("Brief", "Hits", "Tune", "Line", "Separate", "Duck", "Room", "Hand over", "Log"), 1
    ):
        page.locator("body").press(str(key))
        expect(page.get_by_role("region", name=step, exact=True)).to_be_visible()
        settled(page)
        # What came after the first screen is there.
        expect(page.locator(".step :is(button, input, select, a)").first).to_be_attached()
        # Six Tabs at most from a step to its first control: it is one.
        page.keyboard.press("Tab")
        assert page.evaluate("document.activeElement.closest('.step') !== null"), step
    go(page, "Hits")
    with page.expect_download() as saved_as:
        page.get_by_role("button", name="Save WAV").click()
    assert saved_as.value.suggested_filename == "Kick.wav"
    assert saved_as.value.path().read_bytes()[:4] == b"RIFF"


def test_a_deleted_version_comes_back(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/log")
    settled(page)
    page.get_by_label("Note for this version").fill("before the break")
    page.keyboard.press("Enter")
    kept = page.get_by_role("list", name="Kept versions").get_by_role("listitem")
    expect(kept).to_have_count(1)
    page.get_by_role("button", name="Delete before the break").press("Enter")
    expect(kept).to_have_count(0)
    page.get_by_role("button", name="Bring the version back").press("Enter")
    expect(kept).to_have_count(1)
    expect(kept).to_contain_text("before the break")
