"""Ways out where one low sound runs into another."""

from juglant.core.findings import effect, findings
from juglant.core.lowend.session import Session
from juglant.core.lowend.voices import spills
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Made808
from juglant.core.recipes.notes import HitStep, Note, on_beats
from juglant.core.recipes.parts import MadeBass, Voice
from juglant.core.recipes.track import TrackState
from tests.tracks import changed

SESSION = Session()
LONG_808 = Hit.of(Made808(), name="808", kind="808", steps=(HitStep(at=2.25),))
ONE_BAR = Brief(chord_roots=("tonic",))
ON_ONE = Hit(steps=on_beats(1))


def _line(*notes: Note, **fields: float) -> MadeBass:
    return MadeBass(recipe=BassRecipe(octave=1, pattern=notes, highpass_hz=20.0, **fields))


OVER = TrackState.of(
    brief=ONE_BAR,
    kick=ON_ONE,
    bass=_line(Note(at=1, beats=2)),
    hits=(LONG_808,),
)


def _spill(state: TrackState, old: str, new: str) -> float:
    found = spills(SESSION, SESSION.answer(state))
    return max((one.db for one in found if (one.old, one.new) == (old, new)), default=-99.0)


def _fixes(state: TrackState) -> dict[str, str]:
    found = {one.id: one for one in findings(SESSION, SESSION.answer(state))}
    return found["tail-spill"].fixes


def test_a_line_under_a_hit_is_choked_shortened_or_the_hit_moved() -> None:
    assert _spill(OVER, "bass", "808") > -15
    assert set(_fixes(OVER)) == {"choke", "shorten", "move"}
    answer = SESSION.answer(OVER)
    short = effect(SESSION, answer, "tail-spill", "shorten").state
    assert short.bass.recipe.pattern[0].beats < 1.25  # type: ignore[union-attr]
    assert _spill(short, "bass", "808") <= -15
    moved = effect(SESSION, answer, "tail-spill", "move").state
    assert moved.hits[0].steps[0].at > 2.25
    assert moved.bass == OVER.bass
    choked = effect(SESSION, answer, "tail-spill", "choke").state
    assert choked.hits[0].choke != "none"
    assert _spill(choked, "bass", "808") <= -15


def test_a_note_is_moved_only_where_there_is_room_and_time_is_straight() -> None:
    notes = (Note(at=0.5, beats=2), Note(at=2.75, beats=0.25))
    over = Voice(name="sub", bass=_line(Note(at=0.5, beats=0.25), Note(at=2.0, beats=0.25)))
    state = TrackState.of(brief=ONE_BAR, kick=ON_ONE, bass=_line(*notes), lines=(over,))
    assert _spill(state, "bass", "sub") > -15
    assert "move" in _fixes(state)
    moved = effect(SESSION, SESSION.answer(state), "tail-spill", "move").state
    at = [note.at for note in moved.voices[1].bass.recipe.pattern]  # type: ignore[union-attr]
    assert at[0] == 0.5
    assert at[1] > 2.0
    swung = state.model_copy(update={"brief": ONE_BAR.model_copy(update={"swing_percent": 60.0})})
    assert "move" not in _fixes(swung)
    late = {"bass": _line(Note(at=2, beats=2)), "lines": (Voice(name="sub", bass=_line(Note(at=3.75))),)}
    assert "move" not in _fixes(changed(state, **late))
