"""What is wrong with single hits: holes, idle layers, width that does not survive mono, length."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

from juglant.core.findings.fixes import can_shorten, clear_tail
from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.hits.jobs import INAUDIBLE_DB, HitReport
from juglant.core.lowend.pitches import recommended, tuned_as_recommended
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.tuning import Candidate
from juglant.core.measure.hit import HitNumbers
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.hit import Hit, Layer, MadeKick
from juglant.core.recipes.track import TrackState

# Common practice: two layers this near in the band of their job do the same work; low end that
# loses this much in mono is not mono, where it is more than this share of the whole.
SAME_JOB_DB, LOW_MONO_DB, LOW_SHARE = 6.0, -1.0, 0.05
# Beyond this a hit is heard off its note (common practice).
OFF_KEY_CENTS = 10.0
_CLICK_HZ, _HEARD_DB = 3000.0, -24.0
_CLICKS_DB = (-24.0, -20.0, -16.0, -12.0, -8.0, -4.0, 0.0)
# The tone of a recorded tom, conga or cowbell holds a sixth of it or more, within a semitone; a cymbal's
# strongest a twentieth.
_SEMITONE, _ITS_NOTE_DB = 2 ** (1 / 12), -10.0
# A tail that ends within this of the next hit is not cut off by it.
_OVER_MS = 5.0
# The band in which a layer of a job is expected to work; a texture or a width may lie anywhere.
_BAND_OF = {"click": "snap", "body": "thump", "sub": "sub", "tail": "sub"}


@dataclass(frozen=True)
class Case:
    """One hit of an answer, under judgement."""

    session: Session
    answer: Answer
    id: str

    @property
    def hit(self) -> Hit:
        """The hit's recipe."""
        return self.answer.state.hit(self.id)

    @property
    def name(self) -> str:
        """As it is called in a sentence."""
        return self.hit.name.lower()

    @cached_property
    def report(self) -> HitReport:
        """What it lacks, and what its layers give."""
        return self.session.sounds.hit_report(self.hit, self.answer.state.brief)

    @cached_property
    def numbers(self) -> HitNumbers:
        """What is measured of it."""
        return self.session.sounds.measured_hit(self.hit, self.answer.state.brief).hit

    def finding(
        self, kind: str, sentence: str, measured: tuple[str, float, float, str], why: str, fix: str | None
    ) -> Finding:
        """A verdict; `measured` is the number's name, its value, its limit and their unit."""
        return Finding(f"{kind}-{self.id}", "hits", sentence, *measured, why, mend(fix))

    def mended(self, hit: Hit) -> TrackState:
        """The state with another hit in this one's place."""
        return self.answer.state.with_part(hit)

    def with_layers(self, change: Callable[[int, Layer], Layer | None]) -> TrackState:
        """The state with this hit's layers changed, or left out where `change` gives None."""
        layers = [new for n, layer in enumerate(self.hit.layers) if (new := change(n, layer)) is not None]
        return self.mended(self.hit.model_copy(update={"layers": tuple(layers)}))


def _hole_db(case: Case) -> float | None:
    return case.report.holes[0].value_db if case.report.holes else None


def _hole(case: Case) -> Finding | None:
    if not case.report.holes:
        return None
    found = case.report.holes[0]
    mendable = found.name == "click" and any(isinstance(one.source, MadeKick) for one in case.hit.layers)
    return case.finding(
        "hole", f"The {case.name} has no {found.name}: it lies {-found.value_db:.0f} dB under the whole.",
        (f"{found.name} re whole", found.value_db, found.limit_db, "dB"),
        f"A {case.hit.kind} without its {found.name} is lost among the others, or on small speakers.",
        "Give it a click" if mendable else None,
    )  # fmt: skip


def _with_click(case: Case) -> TrackState:
    """The softest click that fills the hole."""
    state = case.answer.state
    made = (index for index, layer in enumerate(case.hit.layers) if isinstance(layer.source, MadeKick))
    index = next(made, None)
    if index is None:
        return state
    source = case.hit.layers[index].source
    assert isinstance(source, MadeKick)
    for db in _CLICKS_DB:
        if db <= source.recipe.click_db:
            continue
        recipe = source.recipe.model_copy(update={"click_db": db, "click_tone_hz": _CLICK_HZ})
        hit = case.hit.with_source(index, MadeKick(recipe=recipe))
        state = case.mended(hit)
        if not case.session.sounds.holes(hit, state.brief):
            break
    return state


def _idle_layer(case: Case) -> tuple[int, float] | None:
    """The layer whose muting changes the least, where that is nothing that can be heard."""
    if len(case.report.shares) < 2:
        return None
    least = min(case.report.shares, key=lambda share: share.missed_db)
    return (least.layer, least.missed_db) if least.missed_db < INAUDIBLE_DB else None


def _idle(case: Case) -> Finding | None:
    found = _idle_layer(case)
    if found is None:
        return None
    layer, missed = found
    return case.finding(
        "idle-layer",
        f"Muting layer {layer + 1} of the {case.name} makes no audible difference.",
        ("largest change of a band", missed, INAUDIBLE_DB, "dB"),
        "A layer without a job only costs headroom and hides what the others do.",
        "Remove the layer",
    )


def _without_idle(case: Case) -> TrackState:
    found = _idle_layer(case)
    return case.with_layers(lambda n, layer: None if found and n == found[0] else layer)


def _twins(case: Case) -> tuple[int, int, float] | None:
    """Two layers of one job, the quieter one second, and by how little they differ in its band."""
    shares = case.report.shares
    for n, one in enumerate(shares):
        for other in shares[n + 1 :]:
            job = case.hit.layers[one.layer].job
            band = _BAND_OF.get(job)
            if band is None or case.hit.layers[other.layer].job != job:
                continue
            levels = one.bands_db[band], other.bands_db[band]
            if abs(levels[0] - levels[1]) < SAME_JOB_DB and max(levels) > _HEARD_DB:
                first, second = (one, other) if levels[0] >= levels[1] else (other, one)
                return first.layer, second.layer, abs(levels[0] - levels[1])
    return None


def _apart_db(case: Case) -> float | None:
    found = _twins(case)
    return found[2] if found else None


def _same_job(case: Case) -> Finding | None:
    found = _twins(case)
    if found is None:
        return None
    first, second, apart = found
    job = case.hit.layers[first].job
    return case.finding(
        "same-job", f"Layers {first + 1} and {second + 1} of the {case.name} both do the {job}.",
        ("apart in its band", apart, SAME_JOB_DB, "dB"),
        "Two layers in one job beat and cancel; each should do what the other does not.",
        f"Mute “{case.hit.layers[second].name}”",
    )  # fmt: skip


def _without_twin(case: Case) -> TrackState:
    found = _twins(case)
    return case.with_layers(
        lambda n, layer: layer.model_copy(update={"mute": True}) if found and n == found[1] else layer
    )


def _centre_label(case: Case) -> str | None:
    panned = any(layer.pan != 0.0 for layer in case.hit.layers)
    return "Put the layers in the middle" if panned else None


def _centred(case: Case) -> TrackState:
    """Every layer in the middle; those that are copies of each other start together, or they comb."""
    first = min(layer.offset_ms for layer in case.hit.layers)
    late = {layer.offset_ms for layer in case.hit.layers if not is_off(layer, "pan")}
    together = {"pan": 0.0, "offset_ms": first} if len(late) > 1 or first not in late else {"pan": 0.0}
    return case.with_layers(
        lambda _, layer: layer.model_copy(update={"pan": 0.0} if is_off(layer, "pan") else together)
    )


def _delay_ms(case: Case) -> float | None:
    return case.report.delay.delay_ms if case.report.delay else None


def _delayed_width(case: Case) -> Finding | None:
    delay = case.report.delay
    if delay is None:
        return None
    return case.finding(
        "delayed-width",
        f"The width of the {case.name} is one side {delay.delay_ms:.1f} ms after the other: in mono it "
        f"combs, first at {delay.first_notch_hz:.0f} Hz.",
        ("delay", delay.delay_ms, 0.0, "ms"),
        "Many club systems are mono. Two different sounds left and right are wide and stay whole.",
        _centre_label(case),
    )


def _low_loss_db(case: Case) -> float | None:
    bands = case.numbers.bands_db or {}
    low = sum(10 ** (bands.get(band, -99.0) / 10) for band in ("sub", "thump"))
    return case.numbers.low_mono_loss_db if low > LOW_SHARE else None


def _wide_low_end(case: Case) -> Finding | None:
    loss = _low_loss_db(case)
    if loss is None or loss >= LOW_MONO_DB:
        return None
    return case.finding(
        "wide-low-end", f"Below 150 Hz the {case.name} loses {-loss:.1f} dB when it is summed to mono.",
        ("low_mono_loss_db", loss, LOW_MONO_DB, "dB"),
        "Width in the low end is not heard as width, and is gone on every mono system.",
        _centre_label(case),
    )  # fmt: skip


def _rings_ms(case: Case) -> float:
    return case.numbers.decay60_ms or case.numbers.length_ms


def _too_long(case: Case) -> Finding | None:
    # Where the other hits fall is not known before there is a line for them.
    rings, place = _rings_ms(case), case.answer.gap_ms
    if case.hit is not case.answer.state.kick or rings <= place + _OVER_MS:
        return None
    return case.finding(
        "too-long",
        f"The {case.name} rings for {rings:.0f} ms, {rings - place:.0f} ms longer than the shortest gap "
        "between two: the next one cuts it off.",
        ("decay60_ms", rings, place, "ms"),
        "What is longer than the gap is cut, or lies under the next hit.",
        f"Shorten the {case.name}" if can_shorten(case.hit) else None,
    )


def _shortened(case: Case) -> TrackState:
    def fits(changed: Answer) -> bool:
        numbers = changed.kick.hit
        return (numbers.decay60_ms or numbers.length_ms) <= changed.gap_ms

    return clear_tail(case.session, case.answer, fits)


def _is_its_note(case: Case) -> bool:
    """Whether the strongest tone is enough of a hit to be heard as its note: a cymbal has none."""
    measured = case.session.sounds.measured_hit(case.hit, case.answer.state.brief)
    hz = measured.hit.estimate_hz
    if hz is None or measured.spectrum is None:
        return False
    return measured.spectrum.share_db(hz / _SEMITONE, hz * _SEMITONE) > _ITS_NOTE_DB


def _wanted_move(case: Case) -> Candidate | None:
    """The smallest move to a note that it aims at; None where its own note is not sure."""
    sigma = case.numbers.estimate_sigma_cents
    unsure = sigma is None or sigma > OFF_KEY_CENTS or not _is_its_note(case)
    if case.numbers.fundamental_hz is None and unsure and case.hit.heard_hz is None:
        return None
    moves = case.session.sounds.moves(case.hit, case.answer.state.brief)
    return moves[0] if moves and moves[0].wanted else None


def _off_key_cents(case: Case) -> float | None:
    """How far it sounds above the nearest note that it aims at."""
    nearest = _wanted_move(case)
    return -nearest.shift_cents if nearest else None


def _off_key(case: Case) -> Finding | None:
    nearest = _wanted_move(case)
    if nearest is None or abs(nearest.shift_cents) <= OFF_KEY_CENTS:
        return None
    off, aim = -nearest.shift_cents, case.hit.aims_at
    what = (
        f"the nearest note of {case.answer.state.brief.key}"
        if aim == "any note of the key"
        else f"the {aim} it aims at"
    )
    side = "above" if off > 0 else "below"
    found = case.finding(
        "off-key",
        f"The {case.name} sounds {abs(off):.0f} cents {side} {nearest.note}, {what}.",
        ("cents off key", off, OFF_KEY_CENTS, "cents"),
        "A tail off key beats against every note that holds the same range.",
        # Not always the nearest note is where it should go.
        f"Tune to {(recommended(case.session, case.answer.state, case.id) or nearest).note}",
    )
    return replace(found, step="tune")


def _tuned(case: Case) -> TrackState:
    return tuned_as_recommended(case.session, case.answer.state, case.id)


_KINDS: dict[
    str,
    tuple[Callable[[Case], float | None], Callable[[Case], Finding | None], Callable[[Case], TrackState]],
] = {
    "hole": (_hole_db, _hole, _with_click),
    "idle-layer": (lambda case: (_idle_layer(case) or (0, None))[1], _idle, _without_idle),
    "same-job": (_apart_db, _same_job, _without_twin),
    "delayed-width": (_delay_ms, _delayed_width, _centred),
    "wide-low-end": (_low_loss_db, _wide_low_end, _centred),
    "too-long": (_rings_ms, _too_long, _shortened),
    "off-key": (_off_key_cents, _off_key, _tuned),
}


def off_key_check(id: str) -> Check:
    """Whether a hit sounds a note that it aims at.

    Parameters
    ----------
    id
        Of the hit.

    Returns
    -------
    Check
        Judges it.

    Examples
    --------
    >>> off_key_check("kick").id
    'off-key-kick'
    """
    return _check("off-key", id, _case_of(id))


def hit_checks(state: TrackState) -> list[Check]:
    """Every check of every hit of a track, the kick first.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of Check
        The kick’s first.

    Examples
    --------
    >>> len(hit_checks(TrackState())) > 0
    True
    """
    return [
        _check(kind, hit.id, case)
        for hit in state.all_hits
        for case in [_case_of(hit.id)]
        for kind in _KINDS
        # The kick's own key is judged with the low end, in the order of cure.
        if (kind, hit.id) != ("off-key", state.kick.id)
    ]


def _case_of(id: str) -> Callable[[Session, Answer], Case]:
    """A hit as a case. The last one stays: what is measured of it is looked up once for all kinds."""
    last: list[Case] = []

    def case(session: Session, answer: Answer) -> Case:
        if not last or last[0].session is not session or last[0].answer is not answer:
            last[:] = [Case(session, answer, id)]
        return last[0]

    return case


def _check(kind: str, id: str, case: Callable[[Session, Answer], Case]) -> Check:
    number, judge, fix = _KINDS[kind]
    return check(
        f"{kind}-{id}",
        lambda session, answer: number(case(session, answer)),
        lambda session, answer: judge(case(session, answer)),
        lambda session, answer: fix(case(session, answer)),
    )
