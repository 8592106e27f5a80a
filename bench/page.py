"""The page: its weight, how soon it is there, and how soon the demo can be used after a cold load."""

import gzip
import time
from urllib.request import urlopen

from bench.figures import figure, part
from juglant.api.pages import PAGES
from tests.browser.serving import HEIGHT, WIDTH, chromium, serving, settled


def main() -> None:
    """Print the numbers."""
    weights = {path.name: len(gzip.compress(path.read_bytes(), 6)) for path in PAGES.rglob("*.js")}
    # What the page names itself comes with it; the rest when it is there.
    named = (PAGES / "index.html").read_text()
    first = sum(weight for name, weight in weights.items() if name in named or "worklet" in name)
    styles = sum(len(gzip.compress(path.read_bytes(), 6)) for path in PAGES.rglob("*.css"))
    part("Page")
    figure("gzipped script of the first screen", first / 1000, "kB", 250)
    figure("gzipped script, all of it", sum(weights.values()) / 1000, "kB")
    figure("gzipped styles", styles / 1000, "kB")
    there: list[float] = []
    usable: list[float] = []
    took: list[float] = []
    with chromium() as browser:
        for loaded in (False, True) * 5:
            started = time.perf_counter()
            with serving("--demo", loaded=False) as server:
                urlopen(server.address).read()
                there.append(time.perf_counter() - started)
                if loaded:
                    urlopen(f"{server.address}/api/tracks").read()
                context = browser.new_context(viewport={"width": WIDTH, "height": HEIGHT})
                page = context.new_page()
                begun = time.perf_counter()
                page.goto(server.address)
                settled(page)
                (took if loaded else usable).append(time.perf_counter() - (begun if loaded else started))
                context.close()
    figure("from the command to the page, worst of ten", max(there), "s", 1.2)
    figure("from the command to a usable demo, worst of five", max(usable), "s")
    figure("demo usable, cold load from a server that is loaded, worst of five", max(took), "s", 2)
