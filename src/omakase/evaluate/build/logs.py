"""Logs of vacuum and cure: read from a line, judged, and as rows and words."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from typing import Literal

from omakase.core.build.errors import BuildError
from omakase.core.build.vacuum import LeakDown, leak_down
from omakase.evaluate.build.plan import PartPlan
from omakase.evaluate.build.tables import Rows
from omakase.evaluate.build.weighing import MARGIN, cured
from omakase.evaluate.build.working import cure_time
from omakase.project.build import BagLog, CureLog, Job, LogPoint, Shop
from omakase.project.commands import replace
from omakase.project.model import new_id
from omakase.units import QuantityError, UnitSystem, display_unit, format_value, parse_quantity, to_display

LOG_TITLES = ("Log", "Readings", "Result")
_READING = re.compile(r"(?P<time>[\d.,]+\s*(?:s|sec|min|h|hours?|d)?)\s*[:,\s]\s*(?P<value>[-−\d.,]+\s*[^\d\s].*)\Z")
Points = tuple[tuple[float, float], ...]
Line = tuple[tuple[float, float], tuple[float, float]]


def read_log(text: str, units: UnitSystem) -> tuple[Literal["bag", "cure"], Points]:
    """Readings from a line such as "0 25 mbar; 5 min 31 mbar" or "0 22 °C; 1 h 60 °C"; a time without a unit is in s.

    Raises QuantityError naming the reading.
    """
    entries = [own.strip() for own in text.split(";") if own.strip()]
    if len(entries) < 2:
        raise QuantityError("two readings or more, with ; between them: 0 25 mbar; 5 min 31 mbar")
    points, kinds = [], set()
    for number, entry in enumerate(entries, 1):
        match = _READING.match(entry)
        if match is None:
            raise QuantityError(f"reading {number}, '{entry}': write a time, and a value with its unit: 5 min 31 mbar")
        try:
            time = match["time"].strip()
            seconds = parse_quantity(f"{time} s" if time[-1].isdigit() else time, "duration", units)
            kind, value = _value(match["value"].strip(), units)
        except QuantityError as error:
            raise QuantityError(f"reading {number}, '{entry}': {error}") from None
        kinds.add(kind)
        points.append((seconds, value))
    if len(kinds) > 1:
        raise QuantityError("some readings are pressures and some temperatures: one log has one kind")
    if any(b[0] <= a[0] for a, b in itertools.pairwise(points)):
        raise QuantityError("the times of the readings must rise")
    return kinds.pop(), tuple(points)


def _value(text: str, units: UnitSystem) -> tuple[Literal["bag", "cure"], float]:
    try:
        return "bag", parse_quantity(text, "vacuum", units)
    except QuantityError as error:
        try:
            return "cure", parse_quantity(text, "temperature", units)
        except QuantityError:
            raise error from None


def with_bag(job: Job, part: str, points: Sequence[tuple[float, float]], on: str) -> Job:
    """The job with a gauge's log more.  Raises BuildError for readings that cannot be."""
    leak_down([t for t, _ in points], [p for _, p in points])
    identity = new_id("v", {own.id for own in job.bags})
    return replace(job, bags=(*job.bags, BagLog(identity, part, on, _records(points))))


def with_cure(job: Job, part: str, points: Sequence[tuple[float, float]], on: str) -> Job:
    """The job with a log of temperatures more."""
    identity = new_id("c", {own.id for own in job.cures})
    return replace(job, cures=(*job.cures, CureLog(identity, part, on, _records(points))))


def _records(points: Sequence[tuple[float, float]]) -> tuple[LogPoint, ...]:
    return tuple(LogPoint(t, value) for t, value in points)


def tested(log: BagLog, part: PartPlan) -> LeakDown:
    """The drop test of a log under the limit of the part's process.  Raises BuildError."""
    process = part.made.process
    if process.drop <= 0.0:
        raise BuildError(f"'{process.name}' has no bag to test", "drop")
    times, values = [own.time for own in log.points], [own.value for own in log.points]
    return leak_down(times, values, process.drop, process.drop_time)


def bag_words(log: BagLog, part: PartPlan, units: UnitSystem) -> tuple[str, bool]:
    """(what a drop test shows, whether it passes)."""
    try:
        test = tested(log, part)
    except BuildError as error:
        return str(error), False

    def shown(value: float) -> str:
        return format_value(value, "vacuum", units, with_unit=True)

    text = f"Lost {shown(test.lost)} in {test.seconds / 60.0:g} min, {shown(test.allowed)} allowed: "
    text += "the bag holds." if test.passes else "it leaks."
    if not test.passes:
        text += (
            " It goes on rising at the same rate, so air comes in: listen along the tape, at pleats and fittings."
            if test.growing else " The rise slows down: wait until it has settled, then test again."
        )  # fmt: skip
    if log.found:
        text += f" Found: {log.found}."
    return text, test.passes


def cure_words(log: CureLog, part: PartPlan, shop: Shop, units: UnitSystem) -> tuple[str, bool]:
    """(what a cure log shows, whether the cure is done and fit for service)."""
    process = part.made.process
    try:
        found = cured(log, part, cure_time(process, part.made, shop), process.oven or shop.temperature)
    except BuildError as error:
        return str(error), False

    def shown(value: float) -> str:
        return format_value(value, "temperature", units, with_unit=True)

    spent, wanted = found.seconds / 3600.0, found.wanted / 3600.0
    text = f"{spent:.1f} h of {wanted:.1f} h at its temperature, at most {shown(found.highest)}"
    fine = found.reached
    text += ". " if found.reached else ": not cured yet. "
    if found.glass is not None:
        enough = found.service <= found.glass - MARGIN
        fine = fine and enough
        text += f"Glass transition reached: about {shown(found.glass)}, service up to {shown(found.service)}"
        text += "." if enough else ": cure it hotter, or it softens in service."
    return text, fine


def bag_limit(
    log: BagLog | CureLog, part: PartPlan, shop: Shop, units: UnitSystem
) -> tuple[list[tuple[float, float]], Line | None, tuple[str, str]]:  # fmt: skip
    """(points in the units shown, the line of the limit, words of the axes) of a log's picture."""
    bag = isinstance(log, BagLog)
    dimension = "vacuum" if bag else "temperature"
    per = 60.0 if bag else 3600.0
    points = [(own.time / per, to_display(own.value, dimension, units)) for own in log.points]
    axes = ("min" if bag else "h", display_unit(dimension, units).label)
    process = part.made.process
    start, last = log.points[0], log.points[-1]
    if bag:
        if process.drop <= 0.0:
            return points, None, axes
        end = start.time + process.drop_time
        values = start.value, start.value + process.drop
    else:
        end, at = last.time, process.oven or shop.temperature
        values = at, at
    line = tuple((t / per, to_display(v, dimension, units)) for t, v in zip((start.time, end), values, strict=True))
    return points, line, axes  # type: ignore[return-value]


def log_rows(job: Job, part: PartPlan, units: UnitSystem) -> Rows:
    """Logs of a part."""
    rows: Rows = []
    for own in job.bags:
        if own.part == part.made.part.id:
            _, passes = bag_words(own, part, units)
            rows.append((own.id, (f"vacuum, {own.on}", str(len(own.points)), "holds" if passes else "✗ leaks")))
    rows += [
        (own.id, (f"cure, {own.on}", str(len(own.points)), "")) for own in job.cures if own.part == part.made.part.id
    ]
    return rows
