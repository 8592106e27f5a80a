"""One browser for all tests of a worker; a demo server, or a studio of one's own."""

from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from juglant.demo.workshop import workshop_recording
from tests.browser.nursery import Nursery
from tests.browser.serving import HEIGHT, WIDTH, Server, chromium, ended
from tests.files_made import written
from tests.signals import RATE

# What leaves for the loudspeakers is measured on its way.
TAP = """
const connect = AudioNode.prototype.connect;
AudioNode.prototype.connect = function (to, ...rest) {
  if (to instanceof AudioDestinationNode) {
    const tap = this.context.createAnalyser();
    tap.fftSize = 32768;
    connect.call(this, tap);
    window.captured = () => {
      const samples = new Float32Array(tap.fftSize);
      tap.getFloatTimeDomainData(samples);
      return samples;
    };
    window.heard = () => window.captured().reduce((most, one) => Math.max(most, Math.abs(one)), 0);
  }
  return connect.call(this, to, ...rest);
};
"""


@pytest.fixture(scope="session")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    """Its microphone hears the simulated workshop, where a page is allowed to listen."""
    heard = tmp_path_factory.mktemp("microphone") / "workshop.wav"
    heard.write_bytes(written(workshop_recording(), RATE))
    with chromium(
        "--use-fake-device-for-media-stream", f"--use-file-for-fake-audio-capture={heard}"
    ) as browser:
        yield browser


@pytest.fixture(scope="session")
def nursery() -> Iterator[Nursery]:
    with closing(Nursery()) as nursery:
        yield nursery


@pytest.fixture
def studio(nursery: Nursery, tmp_path: Path) -> Iterator[Server]:
    with ended(nursery.server("--data", str(tmp_path / "data"))) as server:
        yield server


@pytest.fixture(scope="session")
def seen(nursery: Nursery) -> Iterator[Server]:
    """A demo for tests that only look: nothing in it may be changed."""
    with ended(nursery.server("--demo")) as server:
        yield server


@pytest.fixture
def demo(nursery: Nursery) -> Iterator[Server]:
    with ended(nursery.server("--demo")) as server:
        yield server


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": WIDTH, "height": HEIGHT}, accept_downloads=True)
    page = context.new_page()
    page.add_init_script(TAP)
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda said: troubles.append(said.text) if "Security Policy" in said.text else None)
    page.on(
        "request",
        lambda asked: (
            None
            if asked.url.startswith(("http://127.0.0.1:", "data:", "blob:"))
            else troubles.append(asked.url)
        ),
    )
    yield page
    context.close()
    assert troubles == []
