"""The application, put together."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory

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
from juglant.api.pages import PAGES, Pages
from juglant.api.studio import open_desk
from juglant.api.turns import Turns
from juglant.store.database import Studio

_ROUTERS = (
    brief, jobs, stock, parcels, tracks, sections, hits, apart, takes, tune, line, parts, separate, duck,
    room, references, compare, ear, entries, sound, closeup, shapes, findings, log, handover, outlet, whole,
    design,
)  # fmt: skip


def _operation(route: APIRoute) -> str:
    return route.name


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
