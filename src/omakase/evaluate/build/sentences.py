"""Jobs, their parts and works, and the shop as sentences; paths from the job, or from the shop."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import partial
from typing import Any

from omakase.core.materials.material import Material
from omakase.evaluate.members.sentence import (
    Act,
    Choice,
    Name,
    Number,
    Part,
    Path,
    Sentence,
    Words,
    with_entry,
    with_value,
    without_entry,
)
from omakase.project.build import (
    Consumable,
    FinishRecord,
    HardwareRecord,
    Job,
    MouldRecord,
    ProcessRecord,
    Shop,
    StockRecord,
)
from omakase.project.model import Project, by_id, new_id

Options = tuple[tuple[str, str, Any], ...]
ROUND = (*range(1, 13), 15, 20, 24, 30, 50, 100, 200, 500, 1000)
FACES: Options = (("face_a", "face A", "face_a"), ("face_b", "face B", "face_b"))
FINISHES: Options = (("filler", "filler", "filler"), ("paint", "paint", "paint"))
YES: Options = (("yes", "is mixed", True), ("no", "comes with the cloth", False))
KERFS: Options = (("filled", "filled with resin", "filled"), ("open", "left open", "open"))
WEEKS: Options = (
    ("five", "Monday to Friday", (0, 1, 2, 3, 4)), ("six", "Monday to Saturday", (0, 1, 2, 3, 4, 5)),
    ("seven", "every day", (0, 1, 2, 3, 4, 5, 6)), ("two", "Saturday and Sunday", (5, 6)),
)  # fmt: skip


def counts(now: int, most: int = 1000) -> Options:
    """Whole numbers to choose from, the present one among them."""
    return tuple((str(own), str(own), own) for own in sorted({*(own for own in ROUND if own <= most), now}))


def _count(path: Path, now: int, name: str, most: int = 1000) -> Choice:
    return Choice(path, name, name.lower(), counts(now, most))


def _number(path: Path, dimension: str, name: str, range_: Any = "not_negative") -> Number:
    return Number(path, dimension, name, name.lower(), range_)


def _remove(path: Path, index: int, what: str) -> Act:
    return Act("×", what, what.lower(), partial(without_entry, path=path, index=index))


def _add(text: str, path: Path, count: int, entry: Any, what: str) -> Act:
    return Act(text, what, what.lower(), partial(with_entry, path=path, index=count, entry=entry))


def job_sentence(job: Job) -> Sentence:
    return (
        Words("Job"), Name(("name",), "Name of the job", "name of the job"), Words(", revision"),
        _count(("revision",), job.revision, "Revision", 100), Words(", by"),
        Name(("who",), "Initials of who plans it", "initials"), Words(": build"),
        _count(("units",), job.units, "Units built now", 24), Words("of it from"),
        Name(("start",), "First day, as 2026-11-30", "first day"), Words("on; moulds are to make"),
        _count(("planned",), job.planned, "Units that the moulds are to make"), Words("in all."),
    )  # fmt: skip


def part_sentence(project: Project, job: Job, index: int, materials: Mapping[str, Material]) -> Sentence:
    """A part of the job."""
    own, base = job.parts[index], ("parts", index)
    which = f"of part {index + 1}"
    briefs: Options = tuple((brief.id, brief.name, brief.id) for brief in project.briefs)
    brief = by_id(project.briefs, own.brief)
    candidates = brief.candidates if brief is not None else ()
    options: Options = (
        ("", "the one decided for", ""),
        *((c.id, c.name or c.id, c.id) for c in candidates if c.layers),
    )
    shop = project.shop
    resins: Options = (("", "the resin of its plies", ""), *_names(materials, "resin"))
    parts: list[Part] = [
        _count((*base, "count"), own.count, f"How many {which}", 48), Words("×"),
        Name((*base, "name"), f"Name {which}", "name of the part"), Words(":"),
        Choice((*base, "brief"), f"Brief {which}", "brief of the part", briefs, (), partial(_other_brief, index)),
        Words("as"), Choice((*base, "candidate"), f"Candidate {which}", "candidate of the part", options),
        Words(","), Choice((*base, "process"), f"Process {which}", "process of the part", _processes(shop)),
        Words("in the mould"), Choice((*base, "mould"), f"Mould {which}", "mould of the part", _moulds(shop)),
        Words("with"), Choice((*base, "first"), f"Face in the mould {which}", "face in the mould", FACES),
        Words("down. Mixed:"), Choice((*base, "resin"), f"Resin {which}", "resin of the part", resins),
        Words(". Core edges at"), _number((*base, "chamfer"), "angle", f"Angle of core edges {which}", "positive"),
        Words(", scored every"),
        _number((*base, "score"), "length", f"Distance of cuts in the core {which}, 0 for none"),
    ]  # fmt: skip
    if own.score:
        parts += [
            Words(", cuts"), _number((*base, "kerf"), "length", f"Width of a cut in the core {which}", "positive"),
            Words("wide,"), Choice((*base, "kerfs"), f"Cuts in the core {which}", "cuts in the core", KERFS),
        ]  # fmt: skip
    for k, _ in enumerate(own.finishes):
        path = (*base, "finishes", k)
        parts += [
            Words("."), Choice((*path, "kind"), f"Kind of pass {k + 1}", "kind of the pass", FINISHES),
            Name((*path, "what"), f"What pass {k + 1} is", "name of the pass"), Words("stays on"),
            _number((*path, "thickness"), "length", f"Thickness of pass {k + 1}"), Words("thick of"),
            _number((*path, "density"), "density", f"Density of pass {k + 1}", "positive"), Words("on"),
            _number((*path, "share"), "ratio", f"Share of the face of pass {k + 1}"), Words("of the face in"),
            _number((*path, "hours"), "duration", f"Hands-on time of pass {k + 1}"),
            _remove((*base, "finishes"), k, f"Remove pass {k + 1}"),
        ]  # fmt: skip
    for k, fixed in enumerate(own.hardware):
        path = (*base, "hardware", k)
        parts += [
            Words("."), _count((*path, "count"), fixed.count, f"How many of hardware {k + 1}", 100), Words("×"),
            Name((*path, "what"), f"Hardware {k + 1}", "name of the hardware"), Words("of"),
            _number((*path, "mass"), "small_mass", f"Mass of hardware {k + 1}"),
            _remove((*base, "hardware"), k, f"Remove hardware {k + 1}"),
        ]  # fmt: skip
    filler, paint = FinishRecord(), FinishRecord("paint", "paint", 0.08e-3, 1400.0)
    return (
        *parts, Words("."),
        _add("+ filler", (*base, "finishes"), len(own.finishes), filler, "Add a pass of filler"),
        _add("+ paint", (*base, "finishes"), len(own.finishes), paint, "Add a pass of paint"),
        _add("+ hardware", (*base, "hardware"), len(own.hardware), HardwareRecord("fitting", 0.05), "Add hardware"),
    )  # fmt: skip


def _other_brief(index: int, _before: Job, after: Job) -> Job:
    """The candidate of another brief is the one decided for."""
    return with_value(after, ("parts", index, "candidate"), "")


def _names(materials: Mapping[str, Material], kind: str) -> Iterable[tuple[str, str, str]]:
    return ((name, name, name) for name in sorted(materials) if materials[name].kind == kind)


def _processes(shop: Shop) -> Options:
    return tuple((own.id, own.name, own.id) for own in shop.processes)


def _moulds(shop: Shop) -> Options:
    return (("", "of its own", ""), *((own.name, own.name, own.name) for own in shop.moulds))


def work_sentence(project: Project, job: Job, index: int, materials: Mapping[str, Material]) -> Sentence:
    """A work of the job."""
    own, base = job.works[index], ("works", index)
    which = f"of work {index + 1}"
    glues: Options = (("", "no adhesive", ""), *_names(materials, "adhesive"))
    parts: list[Part] = [
        Name((*base, "name"), f"Name {which}", "name of the work"), Words("takes"),
        _count((*base, "people"), own.people, f"People {which}", 12), Words("people"),
        _number((*base, "hours"), "duration", f"Hands-on time {which}"), Words(", then waits"),
        _number((*base, "wait"), "duration", f"Waiting {which}"), Words("; mould or jig:"),
        Choice((*base, "mould"), f"Mould {which}", "mould of the work", _moulds(project.shop)), Words(";"),
        Choice((*base, "adhesive"), f"Adhesive {which}", "adhesive of the work", glues),
    ]  # fmt: skip
    if own.adhesive:
        parts += [
            Words("on"), _number((*base, "area"), "area", f"Area of the bond {which}", "positive"), Words(","),
            _number((*base, "gap"), "length", f"Bond line {which}", "positive"), Words("thick"),
        ]  # fmt: skip
    parts.append(Words("; after"))
    named = {**{p.id: p.name for p in job.parts}, **{w.id: w.name for w in job.works if w.id != own.id}}
    for name in own.after:
        parts += [
            Words(named.get(name, name)),
            Act("×", f"Do not wait for {named.get(name, name)}", "wait for less",
                partial(_waits, index=index, after=tuple(a for a in own.after if a != name))),
        ]  # fmt: skip
    for name, title in named.items():
        if name not in own.after:
            parts.append(
                Act(f"+ {title}", f"Wait for {title}", "wait for more",
                    partial(_waits, index=index, after=(*own.after, name)))
            )  # fmt: skip
    return tuple(parts)


def _waits(job: Job, index: int, after: tuple[str, ...]) -> Job:
    return with_value(job, ("works", index, "after"), after)


def shop_sentence(shop: Shop) -> Sentence:
    """People, hours, money and habits of the shop; paths from the shop."""
    return (
        Words("Money is in"), Name(("currency",), "Name of the money", "name of the money"), Words("."),
        _count(("people",), shop.people, "People at work", 24), Words("people work"),
        _number(("day",), "duration", "Hours of a working day", "positive"), Words("a day from"),
        _number(("opens",), "duration", "Hour at which work begins"), Words("on,"),
        Choice(("days",), "Working days", "working days", WEEKS), Words(", at"),
        _number(("temperature",), "temperature", "Temperature of the shop", "anything"),
        Words(". An hour of hands costs"), _number(("rate",), "ratio", "Money of an hour"), Words("; overhead"),
        _number(("overhead",), "ratio", "Overhead, share"), Words(", margin"),
        _number(("margin",), "ratio", "Margin, share"),
        Words(", waste of cloth"), _number(("waste",), "ratio", "Waste of cloth before a cut list is made, share"),
        Words(", scrap"), _number(("scrap",), "ratio", "Scrap, share"),
        Words(". Plies are cut"), _number(("trim",), "length", "Trim round a ply"), Words("larger all round,"),
        _number(("spacing",), "length", "Space between pieces"), Words("apart; splices overlap by"),
        _number(("splice",), "length", "Overlap of a splice, 0 for no splices"),
        Words(". One person wets out a square metre of a layer in"),
        _number(("wetting",), "minutes", "Time to wet out a square metre", "positive"), Words("; a batch may take"),
        _number(("pot_share",), "ratio", "Share of the pot life", "positive"),
        Words("of the pot life; a cup holds at most"),
        _number(("largest_cup",), "small_mass", "Largest cup", "positive"), Words("and keeps"),
        _number(("cup_loss",), "small_mass", "Left in a cup"), Words("; brushes and rollers keep"),
        _number(("tool_loss",), "areal_mass", "Left in brushes, per area of cloth"), Words("."),
    )  # fmt: skip


def process_sentence(shop: Shop, index: int) -> Sentence:
    """A process; paths from the shop."""
    own, base = shop.processes[index], ("processes", index)
    which = f"of {own.name}"
    parts: list[Part] = [
        Name((*base, "name"), f"Name {which}", "name of the process"), Words(":"),
        _count((*base, "people"), own.people, f"People {which}", 12), Words("people;"),
        _number((*base, "cutting"), "minutes", f"Cutting of a piece {which}"), Words("to cut a piece,"),
        _number((*base, "set_up"), "duration", f"Setting up {which}"), Words("to set up,"),
        _number((*base, "laying"), "duration", f"Laying {which}"), Words("to lay a square metre of a layer,"),
        _number((*base, "bagging"), "duration", f"Bagging {which}"), Words("to bag,"),
        _number((*base, "demoulding"), "duration", f"Demoulding {which}"), Words("to demould and trim. Cures"),
        _number((*base, "cure"), "duration", f"Cure {which}, 0 for what the resin needs"),
        Words("(0: as its resin) at"), *_oven(own, base, which), Words("; resin"),
        Choice((*base, "mixed"), f"Resin {which}", "resin of the process", YES), Words(". A bag may lose"),
        _number((*base, "drop"), "vacuum", f"Pressure lost {which}, 0 for no bag"), Words("in"),
        _number((*base, "drop_time"), "minutes", f"Time of the drop test {which}", "positive"),
        Words(". Hours fall to"), _number((*base, "learning"), "ratio", f"Learning {which}", "positive"),
        Words("when the number of parts doubles."),
    ]  # fmt: skip
    for k, _ in enumerate(own.consumables):
        path = (*base, "consumables", k)
        parts += [
            Name((*path, "name"), f"Consumable {k + 1} {which}", "name of the consumable"), Words(":"),
            _number((*path, "share"), "ratio", f"Area of consumable {k + 1} {which}"),
            Words("m² for each m² of face, at"),
            _number((*path, "price"), "ratio", f"Price of consumable {k + 1} {which}"), Words("a m², takes up"),
            _number((*path, "uptake"), "areal_mass", f"Uptake of consumable {k + 1} {which}"),
            _remove((*base, "consumables"), k, f"Remove consumable {k + 1} {which}"), Words("."),
        ]  # fmt: skip
    parts.append(
        _add(
            "+ consumable",
            (*base, "consumables"),
            len(own.consumables),
            Consumable("tape"),
            f"Add a consumable {which}",
        )
    )
    return tuple(parts)


def _oven(own: ProcessRecord, base: Path, which: str) -> tuple[Part, ...]:
    if not own.oven:
        return (
            Words("the shop's temperature"),
            Act("in the oven", f"Cure in an oven {which}", "cure in an oven", partial(with_value, path=(*base, "oven"),
                                                                                   value=333.15)),
        )  # fmt: skip
    return (
        Number((*base, "oven"), "temperature", f"Oven {which}", "oven", "anything"), Words("in the oven"),
        Act("×", f"No oven {which}", "no oven", partial(with_value, path=(*base, "oven"), value=0.0)),
    )  # fmt: skip


def stock_sentence(shop: Shop, materials: Mapping[str, Material]) -> Sentence:
    """Moulds and stock; paths from the shop."""
    parts: list[Part] = [Words("Moulds and jigs:")]
    for k, mould in enumerate(shop.moulds):
        path: Path = ("moulds", k)
        parts += [
            _count((*path, "count"), mould.count, f"How many of mould {k + 1}", 24), Words("×"),
            Name((*path, "name"), f"Mould {k + 1}", "name of the mould"), Words("at"),
            _number((*path, "cost"), "ratio", f"Cost of mould {k + 1}"),
            _remove(("moulds",), k, f"Remove mould {k + 1}"), Words(";"),
        ]  # fmt: skip
    parts += [
        _add("+ mould", ("moulds",), len(shop.moulds), MouldRecord(f"mould {len(shop.moulds) + 1}"), "Add a mould"),
        Words(". In stock:"),
    ]
    known: Options = tuple(
        (name, name, name) for name in sorted(materials)
        if materials[name].kind in ("ply", "core", "sheet", "resin", "adhesive")
    )  # fmt: skip
    for k, own in enumerate(shop.stock):
        parts += [*_stocked(k, own, materials, known), _remove(("stock",), k, f"Remove stock {k + 1}"), Words(";")]
    new = StockRecord("ep-slow", left=1.0)
    return (*parts, _add("+ stock", ("stock",), len(shop.stock), new, "Add something in stock"))


def _stocked(k: int, own: StockRecord, materials: Mapping[str, Material], known: Options) -> list[Part]:
    path: Path = ("stock", k)
    material = materials.get(own.material)
    kind = material.kind if material is not None else "ply"
    parts: list[Part] = [Choice((*path, "material"), f"Material of stock {k + 1}", "material in stock", known)]
    if kind in ("core", "sheet"):
        parts += [Words("of"), _number((*path, "thickness"), "length", f"Thickness of stock {k + 1}, 0 for all")]
    if kind in ("ply", "core", "sheet"):
        parts += [
            Words("wide"), _number((*path, "width"), "length", f"Width of stock {k + 1}, 0 for the usual"),
            Words("long"), _number((*path, "length"), "length", f"Length of a sheet of stock {k + 1}, 0 for a roll"),
        ]  # fmt: skip
    if own.left is None:
        start: Callable[[Any], Any] = partial(with_value, path=(*path, "left"), value=1.0)
        return [*parts, Words("not counted"), Act("count", f"Count stock {k + 1}", "count stock", start)]
    dimension = "mass" if kind in ("resin", "adhesive") else "ratio" if kind != "ply" else "run"
    return [*parts, Words("left:"), _number((*path, "left"), dimension, f"Left of stock {k + 1}")]


def new_process(shop: Shop) -> Shop:
    """The shop with a process more, like its last one."""
    last = shop.processes[-1] if shop.processes else ProcessRecord("hand", "by hand")
    identity = new_id("process", {own.id for own in shop.processes})
    made = with_value(with_value(last, ("id",), identity), ("name",), f"{last.name} (copy)")
    return with_value(shop, ("processes",), (*shop.processes, made))
