"""Findings on states made to have them, and fixes that must mend what they promise."""

import pytest

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings, fixes
from juglant.core.findings.fixes import PEAK_DBTP
from juglant.core.findings.hits import OFF_KEY_CENTS
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Layer, Made808, MadeClap, MadeHat, MadeKick, MadeMembrane
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.separate import BassCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState
from tests.tracks import changed


def _nothing(digest: str) -> tuple[Array, int]:
    raise AssertionError(digest)


SESSION = Session(_nothing)
# Common practice throughout: a kick in key, off the bass's octave, ducked and returning.
CLEAN = TrackState.of(
    brief=Brief(bpm=124, tonic="A", mode="minor"),
    kick=Hit.of(
        MadeKick(
            recipe=KickRecipe(end_hz=55.0, decay_ms=240, length_ms=260, pitch_decay_ms=14, level_db=-6)
        )
    ),
    bass=MadeBass(recipe=BassRecipe(octave=2, level_db=-14, highpass_hz=80)),
    duck=DuckRecipe(depth_db=9, hold_ms=60, release_ms=120),
)


def _with(**parts: object) -> TrackState:
    new = {}
    for name, values in parts.items():
        part = getattr(CLEAN, name)
        if name == "kick":
            recipe = part.only_source.recipe.model_copy(update=values)
            new[name] = Hit.of(MadeKick(recipe=recipe))
        elif name == "bass":
            recipe = part.recipe.model_copy(update=values)
            new[name] = part.model_copy(update={"recipe": recipe})
        elif isinstance(values, dict):
            new[name] = part.model_copy(update=values)
    return changed(CLEAN, **new)


TOM = Hit.of(MadeKick(recipe=KickRecipe(end_hz=101.0, start_semitones=12.0)), name="Tom", kind="tom")
FULL_BASS = {"octave": 1, "level_db": -6.0, "highpass_hz": 20.0, "pattern": PATTERNS["with the kick"]}
CASES = {
    "off-key-kick": _with(kick={"end_hz": 56.5}),
    "tail-spill": _with(kick={"decay_ms": 900.0, "length_ms": 480.0}, bass={"level_db": -12.0}),
    "sub-shared": _with(bass=FULL_BASS, duck={"depth_db": 6.0}),
    "sub-nobody": _with(brief={"sub_owner": "bass"}),
    "sub-loss": _with(
        brief={"sub_owner": "bass"},
        kick={"decay_ms": 120.0, "length_ms": 140.0},
        bass={**FULL_BASS, "level_db": -3.0},
        duck={"band": "all", "depth_db": 12.0},
    ),
    "collision": _with(bass=FULL_BASS, duck={"depth_db": 3.0}),
    "duck-never-returns": _with(duck={"hold_ms": 300.0, "release_ms": 400.0}),
    "duck-clicks": _with(duck={"depth_db": 36.0, "attack_ms": 1.0}),
    "kick-out-of-chord": _with(
        brief={"chord_roots": ("A", "B")}, kick={"decay_ms": 1000.0, "length_ms": 480.0}
    ),
    "cancels": changed(
        _with(bass={**FULL_BASS, "level_db": -11.0}, kick={"decay_ms": 300.0}),
        ducking=False,
        separate=SeparateRecipe(bass=BassCarve(shift_ms=-3.0, polarity="inverted")),
    ),
    "rumble": _with(kick={"end_hz": 44.0, "sub_db": -5.0, "decay_ms": 420.0, "length_ms": 440.0}),
    "off-key-tom": changed(CLEAN, hits=(TOM,)),
    "mix-peak": _with(
        kick={"level_db": 0.0}, bass={"level_db": -3.0, "pattern": PATTERNS["with the kick"]}
    ),
}


def _ids(state: TrackState) -> list[str]:
    return [finding.id for finding in findings(SESSION, SESSION.answer(state))]


def test_a_clean_state_has_none() -> None:
    assert _ids(CLEAN) == []


@pytest.mark.parametrize("expected", CASES)
def test_each_finding_is_found_with_its_number_beyond_its_limit(expected: str) -> None:
    answer = SESSION.answer(CASES[expected])
    found = {finding.id: finding for finding in findings(SESSION, answer)}
    assert expected in found
    finding = found[expected]
    assert finding.sentence.endswith(".")
    assert finding.why
    assert finding.unit
    assert finding.value != finding.limit


@pytest.mark.thorough
@pytest.mark.parametrize("expected", CASES)
def test_each_fix_clears_its_own_finding(expected: str) -> None:
    answer = SESSION.answer(CASES[expected])
    mended = effect(SESSION, answer, expected)
    assert expected in mended.closes
    assert expected not in _ids(mended.state)
    assert mended.after is None or mended.after != mended.before


def test_an_inaudible_state_is_not_judged_and_an_unknown_fix_is_refused() -> None:
    answer = SESSION.answer(CLEAN)
    with pytest.raises(UserError, match="nothing to mend"):
        effect(SESSION, answer, "collision")
    with pytest.raises(UserError, match="no finding called"):
        effect(SESSION, answer, "too-beige")


def test_the_order_follows_the_order_of_cure() -> None:
    both = _with(kick={"end_hz": 56.5}, bass=FULL_BASS, duck={"depth_db": 3.0})
    ducked = both.model_copy(update={"brief": both.brief.model_copy(update={"cure": "ducking first"})})
    carved = both.model_copy(update={"brief": both.brief.model_copy(update={"cure": "carving first"})})
    assert _ids(ducked).index("collision") < _ids(ducked).index("off-key-kick")
    assert _ids(carved).index("off-key-kick") < _ids(carved).index("collision")


def test_the_sub_may_be_given_to_the_other_where_nobody_owns_it() -> None:
    answer = SESSION.answer(CASES["sub-nobody"])
    offered = fixes(SESSION, answer, "sub-nobody")
    assert offered[0].way == "give"
    assert offered[0].closes


def test_sounds_that_take_turns_do_not_share_the_sub() -> None:
    long = {"decay_ms": 420.0, "length_ms": 440.0}
    turns, together = (
        _with(bass={**FULL_BASS, "pattern": PATTERNS[name]}, kick=long).with_duck(on=False)
        for name in ("off-beats", "with the kick")
    )
    shared = [SESSION.answer(state).after.sub_shared_ms for state in (turns, together)]
    assert shared[0] is not None
    assert shared[1] is not None
    assert shared[0] < 50.0 < shared[1]


@pytest.mark.thorough
def test_a_fix_is_offered_only_with_what_it_was_measured_to_do() -> None:
    for name, state in CASES.items():
        answer = SESSION.answer(state)
        for one in fixes(SESSION, answer, name):
            assert one.opens == []
            mended = SESSION.answer(effect(SESSION, answer, name, one.way).state)
            assert one.closes == (name not in [found.id for found in findings(SESSION, mended)])


@pytest.mark.parametrize("end_hz", [50.0, 53.5, 56.5, 61.0])
def test_tuning_lands_within_two_cents_as_measured(end_hz: float) -> None:
    state = _with(kick={"end_hz": end_hz})
    for move in SESSION.sounds.moves(state.kick, state.brief)[:3]:
        hit = SESSION.sounds.measured_hit(
            SESSION.sounds.tuned(state.kick, state.brief, move.note), state.brief
        ).hit
        assert hit.note == move.note
        assert hit.cents == pytest.approx(0.0, abs=2.0)


def test_a_long_kick_is_told_the_bar_in_which_it_leaves_the_chord() -> None:
    answer = SESSION.answer(CASES["kick-out-of-chord"])
    found = next(one for one in findings(SESSION, answer) if one.id == "kick-out-of-chord")
    # A over B is a seventh: ten semitones; A over E a fourth, which holds (common practice).
    assert "In bar 2, over B, the kick's A1 lies 10 semitones above the root" in found.sentence
    held = _with(brief={"chord_roots": ("A", "E", "D")}, kick={"decay_ms": 1000.0, "length_ms": 480.0})
    assert "kick-out-of-chord" not in _ids(held)


def test_moves_are_in_key_nearest_first_and_say_what_they_cost() -> None:
    moves = SESSION.sounds.moves(CASES["off-key-kick"].kick, CLEAN.brief)
    assert moves[0].note == "A1"
    assert moves[0].is_tonic
    assert abs(moves[0].shift_cents) > OFF_KEY_CENTS
    assert [abs(m.shift_cents) for m in moves] == sorted(abs(m.shift_cents) for m in moves)
    assert {m.midi % 12 for m in moves} <= set(CLEAN.brief.key.classes)
    assert all(m.club_plays_it == (m.hz >= 35.0) for m in moves)  # common practice


def test_levels_are_brought_under_the_limit() -> None:
    mended = effect(SESSION, SESSION.answer(CASES["mix-peak"]), "mix-peak")
    assert mended.after is not None
    assert mended.after <= PEAK_DBTP


def _hits(*hits: Hit, **fields: object) -> TrackState:
    return changed(CLEAN, hits=hits, **fields)


BODY = Layer(name="body", source=MadeMembrane())
FAR = MadeClap(recipe=MadeClap().recipe.model_copy(update={"seed": 3}))
HIT_CASES = {
    "hole-kick": _with(kick={"click_db": -60.0, "start_semitones": 12.0}),
    "idle-layer-snare": _hits(
        Hit(name="Snare", kind="snare", layers=(BODY, Layer(name="ghost", job="texture", source=MadeHat(), gain_db=-48.0)))
    ),
    "same-job-thud": _hits(
        Hit(
            name="Thud", kind="tom",
            layers=(Layer(source=MadeKick()), Layer(name="again", source=MadeKick(), gain_db=-3.0, offset_ms=2.0)),
        )
    ),
    "delayed-width-wide": _hits(
        Hit(name="Clap", kind="clap", layers=(Layer(source=MadeClap()),)),
        Hit(
            name="Wide", kind="clap",
            layers=(
                Layer(name="left", job="width", source=FAR, pan=-1.0),
                Layer(name="right", job="width", source=FAR, pan=1.0, offset_ms=4.0),
            ),
        ),
    ),
    "wide-low-end-boomer": _hits(
        Hit(
            name="Boomer", kind="808",
            layers=(
                Layer(name="left", job="width", source=Made808(), pan=-1.0),
                Layer(name="right", job="width", source=Made808(), pan=1.0, polarity="inverted"),
            ),
        )
    ),
    "too-long-kick": _with(kick={"decay_ms": 1200.0, "length_ms": 900.0}),
}  # fmt: skip


@pytest.mark.parametrize("expected", HIT_CASES)
def test_each_finding_of_a_hit_is_found_and_cleared_by_its_fix(expected: str) -> None:
    state = HIT_CASES[expected]
    found = {finding.id: finding for finding in findings(SESSION, SESSION.answer(state))}
    assert expected in found
    assert found[expected].step == "hits"
    mended = effect(SESSION, SESSION.answer(state), expected)
    assert expected in mended.closes
    # Everything else of the state is as it was.
    assert len(mended.state.hits) == len(state.hits)
    assert mended.state.brief == state.brief


def test_two_different_claps_left_and_right_are_no_finding() -> None:
    wide = Hit(
        name="Claps", kind="clap",
        layers=(
            Layer(name="left", job="width", source=MadeClap(), pan=-1.0),
            Layer(name="right", job="width", source=FAR, pan=1.0),
        ),
    )  # fmt: skip
    assert not [id for id in _ids(_hits(wide)) if id.endswith("-1")]
