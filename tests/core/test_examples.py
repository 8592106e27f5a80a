"""The examples in the core's docstrings are true."""

import ast
import doctest
import importlib
import pkgutil
from pathlib import Path

import pytest

import juglant.core

MODULES = [one.name for one in pkgutil.walk_packages(juglant.core.__path__, "juglant.core.")]


@pytest.mark.thorough
@pytest.mark.parametrize("name", MODULES)
def test_the_examples_of_a_module(name: str) -> None:
    found = doctest.testmod(importlib.import_module(name))
    assert found.failed == 0


def test_every_public_function_says_what_it_takes_and_gives_and_shows_it() -> None:
    lacking = set()
    for path in Path(juglant.core.__file__).parent.rglob("*.py"):
        for one in ast.parse(path.read_text()).body:
            if not isinstance(one, ast.FunctionDef) or one.name.startswith("_"):
                continue
            text, takes = ast.get_docstring(one) or "", one.args
            wanted = ["Parameters", "Examples"] if takes.args or takes.kwonlyargs else ["Examples"]
            # What only refuses gives nothing.
            if one.name != "nothing_imported" and (
                one.returns is None or ast.unparse(one.returns) != "None"
            ):
                wanted.append("Returns")
            if any(f"{section}\n{'-' * len(section)}\n" not in text for section in wanted):
                lacking.add(f"{path.name}: {one.name}")
    assert lacking == set()
