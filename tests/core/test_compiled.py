"""Compiled functions: each is compiled for one kind of argument, which is written beside it.

What is compiled is kept on disk by a number for each kind. Two processes that met a new kind at one time
would give both of them the same number, and a third one run the wrong code.
"""

import importlib
import pkgutil

import numpy as np
import pytest
from numba.core.dispatcher import Dispatcher

import juglant.core
from juglant.core.process import filters


def _compiled() -> dict[str, Dispatcher]:
    found = {}
    for module in pkgutil.walk_packages(juglant.core.__path__, "juglant.core."):
        for name, value in vars(importlib.import_module(module.name)).items():
            if isinstance(value, Dispatcher):
                found[f"{value.py_func.__module__}.{name}"] = value
    return found


def test_every_compiled_function_takes_one_kind_of_arguments_and_is_kept() -> None:
    found = _compiled()
    assert len(found) >= 19
    for name, function in found.items():
        assert len(function.signatures) == 1, name
        with pytest.raises(TypeError, match="No matching definition"):
            function(*(object() for _ in function.signatures[0]))
        assert function.stats.cache_path, name


def test_what_is_not_in_one_piece_is_filtered_as_its_copy_is() -> None:
    wide = np.random.default_rng(3).normal(size=(4000, 2))
    sections = filters.steep("lowpass", 900.0, 24, 48000)
    np.testing.assert_array_equal(
        filters.filtered(wide[:, 1], sections), filters.filtered(wide[:, 1].copy(), sections)
    )
