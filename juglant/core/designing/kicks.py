"""A kick for the bass that is there. Ranges are common practice."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE, music, tempo
from juglant.core.designing.search import Question, made_anew
from juglant.core.findings.fixes import made_changed
from juglant.core.findings.room import SMALL_LEFT_DB, SMALL_OVER_DB
from juglant.core.lowend.line import line_of
from juglant.core.lowend.loop import gaps_ms
from juglant.core.lowend.session import Session
from juglant.core.lowend.tuning import grates, harmony, short_ms
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.recipes.design import Character
from juglant.core.recipes.fields import in_limits
from juglant.core.recipes.hit import Hit, Layer, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.judged import small
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]

# Of the body, until it is 60 dB down, in beats; and where its note may lie: a kick that owns the sub is in
# it, one that leaves it to the bass lies above.
_BEATS = {"kick": (0.3, 1.6), "bass": (0.2, 0.8)}
_NOTES_HZ = {"kick": (40.0, 64.0), "bass": (54.0, 105.0)}
# By the short and hard, and by the long and deep: how fast the pitch falls, how it is driven.
_FALLS_MS, _DRIVES_DB, _OCTAVES = (9.0, 30.0), (8.0, 3.0), ((3, 2), (2, 1))
_OF_GAP, _LEAST_MS = 0.85, 60.0
_FASTEST_MS, _SLOWEST_MS = 6.0, 45.0
_CLICKS_DB, _CLICK_TONES_HZ = (-26.0, -4.0), (2400.0, 4200.0)
# What speaks against a note that is no root or fifth, and against retuning it for every chord, in dB.
_NO_ROOT_DB, _FOLLOWS_DB = 0.3, 0.2
# So much more click is tried where small loudspeakers do not have the kick.
_MORE_CLICK_DB = (0.0, 3.0, 6.0, 9.0, 12.0)
# A made kick peaks no higher: a one-shot leaves with its peak at −1 dB.
_HIGHEST_DB = -1.0


def between(ends: tuple[float, float], share: float) -> float:
    """From one end to the other by ratio where both are above 0, else by difference.

    Parameters
    ----------
    ends
        From where to where.
    share
        Of the way, 0 to 1.

    Returns
    -------
    float
        Where that share of the way lies.

    Examples
    --------
    >>> between((100.0, 400.0), 0.5), between((0.0, 4.0), 0.5)
    (200.0, 2.0)
    """
    low, high = ends
    if min(ends) > 0.0:
        return float(low * (high / low) ** share)
    return float(low + (high - low) * share)


def _notes(state: TrackState, length_ms: float) -> list[tuple[int, str, float]]:
    """Notes that a kick of a length may have: MIDI number, whether it follows the chords, what speaks
    against it.
    """
    brief, owner = state.brief, state.brief.sub_owner
    held = harmony(brief)
    classes = held.classes_of(state.kick.aims_at) or set(held.key.classes)
    roots = set(held.roots)
    low, high = (music.hz_to_midi(hz, brief.a4_hz) for hz in _NOTES_HZ[owner])
    midis = [midi for midi in range(int(np.ceil(low)), int(high) + 1) if midi % 12 in classes]
    # 20 dB down after a third of it.
    is_short = length_ms / 3 <= short_ms(brief)
    found = []
    for midi in midis:
        if is_short or not grates(midi, roots):
            above = {(midi - root) % 12 for root in roots}
            found.append((midi, "no", 0.0 if above & {0, 7} else _NO_ROOT_DB))
        elif len(roots) > 1 and not grates(midi, {music.pitch_class(brief.tonic)}):
            found.append((midi, "yes", _FOLLOWS_DB))
    return found or [(midi, "no", _NO_ROOT_DB) for midi in midis]


def _made(
    session: Session, state: TrackState, character: Character, length_ms: float, loud_lufs: float,
    what: tuple[int, str, int], dials: Array,
) -> TrackState:  # fmt: skip
    midi, follow, octaves = what
    fall, curve, hold = dials
    recipe = KickRecipe(
        **in_limits(
            KickRecipe,
            end_hz=round(music.midi_to_hz(midi, state.brief.a4_hz), 2),
            decay_ms=round(length_ms), length_ms=round(1.1 * length_ms), release_ms=round(0.1 * length_ms),
            hold_ms=round(0.25 * hold * length_ms), decay_curve=round(curve - 0.5, 2),
            start_semitones=12.0 * octaves,
            pitch_decay_ms=round(between((_FASTEST_MS, _SLOWEST_MS), fall), 1),
            drive_db=round(between(_DRIVES_DB, character.length), 1),
            click_db=round(between(_CLICKS_DB, character.click), 1),
            click_tone_hz=round(between(_CLICK_TONES_HZ, character.click), -1),
        )
    )  # fmt: skip
    # As loud as the kick that was there: its place among the others is the producer’s.
    was = momentary_max_lufs(session.sounds.kick(_hit(state, recipe, follow), state.brief.bpm), RATE)
    level = min(recipe.level_db + loud_lufs - was, _HIGHEST_DB)
    recipe = recipe.model_copy(update=in_limits(KickRecipe, level_db=round(level, 2)))
    return state.with_part(_hit(state, recipe, follow))


def _hit(state: TrackState, recipe: KickRecipe, follow: str) -> Hit:
    layers = (Layer(name="designed", source=MadeKick(recipe=recipe)),)
    update = {"layers": layers, "chain": (), "level_db": 0.0, "heard_hz": None, "follow": follow}
    return state.kick.model_copy(update=update)


def kick_question(session: Session, state: TrackState, character: Character, share: float) -> Question:
    """What a kick is looked for among; `share` is how long it is, of what is usual, from 0 to 1.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    character
        What it is to be like.
    share
        How long, of what is usual, 0 to 1.

    Returns
    -------
    Question
        What may be changed, and how far.

    Examples
    --------
    >>> question = kick_question(Session(), TrackState(), Character(), 0.5)
    >>> len(question.dials) > 0
    True
    """
    brief = state.brief
    shortest, longest = (tempo.beat_ms(brief.bpm) * beats for beats in _BEATS[brief.sub_owner])
    gap = min(gaps_ms(line_of(state).starts(state.kick.id), loop_frames(brief, RATE) / RATE * 1000))
    # Where strokes follow each other fast, the next one finds it gone.
    longest = max(min(longest, _OF_GAP * gap), _LEAST_MS)
    length_ms = between((min(shortest, 0.6 * longest), longest), share)
    loud = momentary_max_lufs(session.sounds.kick(state.kick, brief.bpm), RATE)
    hard = _OCTAVES[character.length > 0.5]
    alternatives = tuple(
        ((midi, follow, octaves), against)
        for midi, follow, against in _notes(state, length_ms) for octaves in hard
    )  # fmt: skip
    fall = np.log(between(_FALLS_MS, character.length) / _FASTEST_MS) / np.log(_SLOWEST_MS / _FASTEST_MS)
    dials = (round(float(fall), 2), 0.5, 0.3)
    return Question(
        alternatives, dials, partial(_made, session, made_anew(state, "kick"), character, length_ms, loud)
    )


def heard_on_small(session: Session, state: TrackState) -> tuple[TrackState, float]:
    """The designed kick with as much more click as the smallest loudspeakers need to play it, and how much
    that is in dB; as it is where no click does it.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    tuple of TrackState and float
        The state, and dB of click that were added.

    Examples
    --------
    >>> _, added_db = heard_on_small(Session(), TrackState())
    >>> added_db >= 0
    True
    """
    for more_db in _MORE_CLICK_DB:
        made = state.with_part(made_changed(state.kick, partial(_clicking, more_db)))
        found = small(session, made)
        over_db = None if found is None else found.over_rest_db
        if found is None or (
            found.left_db >= SMALL_LEFT_DB and (over_db is None or over_db >= SMALL_OVER_DB)
        ):
            return made, more_db
    return state, 0.0


def _clicking(more_db: float, recipe: KickRecipe) -> dict[str, float]:
    return in_limits(KickRecipe, click_db=recipe.click_db + more_db)
