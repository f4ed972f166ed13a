"""One case of each reader, made from a seed; a failure names reader and seed, so that it can be done again alone.

What counts as a failure: an exception that is not the program's own, a result that cannot be written and read again to
the same bytes, or much more work than judging a spar: what a busy machine slows down, it slows down alike.
"""

from __future__ import annotations

import copy
import json
import random
import time
from collections.abc import Callable
from functools import cache
from typing import Any

import scipy.stats  # noqa: F401  loaded before the first case is timed

from omakase.core.errors import OmakaseError
from omakase.core.members.panel_given import QUICK
from omakase.evaluate.build.logs import bag_words
from omakase.evaluate.build.plan import Planner
from omakase.evaluate.build.weighing import offers
from omakase.evaluate.details.registry import detail_drawing, detail_kind, detail_levers
from omakase.evaluate.materials.samples import report
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import plain
from omakase.evaluate.results.diagrams import curves, has_span
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.testing.reducing import Reducer
from omakase.project.candidate_table import bring_candidates, read_candidates
from omakase.project.curve_file import make_curve, read_table, suggest
from omakase.project.curves import to_record
from omakase.project.demo import demo_project
from omakase.project.library import materials_of, shipped_materials
from omakase.project.material_json import read_library
from omakase.project.material_table import read_materials, write_materials
from omakase.project.model import Project
from omakase.project.outline_file import read_outline
from omakase.project.quickline import QuickLineError, read_quick_line
from omakase.project.specimen_table import read_specimens
from omakase.project.step_log import Rig, read_log
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.validation import problems
from omakase.reports.job_write import job_bytes
from omakase.units import QuantityError, parse_quantity
from omakase.units.parse import SI_UNITS

EVALUATOR, PLANNER = Evaluator(), Planner()
LONGEST = 15.0  # times the work of judging a spar: about two seconds
LONGER = {"job": 3.0 * LONGEST}  # a job lays out many rolls
UNSUSPICIOUS = 0.5  # s, which are not looked at any further
TRIES = 3  # of what seems slow, each beside its own spar: the least counts
NUMBERS = (0, -1, 1, 1e-320, 1e-12, 1e9, 1e15, 1e16, 1e200, 1e308, -0.0, 0.1, 2**53, 10**30, 7.5, 1e-4, True, "1", None)
TEXTS = ("", "x", "\ud83d", "<img src=/etc/passwd>", "=1+1", "a" * 3000, "\0", "😀", "pvc80", "twill200", "free",
         "clamped", "panel", "core", "tsai_wu", "../../x", "nan", "1e999", "\u202e", "l1", "c1")  # fmt: skip


@cache
def _demo() -> dict[str, Any]:
    records = json.loads(to_bytes(demo_project()))
    for series in records["series"]:
        series["specimens"] = series["specimens"][:2]
    return records


def mutated_records(draw: random.Random) -> bytes:
    """The demo's file with some of its values exchanged, doubled, removed or cut; sometimes cut as text."""
    records = copy.deepcopy(_demo())
    for _ in range(draw.choice((1, 1, 2, 4, 12))):
        _mutate(records, draw)
    text = json.dumps(records)
    if draw.random() < 0.15:
        at = draw.randrange(len(text))
        text = (
            text[:at]
            + draw.choice(("", "}", "1e400", "NaN", "[" * 200, "9" * 5000, '"'))
            + text[at + draw.randrange(3) :]
        )
    return text.encode()


def _mutate(records: Any, draw: random.Random) -> None:
    here = records
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        if not keys:
            return
        key = draw.choice(keys)
        if isinstance(here[key], dict | list) and here[key] and draw.random() < 0.93:
            here = here[key]
            continue
        break
    act = draw.randrange(6)
    if act == 0 and isinstance(here, dict):
        del here[key]
    elif act == 1 and isinstance(here, list):
        here.append(copy.deepcopy(here[key]))
    elif act == 2 and isinstance(here, dict):
        here[draw.choice(TEXTS)] = draw.choice(NUMBERS)
    elif isinstance(here[key], str) or act == 5:
        here[key] = draw.choice(TEXTS)
    else:
        here[key] = draw.choice(NUMBERS)


def project(draw: random.Random) -> None:
    """A file: refused, or read, checked, judged, and written and read again to the same bytes."""
    try:
        read = from_bytes(mutated_records(draw), "fuzzed")
    except OmakaseError:
        return
    data = to_bytes(read)
    assert to_bytes(from_bytes(data, "again")) == data, "another project came back"
    problems(read)
    materials, reducer = materials_of(read), Reducer()
    for series in read.series:
        reducer.report(series)
    for sample in read.samples:
        report(sample, materials)
    for brief in read.briefs[:1]:
        for candidate in brief.candidates[:1]:
            Evaluator().evaluate(brief, candidate, materials, QUICK)


def _bend(records: Any, draw: random.Random) -> None:
    """Another value of the same type somewhere inside: numbers scaled or exchanged, lists shorter or longer."""
    here, key = records, draw.choice(list(records) if isinstance(records, dict) else range(len(records) or 1))
    while (isinstance(here, dict) or key < len(here)) and isinstance(here[key], dict | list) and here[key]:
        inside = here[key]
        if isinstance(inside, list) and draw.random() < 0.1:
            inside.pop(draw.randrange(len(inside)))
            return
        if isinstance(inside, list) and draw.random() < 0.1:
            inside.insert(draw.randrange(len(inside) + 1), copy.deepcopy(draw.choice(inside)))
            return
        here, key = inside, draw.choice(list(inside) if isinstance(inside, dict) else range(len(inside)))
    if isinstance(here, list) and not here:
        return
    value = here[key]
    if isinstance(value, bool):
        here[key] = not value
    elif isinstance(value, int | float):
        here[key] = draw.choice((0.0, -value, 0.01 * value, 0.5 * value, 2.0 * value, 10.0 * value, 1e3 * value, 1e-9,
                                 0.03, 0.8, 90.0, draw.uniform(0.0, 3.0)))  # fmt: skip
    elif isinstance(value, str) and key in ("held", "section", "filling", "material", "zone"):
        here[key] = draw.choice(("clamped", "simple", "flat", "arched", "hat", "pvc80", "balsa150", "twill200", "ud300",
                                 "", "z1", "bs30"))  # fmt: skip


def member(draw: random.Random) -> None:
    """A brief of a member with a span: refused, or judged, put into words and drawn, with its diagrams and ways out."""
    records = copy.deepcopy(_demo())
    records["series"], records["samples"], records["acceptances"] = [], [], []
    records["briefs"] = [brief for brief in records["briefs"] if brief["member"]["kind"] != "panel"]
    for brief in records["briefs"]:
        for _ in range(draw.choice((1, 1, 2, 4, 8))):
            _bend(draw.choice([brief["member"], brief["load_cases"], brief["candidates"], brief["limits"]]), draw)
    if draw.random() < 0.2:
        _mutate(records["briefs"], draw)
    try:
        read = from_bytes(json.dumps(records).encode(), "fuzzed")
    except OmakaseError:
        return
    data = to_bytes(read)
    assert to_bytes(from_bytes(data, "again")) == data, "another project came back"
    problems(read)
    materials = materials_of(read)
    for brief in read.briefs:
        kind = kind_of(brief)
        sentences = [(kind.sentence(brief), brief)]
        for k, case in enumerate(brief.load_cases):
            sentences += [(kind.load_sentence(brief, k, j), brief) for j in range(len(case.loads))]
            kind.plan(brief, case, "inch_pound")
        for candidate in draw.sample(brief.candidates, min(1, len(brief.candidates))):
            sentences.append((kind.form_sentence(brief, candidate, materials), candidate))
            for lever in (*kind.levers(brief, candidate, "si", True), *kind.levers(brief, candidate, "si", False)):
                assert lever is not None
            list(kind.parameters(brief, candidate, materials))
            result = Evaluator().evaluate(brief, candidate, materials)
            for k in range(len(brief.load_cases) if has_span(result) else 0):
                curves(brief, result, k)
        for sentence, record in sentences:
            plain(sentence, record, "si")


def detail(draw: random.Random) -> None:
    """A detail of the demo, bent: refused, told as one that makes no sense, or judged, put into words and drawn."""
    records = copy.deepcopy(_demo())
    holders = [
        (i, k) for i, brief in enumerate(records["briefs"]) for k, own in enumerate(brief["candidates"])
        if own.get("details")
    ]  # fmt: skip
    i, k = draw.choice(holders)
    brief = records["briefs"][i]
    records |= {"briefs": [brief], "series": [], "samples": [], "acceptances": [], "decisions": [], "vehicles": []}
    brief["candidates"] = [brief["candidates"][k]]
    brief["baseline"] = ""
    for _ in range(draw.choice((1, 2, 4, 8, 12))):
        _bend(draw.choice(brief["candidates"][0]["details"]), draw)
    try:
        read = from_bytes(json.dumps(records).encode(), "fuzzed")
    except OmakaseError:
        return
    data = to_bytes(read)
    assert to_bytes(from_bytes(data, "again")) == data, "another project came back"
    problems(read)
    materials, (found,) = materials_of(read), read.briefs
    candidate = found.candidates[0]
    result = EVALUATOR.evaluate(found, candidate, materials, QUICK)
    assert not result.ok or len(result.details) == len(candidate.details)
    json.dumps(candidate_record(result, False), allow_nan=False)
    for index, own in enumerate(candidate.details):
        sentence = detail_kind(own).sentence(found, candidate, index, materials)
        plain(sentence, candidate, draw.choice(("si", "inch_pound")))
    for made in result.details:
        detail_drawing(made)
    levers = list(detail_levers(candidate, materials, "si"))
    for lever in draw.sample(levers, min(3, len(levers))):
        EVALUATOR.evaluate(found, draw.choice(lever.options).candidate, materials, QUICK)


def job(draw: random.Random) -> None:
    """A job of the demo and its shop with some of their numbers bent: it plans, and writes its sheets."""
    records = copy.deepcopy(_demo())
    for _ in range(draw.choice((1, 2, 3))):
        _bend(draw.choice((records["jobs"], records["shop"])), draw)
    try:
        project = from_bytes(json.dumps(records).encode(), "fuzz")
    except OmakaseError:
        return
    for own in project.jobs:
        plan = PLANNER.plan(project, own)
        job_bytes(plan, draw.choice((".xlsx", ".csv", ".dxf")), project.title, "2026-11-28")
        for part in plan.parts:
            for log in own.bags:
                bag_words(log, part, "si")
    offers(project)


def outline(draw: random.Random) -> None:
    """A file of coordinates with mistakes: points, or a message."""
    lines = [f"{draw.uniform(0, 60):.4g}{draw.choice((' ', ', ', ';', chr(9)))}{draw.uniform(-9, 9):.4g}"
             for _ in range(draw.choice((0, 2, 4, 9, 120)))]  # fmt: skip
    for _ in range(draw.choice((0, 1, 1, 3))):
        lines.insert(
            draw.randrange(len(lines) + 1), draw.choice(("", "# note", "title", "1", "1 2 3", "nan 0", "1e999 0"))
        )
    text = "\n".join(lines)
    if draw.random() < 0.3 and text:
        at = draw.randrange(len(text))
        text = text[:at] + chr(draw.randrange(1, 0x2FF)) + text[at + 1 :]
    try:
        points = read_outline(text)
    except OmakaseError:
        return
    assert len(points) >= 3


def quantity(draw: random.Random) -> None:
    """A text in a field of any dimension."""
    parts = ("1", "12,5", "1/8", "1 1/2", "9", "e9", " ", "mm", "in", "kg", "lb", "**", "^", "2", "/", "*", "(", ")",
             "·", "²", "oz", "yd", "N", "m", "%", "nan", "inf", "-", "+", "−", "×", ".", "٣", "°", "C",
             "water", "gal", "_", "'")  # fmt: skip
    text = "".join(draw.choice(parts) for _ in range(draw.randrange(1, 14)))
    for dimension in draw.sample(sorted(SI_UNITS), 3):
        try:
            value = parse_quantity(text, dimension, draw.choice(("si", "inch_pound")))
        except QuantityError:
            continue
        assert abs(value) <= 1e15, text


def curve(draw: random.Random) -> None:
    """A file of a curve with junk above, odd separators, cells and lines."""
    separator = draw.choice((";", ",", "\t", " ", "|", ", "))
    columns = draw.randrange(1, 6)
    cells = (
        "0.5",
        "1,5",
        "2e3",
        "-7",
        '"3,5"',
        "12:30:01",
        "x",
        "",
        "nan",
        "1e400",
        "٣٫٥",
        "=1",
        "9" * 400,
        "2026-01-01",
    )
    odd = draw.random() < 0.5
    lines = [draw.choice(("", "Travel (mm)", "made by nobody", "a;b;c", "\ufeff")) for _ in range(draw.randrange(4))]
    lines.append(
        separator.join(draw.choice(("Load (N)", "Travel (mm)", "t (s)", "strain %", "")) for _ in range(columns))
    )
    for row in range(draw.randrange(60)):
        fields = [
            draw.choice(cells) if odd and draw.random() < 0.1 else f"{row * (k + 1) * 0.25:.3f}" for k in range(columns)
        ]
        lines.append(separator.join(fields))
    data = draw.choice(("\n", "\r\n", "\r")).join(lines).encode(draw.choice(("utf-8", "utf-16", "utf-8")))
    if draw.random() < 0.2 and data:
        at = draw.randrange(len(data))
        data = data[:at] + bytes(draw.randrange(256) for _ in range(3)) + data[at:]
    try:
        table = read_table(data, "fuzzed.csv")
        found, _ = make_curve(table, suggest(table))
        to_record(found, "fuzzed.csv", data)
    except OmakaseError:
        return


@cache
def _project() -> Project:
    return demo_project()


@cache
def _table() -> str:
    return write_materials(list(shipped_materials().values())[:6], "si").decode()


def materials(draw: random.Random) -> None:
    """A table or a library of materials with cells exchanged."""
    rows = _table().splitlines()
    for _ in range(draw.randrange(1, 5)):
        at = draw.randrange(len(rows))
        cells = rows[at].split(",")
        cells[draw.randrange(len(cells))] = draw.choice(
            (*map(str, NUMBERS), "x", '"', "GPa", "1 9**9**9 m", "a;b", "\ud83d", "-")
        )
        rows[at] = ",".join(cells)
    data = "\n".join(rows).encode("utf-8", "replace")
    found, _ = read_materials(data, draw.choice(("si", "inch_pound")), shipped_materials())
    again, errors = read_materials(write_materials(found, "si"), "si", shipped_materials())
    assert not errors, errors
    assert len(again) == len(found)
    read_library(data[: draw.randrange(len(data))])


def words(draw: random.Random) -> None:
    """A quick line and a step log."""
    parts = ("2", "twill200", "±45", "core", "pvc80", "12", "[", "]", "s", "0", "/", ";", "mm", "45", "s2", "(", ")",
             "\n", "1 block", "broke", "5 l water", "=", "held", "1e9 kg", "9**9", "\ud83d", "@",
             "2 ud200 0/90")  # fmt: skip
    text = " ".join(draw.choice(parts) for _ in range(draw.randrange(1, 12)))
    for read in (lambda: read_quick_line(text, shipped_materials()), lambda: read_log(text, Rig())):
        try:
            read()
        except (OmakaseError, QuantityError, QuickLineError):
            continue


LAYERS = (
    'candidate,layer,wall,zone,material,angle,"thickness, mm",role,counted on\nA,1,,,twill200,45,,ply,yes\n'
    "A,2,,,pvc80,0,10,core,yes\nB,1,,,al6082,0,3,ply,no\n"
)
LAYUPS = "candidate;layup\nA;2 twill200 ±45 ; core pvc80 8\nB;al6082 3 mm\n"


def tables(draw: random.Random) -> None:
    """Tables of candidates and specimens with cells exchanged: only the program's own errors come out, and what is
    taken makes a project that is written and read again."""
    demo = _project()
    one = demo.series[0]
    specimens = (
        f'series,specimen,batch,"width, mm","force, N",place\n"{one.name}",1,B,30,1 kN,face\n"{one.name}",9,,,,\n'
    )
    text = draw.choice((LAYERS, LAYUPS, specimens))
    for _ in range(draw.randrange(0, 5)):
        at = draw.randrange(len(text))
        text = (
            text[:at] + draw.choice((*map(str, NUMBERS), *TEXTS, '"', ",", ";", "\n")) + text[at + draw.randrange(3) :]
        )
    data = text.encode("utf-8", "replace")
    try:
        layups, _ = read_candidates(data, "x.csv", shipped_materials(), draw.choice(("si", "inch_pound")))
        brief = demo.briefs[0]
        again = to_bytes(bring_candidates(brief, layups, kind_of(brief).new_form(brief)).apply(demo))
        assert to_bytes(from_bytes(again, "again")) == again
    except OmakaseError:
        pass
    try:
        command, _, _ = read_specimens(data, "x.csv", demo, "2026-01-01")
    except OmakaseError:
        return
    if command is not None:
        again = to_bytes(command.apply(demo))
        assert to_bytes(from_bytes(again, "again")) == again


READERS: dict[str, Callable[[random.Random], None]] = {
    "project": project, "quantity": quantity, "curve": curve, "materials": materials, "words": words,
    "member": member,
    "job": job,
    "detail": detail,
    "outline": outline,
    "tables": tables,
}  # fmt: skip


def _pace() -> float:
    """s of work to judge the demo's spar."""
    demo = _project()
    brief = next(own for own in demo.briefs if kind_of(own).name == "spar")
    materials = materials_of(demo)
    start = time.process_time()
    for candidate in brief.candidates:
        Evaluator().evaluate(brief, candidate, materials)
    return time.process_time() - start


def failure(reader: str, seed: int) -> str:
    """What goes wrong with one case, or nothing."""
    longest, took = LONGER.get(reader, LONGEST), 0.0
    for _ in range(TRIES):
        start = time.process_time()
        try:
            READERS[reader](random.Random(f"{reader} {seed}"))
        except Exception as error:  # that is what is looked for
            return f"{reader} {seed}: {type(error).__name__}: {str(error)[:200]}"
        took = time.process_time() - start
        if took < UNSUSPICIOUS or (took := took / _pace()) < longest:
            return ""
    return f"{reader} {seed}: {took:.0f} times the work of judging a spar"
