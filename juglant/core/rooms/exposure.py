"""How long a level may be listened to, by published advice; never a measurement of anybody's room.

NIOSH 98-126 (1998): 85 dBA for 8 hours a day, half of that for every 3 dB more. WHO and ITU-T H.870 (2018):
80 dBA for 40 hours a week, by the same exchange. Levels are those at the place of the ear, from a meter of
the producer's own. dBA says little of low frequencies: where dBC lies far above it, a level is louder for
the ear and the house than dBA tells (common practice).
"""

from dataclasses import dataclass

NIOSH_DBA, NIOSH_HOURS_A_DAY = 85.0, 8.0
WHO_DBA, WHO_HOURS_A_WEEK = 80.0, 40.0
EXCHANGE_DB = 3.0
# Beyond this the arithmetic promises seconds: no time is advised at all (from memory).
NEVER_DBA = 130.0
LOW_HEAVY_DB = 15.0
# Levels that a meter may show.
LEAST_LEVEL_DB, MOST_LEVEL_DB = 30.0, 150.0


@dataclass(frozen=True)
class Exposure:
    """Hours a day and hours a week that a level may last, and whether its low end is stronger than dBA
    tells; None where the level in dBC is not known.
    """

    hours_a_day: float
    hours_a_week: float
    low_heavy: bool | None


def exposure(dba: float, dbc: float | None = None) -> Exposure:
    """Advice for a level at the ear, in dBA and, where it is known, in dBC.

    Parameters
    ----------
    dba
        A-weighted level, dB.
    dbc
        C-weighted level, dB.

    Returns
    -------
    Exposure
        Hours, 0 where none are advised.

    Examples
    --------
    >>> exposure(88.0).hours_a_day, exposure(83.0).hours_a_week
    (4.0, 20.0)
    """
    day, week = (
        0.0 if dba >= NEVER_DBA else hours / 2 ** ((dba - level) / EXCHANGE_DB)
        for hours, level in ((NIOSH_HOURS_A_DAY, NIOSH_DBA), (WHO_HOURS_A_WEEK, WHO_DBA))
    )
    low_heavy = None if dbc is None else dbc - dba > LOW_HEAVY_DB
    return Exposure(min(day, 24.0), min(week, 168.0), low_heavy)
