"""How much a track holds, and what stands between it and the loudspeakers, for the page: written out as
TypeScript when it is built.
"""

import json

from juglant.api.filed import MOST_AT_ONCE
from juglant.core.comparing import ROUNDS
from juglant.core.hits.reported import SPECTRUM_FLOOR_DB
from juglant.core.measure.listening import listening
from juglant.core.recipes.chain import MOST_STAGES, STAGES
from juglant.core.recipes.ducking import MOST_DUCKINGS
from juglant.core.recipes.hit import MOST_LAYERS, MOST_TAKES
from juglant.core.recipes.moves import LEAST_BETWEEN, MOST_MOVE_POINTS, MOST_MOVES
from juglant.core.recipes.notes import MOST_BARS
from juglant.core.recipes.parts import MOST_PARTS
from juglant.core.recipes.sections import MOST_BARS as MOST_ARRANGED_BARS
from juglant.core.rooms.exposure import LEAST_LEVEL_DB, MOST_LEVEL_DB
from juglant.core.stock.fit import MOST_WEIGHT, REASONS
from juglant.core.stock.kinds import KINDS
from juglant.core.stock.known import RANGES

LIMITS = {
    "MOST_PARTS": MOST_PARTS,
    "MOST_LAYERS": MOST_LAYERS,
    "MOST_TAKES": MOST_TAKES,
    "MOST_STAGES": MOST_STAGES,
    "MOST_DUCKINGS": MOST_DUCKINGS,
    "MOST_BARS": MOST_BARS,
    "MOST_MOVES": MOST_MOVES,
    "MOST_MOVE_POINTS": MOST_MOVE_POINTS,
    "LEAST_BETWEEN": LEAST_BETWEEN,
    "MOST_ARRANGED_BARS": MOST_ARRANGED_BARS,
    "MOST_WEIGHT": MOST_WEIGHT,
    "BLIND_ROUNDS": ROUNDS,
    "LEAST_LEVEL_DB": LEAST_LEVEL_DB,
    "MOST_LEVEL_DB": MOST_LEVEL_DB,
    "MOST_AT_ONCE": MOST_AT_ONCE,
    "SPECTRUM_FLOOR_DB": SPECTRUM_FLOOR_DB,
}


def as_typescript() -> str:
    """The limits, the stages that work on a single stroke, and what is listened through, as constants."""
    of_a_stroke = ", ".join(f'"{name}"' for name, stage in STAGES.items() if stage.of_a_stroke)
    numbers = [f"export const {name} = {value};" for name, value in LIMITS.items()]
    stages = f"export const OF_A_STROKE = [{of_a_stroke}] as const;"
    reasons = [[name, said, weight] for name, (said, weight) in REASONS.items()]
    told = json.dumps(reasons, ensure_ascii=False)
    ranges = [[name, *said] for name, said in RANGES.items()]
    return "\n".join(
        [
            *numbers, stages, f"export const LISTENING = {json.dumps(listening())};",
            f"export const FIT_REASONS: readonly (readonly [string, string, number])[] = {told};",
            f"export const STOCK_RANGES = {json.dumps(ranges)} as const;",
            f"export const KINDS = {json.dumps(KINDS)} as const;",
        ]
    )  # fmt: skip


if __name__ == "__main__":
    print(as_typescript())
