"""What is worked out faster, aside or in one go: it is what the plain way gives."""

from threading import Barrier, current_thread

import numpy as np
import pytest
from scipy import integrate, signal

from juglant.core.aside import aside
from juglant.core.lowend.ducking import curve_db, shape_db
from juglant.core.lowend.session import Session
from juglant.core.measure import sweepfit
from juglant.core.measure.hit import measure
from juglant.core.measure.levels import integrated_lufs, true_peak_dbtp
from juglant.core.measure.loopsound import LoopSound, low_band_gain
from juglant.core.measure.pitch import measure_tail
from juglant.core.process import filters, lowpart
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, noise, ring, sine


def test_what_runs_aside_may_run_something_aside_itself_and_none_waits_for_ever() -> None:
    together = Barrier(3, timeout=10.0)

    def inner() -> str:
        together.wait()
        return current_thread().name

    def outer() -> tuple[str, str]:
        # At the third depth it is done in place: nobody is waited for.
        return current_thread().name, aside(lambda: (inner(), aside(lambda: 1).done())).result()[0]

    both = [aside(outer) for _ in range(2)]
    together.wait()
    names = {name for one in both for name in one.result(timeout=10.0)}
    assert len(names) == 4
    with pytest.raises(ZeroDivisionError):
        aside(lambda: 1 / 0).result()


def test_two_sounds_are_measured_at_the_same_time() -> None:
    together = Barrier(2, timeout=10.0)

    class Met(LoopSound):
        @property
        def mono(self) -> np.ndarray:
            together.wait()
            return super().mono

    one, other = (Met(np.stack([ring(hz, 200.0, 0.5)] * 2, axis=1)) for hz in (50, 60))
    begun = aside(lambda: other.decimated)
    assert one.decimated[1] == begun.result(timeout=10.0)[1]
    # Once it is there it stays.
    assert one.decimated is one.decimated


def test_what_an_answer_begins_with_is_kept_for_it() -> None:
    session, state = Session(), TrackState()
    session.begin(state).result(timeout=60.0)
    kept = session.sounds.measured_hit(state.kick, state.brief)
    assert session.answer(state).kick is kept
    [bass] = session.line_stems(state).values()
    assert "level" in vars(vars(bass)["_take"]())


@pytest.mark.parametrize("curve", [-0.6, 0.0, 0.6])
@pytest.mark.parametrize("loop", [True, False])
def test_a_ducking_is_its_curve_at_every_trigger_the_deepest_first(curve: float, loop: bool) -> None:
    recipe = DuckRecipe(
        depth_db=11.0, curve=curve, lookahead_ms=4.0, attack_ms=9.0, hold_ms=40.0, release_ms=300.0
    )
    times, length = [0.0, 123.4, 611.7], 700.0
    at = np.arange(round(length * 48)) / 48
    passes = [
        shape_db(recipe, at - time - shift)
        for time in times
        for shift in ((-length, 0.0, length) if loop else (0.0,))
    ]
    np.testing.assert_allclose(
        curve_db(recipe, times, length, 1 / 48, loop=loop), np.min(passes, axis=0), atol=1e-9
    )


@pytest.mark.parametrize(("hz", "left_db"), [(11_900.0, -112.0), (12_700.0, -112.0), (1000.0, 0.0)])
def test_nothing_folds_onto_the_low_part_and_it_is_as_loud_as_it_was(hz: float, left_db: float) -> None:
    # 97,200 frames with their margins are a multiple of four: then every fourth of them is transformed.
    swelling = sine(hz, 97_200 / RATE) * np.hanning(97_200)
    slow, _ = lowpart.decimated(swelling, RATE, loop=False)
    got_db = 20 * np.log10(float(np.max(np.abs(slow))))
    assert got_db < left_db if left_db < 0 else abs(got_db) < 0.005


@pytest.mark.parametrize(("bend", "tau_s"), [(0.1, 0.2), (1.2, 0.02), (2.5, 0.005), (-0.5, 0.05)])
def test_the_phase_of_a_sweep_is_its_integral(bend: float, tau_s: float) -> None:
    t = np.arange(900) / 3000.0
    rows = np.zeros((sweepfit.SIZE, t.size))
    params = np.array([0.0, bend, np.log(tau_s), 0.0, 0.0, 0.0])
    sweepfit._phases(t, t[1], params, rows, False)
    fine = np.linspace(0.0, t[-1], 899 * 64 + 1)
    whole = integrate.cumulative_simpson(np.exp(bend * np.exp(-fine / tau_s)), x=fine, initial=0.0)
    # In turns, for a tone of 60 Hz.
    assert 60.0 * np.max(np.abs(rows[0] - whole[::64])) < 2e-6


def test_a_sweep_that_is_none_runs_evenly() -> None:
    t = np.arange(30) / 3000.0
    rows = np.ones((sweepfit.SIZE, t.size))
    sweepfit._phases(t, t[1], np.zeros(6), rows, False)
    assert np.array_equal(rows[0], t)
    assert not rows[1:4].any()


def test_what_is_known_to_be_in_no_room_is_not_searched_for_one() -> None:
    # Noise that dies away over a tone: in a room it might hide another.
    x = ring(180.0, 250.0, 0.4) + 0.5 * noise(0.4) * np.exp(-np.arange(round(0.4 * RATE)) / 4000)
    dry = measure_tail(x, RATE, in_room=False)
    assert not isinstance(dry, str)
    assert not dry.before_room
    assert dry.hz == pytest.approx(180.0, rel=0.003)
    assert measure(x, RATE, recorded=False).hit.pitch_confidence == pytest.approx(dry.confidence, abs=0.05)


@pytest.mark.parametrize("size", [1, 2, 3, 4])
def test_sections_two_at_a_time_are_sections_one_after_another(size: int) -> None:
    sections = signal.butter(2 * size, [300.0, 900.0], "bandpass", fs=RATE, output="sos")[:size]
    x = noise(0.2)
    np.testing.assert_allclose(filters.filtered(x, sections), signal.sosfilt(sections, x), atol=1e-9)


def test_loudness_counts_blocks_that_overlap_by_three_quarters() -> None:
    # One second of tone, then silence: the gates leave the blocks that hold it (ITU-R BS.1770-5, annex 1).
    x = np.concatenate([sine(1000.0, 1.0, -20.0), np.zeros(2 * RATE)])
    blocks = [0.4] * 7 + [0.3, 0.2, 0.1]
    mean = np.mean([one / 0.4 for one in blocks])
    assert integrated_lufs(x, RATE) == pytest.approx(-23.01 + 10 * np.log10(mean), abs=0.06)


def test_the_peak_between_samples_is_found_at_the_edges_too() -> None:
    # Tops that lie between samples, 3 dB above them, right at the start and at the end.
    x = np.sin(np.pi / 2 * np.arange(64) + np.pi / 4)
    assert true_peak_dbtp(x[:2]) > 20 * np.log10(np.max(np.abs(x[:2])))
    assert true_peak_dbtp(np.concatenate([x, np.zeros(200)])) == pytest.approx(
        true_peak_dbtp(np.concatenate([np.zeros(200), x])), abs=0.2
    )


def test_a_remembered_gain_is_asked_once_for_the_same_frequencies() -> None:
    asked: list[int] = []

    def gain(hz: np.ndarray) -> np.ndarray:
        asked.append(hz.size)
        return low_band_gain(hz)

    kept, hz = filters.remembered(gain), np.linspace(0.0, 1497.0, 500)
    assert np.allclose(kept(hz), low_band_gain(hz), rtol=0, atol=1e-12)
    assert kept(hz) is kept(hz.copy())
    kept(hz[:300])
    kept(2 * hz)
    assert asked == [500, 300, 500]
