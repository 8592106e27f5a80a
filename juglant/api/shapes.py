"""Shapes: the user's own ducking curves, for any track."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field, model_validator

from juglant.api.inputs import Input
from juglant.api.naming import ShapeName
from juglant.api.studio import AtDesk, Desk, RowId
from juglant.core.lowend.drawn import drawn_scaled
from juglant.core.recipes.brief import HIGHEST_BPM, LOWEST_BPM
from juglant.core.recipes.duck import Points, checked_points
from juglant.store import shapes

router = APIRouter(prefix="/api/shapes", tags=["shapes"])

Bpm = Annotated[float, Field(ge=LOWEST_BPM, le=HIGHEST_BPM)]


class Drawn(BaseModel):
    """A drawn curve, and the tempo that it was drawn at."""

    bpm: Bpm
    points: Points

    @model_validator(mode="after")
    def _runs_forward(self) -> "Drawn":
        if not self.points:
            raise ValueError("there is no drawn curve to keep")
        checked_points(self.points)
        return self


class NewShape(Drawn, Input):
    """A drawn curve under a name."""

    name: ShapeName


class KeptShape(NewShape):
    """A kept shape, with its points as they are at the tempo that was asked for."""

    id: int


def _at(desk: Desk, bpm: float) -> list[KeptShape]:
    with desk.studio.reading() as db:
        kept = shapes.everything(db)
    found = []
    for one in kept:
        drawn = Drawn.model_validate_json(one.body)
        points = drawn_scaled(drawn.points, drawn.bpm / bpm)
        found.append(KeptShape(id=one.id, name=one.name, bpm=drawn.bpm, points=points))
    return found


@router.get("")
def list_shapes(desk: AtDesk, bpm: Annotated[Bpm, Query()]) -> list[KeptShape]:
    """All shapes by name: what was drawn to a note value is on it at any tempo."""
    return _at(desk, bpm)


@router.post("", status_code=201)
def keep_shape(desk: AtDesk, shape: NewShape) -> list[KeptShape]:
    """Keep a curve as a shape; answers all shapes."""
    body = shape.model_dump_json(include={"bpm", "points"})
    with desk.studio.changing() as db:
        shapes.keep(db, shape.name, body)
    return _at(desk, shape.bpm)


@router.delete("/{shape_id}", status_code=204)
def forget_shape(desk: AtDesk, shape_id: RowId) -> None:
    """Forget a shape; curves that were drawn from it stay."""
    with desk.studio.changing() as db:
        shapes.forget(db, shape_id)
