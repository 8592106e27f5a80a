"""Builds the page where it is not built yet, so that a wheel needs no Node where it is installed."""

import subprocess
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

PAGE = Path(__file__).parent / "juglant" / "pages" / "index.html"


class WithThePage(build_py):
    """What is installed for use has the page in it; what is installed for development makes it itself."""

    def run(self) -> None:
        """Build the page first."""
        if not self.editable_mode and not PAGE.is_file():
            subprocess.run(["make", "juglant/pages/index.html"], cwd=PAGE.parents[2], check=True)
        super().run()


setup(cmdclass={"build_py": WithThePage})
