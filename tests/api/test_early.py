"""The page is served before the application is loaded; questions wait for it."""

from pathlib import Path
from threading import Event, Timer

import pytest
from starlette.responses import PlainTextResponse
from starlette.testclient import TestClient
from starlette.types import ASGIApp

from juglant.api.early import Early
from juglant.core.errors import UserError


def _never() -> None:
    raise AssertionError("nothing went wrong")


def test_the_page_is_there_first_and_questions_wait(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("the page")
    loaded = Event()
    early: Early[ASGIApp] = Early(tmp_path)

    def load() -> ASGIApp:
        assert loaded.wait(30)
        return PlainTextResponse("the answer")

    early.begin(load, _never)
    client = TestClient(early, base_url="http://127.0.0.1")
    page = client.get("/tracks/1/duck")
    assert page.text == "the page"
    assert page.headers["content-security-policy"].startswith("default-src 'none'")
    assert client.get("/", headers={"host": "elsewhere"}).status_code == 403
    assert client.post("/").status_code == 405
    assert early.app is None
    Timer(0.2, loaded.set).start()
    assert client.get("/api/tracks").text == "the answer"
    # From then on everything is the application's.
    assert client.get("/").text == "the answer"


def test_what_goes_wrong_ends_it_and_is_told(tmp_path: Path) -> None:
    ended = Event()
    early: Early[ASGIApp] = Early(tmp_path)

    def load() -> ASGIApp:
        raise UserError("The studio has gone.")

    early.begin(load, ended.set)
    assert ended.wait(30)
    with pytest.raises(UserError, match="has gone"):
        _ = early.app
