"""Tracks with some of their parts exchanged."""

from typing import Any

import numpy as np

from juglant.core.hits.mixing import added
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.parts import Chord
from juglant.core.recipes.track import TrackState


def part(state: dict[str, Any], id: str) -> dict[str, Any]:
    """A part of a state as it is written."""
    found: dict[str, Any] = next(one for one in state["parts"] if one["id"] == id)
    return found


def written(state: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """The same as `changed`, from a state as it is written to one."""
    return changed(TrackState.model_validate(state), **fields).model_dump(mode="json")


def changed(state: TrackState, **fields: Any) -> TrackState:
    """The state with another kick, hits, bass, lines, stems, or any other field."""
    bass, *lines = state.voices
    parts: dict[str, Any] = {"kick": state.kick, "hits": state.hits, "stems": state.stems}
    chords = tuple(part for part in state.parts if isinstance(part, Chord))
    parts |= {"chords": chords, "bass": bass.bass, "bass_mute": bass.mute, "lines": tuple(lines)}
    main, *others = state.duckings
    parts |= {"duck": main.duck, "ducking": main.on, "duck_for": main.solved_for, "duckings": tuple(others)}
    kept = TrackState.model_fields.keys() - {"parts", "duckings"}
    return TrackState.of(**{**{name: getattr(state, name) for name in kept}, **parts, **fields})


def rest_loop(session: Session, state: TrackState) -> Array | None:
    """Everything beside kick and lines under its duckings, shape (frames, 2); None where nothing is heard."""
    heard = [loop.samples for loop in session.rest_stems(state).values()]
    if not heard:
        return None
    out = added(heard)
    return out if out.ndim == 2 else np.stack([out, out], axis=1)
