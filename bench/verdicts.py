"""Verdicts on tracks that are clean, and on the same with one fault each: false alarms, misses, fixes."""

import time

from bench.faults import FAULTS, faulty
from bench.figures import figure, part
from bench.tracks import Track, clean_tracks
from juglant.core.findings import findings, fixes
from juglant.core.lowend.session import Session


def judged(track: Track) -> list[str]:
    """The ids of what is found."""
    session = Session(track.load)
    return [one.id for one in findings(session, session.answer(track.state))]


def told(track: Track, wanted: tuple[str, ...]) -> tuple[bool, list[tuple[bool, list[str]]]]:
    """Whether the fault is found; of every fix offered for it, whether it closes and what it opens."""
    session = Session(track.load)
    answer = session.answer(track.state)
    met = [one for one in findings(session, answer) if one.id.startswith(wanted)]
    offered = [(fix.closes, fix.opens) for one in met for fix in fixes(session, answer, one.id)]
    return bool(met), offered


def main(clean: int = 64, each: int = 3) -> None:
    """Print the table."""
    began = time.perf_counter()
    alarms = {track.name: found for track in clean_tracks(clean) if (found := judged(track))}
    part(f"Verdicts: {clean} clean tracks, {len(FAULTS)} faults, {each} of each")
    figure("false alarms", len(alarms), "", 0)
    for name, found in alarms.items():
        print(f"    {name}: {', '.join(found)}")
    missed, tried, closing, opening = [], 0, 0, 0
    for fault in FAULTS:
        for seed in range(each):
            met, offered = told(faulty(fault, seed), fault[1])
            if not met:
                missed.append(faulty(fault, seed).name)
            tried += len(offered)
            closing += sum(closes for closes, _ in offered)
            opening += sum(bool(opens) for _, opens in offered)
    total = each * len(FAULTS)
    figure("faults missed", 100 * len(missed) / total, "%", 2)
    for name in missed:
        print(f"    {name}")
    figure(f"fixes that close, of {tried}", 100 * closing / tried, "%", 98, at_least=True)
    figure("fixes that open another finding", opening, "", 0)
    figure("time taken", time.perf_counter() - began, "s")
