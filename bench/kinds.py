"""Kinds of one-shots: learned from General MIDI drums and made ones, and scored on sets left out.

`python -m bench.kinds [SET.sf2 …] [--write]` takes the installed set and those named; with `--write` it
writes what the core tells kinds by.
"""

import json
import sys
import warnings
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from sklearn.linear_model import LogisticRegression
from sklearn.metrics import confusion_matrix

from bench.instruments import KITS, RATE, SET, played
from juglant.core.hits.making import made
from juglant.core.hits.scatter import scatter
from juglant.core.measure.envelope import onset_ms
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.starts import STARTS
from juglant.core.stock import kinds
from juglant.core.stock.portrait import NAMES, portrait

Array = NDArray[np.float64]
Shot = tuple[str, Array]

# Drum keys of General MIDI System Level 1, by what they are; cymbals are hats, longer.
KEYS: dict[str, tuple[int, ...]] = {
    "kick": (35, 36), "snare": (38, 40), "clap": (39,), "tom": (41, 43, 45, 47, 48, 50),
    "hat": (42, 44, 46, 49, 51, 52, 53, 55, 57, 59), "percussion": (37, 54, 56, 58, *range(60, 82)),
}  # fmt: skip
# What is no drum: pianos, organs, guitars, basses, strings, brass, winds, leads and pads.
PROGRAMS = (0, 4, 11, 24, 29, 32, 33, 34, 35, 36, 37, 38, 39, 48, 56, 61, 73, 80, 81, 88)
_NOTES = (28, 33, 40, 52, 60)
# Places to begin, by what they are where that is another kind than they are made by.
_OTHERWISE = {
    "low tom": "tom", "dead centre": "tom", "soft felt": "tom", "membrane": "snare",
    "short and dark": "kick", "long and tuned": "808",
}  # fmt: skip
_EACH_S, _BEFORE_S, _HEARD = 2.0, 0.02, 1e-3
_KEPT = 0.35


def _cut(x: Array, count: int) -> list[Array]:
    pieces = [x[round(_EACH_S * n * RATE) : round((_EACH_S * n + 1.98) * RATE)] for n in range(count)]
    return [piece for piece in pieces if np.abs(piece).max() > _HEARD]


def drums(
    font: Path, kits: tuple[int, ...] = KITS, velocities: tuple[int, ...] = (127, 90, 50)
) -> list[Shot]:
    """Every drum of a set's kits, struck at some velocities; doubles among kits stay once."""
    keys = [(kind, key) for kind, those in KEYS.items() for key in those]
    found, seen = [], set()
    for kit in kits:
        for velocity in velocities:
            events = [(_EACH_S * n + _BEFORE_S, 0.4, key, velocity) for n, (_, key) in enumerate(keys)]
            x = played(events, _EACH_S * len(keys) + 1, kit, drums=True, font=font)
            for n, (kind, _) in enumerate(keys):
                for piece in _cut(x[round(_EACH_S * n * RATE) :], 1):
                    what = np.round(piece[::7], 4).tobytes()
                    if what not in seen:
                        seen.add(what)
                        found.append((kind, piece))
    return found


def melodic(font: Path) -> list[Shot]:
    """Notes of instruments that are no drums."""
    found = []
    for program in PROGRAMS:
        events = [(_EACH_S * n + _BEFORE_S, 0.8, note, 100) for n, note in enumerate(_NOTES)]
        x = played(events, _EACH_S * len(_NOTES) + 1, program, font=font)
        found += [("other", piece) for piece in _cut(x, len(_NOTES))]
    return found


def _made(seeds: range) -> list[Shot]:
    shots = []
    for made_by, begun in STARTS.items():
        for name, source in begun.items():
            kind = _OTHERWISE.get(name, _OTHERWISE.get(made_by, made_by))
            for seed in seeds:
                for one in scatter(source, 0.35, [], seed):
                    shots.append((kind, np.concatenate([np.zeros(480), made(one, 126.0), np.zeros(4800)])))
    return shots


def _portraits(shots: list[Shot]) -> tuple[Array, list[str]]:
    rows = []
    for _, x in shots:
        heard = listening_channel(x)
        rows.append(portrait(heard, RATE, onset_ms(heard, RATE)))
    return np.array(rows), [kind for kind, _ in shots]


Table = dict[str, object]


def _learned(x: Array, y: list[str]) -> Table:
    mean, spread = x.mean(axis=0), np.maximum(x.std(axis=0), 1e-3)
    model = LogisticRegression(C=_KEPT, max_iter=3000, class_weight="balanced")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        model.fit(kinds.expanded(x, mean, spread), y)
    return {
        "names": NAMES, "kinds": [str(one) for one in model.classes_], "mean": np.round(mean, 3).tolist(),
        "spread": np.round(spread, 3).tolist(), "weights": np.round(model.coef_, 3).tolist(),
        "offsets": np.round(model.intercept_, 3).tolist(),
    }  # fmt: skip


def _told(table: Table, x: Array) -> list[str]:
    mean, spread, weights, offsets = (
        np.array(table[name]) for name in ("mean", "spread", "weights", "offsets")
    )
    scores = kinds.expanded(x, mean, spread) @ weights.T + offsets
    named: list[str] = table["kinds"]  # type: ignore[assignment]
    return [named[n] for n in scores.argmax(axis=1)]


def _told_now(x: Array) -> list[str]:
    return [max(one, key=lambda kind: one[kind]) for one in map(kinds.odds, x)]


def _print(title: str, y: list[str], told: list[str]) -> None:
    right = float(np.mean([a == b for a, b in zip(y, told, strict=True)]))
    labels = sorted(set(y) | set(told))
    print(f"{title}: {100 * right:.1f} % of {len(y)} right")
    print(f"  {'':>12}" + "".join(f"{label[:6]:>8}" for label in labels))
    for label, row in zip(labels, confusion_matrix(y, told, labels=labels), strict=True):
        if row.sum():
            print(f"  {label:>12}" + "".join(f"{count:>8}" for count in row))


def main() -> None:
    """Print how many kinds are told right, and write what was learned where that is asked for."""
    fonts = [SET, *(Path(name) for name in sys.argv[1:] if not name.startswith("--"))]
    sets = [(font, drums(font), melodic(font)) for font in fonts]
    every = [_portraits([*hit, *note]) for _, hit, note in sets]
    own = _portraits(_made(range(3)))

    def learned(which: list[int]) -> Table:
        some = [*(every[n] for n in which), own]
        return _learned(np.vstack([x for x, _ in some]), [one for _, y in some for one in y])

    for n, (font, hit, _) in enumerate(sets):
        others = [m for m in range(len(sets)) if m != n]
        x, y = _portraits(hit)
        if others:
            _print(f"{font.name}, learned from the other sets", y, _told(learned(others), x))
        if "--write" not in sys.argv:
            _print(
                f"{font.name}, as it is told now",
                y,
                _told_now(x),
            )
    if "--write" in sys.argv:
        path = Path(kinds.__file__).with_name("kinds.json")
        path.write_text(json.dumps(learned(list(range(len(sets)))), separators=(",", ":")) + "\n")
        print(path)


if __name__ == "__main__":
    main()
