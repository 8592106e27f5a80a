"""A server over an empty studio, spoken to without a network."""

from pathlib import Path

import pytest
from starlette.testclient import TestClient

from juglant.api.app import create_app
from juglant.store.database import Studio


@pytest.fixture
def client(tmp_path: Path) -> TestClient:
    pages = tmp_path / "pages"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text("<!doctype html><title>Juglant</title>")
    (pages / "assets" / "app-1.js").write_text("1")
    (tmp_path / "secret.txt").write_text("secret")
    app = create_app(Studio(tmp_path / "studio.sqlite"), pages)
    return TestClient(app, base_url="http://127.0.0.1:8137", raise_server_exceptions=False)
