"""Tail pitch: error and time on generated kicks and 808s, beside general pitch trackers."""

import time
from collections.abc import Callable

import numpy as np

from bench.corpus import Case, corpus
from bench.figures import figure, part
from juglant.core.measure import envelope as env
from juglant.core.measure.hit import measure
from juglant.core.measure.pitch import SURE, measure_tail

SIGMAS, GROSS_CENTS = 2.0, 50.0


def cents_off(hz: float, case: Case) -> float:
    """Error in cents, infinite where nothing was found."""
    return abs(1200 * float(np.log2(hz / case.end_hz))) if hz > 0 else float("inf")


def ours(case: Case) -> tuple[float, float, float]:
    """Frequency, sigma and confidence of the product's own measurement."""
    begin = round(env.onset_ms(case.samples, case.rate) / 1000 * case.rate)
    tail = measure_tail(case.samples[begin:], case.rate)
    if isinstance(tail, str):
        return 0.0, 0.0, 0.0
    return tail.hz, tail.sigma_cents, tail.confidence


def _last(track: np.ndarray, levels: np.ndarray) -> float:
    """What a frame-based tracker says of the tail: its level-weighted median in the last half."""
    usable = np.isfinite(track) & (levels > levels.max() * 10 ** (-40 / 20))
    if not usable.any():
        return 0.0
    tail = np.flatnonzero(usable)
    return float(np.median(track[tail[tail.size // 2 :]]))


def pyin(case: Case) -> float:
    """librosa.pyin with its frame fitted to low notes."""
    import librosa

    x = case.samples.astype(np.float32)
    f0, _, _ = librosa.pyin(x, fmin=25, fmax=400, sr=case.rate, frame_length=8192, hop_length=512)
    rms = librosa.feature.rms(y=x, frame_length=2048, hop_length=512)[0]
    return _last(f0, rms[: f0.size])


def yin(case: Case) -> float:
    """librosa.yin with its frame fitted to low notes."""
    import librosa

    x = case.samples.astype(np.float32)
    f0 = librosa.yin(x, fmin=25, fmax=400, sr=case.rate, frame_length=8192, hop_length=512)
    rms = librosa.feature.rms(y=x, frame_length=2048, hop_length=512)[0]
    return _last(f0, rms[: f0.size])


def _timed(call: Callable[[Case], object], cases: list[Case]) -> tuple[list[object], np.ndarray]:
    out, took = [], []
    for case in cases:
        start = time.perf_counter()
        out.append(call(case))
        took.append(1000 * (time.perf_counter() - start))
    return out, np.array(took)


def _row(name: str, errors: np.ndarray, took: np.ndarray) -> None:
    # Nothing found at all counts as the widest error there is.
    errors = np.minimum(errors, 9999)
    middle, high = np.percentile(errors, 50), np.percentile(errors, 95)
    gross = 100 * np.mean(errors > GROSS_CENTS)
    figure(f"{name}: off, median", middle, "cents")
    figure(f"{name}: off, 95th percentile", high, "cents")
    figure(f"{name}: off by more than {GROSS_CENTS:.0f} cents", gross, "%")
    figure(f"{name}: time, median", np.median(took), "ms")


def main(count: int = 400, peers: int = 120) -> None:
    """Print the tables."""
    cases = corpus(count, seed=123)
    ours(cases[0])
    found, took = _timed(ours, cases)
    hz, sigma, sure = (np.array(column) for column in zip(*found, strict=True))
    errors = np.array([cents_off(f, case) for f, case in zip(hz, cases, strict=True)])
    settled = np.array([case.settles for case in cases])
    told = settled & (sure >= SURE)
    part(f"Tail pitch on {count} generated hits, {settled.sum()} of which settle")
    _row("settled", errors[settled], took[settled])
    _row("settled and stated", errors[told], took[told])
    _, whole = _timed(lambda case: measure(case.samples[: case.rate], case.rate), cases[:100])
    some = [k for k in range(min(peers, count)) if settled[k]]
    chosen = [cases[k] for k in some]
    _row(f"same {len(chosen)}: ours", errors[some], took[some])
    peer_ms = {}
    for peer in (pyin, yin):
        peer(chosen[0])
        said, peer_took = _timed(peer, chosen)
        _row(
            f"same {len(chosen)}: {peer.__name__}",
            np.array([cents_off(float(f), case) for f, case in zip(said, chosen, strict=True)]),  # type: ignore[arg-type]
            peer_took,
        )
        peer_ms[peer.__name__] = float(np.median(peer_took))
    figure("wrong by more than 50 cents, and sure", np.sum(errors[told] > GROSS_CENTS))
    honest = 100 * np.mean(errors[told] <= SIGMAS * sigma[told])
    figure("error within two sigma", honest, "%")
    figure("settled but not stated", 100 * np.mean(sure[settled] < SURE), "%")
    if (~settled).any():
        print(f"  unsettled told by confidence < 0.5: {100 * np.mean(sure[~settled] < SURE):.1f} %")
    middle, high = np.percentile(whole, 50), np.percentile(whole, 95)
    print(f"  all numbers of a hit of up to 1 s: median {middle:.1f} ms, p95 {high:.1f} ms")
    print(f"  time ratio pyin / ours {peer_ms['pyin'] / np.median(took):.1f}, yin / ours "
          f"{peer_ms['yin'] / np.median(took):.1f}\n")  # fmt: skip
