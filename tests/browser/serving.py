"""A real server in a process of its own, and a real browser."""

import base64
import re
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Protocol
from urllib.request import urlopen

from playwright.sync_api import Browser, BrowserType, Locator, Page, expect, sync_playwright

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update",
    "--autoplay-policy=no-user-gesture-required",
]  # fmt: skip
WIDTH, HEIGHT = 1280, 800
STEPS = ("brief", "hits", "tune", "line", "separate", "duck", "room", "handover", "log", "stock")

# A busy machine may take its time; nothing waits longer than it has to.
expect.set_options(timeout=15_000)


class Process(Protocol):
    """What is asked of a server's process."""

    pid: int

    def poll(self) -> int | None: ...
    def kill(self) -> None: ...
    def terminate(self) -> None: ...
    def wait(self) -> object: ...


class Server:
    """A running `juglant serve`, its address read off what it prints."""

    def __init__(self, process: Process, said: IO[str]) -> None:
        self.process, self._said = process, said
        first = said.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+", first)
        assert found, first
        self.address = found[0]

    @classmethod
    def started(cls, *arguments: str) -> "Server":
        """As a user starts it."""
        command = [sys.executable, "-m", "juglant", "serve", "--port", "0", *arguments]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        assert process.stdout is not None
        return cls(process, process.stdout)

    def kill(self) -> None:
        """As a power cut would."""
        self.process.kill()
        self.process.wait()
        self._said.close()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait()
        self._said.close()


@contextmanager
def serving(*arguments: str, loaded: bool = True) -> Iterator[Server]:
    """A server of its own; `loaded`, it computes already, not only shows the page."""
    with ended(Server.started(*arguments)) as server:
        if loaded:
            urlopen(f"{server.address}/api/tracks").close()
        yield server


@contextmanager
def ended(server: Server) -> Iterator[Server]:
    """A server that is stopped at the end, if it still runs."""
    try:
        yield server
    finally:
        if server.process.poll() is None:
            server.stop()


@contextmanager
def launched(chromium: BrowserType, *more: str) -> Iterator[Browser]:
    """A browser without a window, which starts and draws in less than one that could have one."""
    browser = chromium.launch(executable_path=shutil.which("chromium-headless-shell"), args=[*FLAGS, *more])
    yield browser
    browser.close()


@contextmanager
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright, launched(playwright.chromium) as browser:
        yield browser


def middle(one: Locator) -> tuple[float, float]:
    """Where on the page an element has its middle."""
    box = one.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def settled(page: Page) -> None:
    """Everything that was asked for has arrived and is drawn."""
    expect(page.locator(".beat .kick-area").nth(1)).to_be_attached()
    expect(page.locator(".step > *").first).to_be_visible()
    expect(page.locator(".dim")).to_have_count(0)


def go(page: Page, step: str) -> None:
    page.get_by_role("navigation", name="Steps").get_by_role("link", name=step).click()
    expect(page.get_by_role("region", name=step)).to_be_visible()
    settled(page)


def tab(page: Page, name: str) -> None:
    """One of the tabs of the Hits step."""
    page.locator(f"label[for=tab-{name}]").click()
    settled(page)


def saved(page: Page) -> None:
    expect(page.locator(".saving")).to_have_text("saved")


def mend(page: Page, finding: Locator, fix: str | re.Pattern[str]) -> None:
    """A finding's fix put on trial, however far from its step."""
    button = finding.get_by_role("button", name=fix)
    ask = finding.get_by_role("button", name="What would mend it?")
    expect(button.or_(ask).first).to_be_visible()
    if ask.is_visible():
        ask.press("Enter")
    button.press("Enter")
    expect(page.locator(".on-trial")).to_be_visible()


_DROP = """(files) => {
  const carried = new DataTransfer();
  for (const [name, data] of files)
    carried.items.add(new File([Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0))], name));
  for (const type of ["dragover", "drop"])
    window.dispatchEvent(new DragEvent(type, { dataTransfer: carried, cancelable: true }));
}"""


def drop(page: Page, *paths: Path) -> None:
    """Let go of files above the page."""
    page.evaluate(_DROP, [[path.name, base64.b64encode(path.read_bytes()).decode()] for path in paths])


def all_the_way(page: Page, step: str, key: str) -> None:
    """Undo or redo whatever number of steps the hand's pauses made."""
    while page.get_by_role("button", name=step).is_enabled():
        page.keyboard.press(key)
        saved(page)


def zoom_of(
    page: Page, name: str, is_there: Callable[[float, float], bool] = lambda start, end: True
) -> tuple[float, float]:
    """What is seen of a picture, as the address says, once it is what was gone to."""
    found: list[float] = []

    def told(address: str) -> bool:
        ends = re.search(rf"[?&]{name}=([\d.]+)%7E([\d.]+)", address)
        found[:] = (float(ends[1]), float(ends[2])) if ends else ()
        return bool(found) and is_there(*found)

    page.wait_for_url(told)
    return found[0], found[1]


def resized(page: Page, width: int, height: int) -> None:
    """The page drawn anew in a window of another size."""
    page.set_viewport_size({"width": width, "height": height})
    page.evaluate("() => new Promise(drawn => requestAnimationFrame(() => requestAnimationFrame(drawn)))")


def places(page: Page, server: Server) -> Iterator[str]:
    """Goes to every step of the first track, and there to every tab."""
    page.goto(f"{server.address}/tracks/1/brief")
    for step in STEPS:
        page.get_by_role("navigation", name="Steps").locator(f"a[href*='/1/{step}']").click()
        expect(page).to_have_url(re.compile(rf"/{step}(\?|$)"))
        settled(page)
        yield step
        for one in _tabs_of(page)[1:]:
            page.locator(f"label[for='{one}']").click()
            settled(page)
            yield f"{step}, {one}"


def _tabs_of(page: Page) -> list[str]:
    """The ids of the tabs of the step that is shown, as far as it has some."""
    sets = "/^(tab|brief|line|separate|duck|room|stock)$/"
    found = page.evaluate(
        f"() => [...document.querySelectorAll('.step input[type=radio]')].filter(one => {sets}.test(one.name)).map(one => one.id)"
    )
    return [str(one) for one in found]
