"""Brief: what follows from key and tempo, and every control that there is."""

from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import Field

from juglant.api.hits import shown_name
from juglant.api.inputs import Input
from juglant.api.media import FILE_BODY
from juglant.api.uploads import Name
from juglant.api.views import BriefFacts, brief_facts
from juglant.core.measure.reference import Reference, reference
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.bass import BassRecipe, PlayedRecipe
from juglant.core.recipes.brief import HIGHEST_BPM, LOWEST_BPM, Brief
from juglant.core.recipes.chain import STAGES
from juglant.core.recipes.design import Character
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.fields import ControlSheet, Recipe, control_sheet
from juglant.core.recipes.hit import RECIPES, Hit, Imported, Layer, Velocity
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.recipes.moves import Move, Strokes
from juglant.core.recipes.parts import ImportedBass, Output, RumbleBass, Stem
from juglant.core.recipes.place import Place
from juglant.core.recipes.recording import Recording
from juglant.core.recipes.room import ROOMS, Judging
from juglant.core.recipes.separate import BassCarve, KickCarve
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import tapped_bpm
from juglant.core.typed import typed_value
from juglant.files.audio import decode

router = APIRouter(prefix="/api/brief", tags=["brief"])

_RECIPES: dict[str, type[Recipe]] = {
    "brief": Brief,
    "track": TrackState,
    "bass": BassRecipe,
    "played": PlayedRecipe,
    "imported_bass": ImportedBass,
    "rumble": RumbleBass,
    "carve_kick": KickCarve,
    "carve_bass": BassCarve,
    "duck": DuckRecipe,
    "ducking": Ducking,
    "target": Target,
    "place": Place,
    "strokes": Strokes,
    "move": Move,
    "output": Output,
    "stem": Stem,
    "keyed": KeyedCompressor,
    "hit": Hit,
    "layer": Layer,
    "velocity": Velocity,
    "recording": Recording,
    "source:imported": Imported,
    "judging": Judging,
    "character": Character,
    **{f"room:{name}": room for name, room in ROOMS.items()},
    **{f"source:{kind}": recipe for kind, recipe in RECIPES.items()},
    **{f"stage:{name}": stage for name, stage in STAGES.items()},
}


@router.get("/controls")
def controls() -> dict[str, ControlSheet]:
    """The controls of every recipe."""
    return {name: control_sheet(recipe) for name, recipe in _RECIPES.items()}


def _proposed(data: bytes, name: str) -> Reference:
    audio = decode(data, name)
    return reference(listening_channel(audio.samples), audio.rate)


@router.post("/reference", openapi_extra=FILE_BODY)
async def from_reference(request: Request, name: Name) -> Reference:
    """Key, tempo and drum map of a loop, as proposals; nothing of it is stored or applied."""
    return await run_in_threadpool(_proposed, await request.body(), shown_name(name))


@router.post("/facts")
def facts(brief: Brief) -> BriefFacts:
    """Times, notes of the key and the ladder."""
    return brief_facts(brief)


class Taps(Input):
    """When somebody tapped, in ms from any moment."""

    times_ms: Annotated[list[Annotated[float, Field(ge=0.0, le=1e12)]], Field(max_length=64)]


@router.post("/tapped")
def tapped(taps: Taps) -> float:
    """The tempo of taps on the beat, in BPM, within what a brief can have."""
    return min(max(tapped_bpm(taps.times_ms), LOWEST_BPM), HIGHEST_BPM)


class TypedText(Input):
    """What was typed into a control, and what it is measured by."""

    text: Annotated[str, Field(max_length=60)]
    unit: Annotated[str, Field(max_length=8)]
    low: float
    high: float
    bpm: Annotated[float, Field(ge=LOWEST_BPM, le=HIGHEST_BPM)]
    a4_hz: Annotated[float, Field(ge=400.0, le=480.0)]


@router.post("/typed")
def typed(given: TypedText) -> float:
    """The typed value in the control's unit: 126 bpm, 1/8, A#1, −3 dB are understood."""
    return typed_value(given.text, given.unit, given.low, given.high, given.bpm, given.a4_hz)
