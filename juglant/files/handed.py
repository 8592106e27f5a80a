"""What is handed over of a section, and of a whole track."""

from juglant.core import music
from juglant.core.findings import findings
from juglant.core.hits.render import strokes_of
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.overview import played_duckings
from juglant.core.lowend.played import stroke_at
from juglant.core.lowend.session import Session
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import SUM
from juglant.core.recipes.sections import Section, Track
from juglant.core.recipes.track import TrackState
from juglant.files.handover import Shot, handover_files
from juglant.files.names import file_names, plain_name


def called(name: str, track: Track, section: Section) -> str:
    """What the files of a section begin with: the track's name, and the section's where there are more."""
    return f"{name} {section.name}" if len(track.sections) > 1 else name


def section_files(session: Session, name: str, state: TrackState) -> dict[str, bytes]:
    """Everything of one section, by its file names."""
    answer, brief = session.answer(state), state.brief
    told = file_names(state)
    hits = [_strokes(session, hit, brief, told[hit.id]) for hit in state.hits]
    hits += [_moved(session, hit, brief, told[hit.id]) for hit in state.all_hits if hit.follow == "yes"]
    rest = {id: loop.samples for id, loop in session.rest_stems(state).items()}
    if state.sum.acts and (whole := session.sounding_part(state, SUM)):
        rest[SUM] = whole.heard.samples
    stems = session.line_stems(state)
    lines = {id: loop.samples for id, loop in stems.items()} if len(stems) > 1 else {}
    found, played = findings(session, answer), played_duckings(session, state)
    return handover_files(
        name, answer, found, hits, rest, lines, played, notes_of_lines(session.sounds, state)
    )


def track_files(session: Session, name: str, track: Track, sections: list[Section]) -> dict[str, bytes]:
    """Everything of some sections, each in a folder of its own where there are several."""
    files: dict[str, bytes] = {}
    for number, at in enumerate(sections, 1):
        folder = f"{number}_{plain_name(at.name)}/" if len(sections) > 1 else ""
        own = section_files(session, called(name, track, at), track.at(at.id))
        files |= {folder + path: data for path, data in own.items()}
    return files


def _strokes(session: Session, hit: Hit, brief: Brief, name: str) -> list[Shot]:
    """Every stroke that a hit has a sound of its own for."""
    numbers = session.sounds.measured_hit(hit, brief).hit
    return [
        Shot(
            name + stroke, session.sounds.hits.hit(hit, brief.bpm, velocity, turn), numbers.fundamental_hz,
            numbers.note,
        )
        for stroke, velocity, turn in strokes_of(hit)
    ]  # fmt: skip


def _moved(session: Session, hit: Hit, brief: Brief, name: str) -> list[Shot]:
    """What a hit that follows the chords plays over every root but the tonic."""
    hz = session.sounds.measured_hit(hit, brief).hit.fundamental_hz
    found = {}
    for bar, root in enumerate(brief.roots):
        moved = brief.moved_by(bar)
        if moved:
            there = None if hz is None else hz * 2 ** (moved / 12)
            note = None if there is None else music.nearest_note(there, brief.a4_hz, brief.key.flats).note
            sound = stroke_at(session.sounds.hits, hit, moved, brief.bpm)
            found[root] = Shot(f"{name}_over_{plain_name(root)}", sound, there, note)
    return list(found.values())
