"""Every error as problem details (RFC 9457), mapped in this one place."""

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse

from juglant.core.errors import UserError


class Problem(BaseModel):
    """What went wrong: a plain sentence, and the field it belongs to if there is one."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None


_STATUS = {"not-found": 404, "stale": 409, "too-large": 413, "storage": 503}
_TITLES = {
    403: "Not allowed", 404: "Not found", 409: "Changed elsewhere", 413: "Too large",
    422: "Cannot be used", 500: "Something went wrong here", 503: "Cannot be stored",
}  # fmt: skip


def problem(status: int, detail: str, kind: str, field: str | None = None) -> JSONResponse:
    """The response for one problem."""
    body = Problem(
        type=f"urn:juglant:{kind}", title=_TITLES.get(status, "Error"), status=status, detail=detail,
        field=field,
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


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

    @app.exception_handler(HTTPException)
    def http_error(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, str(error.detail), "http")

    @app.exception_handler(Exception)
    def unexpected(_: Request, __: Exception) -> JSONResponse:
        sentence = (
            "Something went wrong inside Juglant; what was saved is safe. Its terminal shows the details."
        )
        return problem(500, sentence, "internal")
