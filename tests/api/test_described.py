"""The description of the API holds: every route answers what it says it answers, to what fits and to what
does not. Questions are made from the description itself by schemathesis.
"""

from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.strategies import booleans
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.core.result import Ok
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    negative_data_rejection,
    response_schema_conformance,
    status_code_conformance,
)
from starlette.testclient import TestClient

from juglant.api.app import create_app
from juglant.store.database import Studio

_HOST = {"Host": "127.0.0.1"}
# A check says nothing, or raises.
_CHECKS: list[Any] = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]
# Ids that a question asks for in every other case: something is there under them.
_THERE = {"track_id": 1, "version_id": 1, "entry_id": 1, "revision": 1, "section": "main"}


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Iterator[schemathesis.BaseSchema]:
    app = create_app(Studio(tmp_path_factory.mktemp("described") / "studio.sqlite"))
    client = TestClient(app, base_url="http://127.0.0.1")
    client.post("/api/tracks", json={"name": "One"})
    client.post("/api/tracks/1/versions", json={"section": "main", "note": "kept"})
    yield schemathesis.openapi.from_asgi("/api/openapi.json", app, headers=_HOST)
    for job in client.get("/api/jobs").json():
        client.post(f"/api/jobs/{job['id']}/stop")


def _entered(parameters: dict[str, object]) -> dict[str, object]:
    return {name: _THERE.get(name, value) for name, value in parameters.items()}


@pytest.mark.parametrize(
    ("mode", "checks", "each", "least"),
    # What does not fit is refused by the same few lines on every route: broken once is enough.
    [(GenerationMode.POSITIVE, [], 2, 300), (GenerationMode.NEGATIVE, [negative_data_rejection], 1, 140)],
)
def test_every_route_answers_as_described(
    described: schemathesis.BaseSchema, mode: GenerationMode, checks: list[Any], each: int, least: int
) -> None:
    wrong, asked = [], 0

    for found in described.get_all_operations():
        assert isinstance(found, Ok)
        operation = found.ok()
        if mode is GenerationMode.NEGATIVE and not (
            operation.body or operation.path_parameters or operation.query
        ):
            # Nothing can be wrong with a question without a word.
            continue

        @settings(
            max_examples=each, deadline=None, derandomize=True, database=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )  # fmt: skip
        @given(case=operation.as_strategy(generation_mode=mode), entered=booleans())
        def answers(case: schemathesis.Case[Any], entered: bool) -> None:
            nonlocal asked
            if entered and mode is GenerationMode.POSITIVE:
                case.path_parameters = _entered(case.path_parameters or {})
            asked += 1
            case.call_and_validate(headers=_HOST, checks=[*_CHECKS, *checks])

        try:
            answers()
        except (Exception, ExceptionGroup) as error:
            wrong.append(f"{operation.label}: {error}")
    assert asked >= least
    assert not wrong, "\n\n".join(one[:2000] for one in wrong[:5])
