"""A hit that a loop of the track carries already."""

from juglant.core import RATE
from juglant.core.findings.verdict import Check, Finding
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.line import line_of, placed
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.doubled import doubled
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState


def doubled_checks(state: TrackState) -> list[Check]:
    """One for every hit beside the kick and every stem that is heard with it.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of Check
        One for each pair.

    Examples
    --------
    >>> doubled_checks(TrackState())
    []
    """
    hits = [hit.id for hit in state.hits if hit.steps and not hit.mute]
    stems = [stem.id for stem in state.stems if not stem.mute]
    return [_check(hit, stem) for hit in hits for stem in stems]


def _lags_ms(
    hits: HitRenderer, loop: LoopSound, hit: Hit, bpm: float, times_ms: list[float]
) -> list[float | None]:
    return doubled(loop.mono, listening_channel(hits.hit(hit, bpm)), times_ms, RATE)


def _check(hit_id: str, stem_id: str) -> Check:
    id = f"doubled-{hit_id}.{stem_id}"

    def lags_ms(session: Session, state: TrackState) -> list[float | None]:
        """How much later the loop has each stroke of the hit; None where it has it not."""
        hit, stem = state.hit(hit_id), state.stem(stem_id)
        times = [one.at_ms for one in line_of(state).strokes.get(hit.id, [])]
        if hit.mute or stem.mute:
            return []
        loop, sounds = session.parts.stem_loop(state, stem), session.sounds
        return sounds.once(_lags_ms, sounds.hits, loop, hit.sounding, state.brief.bpm, times)

    def number(session: Session, answer: Answer) -> float | None:
        lags = lags_ms(session, answer.state)
        return float(sum(lag is not None for lag in lags)) if lags else None

    def judge(session: Session, answer: Answer) -> Finding | None:
        lags = [lag for lag in lags_ms(session, answer.state) if lag is not None]
        if not lags:
            return None
        state = answer.state
        hit, stem = state.named(hit_id).lower(), state.named(stem_id)
        off = sorted(abs(lag) for lag in lags)[len(lags) // 2]
        beside = "on the same sample" if off < 0.05 else f"{off:.1f} ms apart"
        return Finding(
            id, "line",
            f"“{stem}” already contains the {hit}, {beside}, on {len(lags)} of its strokes.",
            "doubled strokes", float(len(lags)), 0.0, "",
            "Two copies of one sound comb each other, or are just twice as loud.",
            {"leave": f"Leave these strokes to “{stem}”"},
            advice=f"Silence “{stem}” where the {hit} is struck.",
        )  # fmt: skip

    def left(session: Session, answer: Answer) -> TrackState:
        state = answer.state
        hit = state.hit(hit_id)
        struck = zip(placed(hit, state.brief), lags_ms(session, state), strict=True)
        # A step that is doubled in any bar it is played in is left to the loop in all of them.
        gone = {step.at for (step, _), lag in struck if lag is not None}
        kept = tuple(step for step in hit.steps if step.at not in gone)
        return state.with_part(hit.model_copy(update={"steps": kept} if kept else {"mute": True}))

    return Check(id, number, judge, {"leave": left})
