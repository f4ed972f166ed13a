"""The operations of a job, its calendar, and the hands-on hours of each part."""

from __future__ import annotations

import datetime
from collections.abc import Mapping, Sequence

import msgspec

from omakase.core.build.calendar import Operation, Plan, Shift, saved_by_moulds, schedule
from omakase.core.build.errors import BuildError
from omakase.core.build.resin import HALVING, REFERENCE_TEMPERATURE
from omakase.evaluate.build.cutting import Cutting
from omakase.evaluate.build.parts import MadePart, Problem, mould_count
from omakase.project.build import HOUR, Job, JobPart, ProcessRecord, Shop, WorkRecord

MOST_OPERATIONS = 600
FIRST_YEAR, LAST_YEAR = 1970, 2200


class Hours(msgspec.Struct, frozen=True):
    """Hands-on s of one part, of all hands together; ``finishing`` : body work and paint."""

    cutting: float
    laying: float
    bagging: float
    demoulding: float
    finishing: float = 0.0

    @property
    def total(self) -> float:
        return self.cutting + self.laying + self.bagging + self.demoulding + self.finishing


class Calendar(msgspec.Struct, frozen=True):
    """The plan from ``day`` on, and h that one more of each mould saves; ``full`` : h from its begin until the last
    resin has its full strength."""

    plan: Plan
    day: datetime.date
    saved: dict[str, float]
    full: float
    shift: Shift = Shift()

    def moment(self, hours: float) -> datetime.datetime:
        """Date and time of a moment of the plan."""
        return datetime.datetime.combine(self.day, datetime.time()) + datetime.timedelta(hours=hours)


def start_day(job: Job) -> datetime.date:
    """The job's first day.  Raises BuildError for a text that is no date."""
    try:
        day = datetime.date.fromisoformat(job.start)
    except ValueError:
        raise BuildError("the first day is written as 2026-11-30", "start") from None
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise BuildError(f"the first day lies between the years {FIRST_YEAR} and {LAST_YEAR}", "start")
    return day


def cure_time(process: ProcessRecord, part: MadePart, shop: Shop, key: str = "demould_time") -> float:
    """s until a part can be demoulded, or with another ``key`` has its full strength, in its process.

    The time that a resin states is for 23 °C: 10 K more halve it (common practice, no source).  Where the process
    states its own cure, that counts for demoulding.
    """
    if key == "demould_time" and process.cure > 0.0:
        return process.cure
    if part.resin is None or key not in part.resin.properties:
        return process.cure
    at = process.oven or shop.temperature
    return part.resin.value(key) * 2.0 ** ((REFERENCE_TEMPERATURE - at) / HALVING)


def hours_of(part: MadePart, cutting: Cutting, areas: Sequence[float]) -> Hours:
    """Hands-on time of one part."""
    process = part.process
    count = sum(piece.plies for piece in cutting.pieces if piece.part == part.index)
    laid = sum(areas)
    finishing = sum(own.hours for own in part.part.finishes)
    return Hours(
        count * process.cutting, process.set_up + process.laying * laid, process.bagging, process.demoulding, finishing
    )  # fmt: skip


def operations(
    job: Job, parts: Sequence[MadePart], hours: Mapping[int, Hours], shop: Shop
) -> tuple[list[Operation], dict[str, str]]:  # fmt: skip
    """Operations of a job, and the id of each record by operation name.

    Of each part: cut, lay up and bag in its mould, cure, demould and trim, then body work; works of a unit after all
    that they wait for.
    """
    made: list[Operation] = []
    ends: dict[tuple[int, str], list[str]] = {}
    owners: dict[str, str] = {}
    for unit in range(job.units):
        for part in parts:
            for copy in range(part.part.count):
                last = _of_part(part, hours[part.index], shop, f"{unit + 1}.{copy + 1}", job, made, owners)
                ends.setdefault((unit, part.part.id), []).append(last)
        known = {own.id for own in job.works}
        for work in job.works:
            name = f"{work.id} {unit + 1}"
            after = [end for own in work.after for end in ends.get((unit, own), [])]
            after += [f"{own} {unit + 1}" for own in work.after if own in known]
            missing = [own for own in work.after if own not in known and (unit, own) not in ends]
            if missing:
                raise BuildError(f"'{work.name}' waits for '{missing[0]}', which is not in the job", "after")
            owners[name] = work.id
            made.append(_of_work(work, name, after, job.units, unit))
        if len(made) > MOST_OPERATIONS:
            raise BuildError(f"more than {MOST_OPERATIONS} operations: plan fewer units at once", "units")
    return made, owners


def _of_work(work: WorkRecord, name: str, after: Sequence[str], units: int, unit: int) -> Operation:
    title = work.name if units == 1 else f"{work.name}, unit {unit + 1}"
    return Operation(
        name, title, work.hours / HOUR, work.wait / HOUR, work.people, tuple(after), work.mould
    )  # fmt: skip


def _of_part(
    part: MadePart, hours: Hours, shop: Shop, which: str, job: Job, made: list[Operation], owners: dict[str, str]
) -> str:  # fmt: skip
    """Adds the operations of one part; the name of the last one."""
    process, own = part.process, part.part
    several = own.count * job.units > 1
    title = f"{part.title} {which}" if several else part.title
    key = f"{own.id} {which}"
    hands = process.people
    cure = cure_time(process, part, shop)
    mould = own.mould or f"mould of {part.title}"
    lay, out = f"{key} lay up", f"{key} demould"
    steps = [
        Operation(f"{key} cut", f"{title}: cut", hours.cutting / HOUR),
        Operation(
            lay, f"{title}: lay up", (hours.laying + hours.bagging) / HOUR / hands, cure / HOUR, hands,
            (f"{key} cut",), mould, out,
        ),
        Operation(out, f"{title}: demould, trim", hours.demoulding / HOUR, 0.0, 1, (lay,), mould),
    ]  # fmt: skip
    if hours.finishing:
        steps.append(Operation(f"{key} finish", f"{title}: body work", hours.finishing / HOUR, 0.0, 1, (out,)))
    made += steps
    owners.update({step.name: own.id for step in steps})
    return steps[-1].name


def calendar(
    job: Job, parts: Sequence[MadePart], hours: Mapping[int, Hours], shop: Shop
) -> tuple[Calendar | None, list[Problem]]:  # fmt: skip
    """The job's calendar, or what stands in its way."""
    try:
        day = start_day(job)
        listed, _ = operations(job, parts, hours, shop)
        shift = Shift(shop.opens / HOUR, shop.day / HOUR, shop.days, day.weekday())
        plan = schedule(listed, shift, shop.people, mould_count(shop))
        few = len(listed) <= MOST_OPERATIONS // 2  # beyond it the second mould is not tried out
        saved = saved_by_moulds(listed, shift, shop.people, mould_count(shop)) if few else {}
        full = max((_full_end(part, plan, shop) for part in parts), default=plan.end)
    except BuildError as error:
        return None, [(_place(error, job), str(error))]
    return Calendar(plan, day, saved, max(full, plan.end), shift), []


def _full_end(part: MadePart, plan: Plan, shop: Shop) -> float:
    """h when the last part of its kind has its full strength."""
    full = cure_time(part.process, part, shop, "full_time") / HOUR
    starts = [slot.worked for slot in plan.slots if slot.operation.name.startswith(f"{part.part.id} ")
              and slot.operation.name.endswith("lay up")]  # fmt: skip
    return max(starts, default=0.0) + full


def _place(error: BuildError, job: Job) -> tuple[str | int, ...]:
    if error.field in ("start", "units"):
        return (error.field,)
    if error.field in ("after", "hours", "operations"):
        named = (i for i, work in enumerate(job.works) if work.name and work.name in str(error))
        return ("works", next(named, 0), error.field) if job.works else ("parts",)
    return ("shop", error.field)


def labels(parts: Sequence[JobPart], works: Sequence[WorkRecord]) -> dict[str, str]:
    """Names of what a work may wait for, by id."""
    named: tuple[JobPart | WorkRecord, ...] = (*parts, *works)
    return {own.id: own.name or own.id for own in named}
