"""Hits: each drum by itself, its layers and chains, and sounds of the user's own."""

from pathlib import PurePath
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field, StringConstraints

from juglant.api.inputs import Input
from juglant.api.media import FILE_BODY, Wav
from juglant.api.studio import AtDesk, Desk, as_json, put_audio
from juglant.api.uploads import Name
from juglant.api.views import HitPicture, HitView, hit_view, picture
from juglant.core import RATE, music
from juglant.core.errors import UserError
from juglant.core.hits import scatter
from juglant.core.hits.align import WHOLE_HZ, Cancellation, align, cancellations
from juglant.core.hits.jobs import Share
from juglant.core.hits.mixing import with_tone
from juglant.core.hits.moved import shifted
from juglant.core.hits.reported import StageReport, report
from juglant.core.measure.hit import measure
from juglant.core.measure.takenumbers import guess_job
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, HitKind, Imported, Made, Source
from juglant.core.recipes.notes import StrokeVelocity
from juglant.core.recipes.starts import STARTS
from juglant.files.audio import Audio, encode_wav_float, to_keep

router = APIRouter(prefix="/api", tags=["hits"])

# A stage that is listened to by itself is tried on a tone where the sound has no note.
_TONE_HZ = 100.0
# What lasts longer is no single hit.
_LONGEST_HIT_S = 3.0
_KINDS: dict[str, HitKind] = {
    "kick": "kick", "snare": "snare", "hat": "hat", "tom": "tom", "texture": "texture",
}  # fmt: skip


class HitQuestion(Input):
    """A hit, and the brief it is measured against."""

    brief: Brief
    hit: Hit


class StageEar(Input):
    """One stage of a chain, heard by itself: its input, or its output as loud as the input."""

    layer: int | None = None
    stage: Annotated[int, Field(ge=0)]
    after: bool


class Stroke(HitQuestion):
    """A hit as it is struck: how hard, which of its takes, how high, or only a part of it."""

    velocity: StrokeVelocity = 1.0
    turn: Annotated[int, Field(ge=0, lt=1000)] = 0
    semitones: Annotated[float, Field(ge=-24.0, le=24.0)] = 0.0
    layer: Annotated[int, Field(ge=0, lt=8)] | None = None
    ear: StageEar | None = None
    against: Annotated[str, StringConstraints(max_length=8)] | None = None


class LayerView(BaseModel):
    """One audible layer: its picture, with its offset, and what it gives to the hit."""

    layer: int
    picture: HitPicture
    peak_dbfs: float
    note: str | None
    share: Share | None


class Width(BaseModel):
    """Width that is made by delay, with the first notch of the mono sum."""

    delay_ms: float
    first_notch_hz: float


class LayersView(BaseModel):
    """The layers of a hit beside each other."""

    layers: list[LayerView]
    cancellations: list[Cancellation]
    delayed_width: Width | None


class AlignQuestion(HitQuestion):
    """Which layer is to join which, judged in which band."""

    layer: Annotated[int, Field(ge=0, lt=8)]
    against: Annotated[int, Field(ge=0, lt=8)]
    low_hz: Annotated[float, Field(ge=20.0, le=20000.0)] = WHOLE_HZ[0]
    high_hz: Annotated[float, Field(ge=20.0, le=20000.0)] = WHOLE_HZ[1]


class Aligned(BaseModel):
    """Where a layer adds up best: its new offset and polarity, and what that gains."""

    offset_ms: float
    shift_ms: float
    inverted: bool
    correlation: float
    gain_db: dict[str, float]


class StageQuestion(HitQuestion):
    """The chain of a layer, or of the hit where no layer is named."""

    layer: Annotated[int, Field(ge=0, lt=8)] | None = None


class Throw(Input):
    """How far a sound is varied, what of it stays, and by which throw."""

    brief: Brief
    amount: Annotated[float, Field(ge=0.0, le=1.0)] = 0.4
    locked: list[Annotated[str, Field(max_length=40)]] = Field(default_factory=list, max_length=20)
    seed: Annotated[int, Field(ge=0, le=9999)] = 1


class ScatterQuestion(Throw):
    """A source that is to be varied."""

    source: Source


class Variation(BaseModel):
    """One variation: its source, its picture and its key numbers."""

    source: Source
    picture: HitPicture
    note: str | None
    decay20_ms: float | None
    centroid_hz: float | None


class ImportedAudio(BaseModel):
    """A file of the user's own, as it is stored."""

    audio: str
    name: str
    kind: str
    rate: int
    frames: int
    channels: int
    seconds: float
    # What kind of hit it would be, as far as its sound says: a texture where it is long.
    kind_of_hit: HitKind


@router.get("/hits/starts")
def starts() -> dict[str, dict[str, Source]]:
    """Starting points by kind and name."""
    return STARTS  # type: ignore[return-value]


@router.post("/hits/view", response_model=HitView)
def view_hit(desk: AtDesk, question: HitQuestion) -> Response:
    """A hit's numbers and pictures."""
    return as_json(hit_view(desk.session, question.hit, question.brief, RATE))


def layer_there(hit: Hit, layer: int, field: str) -> int:
    """A layer's index. UserError where the hit has no such layer."""
    if layer >= len(hit.layers):
        raise UserError(f"The hit has {len(hit.layers)} layers: there is no layer {layer + 1}.", field)
    return layer


def _chain_in_and_out(
    desk: Desk, question: HitQuestion, layer: int | None
) -> tuple[list[np.ndarray], tuple[object, ...]]:
    """Input of a chain, then what comes out of each stage, and the stages."""
    hits, hit, bpm = desk.session.sounds.hits, question.hit, question.brief.bpm
    if layer is None:
        return hits.hit_chain(hit, bpm), hit.chain
    return hits.layer_chain(hit, layer_there(hit, layer, "layer"), bpm), hit.layers[layer].chain


@router.post("/hits/sound", response_class=Wav)
def hit_sound(desk: AtDesk, stroke: Stroke) -> Wav:
    """The hit as a 32-bit float WAV, struck as asked; or one layer, or one stage of a chain."""
    hit, bpm, hits = stroke.hit, stroke.brief.bpm, desk.session.sounds.hits
    if stroke.ear is not None:
        sounds, chain = _chain_in_and_out(desk, stroke, stroke.ear.layer)
        if stroke.ear.stage >= len(chain):
            raise UserError(f"The chain has {len(chain)} stages.", "ear.stage")
        x, y = sounds[stroke.ear.stage : stroke.ear.stage + 2]
        if stroke.ear.after:
            match_db = report(x, y, chain[stroke.ear.stage], RATE, _TONE_HZ).match_db
            x = y * 10 ** (min(match_db, 24.0) / 20)
    elif stroke.layer is not None:
        x = hits.layer(hit, layer_there(hit, stroke.layer, "layer"), bpm, stroke.velocity, stroke.turn)
    else:
        high = shifted(hit, stroke.semitones) if stroke.semitones else hit
        x = hits.hit(high, bpm, stroke.velocity, stroke.turn)
    if stroke.against is not None:
        hz = music.midi_to_hz(music.note_to_midi(stroke.against), stroke.brief.a4_hz)
        x = with_tone(x, hz, RATE)
    return Wav(encode_wav_float(x, RATE))


@router.post("/hits/layers", response_model=LayersView)
def view_layers(desk: AtDesk, question: HitQuestion) -> Response:
    """What each audible layer gives, where they cancel, and what their width is made of."""
    brief, hit = question.brief, question.hit
    layers = desk.session.sounds.hits.layers(hit, brief.bpm)
    said = desk.session.sounds.hit_report(hit, brief)
    given = {share.layer: share for share in said.shares}
    views = []
    for index, x in layers.items():
        measured = measure(x, RATE, brief.a4_hz, brief.key.flats)
        views.append(
            LayerView(
                layer=index, picture=picture(measured, RATE), peak_dbfs=measured.hit.peak_dbfs,
                note=measured.hit.note, share=given.get(index),
            )
        )  # fmt: skip
    delay = said.delay
    width = Width(delay_ms=delay.delay_ms, first_notch_hz=delay.first_notch_hz) if delay else None
    return as_json(
        LayersView(layers=views, cancellations=cancellations(layers, RATE)[:24], delayed_width=width)
    )


@router.post("/hits/align")
def align_layer(desk: AtDesk, question: AlignQuestion) -> Aligned:
    """Where a layer adds up best with another one; nothing is changed by it."""
    hit, bpm = question.hit, question.brief.bpm
    for field in ("layer", "against"):
        layer_there(hit, getattr(question, field), field)
    if question.layer == question.against:
        raise UserError("A layer cannot be aligned with itself: choose another one.", "against")
    if question.low_hz >= question.high_hz:
        raise UserError("The band must end above where it begins.", "high_hz")
    pair = hit.model_copy(
        update={
            "layers": tuple(
                layer.model_copy(
                    update={"mute": False, "solo": index in (question.layer, question.against)}
                )
                for index, layer in enumerate(hit.layers)
            )
        }
    )
    sounds = desk.session.sounds.hits.layers(pair, bpm)
    band = (question.low_hz, question.high_hz)
    found = align(sounds[question.against], sounds[question.layer], RATE, band)
    layer = hit.layers[question.layer]
    return Aligned(
        offset_ms=float(np.clip(round(layer.offset_ms + found.offset_ms, 4), -50.0, 200.0)),
        shift_ms=found.offset_ms,
        inverted=(layer.polarity == "inverted") != (found.polarity < 0),
        correlation=found.correlation, gain_db=found.gain_db,
    )  # fmt: skip


@router.post("/hits/stages")
def stage_reports(desk: AtDesk, question: StageQuestion) -> list[StageReport]:
    """What every stage of a chain does to this sound."""
    sounds, chain = _chain_in_and_out(desk, question, question.layer)
    note = desk.session.sounds.measured_hit(question.hit, question.brief).hit.fundamental_hz
    return [
        report(x, y, stage, RATE, note or _TONE_HZ)
        for x, y, stage in zip(sounds, sounds[1:], chain, strict=False)
    ]


@router.post("/hits/scatter")
def scatter_source(desk: AtDesk, question: ScatterQuestion) -> list[Variation]:
    """Eight variations around a made sound."""
    if isinstance(question.source, Imported):
        raise UserError("A file has no controls that could be varied.", "source")
    made: Made = question.source
    out = []
    for source in scatter.scatter(made, question.amount, question.locked, question.seed):
        hit = Hit.of(source)
        measured = desk.session.sounds.measured_hit(hit, question.brief)
        out.append(
            Variation(
                source=source, picture=picture(measured, RATE), note=measured.hit.note,
                decay20_ms=measured.hit.decay20_ms, centroid_hz=measured.hit.centroid_hz,
            )
        )  # fmt: skip
    return out


def shown_name(name: str) -> str:
    """A file's name without folders, control characters or excess length."""
    last = PurePath(name.replace("\\", "/")).name
    return "".join(letter for letter in last if letter.isprintable())[:200] or "sound"


def import_bytes(desk: Desk, data: bytes, name: str) -> ImportedAudio:
    """Store a file after it was decoded."""
    data, decoded = to_keep(data, name)
    with desk.studio.changing() as db:
        stored = put_audio(db, data, name, decoded)
    return ImportedAudio(
        audio=stored.hash, name=name, kind=stored.kind, rate=stored.rate, frames=stored.frames,
        channels=stored.channels, seconds=stored.frames / stored.rate, kind_of_hit=_kind_of_hit(decoded),
    )  # fmt: skip


def _kind_of_hit(file: Audio) -> HitKind:
    if file.samples.shape[0] > _LONGEST_HIT_S * file.rate:
        return "texture"
    x = change_rate(file.samples, file.rate, RATE)
    return _KINDS.get(guess_job(measure(x, RATE, 440.0, False, recorded=True).hit).job, "texture")


@router.post("/audio", status_code=201, openapi_extra=FILE_BODY)
async def import_audio(desk: AtDesk, request: Request, name: Name) -> ImportedAudio:
    """Store a sound file whose bytes are the request's body."""
    data = await request.body()
    return await run_in_threadpool(import_bytes, desk, data, shown_name(name))
