"""The examples in the core's docstrings are true."""

import doctest
import importlib
import pkgutil

import pytest

import juglant.core

MODULES = [one.name for one in pkgutil.walk_packages(juglant.core.__path__, "juglant.core.")]


@pytest.mark.parametrize("name", MODULES)
def test_the_examples_of_a_module(name: str) -> None:
    found = doctest.testmod(importlib.import_module(name))
    assert found.failed == 0
