"""The application, put together."""

import json
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from fastapi import FastAPI
from fastapi.routing import APIRoute

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
    filed,
    findings,
    folders,
    handover,
    hits,
    jobs,
    line,
    log,
    longer,
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
from juglant.api.pages import PAGES, Pages
from juglant.api.problems import ANSWERS, Problem
from juglant.api.studio import open_desk
from juglant.api.turns import Turns
from juglant.store.database import Studio

_ROUTERS = (
    brief, jobs, folders, stock, filed, parcels, tracks, sections, hits, longer, apart, takes, tune, line,
    parts, separate, duck, room, references, compare, ear, entries, sound, closeup, shapes, findings, log,
    handover, outlet, whole, design,
)  # fmt: skip


def _operation(route: APIRoute) -> str:
    return route.name


def _described(app: FastAPI) -> dict[str, Any]:
    """The description of all routes, with what their errors are answered with."""
    told = FastAPI.openapi(app)
    told["components"]["schemas"].setdefault("Problem", Problem.model_json_schema())
    return told


def create_app(studio: Studio, pages: Path = PAGES) -> FastAPI:
    """The server of one studio; `pages` is the folder of the built interface."""
    app = FastAPI(
        title="Juglant", version=__version__, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json", generate_unique_id_function=_operation,
        separate_input_output_schemas=False, responses=ANSWERS,
    )  # fmt: skip
    app.openapi = partial(_described, app)  # type: ignore[method-assign]
    app.state.desk = open_desk(studio)
    app.state.jobs = jobs.Jobs()
    app.state.asking = ear.Asking()
    app.state.watching = folders.watching(app)
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
