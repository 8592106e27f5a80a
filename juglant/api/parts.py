"""Parts: what the stages of a loop do, how its controls move, where a part joins another one, and what
fitting a file costs.
"""

from uuid import uuid4

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel

from juglant.api.inputs import Input
from juglant.api.studio import AtDesk
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.reported import StageReport, report
from juglant.core.lowend.aligning import PartAlignment, align_parts
from juglant.core.lowend.filed import FitCost, fit_cost
from juglant.core.lowend.moves import value_at
from juglant.core.lowend.sliced import as_hits
from juglant.core.recipes.fields import Scale
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.moves import Move
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/parts", tags=["parts"])

# The tone to which harmonics are counted where a loop has many.
_TONE_HZ = 60.0


class StageQuestion(Input):
    """A state, a part of it, and which of the two chains of its loop is meant."""

    state: TrackState
    part: PartId
    behind: bool = False


@router.post("/stages")
def stages(desk: AtDesk, question: StageQuestion) -> list[StageReport]:
    """What every stage of a part's loop did."""
    state, id = question.state, question.part
    loops = desk.session.parts.stages(state, id, behind=question.behind)
    part = next(one for one in state.everything if one.id == id)
    chain = part.after if question.behind else part.stages
    return [
        report(x.samples, y.samples, stage, RATE, _TONE_HZ)
        for x, y, stage in zip(loops, loops[1:], chain, strict=False)
    ]


class PartQuestion(Input):
    """A state and a part of it."""

    state: TrackState
    part: PartId


@router.post("/fit")
def cost_of_fit(desk: AtDesk, question: PartQuestion) -> FitCost:
    """What bringing a file to the track's tempo costs."""
    part = question.state.part(question.part)
    file = part.bass if isinstance(part, Voice) else part
    if not isinstance(file, Stem | ImportedBass):
        raise UserError("This part is no file: there is nothing to fit.", "part")
    return fit_cost(desk.session.sounds.hits.audio(file.audio), file, question.state.brief, RATE)


class SlicedView(BaseModel):
    """The track in which a file's slices are hits, what these are called, and what is to be said of it."""

    state: TrackState
    names: list[str]
    said: list[str]


@router.post("/slices")
def slices(desk: AtDesk, question: PartQuestion) -> SlicedView:
    """A file cut at its strokes into hits, which together are the loop as it was."""
    found = as_hits(desk.session, question.state, question.part, lambda: str(uuid4()))
    return SlicedView(state=found.state, names=found.names, said=found.said)


class AlignPart(Input):
    """A state, a part of it, and the one that it is to join."""

    state: TrackState
    part: PartId
    against: PartId


@router.post("/align")
def align_part(desk: AtDesk, question: AlignPart) -> PartAlignment:
    """The delay and polarity with which a part adds up best with another one."""
    return align_parts(desk.session, question.state, question.part, question.against)


# Enough for a picture.
_MOVE_STEPS = 240


class MoveQuestion(Input):
    """A move, and how its control is spaced."""

    move: Move
    scale: Scale


@router.post("/move")
def move(question: MoveQuestion) -> list[float]:
    """A control's values at even shares of the way of its move, the last one at its end."""
    values = value_at(question.move, np.linspace(0.0, 1.0, _MOVE_STEPS + 1), question.scale)
    return [float(value) for value in values]
