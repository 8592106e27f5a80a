"""The low end solved as a whole: what can be closed is closed, locks hold, degrees are in order."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import pytest
import soundfile

from bench.tracks import hz_of, kick, line
from juglant.cli.lowend import loaded
from juglant.core.findings import findings
from juglant.core.findings.judge import effect, fixes
from juglant.core.findings.solving import STEPS, Solution, change, solve, solve_sections
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.music import cents_between
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Imported
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Section, Track
from juglant.core.recipes.track import TrackState
from juglant.files.audio import Audio
from tests.shell import as_json
from tests.signals import RATE, Array

pytestmark = pytest.mark.thorough


@dataclass(frozen=True)
class Pair:
    """A kick and a bass, apart from the product's own generators."""

    kick: Array
    bass: Array
    bpm: float


def _pair(off: float, ms: float, kind: str, bpm: float) -> Pair:
    notes = [(float(n), 0.95, 33 if n % 8 < 6 else 29) for n in range(8)]
    return Pair(kick(hz_of(33) * off, ms), line(notes, bpm, 2, kind, 0.5), bpm)


PAIRS = {
    "off key and long": _pair(1.03, 380.0, "saw", 126.0), "short": _pair(1.0, 160.0, "pluck", 132.0),
    "very long": _pair(0.97, 900.0, "sub", 122.0),
}  # fmt: skip


def _state(pair: Pair) -> tuple[Session, TrackState]:
    brief = {"bpm": pair.bpm, "tonic": "A", "mode": "minor"}
    hit, line_ = (Audio(one, RATE, "WAV") for one in (pair.kick, pair.bass))
    return loaded(hit, line_, brief, (1.0, 2.0, 3.0, 4.0))


@cache
def _solved(name: str) -> tuple[Session, TrackState, Solution]:
    session, state = _state(PAIRS[name])
    return session, state, solve(session, state)


@pytest.mark.parametrize("name", PAIRS)
def test_what_can_be_closed_is_closed_and_nothing_is_opened(name: str) -> None:
    session, state, found = _solved(name)
    was = {one.id for one in findings(session, session.answer(state))}
    answer = session.answer(found.best.state)
    now = {one.id for one in findings(session, answer)}
    assert now <= was
    assert set(found.best.left) <= now
    # What is left has no fix that would close it.
    for id in found.best.left:
        assert not any(one.closes for one in fixes(session, answer, id))


@pytest.mark.parametrize("name", PAIRS)
def test_degrees_go_from_untouched_to_clear_with_more_change(name: str) -> None:
    session, state, found = _solved(name)
    assert found.degrees[0].state == state
    assert found.degrees[0].change == 0.0
    counts = [len(one.left) for one in found.degrees]
    assert counts == sorted(counts, reverse=True)
    for n, one in enumerate(found.degrees):
        assert len(one.steps) == n
        assert one.change == pytest.approx(
            change(session.answer(state), session.answer(one.state)), abs=0.01
        )


@pytest.mark.parametrize("name", PAIRS)
def test_it_changes_no_more_than_the_fixes_one_after_the_other(name: str) -> None:
    session, state, found = _solved(name)
    at = state
    for _ in range(8):
        answer = session.answer(at)
        # Inside the school: to whom the sub belongs is not a step of it.
        open_ = [one for one in findings(session, answer) if one.step in STEPS]
        offered = [(one.id, fixes(session, answer, one.id)) for one in open_]
        first = next(((id, ways) for id, ways in offered if ways), None)
        if first is None:
            break
        at = effect(session, answer, first[0], first[1][0].way).state
    one_by_one = change(session.answer(state), session.answer(at))
    left = sum(one.step in STEPS for one in findings(session, session.answer(at)))
    assert (len(found.best.left), found.best.change) <= (left, one_by_one + 0.01)


@pytest.mark.parametrize("part", ["kick", "bass"])
def test_what_is_locked_stays_as_it_is(part: str) -> None:
    session, state = _state(PAIRS["off key and long"])
    id = state.kick.id if part == "kick" else state.voices[0].id
    found = solve(session, state, {id})
    assert found.best.state.part(id) == state.part(id)
    before, after = session.answer(state), session.answer(found.best.state)
    side = "kick_loop" if part == "kick" else "bass_loop"
    assert np.array_equal(getattr(before, side).samples, getattr(after, side).samples)
    assert found.best.steps


def test_a_step_that_is_left_out_is_not_taken_and_the_rest_is_solved_again() -> None:
    session, state, found = _solved("off key and long")
    tuning = next(step for step in found.best.steps if step.finding == "off-key-kick")
    without = solve(session, state, without={(tuning.finding, tuning.way)})
    assert tuning.finding in without.best.left
    assert (tuning.finding, tuning.way) not in {(step.finding, step.way) for step in without.best.steps}
    assert without.best.steps


def test_the_same_question_gives_the_same_answer_and_a_stop_stops() -> None:
    session, state, found = _solved("short")
    again = solve(session, state)
    assert again.best.state == found.best.state
    session, state = _state(PAIRS["off key and long"])
    stopped = solve(session, state, told=lambda looked, left: False)
    assert stopped.looked_at == 1
    assert stopped.best.state == state


def test_every_section_is_solved_main_first_and_what_holds_everywhere_is_main_s() -> None:
    session, state = _state(PAIRS["off key and long"])
    track = Track(
        state=state, sections=(Section(id="main", name="drop"), Section(id="break", name="break"))
    )
    # The break has a bass of its own, louder than main's.
    louder = state.with_part(
        state.voices[0].model_copy(update={"place": Place(gain_db=6.0, width=0.0)})
    ).with_duck(duck=DuckRecipe(depth_db=1.0))
    track = track.with_state("break", louder)
    heard: list[str] = []

    def told(section: str, _: int, __: int) -> bool:
        heard.append(section)
        return True

    after, found = solve_sections(session, track, told=told)
    assert list(found) == ["main", "break"] == list(dict.fromkeys(heard))
    for section in ("main", "break"):
        was, now = (
            {one.id for one in findings(session, session.answer(each.at(section))) if one.step in STEPS}
            for each in (track, after)
        )
        assert now == set(found[section].best.left) <= was
    assert found["main"].best.steps
    # Its tuning reaches the break, whose own bass stays as loud as it was.
    there, here = (kick.only_source for kick in (after.at("break").kick, after.state.kick))
    assert isinstance(there, Imported)
    assert isinstance(here, Imported)
    assert there.shift_semitones == here.shift_semitones != 0.0
    assert after.at("break").voices[0].place.gain_db == 6.0
    assert after.at("break").separate == after.state.separate
    # A stop keeps what was solved so far.
    _, stopped = solve_sections(session, track, told=lambda section, looked, left: False)
    assert list(stopped) == ["main"]


def test_the_shell_writes_what_leaves_and_says_what_was_done(tmp_path: Path) -> None:
    pair = PAIRS["off key and long"]
    for name in ("kick", "bass"):
        soundfile.write(tmp_path / f"{name}.wav", getattr(pair, name), RATE, "PCM_24")
    asked = ("--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "--key", "A minor", "-o", "out")
    told = as_json(tmp_path, "solve", *asked)
    assert told["after"]["collision_share"] < 0.1 < told["before"]["collision_share"]
    assert [step["finding"] for step in told["steps"]][:1] == ["collision"]
    assert all(Path(tmp_path / name).exists() for name in told["files"])
    x, rate = soundfile.read(tmp_path / "out" / "kick.wav")
    hz = measure(x, rate).hit.fundamental_hz
    assert hz is not None
    # A1 is 55 Hz (ISO 16:1975).
    assert abs(cents_between(hz, 55.0)) < 10.0
    loops = [
        soundfile.read(tmp_path / "out" / f"{name}.wav")[0] for name in ("kick_loop", "bass_ducked", "mix")
    ]
    assert np.abs(loops[0] + loops[1] - loops[2]).max() < 1e-5
