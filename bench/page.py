"""The page: its weight, and how soon the demo can be used after a cold load."""

import gzip
import time

from bench.figures import figure, part
from juglant.api.app import PAGES
from tests.browser.serving import HEIGHT, WIDTH, chromium, serving, settled


def main() -> None:
    """Print the numbers."""
    scripts = sum(len(gzip.compress(path.read_bytes(), 6)) for path in PAGES.rglob("*.js"))
    styles = sum(len(gzip.compress(path.read_bytes(), 6)) for path in PAGES.rglob("*.css"))
    part("Page")
    figure("gzipped script", scripts / 1000, "kB", 250)
    figure("gzipped styles", styles / 1000, "kB")
    took = []
    with chromium() as browser:
        for _ in range(5):
            with serving("--demo") as server:
                context = browser.new_context(viewport={"width": WIDTH, "height": HEIGHT})
                page = context.new_page()
                begun = time.perf_counter()
                page.goto(server.address)
                settled(page)
                took.append(time.perf_counter() - begun)
                context.close()
    figure("demo usable, cold load, worst of five", max(took), "s", 2)
