"""Problem details (RFC 9457): what every error is answered with."""

from typing import Any

from pydantic import BaseModel
from starlette.responses import JSONResponse


class Problem(BaseModel):
    """What went wrong: a plain sentence, and the field it belongs to if there is one."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None


_TITLES = {
    400: "Not understood", 403: "Not allowed", 404: "Not found", 409: "Changed elsewhere", 413: "Too large",
    422: "Cannot be used", 500: "Something went wrong here", 503: "Cannot be stored",
}  # fmt: skip


_CONTENT = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
# What any route may answer instead.
ANSWERS: dict[int | str, dict[str, Any]] = {
    status: {"description": title, "content": _CONTENT} for status, title in sorted(_TITLES.items())
}


def problem(status: int, detail: str, kind: str, field: str | None = None) -> JSONResponse:
    """The response for one problem."""
    body = Problem(
        type=f"urn:juglant:{kind}", title=_TITLES.get(status, "Error"), status=status, detail=detail,
        field=field,
    )  # fmt: skip
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")
