"""Starting points for every kind of made hit, named for what they sound like. Invented.

Those of a kind are equally loud (momentary, ITU-R BS.1770), as loud as the softest of them can be.
"""

from juglant.core.recipes.clap import ClapRecipe
from juglant.core.recipes.hat import HatRecipe
from juglant.core.recipes.hit import (
    Made,
    Made808,
    MadeClap,
    MadeHat,
    MadeKick,
    MadeMembrane,
    MadePercussion,
    MadeSnare,
)
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.snare import MembraneRecipe, SnareRecipe
from juglant.core.recipes.tone808 import Recipe808

_KICKS: dict[str, KickRecipe] = {
    "round and plain": KickRecipe(level_db=-3.4),
    "short knock": KickRecipe(level_db=-0.3,
        end_hz=58.0, decay_ms=170.0, length_ms=200.0, pitch_decay_ms=14.0, start_semitones=24.0,
        click_db=-8.0, click_tone_hz=2600.0, click_sine_db=-10.0, drive_db=6.0,
    ),
    "deep with a late sub": KickRecipe(level_db=-6.3,
        end_hz=92.0, decay_ms=420.0, length_ms=560.0, sub_db=-3.0, sub_delay_ms=70.0, pitch_decay_ms=12.0,
        start_semitones=12.0, click_db=-16.0, hold_ms=20.0,
    ),
    "long and tuned": KickRecipe(level_db=-8.4,
        end_hz=49.0, decay_ms=760.0, length_ms=700.0, hold_ms=40.0, pitch_decay_ms=22.0,
        start_semitones=36.0, drive_db=8.0, release_ms=60.0,
    ),
    "closing filter": KickRecipe(level_db=-4.4,
        wave=1.2, lowpass_hz=95.0, lowpass_octaves=4.0, opened_by="the pitch", resonance=0.25,
        pitch_decay_ms=20.0, decay_ms=400.0, click_db=-20.0,
    ),
    "torn": KickRecipe(level_db=-4.4,
        wave=0.6, drive_db=22.0, drive_bias=0.5, decay_ms=320.0, pitch_decay_ms=14.0, click_db=-6.0,
        click_tone_hz=5200.0,
    ),
}  # fmt: skip
_808S: dict[str, Recipe808] = {
    "clean and long": Recipe808(
        level_db=-4.5, drive_db=0.0, harmonics=0.15, decay_ms=1500.0, length_ms=1400.0
    ),
    "pushed onset": Recipe808(level_db=-4.7),
    "short and dark": Recipe808(level_db=-0.3,
        decay_ms=320.0, length_ms=360.0, sustain_db=-50.0, harmonics=0.1, drive_db=2.0
    ),
    "torn open": Recipe808(level_db=-4.6, drive_db=20.0, harmonics=0.7, lowpass_hz=2400.0),
    "sliding up": Recipe808(level_db=-0.3, glide_semitones=-12.0, glide_ms=220.0, start_octaves=1.0),
}  # fmt: skip
_SNARES: dict[str, SnareRecipe] = {
    "dry and short": SnareRecipe(level_db=-0.3, noise_ms=110.0, tone_ms=70.0),
    "full": SnareRecipe(level_db=-2.1),
    "all rattle": SnareRecipe(
        level_db=-3.8, noise_db=6.0, noise_ms=260.0, tone_ms=60.0, highpass_hz=2200.0
    ),
    "low and wide": SnareRecipe(level_db=-6.4,
        tone_hz=140.0, tone_ms=180.0, highpass_hz=700.0, noise_ms=320.0, drive_db=9.0
    ),
}  # fmt: skip
_MEMBRANES: dict[str, MembraneRecipe] = {
    "edge of the skin": MembraneRecipe(level_db=-1.3, strike=0.8, stiffness=0.8),
    "dead centre": MembraneRecipe(level_db=-1.1, strike=0.0, stiffness=0.5, wires_db=-14.0),
    "loose wires": MembraneRecipe(level_db=-2.7, wires_db=-2.0, wires_ms=320.0),
    "soft felt": MembraneRecipe(
        level_db=-6.4, stiffness=0.1, wires_db=-60.0, tune_hz=120.0, decay_ms=600.0
    ),
    "tight and high": MembraneRecipe(
        level_db=-0.3, tension_semitones=7.0, second_semitones=9.0, decay_ms=180.0
    ),
}
_CLAPS: dict[str, ClapRecipe] = {
    "few hands": ClapRecipe(level_db=-0.3, bursts=3, spread=0.1, tail_ms=90.0),
    "a row of hands": ClapRecipe(level_db=-3.1),
    "a crowd": ClapRecipe(
        level_db=-7.0, bursts=8, spread=0.8, spacing_ms=13.0, tail_ms=420.0, width_octaves=2.4
    ),
    "one hard slap": ClapRecipe(
        level_db=-3.9, bursts=2, spacing_ms=3.0, tail_ms=60.0, tone_hz=1900.0, drive_db=10.0
    ),
}
_HATS: dict[str, HatRecipe] = {
    "closed": HatRecipe(level_db=-0.3, decay_ms=60.0),
    "half open": HatRecipe(level_db=-2.9, decay_ms=220.0),
    "open": HatRecipe(level_db=-6.4, decay_ms=620.0, body_ms=40.0, body_db=4.0),
    "ride": HatRecipe(level_db=-6.6,
        decay_ms=2400.0, tone_hz=2900.0, highpass_hz=2600.0, noise_db=-20.0, body_ms=60.0, body_db=12.0
    ),
    "crash": HatRecipe(level_db=-10.3,
        decay_ms=3600.0, tone_hz=3300.0, highpass_hz=3000.0, noise_db=0.0, body_ms=220.0, body_db=8.0,
        attack_ms=2.0,
    ),
}  # fmt: skip
_PERCUSSION: dict[str, PercussionRecipe] = {
    "low tom": PercussionRecipe(level_db=-3.6, end_hz=82.4, decay_ms=420.0),
    "hand on a drum": PercussionRecipe(level_db=-0.3,
        end_hz=196.0, decay_ms=240.0, start_semitones=3.0, pitch_decay_ms=14.0, index=0.8, ratio=1.59,
        strike_db=-14.0, band_share=0.3, band_hz=900.0,
    ),
    "dry sticks": PercussionRecipe(level_db=-1.5,
        end_hz=2450.0, decay_ms=70.0, start_semitones=0.0, index=0.4, ratio=1.38, band_share=0.6,
        band_hz=2500.0, band_q=3.0,
    ),
    "struck bar": PercussionRecipe(level_db=-9.2,
        end_hz=880.0, decay_ms=900.0, start_semitones=0.0, index=1.4, ratio=3.56, modulation_ms=240.0
    ),
    "ringing sheet": PercussionRecipe(level_db=-11.3,
        end_hz=420.0, decay_ms=1200.0, start_semitones=0.0, index=4.0, ratio=1.414, modulation_ms=800.0,
        second_index=1.5, second_ratio=5.1,
    ),
}  # fmt: skip

STARTS: dict[str, dict[str, Made]] = {
    "kick": {name: MadeKick(recipe=recipe) for name, recipe in _KICKS.items()},
    "808": {name: Made808(recipe=recipe) for name, recipe in _808S.items()},
    "snare": {name: MadeSnare(recipe=recipe) for name, recipe in _SNARES.items()},
    "membrane": {name: MadeMembrane(recipe=recipe) for name, recipe in _MEMBRANES.items()},
    "clap": {name: MadeClap(recipe=recipe) for name, recipe in _CLAPS.items()},
    "hat": {name: MadeHat(recipe=recipe) for name, recipe in _HATS.items()},
    "percussion": {name: MadePercussion(recipe=recipe) for name, recipe in _PERCUSSION.items()},
}
