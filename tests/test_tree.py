"""What must hold of the tree itself."""

import json
import re
import subprocess
from pathlib import Path

ROOT = Path(__file__).parents[1]
TRACKED = subprocess.run(
    ["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=False
).stdout.splitlines()
TEXTS = [name for name in TRACKED if not name.endswith((".png", ".lock", "package-lock.json"))]


def _locked(which: str = "") -> list[str]:
    """What a lock file names, in lower case; an address has no place in its lines."""
    text = (ROOT / f"requirements{which}.lock").read_text()
    # A version, and what any file of it must hash to.
    assert re.fullmatch(r"([\w.-]+==[\w.!+-]+ \\\n(    --hash=sha256:[0-9a-f]{64}( \\)?\n)+)+", text)
    return re.findall(r"^([\w.-]+)==", text.lower(), re.M)


def test_lock_files_pin_everything_and_carry_no_addresses() -> None:
    run, dev = (_locked(which) for which in ("", "-dev"))
    assert not set(run) & set(dev)
    assert not [line for line in run if line.startswith(("pytest", "playwright", "librosa", "mypy"))]
    lock = json.loads((ROOT / "web/package-lock.json").read_text())
    assert not [name for name, package in lock["packages"].items() if "resolved" in package]
    wanted = json.loads((ROOT / "web/package.json").read_text())
    versions = [*wanted["dependencies"].values(), *wanted["devDependencies"].values()]
    assert all(re.fullmatch(r"\d+\.\d+\.\d+", version) for version in versions)


def test_every_dependency_is_locked() -> None:
    project = (ROOT / "pyproject.toml").read_text()
    named = re.findall(r'^    "([a-z0-9-]+)",$', project.split("dependencies = [")[1].split("]")[0], re.M)
    locked = set(_locked())
    assert named
    assert set(named) <= locked


def test_every_picture_is_linked_from_the_readme_and_every_link_leads_somewhere() -> None:
    readme = (ROOT / "README.md").read_text()
    links = re.findall(r"\]\(([^)#]+)\)", readme)
    assert all((ROOT / link).exists() for link in links)
    pictures = {f"docs/screenshots/{path.name}" for path in (ROOT / "docs/screenshots").glob("*.png")}
    assert pictures <= set(links)
    assert len(pictures) < 20


def test_nothing_is_fetched_from_elsewhere_at_run_time() -> None:
    allowed = ("http://127.0.0.1", "http://www.w3.org/2000/svg", "https://evil.example", "http://localhost")
    for name in TEXTS:
        if not name.startswith(("juglant/", "web/")):
            continue
        for address in re.findall(r"https?://[\w./:-]+", (ROOT / name).read_text("utf-8")):
            assert address.startswith(allowed), f"{name}: {address}"


def test_files_are_short_enough_to_read_in_a_sitting() -> None:
    long = {name for name in TEXTS if len((ROOT / name).read_text("utf-8").splitlines()) > 450}
    assert long == set()


def test_steps_have_the_same_names_on_both_sides() -> None:
    steps = re.findall(r'id: "(\w+)"', (ROOT / "web/src/steps/steps.ts").read_text())
    folders = {path.name for path in (ROOT / "web/src/steps").iterdir() if path.is_dir()}
    assert set(steps) == folders
    routers = {path.stem for path in (ROOT / "juglant/api").glob("*.py")}
    assert set(steps) <= routers
