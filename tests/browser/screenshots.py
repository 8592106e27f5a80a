"""`make screenshots`: one current picture of each main view, from the demo."""

from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, expect

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.hits.scatter import scatter
from juglant.core.recipes.hit import MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.files.audio import encode_wav24
from tests.browser.serving import HEIGHT, WIDTH, chromium, go, saved, serving, settled, tab

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


def _shoot(page: Page, name: str) -> None:
    settled(page)
    expect(page.get_by_text("Trying what would mend it…")).to_have_count(0)
    page.screenshot(path=FOLDER / f"{name}.png")


def _hits(page: Page) -> None:
    """The tabs of the Hits step, on the snare."""
    go(page, "Hits")
    page.get_by_role("button", name="Snare", exact=True).click()
    tab(page, "layers")
    page.get_by_role("button", name="Find").click()
    expect(page.locator(".align-found")).to_be_visible()
    _shoot(page, "hits-layers")
    tab(page, "shape")
    expect(page.get_by_role("group", name="What the stage did")).to_be_visible()
    _shoot(page, "hits-shape")
    tab(page, "loop")
    page.get_by_label("Chain or moves of the loop").select_option("moves")
    page.get_by_label("Move a control").select_option(label="Gain")
    settled(page)
    saved(page)
    _shoot(page, "hits-moves")
    page.get_by_role("button", name="Stop moving").click()
    tab(page, "scatter")
    page.get_by_role("button", name="Throw eight").click()
    expect(page.locator(".variation")).to_have_count(8)
    _shoot(page, "hits-scatter")
    tab(page, "takes")
    page.get_by_role("button", name="Simulated workshop").click()
    page.get_by_role("button", name="Cut", exact=True).click()
    expect(page.locator(".take-row")).to_have_count(16)
    for key, take in (("+", 1), ("+", 2), ("-", 3)):
        page.locator(".take-name").nth(take - 1).focus()
        page.keyboard.press(key)
    expect(page.get_by_role("button", name="New hit of 2 kept")).to_be_visible()
    expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
    _shoot(page, "hits-takes")
    page.get_by_role("button", name="remove", exact=True).last.click()
    page.get_by_role("button", name="Kick", exact=True).first.click()
    saved(page)


def _stock(page: Page, folder: Path) -> None:
    """A folder of invented kicks, the best of them heard."""
    for seed, source in enumerate((MadeKick(), MadeKick(recipe=KickRecipe(end_hz=45.0, decay_ms=240.0)))):
        for n, one in enumerate(scatter(source, 0.5, [], seed)):
            name = f"{('oak', 'ash')[seed]} kick {n + 1}.wav"
            (folder / name).write_bytes(encode_wav24(made(one, 132.0), RATE))
    go(page, "Stock")
    page.locator("label[for=stock-folders]").click()
    page.get_by_label("Path of a folder").fill(str(folder))
    page.keyboard.press("Enter")
    expect(page.get_by_text("16 sounds")).to_be_visible(timeout=30_000)
    page.locator("label[for=stock-sounds]").click()
    sounds = page.get_by_role("listbox", name="Sounds")
    expect(sounds.get_by_role("option").first).to_be_visible()
    expect(page.get_by_text("yet to be measured")).to_have_count(0, timeout=30_000)
    sounds.focus()
    with page.expect_response("**/api/stock/try"):
        page.keyboard.press("ArrowDown")
    page.get_by_role("button", name="Stop", exact=True).click()
    expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
    _shoot(page, "stock")
    page.get_by_role("button", name="Back to the old sound").click()


def main() -> None:
    """Go through the steps as a newcomer would."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with serving("--demo") as server, chromium() as browser:
        page = browser.new_page(viewport={"width": WIDTH, "height": HEIGHT}, reduced_motion="reduce")
        page.goto(server.address)
        settled(page)
        for step in ("Brief", "Hits"):
            go(page, step)
            _shoot(page, step.lower())
        page.goto(f"{server.address}/tracks/2/tune")
        page.get_by_role("list", name="Hits").get_by_role("button", name="Shell", exact=True).click()
        expect(page.locator(".move").first).to_be_visible()
        _shoot(page, "tune")
        go(page, "Line")
        page.locator(".cell-bass[aria-pressed=true]").nth(2).click()
        expect(page.locator(".note-heard")).to_be_visible()
        _shoot(page, "line")
        page.goto(f"{server.address}/tracks/1/hits")
        settled(page)
        _hits(page)
        page.get_by_role("navigation", name="Steps").get_by_role("link", name="Tune").click()
        page.get_by_role("button", name="Tune to G1", exact=True).click()
        expect(page.locator(".tune-row").first).to_contain_text("✓ in tune")
        saved(page)
        go(page, "Separate")
        page.get_by_role("button", name="Search for the least").click()
        expect(page.locator(".choice").last).to_contain_text("fully separated")
        expect(page.locator(".separate-table")).to_be_visible()
        expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
        _shoot(page, "separate")
        go(page, "Duck")
        page.get_by_role("button", name="Solve the ducking…").first.click()
        expect(page.locator(".on-trial strong")).to_contain_text("→")
        _shoot(page, "finding-on-trial")
        page.get_by_role("button", name="Take it").click()
        expect(page.locator(".on-trial")).to_have_count(0)
        saved(page)
        expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
        _shoot(page, "duck")
        go(page, "Hand over")
        expect(page.locator(".sheet")).to_contain_text("Open findings")
        _shoot(page, "hand-over")
        go(page, "Log")
        page.get_by_label("Note for this version").fill("kick on G1, ducking solved")
        page.get_by_role("button", name="Keep this version").click()
        expect(page.get_by_role("list", name="Kept versions")).to_contain_text("ducking solved")
        page.get_by_role("button", name="Undo").click()
        saved(page)
        page.get_by_role("button", name="Hear kick on G1, ducking solved against now").click()
        expect(page.get_by_role("region", name="A against B")).to_contain_text("equally loud")
        # Before the first sound: what low frequencies can do.
        page.get_by_role("button", name="Understood").click()
        page.get_by_role("button", name="Stop", exact=True).click()
        expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
        _shoot(page, "log")
        page.get_by_role("button", name="End the comparison").click()
        page.get_by_role("button", name="Redo").click()
        saved(page)
        with TemporaryDirectory(prefix="samples-") as folder:
            _stock(page, Path(folder))
        page.goto(f"{server.address}/tracks/2/duck")
        settled(page)
        page.locator("label[for=duck-others]").click()
        expect(page.get_by_role("list", name="Duckings")).to_contain_text("pumps")
        _shoot(page, "duck-others")
        page.goto(f"{server.address}/tracks/2/room?tab=numbers&room=small+club")
        settled(page)
        expect(page.locator(".room-numbers")).to_contain_text("a limiter takes", ignore_case=True)
        _shoot(page, "room")
        page.goto(f"{server.address}/?tracks")
        expect(page.get_by_role("row")).to_have_count(4)
        expect(page.locator(".sketch small")).to_have_count(3)
        expect(page.get_by_label("Tonic")).not_to_have_value("")
        page.screenshot(path=FOLDER / "start.png")
        page.goto(f"{server.address}/tracks/2/duck")
        settled(page)
        page.get_by_label("Colours").select_option("light")
        page.goto(f"{server.address}/tracks/3/separate")
        settled(page)
        page.locator("label[for=separate-design]").click()
        page.get_by_role("button", name="Design five").click()
        expect(page.locator(".design tbody tr")).to_have_count(5, timeout=60_000)
        expect(page.locator(".notice")).to_have_count(0, timeout=10_000)
        _shoot(page, "design")


if __name__ == "__main__":
    main()
