"""The package as it is installed elsewhere: built, unpacked in another place, and used from there."""

import os
import subprocess
import sys
import zipfile
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.serving import Server, ended, settled

ROOT = Path(__file__).parents[2]


def test_the_page_is_served_from_a_wheel_without_node(page: Page, tmp_path: Path) -> None:
    build = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation"]
    subprocess.run([*build, "--wheel-dir", str(tmp_path), str(ROOT)], check=True, capture_output=True)
    (wheel,) = tmp_path.glob("*.whl")
    installed = tmp_path / "installed"
    with zipfile.ZipFile(wheel) as archive:
        names = archive.namelist()
        metadata = archive.read(next(name for name in names if name.endswith("/METADATA"))).decode()
        archive.extractall(installed)
    assert "juglant/pages/index.html" in names
    assert not [name for name in names if name.startswith(("tests", "bench", "web"))]
    assert "License: MIT" in metadata or "MIT License" in metadata
    assert "Requires-Dist: fastapi" in metadata
    # What is compiled quickly is slower, and none the worse for one look.
    process = subprocess.Popen(
        [sys.executable, "-m", "juglant", "serve", "--port", "0", "--demo"], cwd=tmp_path, text=True,
        env={**os.environ, "PYTHONPATH": str(installed), "PATH": "/nowhere", "NUMBA_OPT": "0"},
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    assert process.stdout is not None
    with ended(Server(process, process.stdout)) as server:
        page.goto(server.address)
        # The page is there before what computes, which is compiled at the first start in a new place.
        expect(page.get_by_text("Juglant is starting…")).to_be_visible()
        expect(page.locator(".track-facts")).to_be_visible(timeout=180_000)
        expect(page.get_by_text("Juglant is starting…")).to_be_hidden()
        settled(page)
        expect(page.locator(".track-facts")).to_contain_text("132 BPM")
