"""What is made again after a change, by the names of what makes it: counted, not timed.

A sound that does not depend on a field is not made again for it; one that does always is.
"""

from collections.abc import Callable
from typing import Any

import pytest

from juglant.core.kept import key_of
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DriveStage, EqualiserStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.hit import Hit, MadeHat, MadeKick
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import (
    Chord,
    ImportedBass,
    MadeBass,
    Output,
    Outputs,
    PlayedBass,
    RumbleBass,
    Stem,
    Voice,
)
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, ring

FILE = 0.5 * ring(55.0, 400, 1.0)
BRIEF = Brief(bpm=180.0, chord_roots=("A", "C"), tonic="A", mode="minor")


def _track() -> TrackState:
    """A part of every kind, each through a stage or a place of its own; two duckings."""
    hat = Hit.of(
        MadeHat(), name="Hat", kind="hat", id="hat", steps=on_beats(1.5, 2.5), chain=(DriveStage(),)
    )
    lines = (
        Voice(id="played", name="Played", bass=PlayedBass(hit=Hit.of(MadeKick(), name="Low", kind="tom"))),
        Voice(id="rumble", name="Rumble", bass=RumbleBass()),
        Voice(
            id="file", name="File", bass=ImportedBass(audio="a" * 64, name="f.wav"), place=Place(pan=0.3)
        ),
    )
    state = TrackState.of(
        brief=BRIEF, hits=(hat,), lines=lines, chords=(Chord(id="pad", name="Pad"),),
        stems=(Stem(id="loop", name="Loop", audio="b" * 64),), bass=MadeBass(recipe=BassRecipe(octave=2)),
    )  # fmt: skip
    bass = state.voices[0].model_copy(update={"stages": (EqualiserStage(bell_db=3.0),)})
    copy = Outputs(id="copy", name="Copy", sources=(Output(of="hat"), Output(of="pad", gain_db=-6.0)))
    pads = Ducking(
        id="pads", triggers=("hat",), targets=(Target(part="pad"),), duck=DuckRecipe(depth_db=6.0)
    )
    state = state.with_part(bass)
    return state.model_copy(update={"parts": (*state.parts, copy), "duckings": (*state.duckings, pads)})


STATE = _track()


class _Counting(Session):
    """A session that notes what it makes of a loop."""

    def __init__(self) -> None:
        super().__init__(lambda _: (FILE, RATE))
        self.made: list[str] = []
        sound = self.sounds.sound

        def noted(render: Callable[..., Any], *seen: Any, **named: Any) -> LoopSound:
            # Made where it is not kept: the key tells.
            key = key_of(render, *seen, **named)
            if key not in self.keys:
                self.keys.add(key)
                self.made.append(render.__name__.strip("_"))
            return sound(render, *seen, **named)

        self.keys: set[str] = set()
        self.sounds.sound = noted  # type: ignore[method-assign]

    def after(self, state: TrackState) -> set[str]:
        """What everything that is heard of a state needs anew."""
        self.made.clear()
        for one in self.sounding(state):
            assert one.heard.key
        self.parts.sum_loop(state)
        return set(self.made)


@pytest.fixture
def here() -> _Counting:
    counting = _Counting()
    assert counting.after(STATE) >= {
        "made_line", "played_line", "rumble", "file_line", "stem", "hit_loop", "stand_in", "staged", "put",
        "added", "together", "turned_down",
    }  # fmt: skip
    return counting


def _brief(**changes: object) -> TrackState:
    return STATE.model_copy(update={"brief": STATE.brief.model_copy(update=changes)})


def _part(id: str, **changes: object) -> TrackState:
    part = STATE.part(id)
    assert part is not None
    return STATE.with_part(part.model_copy(update=changes))


# Behind all of them: what their loops become further on.
_LATER = {"together", "turned_down", "put", "staged", "added", "choked", "carved", "turned"}


@pytest.mark.parametrize(
    ("change", "again"),
    [
        (lambda: STATE, set()),
        # What is only judged or said by.
        (lambda: _brief(cure="carving first"), set()),
        (lambda: _brief(sub_owner="bass"), set()),
        (lambda: _part("hat", name="Other"), set()),
        (lambda: _part("kick", aim="free"), set()),
        (lambda: STATE.with_duck(solved_for="abc"), set()),
        # A mode is heard in held chords, and in what is tuned by the key.
        (lambda: _brief(mode="major"), {"stand_in", "played_line", "rumble"}),
        (lambda: _brief(low_cut="firm"), {"made_line", "played_line", "rumble", "file_line"}),
        (lambda: _brief(a4_hz=432.0), {"made_line", "played_line", "rumble", "stand_in"}),
        # A loop whose slices do not swing stays as it is.
        (lambda: _brief(swing_percent=62.0), {"made_line", "played_line", "rumble", "file_line"}),
        (lambda: _brief(bpm=181.0), {
            "made_line", "played_line", "rumble", "file_line", "stem", "hit_loop", "stand_in",
        }),
        (lambda: _brief(chord_roots=("A", "D")), {
            "made_line", "played_line", "rumble", "file_line", "stem", "stand_in",
        }),
        # One part, and what follows from it.
        (lambda: _part("hat", level_db=-2.0), {"hit_loop"}),
        (lambda: _part("hat", steps=on_beats(3)), {"hit_loop"}),
        (lambda: _part("hat", place=Place(pan=0.5)), set()),
        (lambda: _part("loop", begin_ms=4.0), {"stem"}),
        (lambda: _part("loop", own_bpm=170.0), {"stem"}),
        (lambda: _part("file", place=Place(pan=-0.3)), set()),
        (lambda: _part("file", place=Place(width=0.0)), {"file_line"}),
        (lambda: _part("copy", stages=(DriveStage(),)), set()),
        # A rumble is made of the kick.
        (lambda: _part("kick", level_db=-1.0), {"hit_loop", "rumble"}),
        (lambda: STATE.with_bass("bass", MadeBass(recipe=BassRecipe(octave=1))), {"made_line"}),
        (lambda: STATE.with_duck(duck=DuckRecipe(depth_db=9.0)), set()),
    ],
)  # fmt: skip
def test_only_what_depends_on_a_change_is_made_again(
    here: _Counting, change: Callable[[], TrackState], again: set[str]
) -> None:
    assert here.after(change()) - _LATER == again
    # Both are kept: going back and forth makes nothing.
    assert here.after(STATE) | here.after(change()) == set()


@pytest.mark.parametrize(
    ("change", "again"),
    [
        (lambda: _part("hat", place=Place(pan=0.5)), {"put"}),
        (lambda: _part("hat", place=Place(delay_ms=2.0)), {"turned"}),
        (lambda: _part("bass", stages=(EqualiserStage(bell_db=4.0),)), {"staged"}),
        (lambda: _part("bass", stages=()), set()),
        (lambda: STATE.with_duck(duck=DuckRecipe(depth_db=13.0)), {"turned_down"}),
        (lambda: STATE.with_duck(on=False), set()),
    ],
)  # fmt: skip
def test_what_comes_after_a_loop_is_made_again_from_where_it_differs(
    here: _Counting, change: Callable[[], TrackState], again: set[str]
) -> None:
    """Whatever is laid together of it follows; what is far from it stays."""
    found = here.after(change())
    assert again <= found
    assert found <= _LATER


def test_a_line_that_is_a_file_is_listened_to_at_any_level() -> None:
    """Its notes are those of the file; level and sides of the place are not asked."""
    from juglant.core.lowend.linenotes import line_notes

    sounds = _Counting().sounds
    plain = line_notes(sounds, STATE, STATE.voice("file"))
    louder = ImportedBass(audio="a" * 64, name="f.wav", level_db=6.0)
    state = STATE.with_bass("file", louder)
    assert line_notes(sounds, state, state.voice("file")) is not plain
    assert line_notes(sounds, state, state.voice("file")) == plain
