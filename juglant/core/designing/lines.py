"""An 808, or a bass, for the kick that is there. Ranges are common practice."""

from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE, music, tempo
from juglant.core.designing.kicks import between
from juglant.core.designing.search import Question, made_anew
from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import integrated_lufs
from juglant.core.recipes.bass import BassRecipe, LineRecipe, PlayedRecipe
from juglant.core.recipes.design import Character
from juglant.core.recipes.fields import in_limits, within
from juglant.core.recipes.hit import Hit, Made808
from juglant.core.recipes.parts import MadeBass, PlayedBass, Voice
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# By the shortest and the longest: how long it takes to come to its sustain, and what that is.
_808_MS, _808_SUSTAIN_DB = (180.0, 2200.0), (-50.0, -9.0)
_BASS_MS, _BASS_SUSTAIN_DB = (90.0, 1600.0), (-36.0, -2.0)
_ATTACKS_MS, _HIGHPASSES_HZ = (1.0, 30.0), (20.0, 110.0)
# By the soft and by the clicky.
_808_DRIVES_DB, _808_PUSH, _BASS_DRIVES_DB = (1.0, 14.0), (0.05, 0.8), (0.0, 12.0)
# The lowest note of an 808 lies no lower, and no higher than an octave above that.
_LOWEST_808_HZ = 30.0


def _line(voice: Voice) -> LineRecipe:
    """What a line plays. UserError where that is not known."""
    if voice.line is None:
        raise UserError(f"What {voice.name} plays is not known: take its notes in Line first.", "line")
    return voice.line


def _longest_beats(line: LineRecipe) -> float:
    return max(note.beats for note in line.pattern)


def _levelled(session: Session, state: TrackState, voice: Voice, loud_lufs: float) -> TrackState:
    """The state with a line as loud as it was: its place among the others is the producer’s."""
    bass: Any = voice.bass
    made = state.with_part(voice)
    by = loud_lufs - integrated_lufs(session.parts.line_loop(made, voice).mono, RATE)
    recipe = within(bass.recipe, level_db=round(bass.recipe.level_db + by, 2))
    return made.with_bass(voice.id, bass.model_copy(update={"recipe": recipe}))


def _made_808(
    session: Session, state: TrackState, voice: Voice, character: Character, share: float,
    loud_lufs: float, octave: int, dials: Array,
) -> TrackState:  # fmt: skip
    attack, sustain = dials
    line = _line(voice)
    recipe = Recipe808(
        **in_limits(
            Recipe808,
            end_hz=round(music.midi_to_hz(12 * (octave + 1) + music.pitch_class(state.brief.tonic),
                                          state.brief.a4_hz), 2),
            decay_ms=round(between(_808_MS, share)),
            sustain_db=round(between(_808_SUSTAIN_DB, 0.5 * share + 0.5 * sustain), 1),
            # Held for as long as the longest note.
            length_ms=50.0 + round(_longest_beats(line) * tempo.beat_ms(state.brief.bpm)),
            attack_ms=round(between(_ATTACKS_MS, attack), 1),
            drive_db=round(between(_808_DRIVES_DB, character.click), 1),
            harmonics=round(between(_808_PUSH, character.click), 2),
        )
    )  # fmt: skip
    kept = {name: getattr(line, name) for name in LineRecipe.model_fields} | {"octave": octave}
    hit = Hit.of(Made808(recipe=recipe), name="808", kind="808")
    bass = PlayedBass(hit=hit, recipe=PlayedRecipe(**kept))
    return _levelled(session, state, voice.model_copy(update={"bass": bass}), loud_lufs)


def _made_bass(
    session: Session, state: TrackState, voice: Voice, character: Character, share: float,
    loud_lufs: float, _: None, dials: Array,
) -> TrackState:  # fmt: skip
    highpass, attack, sustain = dials
    line = _line(voice)
    own = voice.bass.recipe if isinstance(voice.bass, MadeBass) else BassRecipe()
    kept = {name: getattr(line, name) for name in LineRecipe.model_fields}
    recipe = within(
        own.model_copy(update=kept),
        highpass_hz=round(between(_HIGHPASSES_HZ, highpass)),
        attack_ms=round(between(_ATTACKS_MS, attack), 1),
        decay_ms=round(between(_BASS_MS, share)),
        sustain_db=round(between(_BASS_SUSTAIN_DB, 0.5 * share + 0.5 * sustain), 1),
        drive_db=round(between(_BASS_DRIVES_DB, character.click), 1),
    )
    voice = voice.model_copy(update={"bass": MadeBass(recipe=recipe)})
    return _levelled(session, state, voice, loud_lufs)


def _octaves(state: TrackState, line: LineRecipe) -> list[int]:
    """Octaves in which the lowest note of a line is one that an 808 has."""
    lowest = min(
        music.pitch_class(root) + min(note.semitones for note in line.pattern) for root in state.brief.roots
    )
    low = music.hz_to_midi(_LOWEST_808_HZ, state.brief.a4_hz)
    found = [octave for octave in range(4) if low <= 12 * (octave + 1) + lowest < low + 12]
    return found or [line.octave]


def line_question(
    session: Session, state: TrackState, line: str, character: Character, share: float, *, is_808: bool
) -> Question:
    """What the sound of a line is looked for among, its notes as they are; `share` is how long it is, of
    what is usual, from 0 to 1. UserError where its notes are not known.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    line
        Id of the line.
    character
        What it is to be like.
    share
        How long, of what is usual, 0 to 1.
    is_808
        Whether it is an 808.

    Returns
    -------
    Question
        What may be changed, and how far.

    Examples
    --------
    >>> question = line_question(Session(), TrackState(), "bass", Character(), 0.5, is_808=False)
    >>> len(question.dials) > 0
    True
    """
    voice = state.voice(line)
    played, loud = _line(voice), integrated_lufs(session.parts.line_loop(state, voice).mono, RATE)
    given = (session, made_anew(state, "bass"), voice, character, share, loud)
    if is_808:
        octaves = tuple((octave, 0.0) for octave in _octaves(state, played))
        return Question(octaves, (0.1, share), partial(_made_808, *given))
    return Question(((None, 0.0),), (0.0, 0.2, share), partial(_made_bass, *given))
