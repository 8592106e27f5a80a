"""What leaves for the loudspeakers is what was measured: in step, as loud as said, and limited as in Python."""

import base64
import json
import re
from typing import Any
from urllib.request import Request, urlopen

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from scipy import fft

from juglant.api.pages import PAGES
from juglant.core.measure import levels
from juglant.core.measure.listening import AHEAD_MS, CEILING_DB, RELEASE_MS
from juglant.core.process import dynamics
from tests.browser.serving import Server, go, settled
from tests.signals import RATE, Array

# In base64: a list of numbers would take a second to pass.
CAPTURED = """() => {
  const bytes = new Uint8Array(window.captured().buffer);
  let text = "";
  for (let at = 0; at < bytes.length; at += 4096)
    text += String.fromCharCode(...bytes.subarray(at, at + 4096));
  return btoa(text);
}"""
LIMIT = """async ([url, text]) => {
  const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
  const x = new Float32Array(bytes.buffer);
  const context = new OfflineAudioContext(2, x.length, 48000);
  await context.audioWorklet.addModule(url);
  const buffer = context.createBuffer(1, x.length, 48000);
  buffer.copyToChannel(x, 0);
  const source = new AudioBufferSourceNode(context, { buffer });
  const output = new AudioWorkletNode(context, "output", {
    channelCount: 2, channelCountMode: "explicit", outputChannelCount: [2],
  });
  const readings = [];
  output.port.onmessage = ({ data }) => readings.push(data);
  source.connect(output).connect(context.destination);
  source.start();
  const done = await context.startRendering();
  await new Promise((resolve) => setTimeout(resolve, 100));
  return { y: [...done.getChannelData(0)], readings };
}"""

# Of what left last so much is looked at.
FRAMES = 8192
SOUND = re.compile("/api/sound/[0-9a-f]{64}$")


class Heard:
    """What a page plays, beside what the server says of it."""

    def __init__(self, page: Page, server: Server) -> None:
        self._page, self._address = page, server.address
        self._sounds: dict[str, Array] = {}
        self.plan: bytes = b""
        self.fetched: list[str] = []
        self.asked: list[tuple[str, str]] = []
        page.on("request", self._asked)

    def _asked(self, request: Any) -> None:
        if request.method == "POST":
            self.asked.append((request.url, request.post_data or ""))
        if "/api/sound/plan" in request.url:
            self.plan = request.post_data_buffer
        elif SOUND.search(request.url):
            self.fetched.append(request.url)

    def _sound(self, key: str) -> Array:
        if key not in self._sounds:
            with urlopen(f"{self._address}/api/sound/{key}") as answer:
                data = np.frombuffer(answer.read(), "<f4").astype(float)
                self._sounds[key] = data.reshape(int(answer.headers["X-Channels"]), -1).mean(axis=0)
        return self._sounds[key]

    def expected(self) -> Array:
        """The sum of all parts of the last plan, on one channel."""
        head = {"Content-Type": "application/json"}
        with urlopen(Request(f"{self._address}/api/sound/plan", self.plan, head)) as answer:
            plan = json.load(answer)
        return np.asarray(sum(self._sound(one["heard"]) for one in plan["parts"]))

    def captured(self) -> Array:
        heard = np.frombuffer(base64.b64decode(self._page.evaluate(CAPTURED)), "<f4")
        return heard[-FRAMES:].astype(float)

    def in_step(self, loop: Array) -> float:
        """The gain in dB at which the loop is heard: as it is, to 80 dB, once it is there. One part a single
        frame beside the others would be 40 dB down.
        """
        for _ in range(50):
            self._page.wait_for_timeout(40)
            rest, gain = _apart_db(self.captured(), loop)
            if rest < -80:
                return gain
        raise AssertionError(f"what is heard is not the loop: the rest is {rest:.1f} dB")


def _apart_db(heard: Array, loop: Array) -> tuple[float, float]:
    """How far what was heard is from the loop at its best place, and the gain there; both in dB."""
    size = loop.size
    piece = np.concatenate([heard, np.zeros(size - heard.size)])
    match = fft.irfft(fft.rfft(piece).conj() * fft.rfft(loop), size)
    sums = np.cumsum(np.concatenate([[0.0], loop**2, loop[: heard.size] ** 2]))
    power = sums[heard.size :][:size] - sums[:size]
    there = np.roll(loop, -int(np.argmax(match / np.sqrt(np.maximum(power, 1e-9)))))[: heard.size]
    if not heard.any():
        return 0.0, 0.0
    gain = float(heard @ there / (there @ there))
    rest = np.sqrt(np.mean((heard - gain * there) ** 2) / np.mean(heard**2))
    return 20 * np.log10(rest), 20 * np.log10(gain)


@pytest.fixture
def heard(page: Page, demo: Server) -> Heard:
    heard = Heard(page, demo)
    page.goto(demo.address)
    settled(page)
    go(page, "Duck")
    page.locator("label[for=hear-all]").click()
    return heard


def test_all_parts_play_in_step_and_as_loud_as_said(page: Page, heard: Heard) -> None:
    volume = page.get_by_label("Volume")
    loop = None
    for turn in range(40):
        volume.fill(str(-18 + turn % 7))
        page.keyboard.press(" ")
        expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
        loop = heard.expected() if loop is None else loop
        gain = heard.in_step(loop)
        match = float(str(page.locator(".match").inner_text()).split()[1].replace("−", "-"))
        assert gain == pytest.approx(-18 + turn % 7 + match, abs=0.1)
        page.keyboard.press(" ")
        expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    assert len(heard.fetched) == len(set(heard.fetched))
    # What is there already is played without asking: once ahead, and at most once more for the first key.
    assert sum("/api/sound/plan" in url for url, _ in heard.asked) <= 2


def test_what_changes_while_it_plays_stays_in_step_and_nothing_else_is_fetched(
    page: Page, heard: Heard
) -> None:
    page.keyboard.press(" ")
    page.wait_for_function("() => window.heard && window.heard() > 0.001")
    depth = page.get_by_role("slider", name="Depth", exact=True)
    for turn in range(40):
        before, wish = len(heard.fetched), 5 + turn / 10
        with page.expect_response(SOUND):
            depth.fill(str(wish))
        # The ducked bass alone sounds otherwise.
        assert len(heard.fetched) - before == 1
        # Sound comes first, pictures after.
        of_this = [url for url, body in heard.asked if f'"depth_db":{wish:g},' in body]
        assert "/api/sound/plan" in of_this[0]
        heard.in_step(heard.expected())
    # A part more, while it plays.
    go(page, "Hits")
    page.locator("label[for=hear-all]").click()
    with page.expect_response(SOUND):
        page.get_by_label("Add a part").select_option("Held chord")
    heard.in_step(heard.expected())


def test_the_limiter_is_pythons_and_the_meter_reads_what_leaves(page: Page, demo: Server) -> None:
    page.goto(demo.address)
    settled(page)
    script = next(PAGES.glob("assets/output.worklet-*.js"))
    rng = np.random.default_rng(8)
    time = np.arange(RATE) / RATE
    x = 1.8 * np.sin(2 * np.pi * 57 * time) * np.exp(-3 * time) + 0.2 * rng.normal(size=RATE)
    # In between something under the ceiling.
    x[RATE // 2 : RATE // 2 + 9600] *= 0.2
    x = x.astype("<f4")
    played = page.evaluate(LIMIT, [f"/assets/{script.name}", base64.b64encode(x.tobytes()).decode()])
    late = round(AHEAD_MS / 1000 * RATE) - 1
    gain_db = dynamics.limit_gain_db(x.astype(float), RATE, CEILING_DB, AHEAD_MS, RELEASE_MS)
    expected = (x * 10 ** (gain_db / 20))[:-late]
    y = np.array(played["y"])[late:]
    assert gain_db.min() < -3
    assert np.max(np.abs(y - expected)) < 10 ** (-100 / 20)
    # Of the readings, every tenth of a second, the most that was taken and the loudest are those of Python.
    assert max(one["taken"] for one in played["readings"]) == pytest.approx(-gain_db.min(), abs=0.02)
    both = np.stack([y, y], axis=1)
    last = played["readings"][-1]
    assert max(one["dbtp"] for one in played["readings"]) == pytest.approx(
        levels.true_peak_dbtp(y), abs=0.1
    )
    # It says so after every 38 blocks of 128 frames.
    end = len(played["readings"]) * 38 * 128 - late
    power = float(levels._block_power(both, RATE, np.array([end]))[0])
    assert last["lufs"] == pytest.approx(levels.lufs(power), abs=0.2)


def test_bands_and_a_part_alone_by_key(page: Page, demo: Server) -> None:
    page.goto(demo.address)
    settled(page)
    page.keyboard.press(" ")
    page.wait_for_function("() => window.heard && window.heard() > 0.001")
    page.locator("label[for=band-top]").click()
    page.wait_for_function("() => window.heard() < 0.03")
    page.keyboard.press("l")
    expect(page.locator("#band-low")).to_be_checked()
    page.wait_for_function("() => window.heard() > 0.03")
    go(page, "Hits")
    page.get_by_role("button", name="Hat", exact=True).click()
    page.keyboard.press("s")
    alone = page.get_by_role("button", name="Hat alone")
    expect(alone).to_be_visible()
    # A hat has nothing in the low band.
    page.wait_for_function("() => window.heard() < 0.003")
    page.keyboard.press("s")
    expect(alone).to_have_count(0)
    # Muted and heard again by a key; the kick is what all is judged by.
    mute = page.get_by_role("button", name="mute", exact=True)
    page.keyboard.press("d")
    expect(mute).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("d")
    expect(mute).to_have_attribute("aria-pressed", "false")
    page.get_by_role("button", name="Kick", exact=True).first.click()
    page.keyboard.press("d")
    expect(page.locator(".notice").last).to_contain_text("cannot be muted")


def test_a_drop_down_in_focus_keeps_no_key_from_the_track(page: Page, demo: Server) -> None:
    page.goto(f"{demo.address}/tracks/1/brief")
    settled(page)
    key = page.get_by_label("Tonic")
    was = key.input_value()
    key.focus()
    page.keyboard.press("b")
    expect(page.locator("#hear-before")).to_be_checked()
    expect(key).to_have_value(was)
