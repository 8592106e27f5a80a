"""Every error as problem details (RFC 9457), mapped in this one place."""

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, Response

from juglant.api.problems import problem
from juglant.core.errors import CancelledError, UserError

# For the record alone: whoever asked has hung up.
_HUNG_UP = 499
_STATUS = {"not-found": 404, "stale": 409, "too-large": 413, "storage": 503}


def _sentence(error: dict[str, Any]) -> tuple[str, str]:
    """Field and plain sentence for one error of validation."""
    places = [str(part) for part in error["loc"] if part not in ("body", "path", "query")]
    field = ".".join(places)
    name = (places[-1] if places else "The request").replace("_", " ")
    limits = error.get("ctx", {})
    told = {
        "greater_than_equal": f"must be at least {limits.get('ge')}",
        "less_than_equal": f"must be at most {limits.get('le')}",
        "less_than": f"must be below {limits.get('lt')}",
        "greater_than": f"must be above {limits.get('gt')}",
        "literal_error": f"must be one of {limits.get('expected')}",
        "multiple_of": f"must be a multiple of {limits.get('multiple_of')}",
        "missing": "is missing",
        "extra_forbidden": "is not known here",
        "json_invalid": "is not valid JSON",
        "finite_number": "must be a finite number",
    }.get(error["type"])
    if told is None:
        told = "is not usable: " + str(error["msg"]).removeprefix("Value error, ").lower()
    return field, f"{name} {told}."


def install(app: FastAPI) -> None:
    """Teach the application to answer errors with problem details."""

    @app.exception_handler(UserError)
    def user_error(_: Request, error: UserError) -> JSONResponse:
        return problem(_STATUS.get(error.kind, 422), error.message, error.kind, error.field)

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        # What is wrong with one of several makes them all too few in the validator's eyes: that is no news.
        told = [one["loc"] for one in error.errors() if one["type"] != "too_short"]
        found = [
            _sentence(one) for one in error.errors()
            if one["type"] != "too_short" or not any(loc[: len(one["loc"])] == one["loc"] for loc in told)
        ]  # fmt: skip
        return problem(422, " ".join(sentence for _, sentence in found[:3]), "invalid", found[0][0] or None)

    @app.exception_handler(CancelledError)
    def nobody_waits(_: Request, __: CancelledError) -> Response:
        return Response(status_code=_HUNG_UP)

    @app.exception_handler(HTTPException)
    def http_error(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, str(error.detail), "http")

    @app.exception_handler(Exception)
    def unexpected(_: Request, __: Exception) -> JSONResponse:
        sentence = (
            "Something went wrong inside Juglant; what was saved is safe. Its terminal shows the details."
        )
        return problem(500, sentence, "internal")
