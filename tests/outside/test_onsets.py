"""Onsets against a general detector, on takes whose onsets are known."""

import librosa
import numpy as np
import pytest

from bench.corpus import corpus
from juglant.core.measure.envelope import onset_ms
from juglant.core.measure.pitch import measure_tail
from juglant.core.measure.tailmodel import TailPitch
from tests.signals import RATE, silence

CASES = corpus(12, seed=31, noise_db=np.nan, rate=RATE)


@pytest.mark.parametrize("index", range(12))
def test_the_onset_is_no_further_off_than_librosas(index: int) -> None:
    at_s = 0.15 + 0.02 * index
    x = np.concatenate([silence(at_s), CASES[index].samples, silence(0.3)])
    ours = onset_ms(x, RATE)
    found = librosa.onset.onset_detect(y=x.astype(np.float32), sr=RATE, units="time", backtrack=False)
    assert ours == pytest.approx(1000 * at_s, abs=4.0)
    if found.size:
        assert abs(ours - 1000 * at_s) <= min(abs(found - at_s)) * 1000 + 1.0


def test_a_pitch_does_not_depend_on_the_level_or_the_sign() -> None:
    for case in CASES[:5]:
        usual = measure_tail(case.samples, RATE)
        assert isinstance(usual, TailPitch)
        for gain in (-1.0, 0.01, 30.0):
            other = measure_tail(gain * case.samples, RATE)
            assert isinstance(other, TailPitch)
            assert 1200 * np.log2(other.hz / usual.hz) == pytest.approx(0.0, abs=0.5 + usual.sigma_cents)
