"""What is offered for files that are clipped, cut wrongly or at another tempo does what it says."""

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.signal import sawtooth

from juglant.core.findings import effect, findings, fixes
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import flat_tops
from juglant.core.process.declipping import can_restore, restored
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise, ring, sine
from tests.tracks import changed

FILE, OTHER = "a" * 64, "b" * 64
BEAT = RATE // 2


def _error_db(x: Array, y: Array, of: NDArray[np.bool_]) -> float:
    return float(10 * np.log10(np.sum((x - y)[of] ** 2) / np.sum(x[of] ** 2)))


@pytest.mark.parametrize("hz", [45.0, 110.0])
@pytest.mark.parametrize("by_db", [1.0, 3.0, 6.0])
def test_the_tops_of_a_clipped_kick_come_back(hz: float, by_db: float) -> None:
    """Judged as published surveys of declipping do: by the error of what was cut off (from memory)."""
    x = ring(hz, 9000, 0.9)
    limit = 10 ** (-by_db / 20)
    clipped = np.clip(x, -limit, limit)
    lost = np.abs(x) > limit
    assert can_restore(clipped)
    back = restored(clipped)
    assert _error_db(x, back, lost) < _error_db(x, clipped, lost) - 12.0
    assert np.allclose(back[~lost], x[~lost], atol=2e-4)
    assert flat_tops(np.stack([back, back], axis=1)) == 0


def test_what_cannot_be_told_from_what_is_left_is_not_restored() -> None:
    saw = np.clip(sawtooth(2 * np.pi * 55 * np.arange(RATE) / RATE + 0.3), -0.5, 0.5)
    assert flat_tops(saw) > 0
    assert not can_restore(saw)
    assert not can_restore(np.clip(noise(0.3), -0.2, 0.2))


def _strokes(*beats: float) -> Array:
    """A file of strokes on beats at 120 BPM, three beats long, the later ones softer."""
    x = np.zeros(3 * BEAT)
    for n, beat in enumerate(beats):
        start = round(beat * BEAT)
        stroke = (ring(70, 250, 0.4) + 0.5 * noise(0.4, seed=n) * ring(1.0, 60, 0.4)) * (0.7 - 0.1 * n)
        x[start : start + stroke.size] += stroke[: x.size - start]
    return x


def _hit_track(x: Array, bars: int = 1) -> tuple[Session, TrackState]:
    session = Session(lambda digest: (x, RATE))
    hit = Hit.of(Imported(audio=FILE, name="loop.wav"), id="perc", name="Perc", kind="percussion")
    hit = hit.model_copy(update={"steps": on_beats(1)})
    brief = Brief(bpm=120.0, chord_roots=("tonic",) * bars)
    return session, TrackState.of(brief=brief, hits=(hit,))


def _ways(session: Session, state: TrackState, id: str) -> list[str]:
    answer = session.answer(state)
    assert id in [one.id for one in findings(session, answer)]
    return [one.way for one in fixes(session, answer, id) if one.closes and not one.opens]


def test_several_strokes_are_kept_in_turn_or_struck_as_they_were_played() -> None:
    x = _strokes(0.0, 0.75, 1.5, 2.27)
    session, state = _hit_track(x)
    assert _ways(session, state, "several-strokes-perc.0") == ["first", "cut", "played"]
    answer = session.answer(state)
    cut, played = (
        effect(session, answer, "several-strokes-perc.0", way).state for way in ("cut", "played")
    )
    [in_turn] = [cut.hit("perc")]
    assert in_turn.steps == on_beats(1)
    assert len(in_turn.layers[0].source.takes) == 3  # type: ignore[union-attr]
    assert [step.at for step in played.hit("perc").steps] == pytest.approx([0.0, 0.75, 1.5, 2.27], abs=0.02)
    loop = session.parts.part(played, "perc")
    assert loop is not None
    sounds = loop.mono[: x.size]
    # The fades between the strokes are all that differs.
    assert 10 * np.log10(np.sum((sounds - x) ** 2) / np.sum(x**2)) < -20.0


def test_a_texture_is_cut_into_half_beats() -> None:
    session, state = _hit_track(0.2 * noise(2.2))
    assert "cut" in _ways(session, state, "continuous-perc.0")
    hit = effect(session, session.answer(state), "continuous-perc.0", "cut").state.hit("perc")
    source = hit.layers[0].source
    assert isinstance(source, Imported)
    assert source.end_ms == pytest.approx(250.0)
    assert [take.start_ms for take in source.takes] == pytest.approx([250.0 * n for n in range(1, 8)])


def _loops(file: Array, other: Array | None = None, **stem: object) -> tuple[Session, TrackState]:
    files = {FILE: file, OTHER: file if other is None else other}
    session = Session(lambda digest: (files[digest], RATE))
    stems = (Stem.model_validate({"id": "loop", "name": "Loop", "audio": FILE, **stem}),)
    return session, TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic",)), stems=stems)


def test_a_loop_at_another_tempo_is_fitted_by_its_slices_or_resampled() -> None:
    x = np.zeros(round(4 * BEAT * 120 / 126))
    for n in range(4):
        start = n * x.size // 4
        x[start : start + BEAT // 2] += 0.3 * noise(0.25, seed=n) * ring(1.0, 120, 0.25)
    session, state = _loops(x)
    assert {"slices", "resample"} <= set(_ways(session, state, "tempo-loop"))
    answer = session.answer(state)
    for way, fit in (("slices", "by slices"), ("resample", "by resampling")):
        stem = effect(session, answer, "tempo-loop", way).state.stem("loop")
        assert stem.fit == fit
        assert stem.own_bpm == pytest.approx(126.0, abs=0.01)


def test_a_clipped_loop_is_restored_where_that_is_safe() -> None:
    session, state = _loops(np.clip(1.5 * sine(60.0, 2.0), -0.9, 0.9))
    assert _ways(session, state, "flat-top-loop") == ["restore"]
    session, state = _loops(np.clip(noise(2.0), -0.15, 0.15))
    assert _ways(session, state, "flat-top-loop") == []


def test_a_line_against_another_is_brought_in_step() -> None:
    note = 0.2 * ring(1.0, 500, 0.5) * sawtooth(2 * np.pi * 61 * np.arange(BEAT) / RATE + 3.0)
    tone = np.tile(note, 4)
    late = -np.roll(tone, round(0.0016 * RATE))
    session, state = _loops(0.01 * tone)
    files = {FILE: tone, OTHER: late}
    session = Session(lambda digest: (files[digest], RATE))
    second = Voice(id="second", name="Second", bass=ImportedBass(audio=OTHER, name="b.wav"))
    state = changed(state, stems=(), bass=ImportedBass(audio=FILE, name="a.wav"), lines=(second,))
    id = "lines-cancel-bass.second"
    assert "align" in _ways(session, state, id)
    place = effect(session, session.answer(state), id, "align").state.voice("second").place
    assert place.polarity == "inverted"
    assert place.delay_ms == pytest.approx(-1.6, abs=0.2)
