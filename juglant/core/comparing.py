"""Comparing two sounds fairly: equally loud, and without knowing which is which."""

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.measure import levels
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.stereo import both_sides
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.judged import everything

# As many rounds as are usual: twelve of them right are better than chance at 4 % (ITU-R BS.1116 asks for
# repeats; scipy's binomial test for the share).
ROUNDS = 16
_SURE = 0.05


def loudness_lufs(session: Session, state: TrackState) -> float:
    """How loud everything of a state is as it leaves (ITU-R BS.1770-5), as from two loudspeakers.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    float
        LUFS.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> -30 < loudness_lufs(Session(), TrackState()) < 0
    True
    """
    return session.sounds.once(_loudness_lufs, everything(session, state))


def _loudness_lufs(loop: LoopSound) -> float:
    return levels.integrated_lufs(both_sides(loop.samples), RATE)


def equal_gains_db(first_lufs: float, second_lufs: float) -> tuple[float, float]:
    """The gains that bring two loudnesses to the quieter one of them; none where one is silent.

    Parameters
    ----------
    first_lufs, second_lufs
        Loudnesses in LUFS.

    Returns
    -------
    tuple of float
        Gains in dB, neither above 0.

    Examples
    --------
    >>> equal_gains_db(-12.0, -14.5)
    (-2.5, 0.0)
    """
    if min(first_lufs, second_lufs) <= levels.QUIETEST_LUFS:
        return 0.0, 0.0
    quieter = min(first_lufs, second_lufs)
    return quieter - first_lufs, quieter - second_lufs


def by_chance(right: int, rounds: int) -> float:
    """How often guessing alone is right at least so many times: one-sided binomial test.

    Parameters
    ----------
    right
        Rounds that were right.
    rounds
        All of them.

    Returns
    -------
    float
        Probability, 0 to 1.

    Examples
    --------
    >>> round(by_chance(12, 16), 3)
    0.038
    """
    # Half a second to import, for what is asked once in a while: the server is ready without it.
    from scipy import stats

    if not 0 <= right <= rounds or rounds == 0:
        raise UserError(f"Of {rounds} rounds, {right} cannot be right.", "right")
    return float(stats.binomtest(right, rounds, 0.5, alternative="greater").pvalue)


def verdict(right: int, rounds: int) -> str:
    """A score in words.

    Parameters
    ----------
    right
        Rounds that were right.
    rounds
        All of them.

    Returns
    -------
    str
        One or two sentences.

    Examples
    --------
    >>> verdict(12, 16)
    '12 of 16 right: guessing does that in 3.8 % of such tests. You hear the difference.'
    """
    chance = by_chance(right, rounds)
    heard = "You hear the difference." if chance < _SURE else "That is no proof that you hear a difference."
    share = f"{100 * chance:.1f}" if chance >= 0.001 else "less than 0.1"
    return f"{right} of {rounds} right: guessing does that in {share} % of such tests. {heard}"
