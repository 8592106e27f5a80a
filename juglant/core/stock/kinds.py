"""What kind of sound a one-shot is, with reasons; learned from recorded and made drums (bench/kinds.py)."""

import json
import re
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from juglant.core.stock.portrait import NAMES

Array = NDArray[np.float64]

Kind = Literal["kick", "808", "snare", "clap", "hat", "tom", "percussion", "loop", "other"]
KINDS: tuple[Kind, ...] = get_args(Kind)
# What a name says of a sound, by whole words of it (common practice of naming).
_SAYS: tuple[tuple[Kind, str], ...] = (
    ("loop", r"loops?|\d+ ?bpm|breaks?|topl?oops?"),
    ("808", r"808s?|sub ?bass|subs?"),
    ("kick", r"kicks?|kik|bd|bass ?drums?|k"),
    ("clap", r"claps?|clp|handclaps?"),
    ("snare", r"snares?|snr|sd|sn"),
    ("hat", r"hats?|hi ?hats?|hh|ch|oh|ohh|chh|cymbals?|rides?|crash(es)?|splash(es)?"),
    ("tom", r"toms?|floor ?tom"),
    ("percussion", r"percs?|percussions?|congas?|bongos?|shakers?|tamb(ourine)?s?|cowbells?|claves?|rims?"
     r"|rim ?shots?|side ?sticks?|wood ?blocks?|triangles?|maracas?|cabasas?|timbales?|agogos?|guiros?"),
    ("other", r"bass|pads?|fx|vox|vocals?|keys|chords?|leads?|synths?|pianos?|strings?|noise|textures?"),
)  # fmt: skip
# How much a name weighs beside the sound: natural logarithm of odds. A few names in a hundred are wrong.
_NAME_WEIGHT = 5.0


@dataclass(frozen=True)
class Guess:
    """A kind, how sure it is from 0 to 1, and why."""

    kind: Kind
    confidence: float
    reasons: tuple[str, ...]


@cache
def _learned() -> tuple[tuple[Kind, ...], Array, Array, Array, Array]:
    """Kinds, means and spreads of the numbers, weights of shape (kinds, 2 × numbers), and offsets."""
    text = (resources.files("juglant.core.stock") / "kinds.json").read_text("utf-8")
    held = json.loads(text)
    if tuple(held["names"]) != NAMES:
        raise RuntimeError("what kinds are told by was learned from other numbers: run bench.kinds --write")
    return (
        tuple(held["kinds"]), *(np.array(held[name]) for name in ("mean", "spread", "weights", "offsets")),
    )  # type: ignore[return-value]  # fmt: skip


def expanded(given: Array, mean: Array, spread: Array) -> Array:
    """Portraits, shape (sounds, numbers), as they are weighed: standardized, and their squares.

    Parameters
    ----------
    given
        Portraits.
    mean, spread
        Of each number.

    Returns
    -------
    ndarray
        Shape (sounds, weighed numbers).

    Examples
    --------
    >>> expanded(np.ones((1, 2)), np.zeros(2), np.ones(2)).shape[0]
    1
    """
    plain = (given - mean) / spread
    return np.hstack([plain, np.clip(plain, -3.0, 3.0) ** 2])


def odds(portrait: Array) -> dict[Kind, float]:
    """How much speaks for each kind of one-shot in a portrait, as natural logarithms of shares.

    Parameters
    ----------
    portrait
        The numbers of a sound.

    Returns
    -------
    dict
        Natural logarithms of shares, by the kind.

    Examples
    --------
    >>> from juglant.core.stock.known import known
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * (50 * at + 8 * (1 - np.exp(-at / 0.02)))) * np.exp(-at / 0.1)
    >>> of_kinds = odds(known(kick, 48000).portrait)
    >>> max(of_kinds, key=of_kinds.get)
    'kick'
    """
    kinds, mean, spread, weights, offsets = _learned()
    found = (expanded(portrait[None, :], mean, spread) @ weights.T)[0] + offsets
    found -= found.max()
    found -= np.log(np.exp(found).sum())
    return {kind: float(value) for kind, value in zip(kinds, found, strict=True)}


def said_by(name: str) -> Kind | None:
    """What a path says of a sound: its file's own words first, then those of the folders around it.

    Parameters
    ----------
    name
        The path.

    Returns
    -------
    Kind or None
        None where it says nothing.

    Examples
    --------
    >>> said_by("Drums/Kicks/BD hard 03.wav"), said_by("OpenHat_07.wav"), said_by("a1.wav")
    ('kick', 'hat', None)
    """
    stem = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", name)
    for part in reversed(re.split(r"[/\\]", stem)):
        # CamelCase and underscores part words as spaces do; numbers stand apart from letters.
        words = re.sub(r"(?<=[a-z])(?=[A-Z])|[_\-.,()\[\]+]+|(?<=[A-Za-z])(?=\d)", " ", part)
        for kind, pattern in _SAYS:
            if re.search(rf"(?<![a-z0-9])(?:{pattern})(?![a-z])", words.lower()):
                return kind
    return None


def guessed(odds_of: dict[Kind, float], heard: tuple[str, ...], name: str) -> Guess:
    """The kind of a sound by its odds and its name; `heard` is what was heard of it, as reasons.

    Parameters
    ----------
    odds_of
        As `odds` gives them.
    heard
        Reasons from listening.
    name
        Its path.

    Returns
    -------
    Guess
        A kind, how sure that is, and why.

    Examples
    --------
    >>> from juglant.core.stock.known import known
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * (50 * at + 8 * (1 - np.exp(-at / 0.02)))) * np.exp(-at / 0.1)
    >>> guessed(odds(known(kick, 48000).portrait), (), "Kick 3.wav").kind
    'kick'
    """
    said = said_by(name)
    found = {kind: odds_of.get(kind, -12.0) + (_NAME_WEIGHT if kind == said else 0.0) for kind in KINDS}
    best = max(found, key=lambda kind: found[kind])
    sure = float(np.exp(found[best]) / np.sum(np.exp(list(found.values()))))
    named = (f"its name says {said}",) if said == best else ()
    return Guess(best, round(sure, 3), (*named, *heard))
