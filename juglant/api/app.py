"""The application, put together."""

import json
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from fastapi import FastAPI
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from juglant import __version__
from juglant.api import (
    apart,
    brief,
    closeup,
    compare,
    design,
    duck,
    ear,
    entries,
    errors,
    findings,
    handover,
    hits,
    jobs,
    line,
    log,
    outlet,
    parcels,
    parts,
    references,
    room,
    sections,
    separate,
    shapes,
    sound,
    stock,
    takes,
    tracks,
    tune,
    whole,
)
from juglant.api.guard import Guard
from juglant.api.studio import open_desk
from juglant.api.turns import Turns
from juglant.store.database import Studio

_ROUTERS = (
    brief, jobs, stock, parcels, tracks, sections, hits, apart, takes, tune, line, parts, separate, duck,
    room, references, compare, ear, entries, sound, closeup, shapes, findings, log, handover, outlet, whole,
    design,
)  # fmt: skip
# No file of the page has a longer name.
_LONGEST_PATH = 400
PAGES = Path(__file__).parents[1] / "pages"


def _operation(route: APIRoute) -> str:
    return route.name


class Pages(StaticFiles):
    """The built interface. What has no file of its own is a place within the page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """A file, the page, or a problem."""
        if path.startswith("api/") or len(path) > _LONGEST_PATH or not path.isprintable():
            return errors.problem(404, "There is nothing at this address.", "not-found")
        if scope["method"] not in ("GET", "HEAD"):
            return errors.problem(405, "This address can only be read.", "http")
        with suppress(HTTPException):
            found = await super().get_response(path, scope)
            if path.startswith("assets/"):
                found.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return found
        try:
            page = await super().get_response("index.html", scope)
        except HTTPException:
            return Response("The interface is not built yet: run make run.", 503, media_type="text/plain")
        page.headers["Cache-Control"] = "no-cache"
        return page


def create_app(studio: Studio, pages: Path = PAGES) -> FastAPI:
    """The server of one studio; `pages` is the folder of the built interface."""
    app = FastAPI(
        title="Juglant", version=__version__, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json", generate_unique_id_function=_operation,
        separate_input_output_schemas=False,
    )  # fmt: skip
    app.state.desk = open_desk(studio)
    app.state.jobs = jobs.Jobs()
    app.state.asking = ear.Asking()
    errors.install(app)
    app.add_middleware(Turns)
    app.add_middleware(Guard)
    for step in _ROUTERS:
        app.include_router(step.router)

    app.mount("/", Pages(directory=pages, check_dir=False))
    return app


if __name__ == "__main__":
    # The description that the interface's types are made from.
    with TemporaryDirectory() as folder:
        print(json.dumps(create_app(Studio(Path(folder) / "empty.sqlite")).openapi(), indent=1))
