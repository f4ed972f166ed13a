"""The sentences and labels that screens and reports share: the brief in words, where a check governs, and so on."""

from __future__ import annotations

import math
from typing import Any

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding
from omakase.core.laminate.breaking import LOADINGS, Breaking, Event
from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.thermal import free_expansion
from omakase.core.members.field import Place
from omakase.core.quantities import QUANTITIES, Quantity
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import plain
from omakase.evaluate.results.candidate_result import WAITING, CandidateResult
from omakase.evaluate.results.lineup import Cell, Row
from omakase.evaluate.results.profile import Shape
from omakase.project import edits, model, panels
from omakase.project.quickline import layup_code
from omakase.units import FIELD, UnitSystem, display_unit, format_value, to_display

# families whose tone in pictures is that of another
LIKE = {
    "basalt": "glass", "flax": "wood", "polyester": "aramid", "polypropylene": "aramid", "mat": "foam",
    "printed": "foam", "epoxy": "foam",
}  # fmt: skip
COOLING = -50.0  # K: from a warm cure or a hot day to a cool shop
LEAST_BOW = 1e-4  # of a length; below it nobody measures it
CRITERIA_WORDS = {"maximum_strain": "maximum strain", "tsai_wu": "Tsai–Wu"}
WRINKLING_WORDS = {"design": "design values", "theory": "full theory"}
WRINKLING_EXPLAINED = {
    "design": "design values (k = 0.5, honeycomb c = 0.33)",
    "theory": "full theory (k = 0.91, honeycomb c = 0.82)",
}
AROUND_WORDS = {0: "top", 90: "at the side", 180: "bottom", 270: "at the other side"}
SOURCE_MARKS = {"tested": "T", "datasheet": "D", "estimated": "E", "assumed": "A"}
SOURCE_WORDS = {
    "tested": "tested here",
    "datasheet": "from a datasheet",
    "estimated": "estimated by a rule",
    "assumed": "assumed",
}
MASS_PARTS = {
    "cloth": "cloth",
    "resin": "resin",
    "core": "core",
    "uptake": "resin in the core",
    "sheet": "sheet",
}
CAUTION = (
    "Sizing aid only. Certification rules, local codes and a licensed engineer decide on load-bearing parts of "
    "aircraft and vehicles."
)


FIGURES = 6  # digits of a number put into a formula


def figure(value: float, dimension: str, units: UnitSystem) -> str:
    """A number as it is put into a formula, with its unit and enough digits to follow."""
    number = f"{to_display(value, dimension, units):.{FIGURES}g}".replace("-", "−")
    return f"{number} {display_unit(dimension, units).label}".rstrip()


def quantity(value: float, dimension: str, units: UnitSystem) -> str:
    """Value with its unit."""
    return format_value(value, dimension, units, with_unit=True)


def given(value: float, dimension: str, units: UnitSystem) -> str:
    """A value that a person gave, with its unit and as it was typed."""
    return format_value(value, dimension, units, with_unit=True, digits=FIELD)


def bare(value: float, dimension: str, units: UnitSystem) -> str:
    """As ``given``, without the unit, which stands elsewhere in the sentence."""
    return format_value(value, dimension, units, digits=FIELD)


def load_text(brief: model.Brief, case: int, load: int, units: UnitSystem) -> str:
    """A load as text, without a full stop."""
    record = brief.load_cases[case].loads[load]
    if isinstance(record, panels.PressureLoad):
        face = "A" if record.pressure >= 0.0 else "B"
        return f"{given(abs(record.pressure), 'pressure', units)} over the whole of face {face}"
    if isinstance(record, panels.PatchLoad):
        face = "A" if record.force >= 0.0 else "B"
        return (
            f"{given(abs(record.force), 'force', units)} from a {record.what or 'patch'} of "
            f"{bare(record.along_x, 'length', units)} × {given(record.along_y, 'length', units)} on face {face} "
            f"at ({bare(record.x, 'length', units)}, {given(record.y, 'length', units)})"
        )
    if isinstance(record, panels.OwnWeight):
        return f"{bare(record.g, 'acceleration', units)} times its own weight"
    return plain(kind_of(brief).load_sentence(brief, case, load), brief, units).rstrip(".")


def case_sentence(brief: model.Brief, index: int, units: UnitSystem) -> str:
    """A load case as text."""
    case = brief.load_cases[index]
    loads = " and ".join(load_text(brief, index, i, units) for i in range(len(case.loads))) or "no load yet"
    name = case.name or case.id
    if case.factor != 1.0:
        loads += f", all times {case.factor:g}"
    return f"{name[:1].upper()}{name[1:]}: {loads}."


AGAINST_WORDS: dict[model.Relative, str] = {
    "mass": "no heavier than",
    "deflection": "at least as stiff as",
    "thickness": "no thicker than",
}


def limit_sentence(quantity_: Quantity, limit: Any, units: UnitSystem) -> str:
    """A limit as text."""
    if quantity_.way == "outside":
        low, high = limit
        return f"No mode lies between {bare(low, 'frequency', units)} and {given(high, 'frequency', units)}."
    value = given(limit, quantity_.dimension, units)
    before = "Its first frequency is at least" if quantity_.key == "frequency" else quantity_.before
    return f"{before} {value}{' ' + quantity_.after if quantity_.after else ''}."


def limit_sentences(brief: model.Brief, units: UnitSystem) -> list[str]:
    limits, judgement = brief.limits, brief.judgement
    sentences = []
    by_limit = {q.limit: q for q in QUANTITIES if getattr(limits, q.limit) is not None}
    for name in ("deflection", "rotation", "twist", "frequency_minimum", "frequency_band"):
        if name in by_limit:
            sentences.append(limit_sentence(by_limit[name], getattr(limits, name), units))
    sentences += [f"It is {AGAINST_WORDS[name]} the baseline." for name in limits.against]
    for name in ("mass", "thickness", "diameter"):
        if name in by_limit:
            sentences.append(limit_sentence(by_limit[name], getattr(limits, name), units))
    special = (
        f" times {judgement.special_factor:g} for {judgement.special_factor_reason or 'an unnamed reason'}"
        if judgement.special_factor != 1.0
        else ""
    )
    sentences.append(
        f"Reserve factor at least {limits.reserve_factor:g} "
        f"at ultimate = limit × {judgement.factor_of_safety:g}{special}."
    )
    sentences.append(
        f"Plies fail by {CRITERIA_WORDS[judgement.criterion]}; "
        f"faces wrinkle by {WRINKLING_EXPLAINED[judgement.wrinkling]}."
    )
    return sentences


def brief_sentences(brief: model.Brief, units: UnitSystem) -> list[str]:
    """The brief as plain text that a colleague could check."""
    return [
        kind_of(brief).plain_member(brief, units),
        *(case_sentence(brief, i, units) for i in range(len(brief.load_cases))),
        *limit_sentences(brief, units),
        *([f"{conditions_text(brief)}."] if brief.conditions else []),
        surroundings_sentence(brief.surroundings, units),
    ]


def conditions_text(brief: model.Brief) -> str:
    """The conditions whose design values a brief is judged by, with their zones."""
    named = [
        applied.condition.name + (f" ({', '.join(applied.zones)})" if applied.zones else "")
        for applied in brief.conditions
    ]  # fmt: skip
    return f"Design values: {'; '.join(named)}" if named else "No design values beside the strengths of its materials"


MOISTURE_WORDS = {"dry": "dry", "wet": "wet"}
TWIST_WORDS = {"no": "carries no torsion", "yes": "carries torsion"}
BEHIND_WORDS = {"nothing": "no aerial behind it", "aerial": "an aerial behind it"}


def surroundings_sentence(surroundings: model.Surroundings, units: UnitSystem) -> str:
    """Where the part works."""
    text = format_value(surroundings.temperature, "temperature", units, with_unit=True)
    behind = ", with an aerial behind it" if surroundings.aerial else ""
    shape = "" if surroundings.radius is None else f"; its tightest bend is {_length(surroundings.radius, units)}"
    twist = "; it carries torsion" if surroundings.twisted else ""
    return f"It works at up to {text}, {'wet' if surroundings.wet else 'dry'}{behind}{shape}{twist}."


def _length(value: float, units: UnitSystem) -> str:
    return format_value(value, "length", units, with_unit=True)


def layer_label(stack: Stack, index: int) -> str:
    """'2 twill200 45°' or '3 core pvc80', numbered from face A."""
    layer = stack.layers[index]
    if layer.role == "core":
        return f"{index + 1} core {layer.material.id}"
    return f"{index + 1} {layer.material.id} {layer.angle:g}°"


def layer_words(candidate: model.Candidate, row: int) -> str:
    """'layer 2', or 'layer 2 of the webs' where it stands for those in its place in walls that are alike."""
    wall = candidate.layers[row].wall
    if not wall:
        return f"layer {row + 1}"
    number = edits.rows_of_wall(candidate, wall).index(row) + 1
    walls = dict.fromkeys(candidate.layers[index].wall for index in edits.same_rows(candidate, row))
    return f"layer {number} of the {together(list(walls))}"


def together(names: list[str]) -> str:
    """'webs' for front web and rear web, 'caps', 'flanges'; else the names."""
    if len(names) == 1:
        return names[0] or "panel"
    names = [name or "panel" for name in names]
    last = {name.split()[-1] for name in names}
    return f"{last.pop()}s" if len(last) == 1 else " and ".join(names)


def event_words(stack: Stack, event: Event) -> str:
    """'1.08 %: 1 twill200 0°, 4 twill200 0° (fibres)'."""
    modes: dict[str, list[str]] = {}
    for index, mode in event.layers:
        material = stack.layers[index].material
        if mode == "in shear":
            how = "shear"
        elif mode == "along 1":
            how = "fibres" if material.kind == "ply" else "broken"
        else:
            how = "fibres across" if material.is_woven else "resin across"
        modes.setdefault(how, []).append(layer_label(stack, index))
    parts = []
    for how, labels in modes.items():
        shown = ", ".join(labels[:2]) + (f" and {len(labels) - 2} more" if len(labels) > 2 else "")
        parts.append(f"{shown} ({how})")
    return f"{event.strain * 100.0:.2f} %: {'; '.join(parts)}"


def breaking_words(walk: Breaking, units: UnitSystem) -> tuple[str, str]:
    """(the largest load on a walk to the end, what breaks before it and what holds after it)."""
    if walk.loading.startswith("bend"):
        unit = "N m/m" if units == "si" else "lbf in/in"
        load = f"{format_value(walk.strongest, 'force', units)} {unit}"
    else:
        load = format_value(walk.strongest, "line_load", units, with_unit=True)
    rest = f"then {walk.residual:.0%} of it holds" if walk.residual > 0.005 else "then nothing holds"
    if walk.first < 0.999 * walk.strongest:
        rest = f"first layer at {walk.first / walk.strongest:.0%}, {rest}"
    return f"{LOADINGS[walk.loading].capitalize()}: {load} at most", rest


def thermal_words(stack: Stack, units: UnitSystem, change: float = COOLING) -> tuple[str, str]:
    """(expansion along x and y, what a change of temperature in K does to the free plate)."""
    response = free_expansion(stack, change)
    unit = display_unit("expansion", units).label
    along = [format_value(float(response.strain[axis]) / change, "expansion", units) for axis in (0, 1)]
    first = f"expands by {along[0]} along x, {along[1]} along y, {unit}"
    if response.missing:
        first += f"; {', '.join(response.missing)} counted as not expanding"
    way = "colder" if change < 0.0 else "warmer"
    span, length = ("each metre", 1.0) if units == "si" else ("each yard", 0.9144)
    rises = [response.rise(axis, length) for axis in (0, 1)]
    twist = float(response.curvature[2]) / 2.0
    if max(abs(rise) for rise in rises) < LEAST_BOW and abs(twist) < LEAST_BOW:
        return first, f"{way}: it stays flat"
    bows = " and ".join(f"{format_value(abs(rise), 'length', units, with_unit=True)} along {axis}"
                        for rise, axis in zip(rises, "xy", strict=True) if abs(rise) >= LEAST_BOW)  # fmt: skip
    turn = f"{math.degrees(abs(twist)):.1f}°" if abs(twist) >= LEAST_BOW else ""
    words = [f"bows by {bows}" if bows else "", f"twists by {turn}" if turn else ""]
    return first, f"{way}: {span} {' and '.join(word for word in words if word)}"


def where_text(place: Place, units: UnitSystem) -> str:
    """A point of the member: along it, across or round it, and on which wall."""
    assert place.x is not None
    text = f"x {format_value(place.x, 'length', units)}"
    if place.y is not None:
        text += f", y {format_value(place.y, 'length', units)}"
    if place.around is not None:
        text += f", {AROUND_WORDS.get(round(place.around) % 360, f'{place.around:.0f}° from the top')}"
    if place.s is not None:
        return f"{text}, {place.wall} at {format_value(place.s, 'length', units)}"
    return text + (f", {place.wall}" if place.wall else "")


def governing_layer_label(result: CandidateResult, check: CheckResult) -> str:
    """The layer where a check governs, counted in its wall, or nothing."""
    layer = result.governing_layer(check)
    return "" if layer is None else layer_label(*layer)


def place_text(check: CheckResult, result: CandidateResult, units: UnitSystem) -> str:
    """Where a check governs: point on the member, layer, surface."""
    parts = []
    place = check.place
    if place.x is not None:
        parts.append(where_text(place, units))
    if place.layer is not None:
        parts.append(governing_layer_label(result, check))
    if place.surface:
        parts.append(place.surface)
    return " · ".join(parts)


def place_short(check: CheckResult, result: CandidateResult, units: UnitSystem) -> str:
    """As ``place_text`` for a narrow column: the detail, the layer, or the point where neither is named."""
    place = check.place
    if check.detail:
        return check.detail_name
    if place.layer is not None:
        return governing_layer_label(result, check)
    if place.x is not None and place.y is not None:
        return f"{format_value(place.x, 'length', units)}, {format_value(place.y, 'length', units)}"
    if place.wall and place.s is None and place.wall in check.title:
        place = msgspec.structs.replace(place, wall="")
    return "" if place.x is None else where_text(place, units)


def reserve_text(value: float) -> str:
    """A reserve factor with two decimals; large ones as '> 99', next to nothing as '< 0.01'."""
    if math.isinf(value) or value > 99.0:
        return "> 99"
    if value < 0.005:
        return "< 0.01"
    return f"{value:.2f}"


def percent_text(value: float) -> str:
    """A signed difference in percent."""
    if abs(value) >= 10.0:
        return f"×{value + 1.0:.0f}"
    return f"{value * 100.0:+.0f}%".replace("-", "−")


def counted(count: int, word: str) -> str:
    """'1 layer', '1,200 rows'."""
    return f"{count:,} {word}" if count == 1 else f"{count:,} {word}s"


def over_words(share: float) -> str:
    """'6%', or '28 times' where a percentage would not be read; 'far' beyond what anyone compares."""
    if share < 5.0:
        return f"{share:.0%}"
    return f"{share + 1.0:.0f} times" if share < 1e4 else "far"


def reserve_words(reserve: float, required: float) -> str:
    """'RF 0.87 of 1'."""
    return f"RF {reserve_text(reserve)} of {required:g}"


def value_text(row: Row, cell: Cell, units: UnitSystem) -> str:
    """A cell's number with its unit."""
    if cell.value is None:
        return "–"
    if row.key == "reserve_factor":
        return reserve_text(cell.value)
    return quantity(cell.value, row.dimension, units)


def limit_text(row: Row, units: UnitSystem) -> str:
    """What a row must meet: 'at most 6.00 mm', 'outside 85 to 130 Hz', 'no limit set'."""
    if row.limit is None:
        return "no limit set"
    if len(row.limit) == 2:
        low, high = row.limit
        return f"outside {format_value(low, row.dimension, units)} to {quantity(high, row.dimension, units)}"
    word = "at most" if row.lower_is_better else "at least"
    if row.dimension == "ratio":
        return f"{word} {row.limit[0]:g}"
    if units == "inch_pound":  # as in the brief
        return f"{word} {format_value(row.limit[0], row.dimension, units, True, digits=FIELD)}"
    return f"{word} {quantity(row.limit[0], row.dimension, units)}"


def distance_text(row: Row, cell: Cell) -> str:
    """How far a value is from its limit, in words."""
    if cell.margin is None or cell.value is None:
        return ""
    if math.isinf(cell.margin) or cell.margin > 9.99:
        return "ample"
    share = f"{abs(cell.margin) * 100.0:.0f}%"
    if cell.margin >= -1e-9:
        return f"margin {share}"
    if row.key == "frequency_band":
        return "in the band"
    if row.lower_is_better:
        return f"{over_words(1.0 / max(1.0 + cell.margin, 1e-9) - 1.0)} over"
    return f"{share} short"


def verdict(result: CandidateResult) -> str:
    """Whether a candidate meets the brief, in words."""
    if not result.ok:
        return result.error if result.error == WAITING else "cannot be computed"
    failed = list(dict.fromkeys(check.full_title.lower() for check in result.checks if not check.passes))
    if not failed:
        return "meets the brief"
    return "fails " + (failed[0] if len(failed) == 1 else f"{failed[0]} and {len(failed) - 1} more")


def finding_words(finding: Finding, units: UnitSystem) -> tuple[str, str]:
    """(what it says, what would help), with its measures in the reader's units."""
    text, fix = finding.text, finding.fix
    for measure in finding.measures:
        words = (given if measure.given else quantity)(measure.value, measure.dimension, units)
        text, fix = (sentence.replace(f"{{{measure.name}}}", words) for sentence in (text, fix))
    return text, fix


def findings_text(result: CandidateResult, units: UnitSystem) -> list[str]:
    """Each finding in a line, with what it was accepted for."""
    accepted = result.candidate.reasons
    lines = []
    for finding in result.findings:
        text, fix = finding_words(finding, units)
        lines.append(text + (f" (accepted: {accepted[finding.rule]})" if finding.rule in accepted else f"; {fix}"))
    return lines


def details_text(result: CandidateResult) -> list[str]:
    """Each detail in a line: what governs it, or how it is rated."""
    lines = []
    for own in result.details:
        # checks are sorted, the worst first
        check = next((entry for entry in result.checks if entry.detail == own.key), None)
        rating = getattr(own, "rating", None)
        if check is not None and check.check == "detail":
            lines.append(f"{own.name}: {check.method}")
        elif check is not None:
            fails = "" if check.passes else ", fails"
            lines.append(f"{own.name}: {check.title.lower()} {reserve_text(check.reserve_factor)}{fails}")
        elif rating is not None:
            lines.append(f"{own.name}: rated {rating.level}")
    return lines


def verdict_line(result: CandidateResult, short: bool = False) -> str:
    """The verdict with the number of findings that nobody has accepted, and of test series that it rests on; ``short``
    for a narrow column."""
    count, tests = len(result.open_findings), len(result.tests)
    findings = f" · {count} finding{'s' if count > 1 else ''}" if count else ""
    tested = f" · {tests} test{'s' if tests > 1 else ''}" if tests else ""
    words = "meets" if short and result.passes else verdict(result)
    return words + findings + tested


def layup_text(result: CandidateResult, units: UnitSystem, materials: bool = False) -> str:
    """The code of a candidate's layup, wall by wall, or that it is not known."""
    if result.candidate.measured is not None:
        return "measured, layup unknown"
    return layup_code(result.candidate.layers, units, result.faced, materials)


def governing_text(result: CandidateResult) -> tuple[str, str]:
    """(check, load case and place) that governs a candidate."""
    check = result.governing
    if check is None or result.stack is None:
        return "–", ""
    parts = [check.load_case] if check.load_case else []
    if check.place.layer is not None:
        parts.append(governing_layer_label(result, check))
    return f"{check.full_title} {reserve_text(check.reserve_factor)}", " · ".join(parts)


def shape_text(result: CandidateResult, shape: Shape, units: UnitSystem) -> str:
    """What a shape is, for a picture's title."""
    if not shape.number:
        return f"Buckling, {shape.case}: at {shape.value:.3g} times the load"
    text = f"Vibration {shape.number} of {shape.count}: {quantity(shape.value, 'frequency', units)}"
    band = result.brief.limits.frequency_band if result.brief is not None else None
    if band is not None and band[0] < shape.value < band[1]:
        text += ", in the forbidden band"
    return text


def stiffness_text(stack: Stack) -> str:
    """A, B and D in SI units with tabs, as a spreadsheet takes them."""
    constants = LaminateConstants(stack)
    lines = []
    for name, unit, matrix in (("A", "N/m", constants.A), ("B", "N", constants.B), ("D", "N m", constants.D)):
        lines.append(f"{name}, {unit}")
        lines += ["\t".join(f"{value:.6g}" for value in row) for row in matrix]
    return "\n".join(lines) + "\n"


def cell_explained(row: Row, cell: Cell, units: UnitSystem) -> str:
    """Source, method and remarks of a number, for a tool tip."""
    lines = [f"{row.title}: {value_text(row, cell, units)}" + (f" ({cell.note})" if cell.note else "")]
    if row.limit is not None:
        lines.append(f"{limit_text(row, units)}: {distance_text(row, cell)}")
    if cell.check is not None:
        lines.append(f"Method: {cell.check.method}")
        lines.extend(f"Note: {remark}" for remark in cell.check.remarks)
    if cell.rough:
        lines.append("Not the last word: being computed")
    lines.append(f"Rests on values {SOURCE_WORDS[cell.source]}")
    if cell.tie:
        lines.append("A tie: closer to the best of the row than the scatter of what feeds it")
    return "\n".join(lines)
