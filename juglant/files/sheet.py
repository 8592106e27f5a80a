"""The track sheet: what was decided, in plain text."""

from typing import Any

from juglant.core import tempo
from juglant.core.findings import Finding
from juglant.core.lowend.keyed import AsCompressor
from juglant.core.lowend.overview import PlayedDucking
from juglant.core.lowend.session import Answer
from juglant.core.recipes.duck import DIALS, DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.recipes.parts import AnyPart, Outputs, PlayedBass, Voice
from juglant.core.recipes.place import MONO, Place
from juglant.core.recipes.track import TrackState

_WIDTH = 26


def _line(name: str, value: str) -> str:
    return f"  {name:<{_WIDTH}}{value}"


def _number(value: float | None, unit: str, digits: int = 1) -> str:
    return "not measurable" if value is None else f"{value:.{digits}f} {unit}"


def _settings(recipe: Recipe) -> list[str]:
    lines = []
    for name, field in type(recipe).model_fields.items():
        value = getattr(recipe, name)
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        # What has no title is no setting: names, hashes and what is nested.
        if field.title is None or name == "pattern":
            continue
        if isinstance(recipe, DuckRecipe) and recipe.points and extra.get("group") == DIALS:
            continue
        if name == "edge_hz" and getattr(recipe, "band", "") not in ("below", "above"):
            continue
        shown = f"{value:g} {extra.get('unit', '')}" if isinstance(value, int | float) else str(value)
        lines.append(_line(field.title or name, shown.strip()))
    return lines + (_drawn(recipe) if isinstance(recipe, DuckRecipe) else [])


def _drawn(recipe: DuckRecipe) -> list[str]:
    """The points of a drawn curve: when, at what gain, and how the way to the next is bent."""
    return [
        _line(
            "" if n else "Drawn",
            f"{point.at_ms:g} ms {-recipe.depth_db * point.share:.1f} dB"
            + (f", bent {point.bend:+.2f}" if point.bend else ""),
        )
        for n, point in enumerate(recipe.points)
    ]


def _hit_settings(hit: Hit) -> list[str]:
    """A hit's layers and chains, each with its settings."""
    out = ["", f"{hit.name} settings"]
    for layer in hit.layers:
        source = layer.source
        if len(hit.layers) > 1:
            out += [_line("Layer", f"{layer.name}, {layer.job}, {source.kind}"), *_settings(layer)]
        out += _settings(source if isinstance(source, Imported) else source.recipe)
        out += [line for stage in layer.chain for line in _stage_settings(stage)]
    out += [line for stage in hit.chain for line in _stage_settings(stage)]
    return out + _loop_settings(hit)


def compressor_rows(one: AsCompressor) -> list[tuple[str, str]]:
    """A compressor's settings, to be typed in anywhere: name and value with its unit."""
    rows = [("as a compressor", "with a hold" if one.settings.hold_ms else "without a hold")]
    for name, field in KeyedCompressor.model_fields.items():
        value, extra = getattr(one.settings, name), field.json_schema_extra
        unit = str(extra.get("unit", "")) if isinstance(extra, dict) else ""
        if value != 0.0:
            rows.append((str(field.title).lower(), f"{value:g} {unit}" if unit else str(value)))
    rows.append(("differs from the curve by", f"{one.difference_db:.1f} dB RMS"))
    return rows + [("mind", warning) for warning in one.warnings]


def _beats(hit: Hit) -> str:
    """Where a hit is struck, in beats from 1, and how hard where not in full."""
    return ", ".join(
        f"{step.at + 1:g}" + (f" ({100 * step.velocity:.0f} %)" if step.velocity < 1 else "")
        for step in hit.steps
    )


def started_by(state: TrackState, one: Ducking) -> list[str]:
    """What starts a ducking, by name; a note value as it is written."""
    return [state.named(id) for id in one.triggers] + ([one.rate] if one.rate != "none" else [])


def _ducking_settings(state: TrackState, one: Ducking, played: PlayedDucking | None) -> list[str]:
    """One more ducking: what starts it, what it turns down, and how."""
    off = "" if one.on else " (switched off)"
    targets = ", ".join(
        state.named(target.part) + (f" ({100 * target.share:.0f} %)" if target.share < 1.0 else "")
        for target in one.targets
    )
    starts = " and ".join(started_by(state, one)) or "nothing"
    follows = [_line("Follows velocity", f"{100 * one.velocity:.0f} %")] if one.velocity else []
    return [
        "", f"Ducking of {targets or 'nothing'} by {starts}{off}", *follows, *_settings(one.duck),
        *_compressors(played),
    ]  # fmt: skip


def _compressors(played: PlayedDucking | None) -> list[str]:
    made = played.compressors if played is not None else []
    return [line for one in made for line in ("", *(_line(*row) for row in compressor_rows(one)))]


def _loop_settings(part: AnyPart) -> list[str]:
    """What a part's loop passes and where it lies, as far as that is anything."""
    out = _settings(part.place) if part.place not in (Place(), MONO) else []
    for where, stages in (("", part.stages), ("behind the duckings: ", part.after)):
        for stage in stages:
            head, *rest = _stage_settings(stage)
            out += [f"  {where}{head.strip()}", *rest]
    return out


def _stem_settings(state: TrackState) -> list[str]:
    """The stems of the arrangement, where there are any."""
    rows = []
    for stem in state.stems:
        muted = ", muted" if stem.mute else ""
        rows += [_line(stem.name, f"{stem.place.gain_db:g} dB{muted}"), *_loop_settings(stem)]
    for part in state.parts:
        if isinstance(part, Outputs):
            taken = [f"{state.named(one.of)} {one.taken} {one.gain_db:+g} dB" for one in part.sources]
            rows += [_line(part.name, "; ".join(taken) or "of nothing"), *_loop_settings(part)]
    if state.sum.acts:
        rows += [_line(state.sum.name, f"{state.sum.place.gain_db:+g} dB"), *_loop_settings(state.sum)]
    return ["", "Stems, copies, groups and the sum", *rows] if rows else []


def _separate_settings(state: TrackState) -> list[str]:
    """What each side gives up, where it gives up anything."""
    out = []
    for who, carve in (("Kick", state.separate.kick), ("Bass", state.separate.bass)):
        if carve != type(carve)():
            out += ["", f"{who} gives up (its stem has it, its one-shot has not)", *_settings(carve)]
    return out


def _line_settings(voice: Voice) -> list[str]:
    """What sounds a line, with its settings."""
    muted = ", muted" if voice.mute else ""
    out = ["", f"{voice.name.capitalize()} settings ({voice.bass.kind}{muted})"]
    out += _settings(voice.bass if voice.line is None else voice.line)
    out += _hit_settings(voice.bass.hit) if isinstance(voice.bass, PlayedBass) else []
    return out + _loop_settings(voice)


def _stage_settings(stage: Any) -> list[str]:
    return [_line(stage.stage.capitalize(), "bypassed" if stage.bypass else ""), *_settings(stage)]


def track_sheet(
    name: str, answer: Answer, found: list[Finding], played: list[PlayedDucking] | None = None
) -> str:
    """The sheet as text, one section per step of the work."""
    does = {one.ducking.id: one for one in played or []}
    state, hit = answer.state, answer.kick.hit
    brief = state.brief
    out = [name, "=" * len(name), "", "Brief"]
    out += [
        _line("Key", f"{brief.key}, A4 = {brief.a4_hz:g} Hz"),
        _line("Tempo", f"{brief.bpm:g} BPM, one beat {tempo.beat_ms(brief.bpm):.2f} ms"),
        _line("Chord roots", " | ".join(brief.roots)),
        _line(f"Kicks on beats of {state.kick.bars} bar{'s' * (state.kick.bars > 1)}", _beats(state.kick)),
        _line("Sub owner", brief.sub_owner),
        _line("Order of cure", brief.cure),
        _line("Low cut", brief.low_cut),
        "", "Kick",
    ]  # fmt: skip
    if hit.note is not None and hit.cents is not None:
        sigma = hit.fundamental_sigma_cents or 0.0
        out.append(_line("Note", f"{hit.note} {hit.cents:+.1f} cents (± {sigma:.1f})"))
    else:
        out.append(_line("Note", f"none: {hit.reasons.get('fundamental_hz', '')}"))
    length = tempo.nearest_note_value(hit.length_ms, brief.bpm)
    out += [
        _line("Fundamental", _number(hit.fundamental_hz, "Hz", 2)),
        _line("Settles after", _number(hit.settle_ms, "ms")),
        _line("Length", f"{hit.length_ms:.0f} ms, {length.value} {length.difference_ms:+.0f} ms"),
        _line("Peak / true peak", f"{hit.peak_dbfs:.2f} dBFS / {hit.true_peak_dbtp:.2f} dBTP"),
        _line("Crest", _number(hit.crest_db, "dB")),
        *_hit_settings(state.kick),
        *(line for other in state.hits for line in _hit_settings(other)),
        *(line for voice in state.voices for line in _line_settings(voice)),
        *_stem_settings(state),
        *_separate_settings(state),
        "", "Ducking" + ("" if state.ducking else " (switched off)"), *_settings(state.duck),
        _line("Bass is back after", _number(answer.duck.returns_ms, "ms")),
        _line("Slack to the next kick", _number(answer.duck.slack_ms, "ms")),
        _line("Click risk", _number(answer.duck.click_risk, "dB/ms")),
        *_compressors(does.get(state.duckings[0].id)),
        *(line for one in state.duckings[1:] for line in _ducking_settings(state, one, does.get(one.id))),
        "", "Kick and bass, before -> after",
        _line("Collision per kick",
              f"{_number(answer.before.collision_ms, 'ms', 0)} -> "
              f"{_number(answer.after.collision_ms, 'ms', 0)}"),
        _line("Below the sub edge", f"{_number(answer.after.sub_shared_ms, 'ms', 0)} shared per kick, edge "
              f"at {_number(answer.after.sub_edge_hz, 'Hz', 0)}"),
        _line("Sub of its owner", f"{_number(answer.after.sub_level_db, 'dB')} re the low end, loses "
              f"{_number(answer.after.owner_loss_db, 'dB')}"),
        _line("Kick over bass", f"{_number(answer.before.kick_over_bass_db, 'dB')} -> "
              f"{_number(answer.after.kick_over_bass_db, 'dB')}"),
        _line("Loudness", f"{answer.mix_before.lufs:.1f} -> {answer.mix_after.lufs:.1f} LUFS"),
        _line("True peak", f"{answer.mix_before.true_peak_dbtp:.1f} -> "
              f"{answer.mix_after.true_peak_dbtp:.1f} dBTP"),
        "", "Open findings", *([f"  - {f.sentence}" for f in found] or ["  none"]),
        "", "Low frequencies at club level damage hearing without sounding loud: follow the",
        "local rules on noise exposure, and leave measuring a room to qualified people.", "",
    ]  # fmt: skip
    return "\n".join(out)
