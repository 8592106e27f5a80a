"""What holds for all tests."""

import pytest
from hypothesis import settings
from xdist.remote import Producer
from xdist.scheduler import LoadScopeScheduling

# The same examples every time, and no failure for being slow on a busy machine.
settings.register_profile("juglant", derandomize=True, deadline=None)
settings.load_profile("juglant")

# These compile or work out much on first use: all tests of a set run on one worker. Two of them that compiled
# the same functions of a library at one time have left each other the wrong code.
_ON_ONE_WORKER = {
    f"tests/outside/test_{name}.py": group
    for group, names in {
        "librosa": ("onsets", "pitch", "retuning", "takes", "temperament"), "reference": ("reference",),
    }.items()
    for name in names
}  # fmt: skip


# What is asked of one track here is rendered once.
_BY_TRACK = "tests/core/test_kept_answers.py"


class _Scheduling(LoadScopeScheduling):  # type: ignore[misc]
    """Every test goes to the worker that is free, but for those that belong together."""

    def _split_scope(self, nodeid: str) -> str:
        path = nodeid.partition("::")[0]
        return nodeid.partition(",")[0] if path == _BY_TRACK else _ON_ONE_WORKER.get(path, nodeid)


def pytest_xdist_make_scheduler(config: pytest.Config, log: Producer) -> LoadScopeScheduling:
    return _Scheduling(config, log)
