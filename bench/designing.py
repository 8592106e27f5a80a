"""Kicks, 808s and basses designed for partners that were made apart from the product's own generators."""

import time

import numpy as np

from bench.figures import figure, part
from bench.solving import pair
from juglant.core.designing.design import Design, design
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.findings.outdated import solve_duck
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.track import TrackState

# What is between kick and bass: the answers are to leave none of it.
_BETWEEN = {"collision", "sub-shared", "sub-nobody", "sub-loss", "tail-spill", "cancels"}
# Asked of ourselves, in percent.
ASKED_CLEAR = 90.0


def _clear(session: Session, one: Design) -> bool:
    return not _BETWEEN & {found.id for found in findings(session, session.answer(one.state))}


def _old_kick_lu(session: Session, state: TrackState) -> float:
    """What the ducking takes that clears the kick that was there."""
    try:
        answer = session.answer(solve_duck(session, session.answer(state)))
    except UserError:
        return 0.0
    return answer.mix_before.lufs - answer.mix_after.lufs


def main(count: int = 12) -> None:
    """Print how many answers leave nothing, what their ducking takes, and how long it takes."""
    part(f"Sounds designed for their partners: {count} pairs of two bars")
    rng = np.random.default_rng(17)
    patterns = list(PATTERNS.values())
    for wanted in ("kick", "808", "bass"):
        answers = clear = less = 0
        took = []
        for n in range(count):
            session, state = pair(rng, n)
            owner = "bass" if wanted == "808" or n % 3 == 2 else "kick"
            state = state.model_copy(update={"brief": state.brief.model_copy(update={"sub_owner": owner})})
            if wanted != "kick":
                line = BassRecipe(pattern=patterns[n % len(patterns)])
                state = state.with_bass(state.voices[0].id, MadeBass(recipe=line))
            begin = time.perf_counter()
            found = design(session, state, wanted)
            took.append(time.perf_counter() - begin)
            answers += len(found)
            clear += sum(_clear(session, one) for one in found)
            best = min(one.taken_lu for one in found)
            less += best <= _old_kick_lu(session, state) + 0.01
        figure(
            f"{wanted}: answers that leave nothing", 100 * clear / answers, "%", ASKED_CLEAR, at_least=True
        )
        figure(f"{wanted}: no more ducking than the old sound needs, of {count}", less)
        figure(f"{wanted}: five answers, median", np.median(took), "s")
        figure(f"{wanted}: five answers, longest", max(took), "s")


if __name__ == "__main__":
    main()
