"""When a job is done: operations with hands-on hours and waiting, moulds that are taken, people who are few.

Times in h from the start of the first day at midnight.  Hands work in working hours only; cures run through the night.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Mapping, Sequence

import msgspec

from omakase.core.build.errors import BuildError

EPSILON = 1e-9
MOST_DAYS = 3660


class Operation(msgspec.Struct, frozen=True):
    """Work on a piece: ``hours`` of hands for each of ``people``, then ``wait`` h in which nobody is needed.

    ``after`` : names of what must be done, waiting included, before it begins.  ``mould`` : what it absorbs from its
    start to its end; with ``holds`` the mould stays taken until the operation of that name has ended.
    """

    name: str
    what: str
    hours: float
    wait: float = 0.0
    people: int = 1
    after: tuple[str, ...] = ()
    mould: str = ""
    holds: str = ""


class Shift(msgspec.Struct, frozen=True):
    """Working hours: from ``start`` h for ``hours`` h on each of ``days``, 0 for Monday; ``first_day`` : which day the
    job begins on.  ``hours`` of 24 on all days is work round the clock."""

    start: float = 8.0
    hours: float = 8.0
    days: tuple[int, ...] = (0, 1, 2, 3, 4)
    first_day: int = 0

    def __post_init__(self) -> None:
        if not (0.0 < self.hours <= 24.0 and 0.0 <= self.start <= 24.0 - self.hours + EPSILON):
            raise BuildError("a working day has more than 0 and at most 24 hours, and ends by midnight", "hours_a_day")
        if not self.days:
            raise BuildError("the shop works on no day of the week", "days")

    def next(self, time: float) -> float:
        """The first working moment from ``time`` on."""
        day = math.floor(time / 24.0 + EPSILON)
        for _ in range(MOST_DAYS):
            if (self.first_day + day) % 7 in self.days:
                opens = 24.0 * day + self.start
                if time < opens + self.hours - EPSILON:
                    return max(time, opens)
            day += 1
        raise BuildError("the job does not end within ten years")

    def stretches(self, start: float, end: float) -> list[tuple[float, float]]:
        """Working stretches from ``start`` to ``end`` h."""
        made = []
        for day in range(math.floor(start / 24.0 + EPSILON), math.ceil(end / 24.0)):
            if (self.first_day + day) % 7 in self.days:
                low, high = 24.0 * day + self.start, 24.0 * day + self.start + self.hours
                if min(high, end) > max(low, start):
                    made.append((max(low, start), min(high, end)))
        return made

    def done(self, time: float, hours: float) -> float:
        """When ``hours`` of work that begin at ``time`` are done."""
        while hours > EPSILON:
            time = self.next(time)
            day = math.floor(time / 24.0 + EPSILON)
            closes = 24.0 * day + self.start + self.hours
            worked = min(hours, closes - time)
            hours -= worked
            time += worked
            if time > 24.0 * MOST_DAYS:
                raise BuildError("the job does not end within ten years")
        return time


class Slot(msgspec.Struct, frozen=True):
    """An operation in the plan: hands on from ``start`` to ``worked``, waiting until ``end``, h.

    ``critical`` : the whole job ends later where it ends later.  ``waits_for`` : what it could not begin before: an
    operation's name, "mould ..." or "people", empty for the start of the job or of a day.
    """

    operation: Operation
    start: float
    worked: float
    end: float
    critical: bool = False
    waits_for: str = ""


class Plan(msgspec.Struct, frozen=True):
    """The slots in the order of their starts."""

    slots: tuple[Slot, ...]
    begin: float

    @property
    def end(self) -> float:
        return max((slot.end for slot in self.slots), default=self.begin)

    @property
    def elapsed(self) -> float:
        """h from the first start to the last end."""
        return self.end - self.begin

    @property
    def hands_on(self) -> float:
        """h of hands, of all people together."""
        return sum(slot.operation.hours * slot.operation.people for slot in self.slots)


def in_order(operations: Sequence[Operation]) -> list[Operation]:
    """Operations so that each stands behind those it waits for.  Raises BuildError for a circle or a missing name."""
    known = {own.name: own for own in operations}
    if len(known) < len(operations):
        raise BuildError("two operations have the same name", "operations")
    for own in operations:
        for name in own.after:
            if name not in known:
                raise BuildError(f"'{own.what}' waits for '{name}', which is not there", "after")
        if not (own.hours >= 0.0 and own.wait >= 0.0 and math.isfinite(own.hours + own.wait)):
            raise BuildError(f"'{own.what}' needs hours and a wait of zero or more", "hours")
        if own.people < 1:
            raise BuildError(f"'{own.what}' needs one person or more", "people")
    done: list[Operation] = []
    placed: set[str] = set()
    waiting = list(operations)
    while waiting:
        ready = [own for own in waiting if all(name in placed for name in own.after)]
        if not ready:
            circle = _circle(waiting, placed)
            raise BuildError(
                f"the calendar waits for itself: {' → '.join(known[name].what for name in circle)}", "after"
            )
        done += ready
        placed |= {own.name for own in ready}
        waiting = [own for own in waiting if own.name not in placed]
    return done


def _circle(waiting: Sequence[Operation], placed: set[str]) -> list[str]:
    after = {own.name: next(name for name in own.after if name not in placed) for own in waiting}
    path = [waiting[0].name]
    while after[path[-1]] not in path:
        path.append(after[path[-1]])
    return [*path[path.index(after[path[-1]]) :], after[path[-1]]]


def tails(operations: Sequence[Operation]) -> dict[str, float]:
    """h from the start of each operation to the end of the longest chain behind it, round the clock."""
    longest: dict[str, float] = {}
    for own in reversed(in_order(operations)):
        behind = max((longest[other.name] for other in operations if own.name in other.after), default=0.0)
        longest[own.name] = own.hours + own.wait + behind
    return longest


def schedule(
    operations: Sequence[Operation], shift: Shift, people: int, moulds: Mapping[str, int], begin: float = 0.0
) -> Plan:  # fmt: skip
    """Each operation as early as those before it, the people and a free mould of its kind allow.

    Operations with the longest chain of others after them come first (serial schedule generation with the longest-tail
    rule, Kelley 1963): good, and not proved the shortest.  ``moulds`` : how many there are of each; one where it is not
    named. Raises BuildError.
    """
    if people < 1:
        raise BuildError("no one is available to work", "people")
    for own in operations:
        if own.people > people:
            raise BuildError(f"'{own.what}' needs {own.people} people, and there are {people}", "people")
        if own.mould and moulds.get(own.mould, 1) < 1:
            raise BuildError(f"'{own.what}' needs the mould '{own.mould}', and there is none", "moulds")
    rank = tails(operations)
    by_name = {own.name: own for own in operations}
    free: dict[str, list[float]] = {}  # when each mould of a kind comes free
    held: dict[str, tuple[str, int]] = {}  # operations whose end frees a mould: which
    crew = _Crew(people, shift)
    made: dict[str, Slot] = {}
    waiting = list(in_order(operations))
    first = shift.next(begin)
    while waiting:
        ready = [own for own in waiting if all(name in made for name in own.after)]
        first_ones = sorted(ready, key=lambda own: -rank[own.name])
        slots = (_earliest(own, made, free, crew, moulds, held, first) for own in first_ones)
        slot = next((own for own in slots if own is not None), None)
        if slot is None:
            stuck = ", ".join(own.what for own in ready)
            raise BuildError(f"no mould comes free for {stuck}: they wait for each other", "moulds")
        own = slot.operation
        made[own.name] = slot
        waiting.remove(own)
        crew.take(slot)
        if own.name in held:
            mould, which = held.pop(own.name)
            free[mould][which] = slot.end
        elif own.mould:
            lanes = free.setdefault(own.mould, [first] * moulds.get(own.mould, 1))
            which = _lane(lanes, slot.start)
            holder = own.holds if own.holds in by_name else ""
            lanes[which] = math.inf if holder else slot.end
            if holder:
                held[holder] = own.mould, which
    plan = Plan(tuple(sorted(made.values(), key=lambda slot: (slot.start, slot.end))), first)
    return _with_critical(plan)


def _lane(lanes: Sequence[float], start: float) -> int:
    """The mould that has come free last before a start, so that others stay free for longer."""
    fits = [i for i, time in enumerate(lanes) if time <= start + EPSILON]
    return max(fits, key=lambda i: lanes[i])


def _earliest(
    own: Operation, made: Mapping[str, Slot], free: Mapping[str, Sequence[float]], crew: _Crew,
    moulds: Mapping[str, int], held: Mapping[str, tuple[str, int]], first: float,
) -> Slot | None:  # fmt: skip
    ready, cause = first, ""
    for name in own.after:
        if made[name].end > ready + EPSILON:
            ready, cause = made[name].end, name
    if own.mould and own.name not in held:
        lanes = free.get(own.mould, [first] * moulds.get(own.mould, 1))
        comes = min(lanes)
        if math.isinf(comes):
            return None
        if comes > ready + EPSILON:
            ready, cause = comes, f"mould {own.mould}"
    start, worked = crew.begin(own, ready)
    if start > crew.shift.next(ready) + EPSILON:
        cause = "people"
    return Slot(own, start, worked, worked + own.wait, False, cause)


class _Crew:
    """How many are at work when: ``loads`` people from each of the ``times`` to the next."""

    def __init__(self, people: int, shift: Shift) -> None:
        self.people, self.shift = people, shift
        self.times: list[float] = [0.0]
        self.loads: list[int] = [0]

    def begin(self, own: Operation, ready: float) -> tuple[float, float]:
        """(start, end of hands) of the first stretch with people enough all along it."""
        if own.hours <= EPSILON:
            return ready, ready
        start = self.shift.next(ready)
        while True:
            end = self.shift.done(start, own.hours)
            k = max(bisect.bisect_right(self.times, start + EPSILON) - 1, 0)
            busy = None
            while k < len(self.times) and self.times[k] < end - EPSILON:
                if self.loads[k] + own.people > self.people:
                    busy = k
                k += 1
            if busy is None:
                return start, end
            start = self.shift.next(self.times[busy + 1])  # the last stretch is idle, so there is a next one

    def take(self, slot: Slot) -> None:
        if slot.operation.hours > EPSILON:
            first, last = self._at(slot.start), self._at(slot.worked)
            for k in range(first, last):
                self.loads[k] += slot.operation.people

    def _at(self, time: float) -> int:
        """Place of a moment among the times, put in where it is not there."""
        k = bisect.bisect_left(self.times, time)
        if k == len(self.times) or self.times[k] != time:
            self.times.insert(k, time)
            self.loads.insert(k, self.loads[k - 1] if k else 0)
        return k


def _with_critical(plan: Plan) -> Plan:
    """Marks the chain that sets the end: from the last slot back over whatever each one waited for."""
    if not plan.slots:
        return plan
    by_name = {slot.operation.name: slot for slot in plan.slots}
    critical: set[str] = set()
    frontier = [max(plan.slots, key=lambda slot: slot.end).operation.name]
    while frontier:
        name = frontier.pop()
        if name in critical:
            continue
        critical.add(name)
        slot = by_name[name]
        cause = slot.waits_for
        if cause in by_name:
            frontier.append(cause)
        elif cause:
            ends = [
                other for other in plan.slots
                if other.start < slot.start - EPSILON and _same(cause, slot, other) and other.operation.name != name
            ]  # fmt: skip
            if ends:
                last = max(ends, key=lambda other: other.worked if cause == "people" else other.end)
                frontier.append(last.operation.name)
    slots = tuple(msgspec.structs.replace(slot, critical=slot.operation.name in critical) for slot in plan.slots)
    return Plan(slots, plan.begin)


def _same(cause: str, slot: Slot, other: Slot) -> bool:
    if cause == "people":
        return other.worked <= slot.start + EPSILON or other.start < slot.start
    return other.operation.mould == slot.operation.mould and other.end <= slot.start + EPSILON


def saved_by_moulds(
    operations: Sequence[Operation], shift: Shift, people: int, moulds: Mapping[str, int], begin: float = 0.0
) -> dict[str, float]:  # fmt: skip
    """h of elapsed time that one more of each mould saves; moulds that save nothing are left out."""
    now = schedule(operations, shift, people, moulds, begin).elapsed
    saved = {}
    for mould in sorted({own.mould for own in operations if own.mould}):
        other = schedule(operations, shift, people, {**moulds, mould: moulds.get(mould, 1) + 1}, begin).elapsed
        if now - other > 0.01:
            saved[mould] = now - other
    return saved
