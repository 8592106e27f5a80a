"""One browser for all tests of a worker; a demo server, or a studio of one's own."""

from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from juglant.demo.workshop import workshop_recording
from tests.browser.nursery import Nursery
from tests.browser.serving import HEIGHT, WIDTH, Server, chromium, ended, launched
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
def browser() -> Iterator[Browser]:
    with chromium() as browser:
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
    with _watched(browser) as page:
        yield page


@pytest.fixture
def listening(browser: Browser, tmp_path: Path) -> Iterator[Page]:
    """A page whose microphone hears the simulated workshop."""
    heard = tmp_path / "workshop.wav"
    heard.write_bytes(written(workshop_recording(), RATE))
    with (
        launched(
            browser.browser_type, "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream",
            f"--use-file-for-fake-audio-capture={heard}",
        ) as hearing,
        _watched(hearing) as page,
    ):  # fmt: skip
        yield page


@contextmanager
def _watched(browser: Browser) -> Iterator[Page]:
    """A page that asks nothing of anybody but our server, and that fails where it throws."""
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
