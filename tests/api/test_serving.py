"""The server as a process, and the session as several requests share it."""

import json
import socket
import subprocess
import sys
import threading
import urllib.error
import urllib.request
from collections import Counter
from pathlib import Path
from types import ModuleType

import pytest
from starlette.testclient import TestClient

from juglant.core.hits import making as renders
from juglant.core.lowend import parts, sounds
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.track import TrackState
from tests.browser.serving import serving
from tests.files_made import written
from tests.signals import sine


def test_it_listens_on_this_machine_only_and_answers_when_it_says_so(tmp_path: Path) -> None:
    with serving("--data", str(tmp_path)) as server:
        port = int(server.address.rsplit(":", 1)[1])
        with urllib.request.urlopen(f"{server.address}/api/tracks") as response:
            assert json.load(response) == []
        others = {info[4][0] for info in socket.getaddrinfo(socket.gethostname(), port, socket.AF_INET)}
        for address in others - {"127.0.0.1", "127.0.1.1"}:
            with pytest.raises(OSError):  # noqa: PT011 - refused or unreachable, each is right
                socket.create_connection((str(address), port), timeout=1).close()
    assert (tmp_path / "studio.sqlite").is_file()


def test_a_port_that_is_taken_is_one_line(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        command = [sys.executable, "-m", "juglant", "serve", "--port", port, "--data", str(tmp_path)]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert f"Port {port} is taken" in done.stderr


def test_the_demo_leaves_nothing_and_touches_nothing(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own"))
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    with serving("--demo") as server, urllib.request.urlopen(f"{server.address}/api/tracks") as response:
        assert [track["name"] for track in json.load(response)] == [
            "Cobnut Rain",
            "Green Husk",
            "Stonefruit",
        ]
    assert not (tmp_path / "own").exists()
    assert list(tmp_path.glob("juglant-demo-*")) == []


def test_a_studio_of_ones_own_is_where_the_platform_keeps_data(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    with serving():
        assert (tmp_path / "juglant" / "studio.sqlite").is_file()


def test_requests_at_once_for_one_sound_render_it_once(monkeypatch: pytest.MonkeyPatch) -> None:
    rendered: Counter[str] = Counter()

    def counted(module: ModuleType, name: str) -> None:
        original = getattr(module, name)

        def count(*arguments: object, **named: object) -> object:
            rendered[name] += 1
            return original(*arguments, **named)

        monkeypatch.setattr(module, name, count)

    for module, name in ((renders, "render_kick"), (parts, "render_bass"), (sounds, "measure")):
        counted(module, name)

    def nothing(digest: str) -> tuple[Array, int]:
        raise AssertionError(digest)

    session = Session(nothing)
    found: list[object] = []
    threads = [
        threading.Thread(target=lambda: found.append(session.answer(TrackState()))) for _ in range(6)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(found) == 6
    assert all(answer is found[0] for answer in found)
    assert set(rendered.values()) == {1}


def test_a_render_that_fails_is_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    def nothing(digest: str) -> tuple[Array, int]:
        raise AssertionError(digest)

    session = Session(nothing)
    with monkeypatch.context() as broken:
        broken.setattr(renders, "render_kick", lambda *_: 1 / 0)
        with pytest.raises(ZeroDivisionError):
            session.answer(TrackState())
    assert session.answer(TrackState()).kick.hit.note == "G1"


def test_a_loop_of_ones_own_is_the_bass(client: TestClient) -> None:
    loop = written(sine(110, 4 * 60 / 128, -9, 44_100), kind="AIFF", subtype="PCM_24")
    stored = client.post("/api/audio", params={"name": "loop.aif"}, content=loop).json()
    assert stored["kind"] == "AIFF"
    state = {"bass": {"kind": "imported", "audio": stored["audio"], "name": stored["name"], "level_db": -6}}
    answer = client.post("/api/duck/answer", json={"state": state}).json()
    assert {one["note"] for one in answer["bass_notes"]} == {"A2"}
    facts = client.post("/api/brief/facts", json={}).json()
    loudest = max(zip(answer["bass_rungs_db"], facts["ladder"], strict=True), key=lambda pair: pair[0])
    assert loudest[1]["note"] == "A2"
    assert not [finding for finding in answer["findings"] if finding["id"] == "tail-spill"]
