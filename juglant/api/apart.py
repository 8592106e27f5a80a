"""A sound taken apart into what can be edited, as a job: it takes seconds."""

from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from juglant.api import jobs
from juglant.api.hits import HitQuestion, import_bytes, layer_there
from juglant.api.studio import AtDesk
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.kept import sound_key
from juglant.core.lowend.session import Array
from juglant.core.matching.apart import Likeness, taken_apart
from juglant.core.recipes.hit import MOST_LAYERS, Hit, Layer
from juglant.files.audio import encode_wav_float

router = APIRouter(prefix="/api/apart", tags=["apart"])
# How far it is, in so many steps.
_STEPS = 100


class ApartQuestion(HitQuestion):
    """A hit, and which of its layers is taken apart, as it is heard."""

    layer: Annotated[int, Field(ge=0, lt=MOST_LAYERS)]


class ApartView(BaseModel):
    """The hit with layers in the place of the one, how near they come to it, and what to mind."""

    hit: Hit
    likeness: Likeness
    said: list[str]


@router.post("")
def take_apart(desk: AtDesk, request: Request, question: ApartQuestion) -> jobs.JobView:
    """Begin to take a layer apart. UserError where the hit has no such layer."""
    hit, index = question.hit, layer_there(question.hit, question.layer, "layer")
    old = hit.layers[index]

    def work(job: jobs.Job) -> str:
        job.total = _STEPS
        # As it is heard: behind its own chain, in its place.
        x = desk.session.sounds.hits.layer(hit, index, question.brief.bpm)

        def keep(samples: Array, name: str) -> str:
            return import_bytes(desk, encode_wav_float(samples, RATE), f"{name}.wav").audio

        bpm, hits = question.brief.bpm, desk.session.sounds.hits
        found = taken_apart(
            x, old.name, hit.kind, hits, keep, bpm, lambda share: job.reached(round(share * _STEPS))
        )
        new = [_shifted(layer, old.offset_ms) for layer in found.hit.layers]
        layers = (*hit.layers[:index], *new, *hit.layers[index + 1 :])
        if len(layers) > MOST_LAYERS:
            raise UserError(
                f"A hit has {MOST_LAYERS} layers at most: there is no room for {len(new)}.", "hit"
            )
        whole = hit.model_copy(update={"layers": layers})
        job.result = ApartView(hit=whole, likeness=found.likeness, said=found.said)
        job.done = _STEPS
        return f"{old.name} is {len(new)} layers now."

    sort = f"apart {sound_key(hit, index, question.brief.bpm)[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, f"Taking {old.name} apart", work))


def _shifted(layer: Layer, offset_ms: float) -> Layer:
    return layer.model_copy(update={"offset_ms": layer.offset_ms + offset_ms})


@router.get("/{job_id}")
def apart(request: Request, job_id: jobs.JobId) -> ApartView:
    """The layer that was taken apart."""
    return jobs.result_of(request, job_id, ApartView)
