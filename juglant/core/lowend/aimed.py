"""A ducking set so that it is heard as deep as wished, and over on a note value."""

from dataclasses import dataclass

import numpy as np

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.lowend import duckings
from juglant.core.lowend.curves import returning_on
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.pumping import pumping
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import note_value_ms

_MOST_DB = next(one.high for one in control_sheet(DuckRecipe).controls if one.name == "depth_db")
# How near to the wish is near enough, dB.
NEAR_DB = 0.5
_ROUNDS = 14


@dataclass(frozen=True)
class Aimed:
    """A curve, how far the part is heard going down and up under it in dB, and whether that is the wish."""

    recipe: DuckRecipe
    heard_db: float
    complete: bool


def aimed(
    session: Session, state: TrackState, one: Ducking, target: str, heard_db: float, back_on: str = ""
) -> Aimed:
    """The depth under which a target, by its id, is heard going down by `heard_db`, as pumping is measured
    (50 ms, K-weighted, all of its duckings acting); back on a note value where one is named.

    UserError where the target is not heard, nothing starts the ducking, or others alone go deeper.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    one
        The ducking.
    target
        Id of what is to be heard.
    heard_db
        By how much it is to go down.
    back_on
        Note value on which it is to be back; as it is where none is named.

    Returns
    -------
    Aimed
        The depth, and what is heard under it.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> session, state = Session(), TrackState()
    >>> type(aimed(session, state, state.duckings[0], "bass", 2.0)).__name__
    'Aimed'
    """
    loop = session.parts.part(state, target)
    if loop is None:
        raise UserError(f"{state.named(target)} is not heard: there is nothing to aim by.", "targets")
    if target not in {each.part for each in one.targets if each.share > 0.0}:
        raise UserError(f"This ducking does not reach {state.named(target)}.", "targets")
    if not session.parts.starts(state, one):
        raise UserError("Nothing starts this ducking: there is nothing to aim.", "triggers")
    back_ms = note_value_ms(back_on, state.brief.bpm) if back_on else None
    plain, samples = loop.heard, loop.samples

    def curve(depth_db: float) -> DuckRecipe:
        recipe = one.duck.model_copy(update={"depth_db": round(depth_db, 2)})
        return recipe if back_ms is None or depth_db < 1.0 else returning_on(recipe, back_ms)

    def heard_under(recipe: DuckRecipe) -> float:
        tried = state.with_ducking(one.model_copy(update={"duck": recipe, "on": True}))
        acting = session.parts.acting(tried, target)
        ducked = each_channel(samples, lambda x: duckings.under(x, acting, RATE))
        return pumping(plain, LoopSound(ducked).heard).depth_db

    least = heard_under(curve(0.0))
    if least > heard_db + NEAR_DB:
        raise UserError(
            f"Its other duckings alone are heard {least:.1f} dB deep: turn these down first.", "depth_db"
        )
    low, high = 0.0, _MOST_DB
    for _ in range(_ROUNDS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if heard_under(curve(middle)) < heard_db else (low, middle)
    recipe = curve(high)
    reached = heard_under(recipe)
    return Aimed(recipe, reached, bool(np.abs(reached - heard_db) <= NEAR_DB))
