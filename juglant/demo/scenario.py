"""Three unfinished tracks of an invented EP, each with something to find."""

from juglant.core.recipes.bass import PATTERNS, BassRecipe, PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage, SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import (
    Hit,
    Layer,
    Made808,
    MadeHat,
    MadeKick,
    MadeMembrane,
    MadePercussion,
    MadeSnare,
)
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import HitStep, Note, on_beats
from juglant.core.recipes.parts import MadeBass, PlayedBass, Voice
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.sections import Entry, Track
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.recipes.track import TrackState
from juglant.store import tracks
from juglant.store.database import Studio


def _steps(*places: float, soft: tuple[float, ...] = ()) -> tuple[HitStep, ...]:
    return tuple(HitStep(at=at, velocity=0.6 if at in soft else 1.0) for at in places)


# A full kick well off its key, over off-beats that fill the same octave, hardly ducked.
COBNUT = TrackState.of(
    brief=Brief(bpm=132.0, tonic="G", mode="minor", chord_roots=("G", "Eb"), sub_owner="kick"),
    kick=Hit.of(MadeKick(
        recipe=KickRecipe(
            end_hz=51.1, decay_ms=420.0, length_ms=400.0, start_semitones=36.0, pitch_decay_ms=28.0,
            click_db=-4.0, click_tone_hz=3400.0, click_ms=9.0, drive_db=6.0, wave=0.2, level_db=-4.0,
        )
    )),
    hits=(
        Hit(
            name="Snare", kind="snare",
            layers=(
                Layer(name="skins", job="body", source=MadeMembrane()),
                Layer(name="rattle", job="tail", source=MadeSnare(), gain_db=-4.0, offset_ms=3.0,
                      highpass_hz=900.0),
            ),
            chain=(EqualiserStage(bell_db=-4.0, bell_hz=420.0), SpaceStage(mix_db=-18.0, width=0.6)),
            level_db=-8.0, steps=_steps(1, 3),
        ),
        Hit(
            name="Hat", kind="hat", layers=(Layer(name="metal", job="texture", source=MadeHat()),),
            level_db=-14.0, steps=_steps(0.5, 1.5, 2.5, 3.5),
        ),
    ),
    bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"], level_db=-8.0)),
    duck=DuckRecipe(depth_db=4.0, attack_ms=4.0, hold_ms=20.0, release_ms=90.0),
)  # fmt: skip

# A short hollow kick over an 808 that owns the sub and plays the roots, with a line in the middle
# above it; two drums are out of tune.
HUSK = TrackState.of(
    brief=Brief(
        bpm=124.5, swing_percent=56.0, tonic="C", mode="dorian",
        chord_roots=("C", "C", "Bb", "F"), sub_owner="bass",
        cure="carving first",
    ),
    kick=Hit.of(MadeKick(
        recipe=KickRecipe(
            end_hz=65.41, decay_ms=170.0, length_ms=190.0, hold_ms=2.0, start_semitones=24.0,
            pitch_decay_ms=18.0, click_db=-6.0, click_tone_hz=2600.0, drive_db=9.0, level_db=-5.0,
        )
    )),
    hits=(
        Hit.of(
            MadePercussion(recipe=PercussionRecipe(end_hz=203.0)), name="Shell", kind="percussion",
            level_db=-9.0, steps=_steps(0.75, 2.25, 3.25, soft=(2.25,)),
        ),
        Hit.of(MadeKick(
            recipe=KickRecipe(
                end_hz=101.0, decay_ms=260.0, length_ms=320.0, start_semitones=12.0, pitch_decay_ms=20.0,
                click_db=-16.0, drive_db=2.0, level_db=-9.0,
            )
        ), name="Low tom", kind="tom", steps=_steps(1.75, 3.5)),
        Hit(
            name="Hat", kind="hat", layers=(Layer(name="metal", job="texture", source=MadeHat()),),
            level_db=-14.0, steps=_steps(
                *(n / 4 for n in range(16) if n % 4), soft=(0.25, 1.25, 2.25, 3.25)
            ),
        ),
    ),
    bass=PlayedBass(
        hit=Hit.of(
            Made808(recipe=Recipe808(end_hz=65.41, decay_ms=1200.0, drive_db=8.0)), name="808", kind="808"
        ),
        recipe=PlayedRecipe(octave=1, level_db=-4.0, pattern=(
            Note(at=0.0, beats=0.7), Note(at=0.75, beats=0.7), Note(at=1.5, beats=0.95),
            Note(at=2.5, beats=0.45, semitones=12), Note(at=3.25, beats=0.7, semitones=7),
        )),
    ),
    lines=(
        Voice(name="mid", bass=MadeBass(recipe=BassRecipe(
            octave=3, wave=2.0, lowpass_hz=1400.0, highpass_hz=160.0, level_db=-17.0, decay_ms=180.0,
            sustain_db=-14.0, pattern=(
                Note(at=0.5, beats=0.4), Note(at=1.25, beats=0.2, velocity=0.7),
                Note(at=2.75, beats=0.4, semitones=7), Note(at=3.5, beats=0.4, semitones=10, velocity=0.8),
            ),
        ))),
    ),
    duck=DuckRecipe(depth_db=18.0, attack_ms=2.0, hold_ms=60.0, release_ms=260.0),
    # Hats only tickled, a mid that makes way for the shell (common practice).
    duckings=(
        Ducking(id="hats", triggers=("kick",), targets=("hat",), duck=DuckRecipe(
            depth_db=2.5, hold_ms=10.0, release_ms=120.0)),
        Ducking(id="mid", triggers=("shell",), targets=("mid",), duck=DuckRecipe(
            depth_db=7.0, hold_ms=30.0, release_ms=180.0)),
    ),
)  # fmt: skip

# A long tuned kick that dives from four octaves, over held notes.
STONEFRUIT = TrackState.of(
    brief=Brief(
        bpm=140.0, tonic="Bb", mode="minor", chord_roots=("Bb", "Bb", "Gb", "Ab"),
    ),
    kick=Hit.of(MadeKick(
        recipe=KickRecipe(
            end_hz=57.4, decay_ms=700.0, length_ms=650.0, start_semitones=48.0, pitch_decay_ms=22.0,
            click_db=-8.0, drive_db=12.0, level_db=-3.0,
        )
    ), steps=on_beats(1, 2.5, 4)),
    bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS["long notes"], wave=0.6, lowpass_hz=300.0)),
)  # fmt: skip

# Another DJ matches beats by the intro: a short kick with a clear click (common practice).
_SHORT = STONEFRUIT.kick.with_source(0, MadeKick(
    recipe=KickRecipe(
        end_hz=58.27, decay_ms=160.0, length_ms=190.0, start_semitones=24.0, pitch_decay_ms=14.0,
        click_db=-2.0, drive_db=6.0, level_db=-3.0,
    )
))  # fmt: skip


def _with_an_intro(state: TrackState) -> Track:
    track = Track(state=state).with_section("intro", "intro", "main")
    track = track.with_state("intro", state.with_part(_SHORT))
    return track.arranged((Entry(section="intro", bars=8), Entry(section="main", bars=16)))


TRACKS = {"Cobnut Rain": COBNUT, "Green Husk": HUSK, "Stonefruit": STONEFRUIT}


def demo_track(name: str) -> Track:
    """One of the invented tracks, with its sections."""
    state = TRACKS[name]
    return _with_an_intro(state) if state is STONEFRUIT else Track.model_validate(state.model_dump())


def fill(studio: Studio) -> None:
    """Put the invented tracks into a studio."""
    with studio.changing() as db:
        for name in TRACKS:
            tracks.create(db, name, demo_track(name).model_dump_json())
