"""What is studied and changed of members with a span: their length, sizes along it, zones that end elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from omakase.evaluate.members import spans
from omakase.evaluate.members.sentence import with_value
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.spans import SparMember, Station, TableLoad
from omakase.project.wings import SurfaceMember
from omakase.units import UnitSystem, format_value

ZONE_STEP = 0.05  # of the span, in which a lever moves a zone's end


def length_parameter(noun: str, brief: Brief) -> Parameter:
    """The length, with all places at the same share of it."""
    now = spans.long_member(brief).length

    def put(state: State, value: float) -> State:
        return resized(state[0], value), _stretched(state[1], value / spans.long_member(state[0]).length), state[2]

    # zones and stations of the candidate would have to follow: it cannot be put back as one edit
    return Parameter("length", f"length of the {noun}", "length", now, 0.5 * now, 1.6 * now, put, True, False)


def resized(brief: Brief, length: float) -> Brief:
    """Another length; supports, masses and loads stay at the same share of it."""
    member = spans.long_member(brief)
    share = length / member.length

    def moved(record: Any) -> Any:
        changes: dict[str, Any] = {
            name: getattr(record, name) * share for name in ("x", "low", "high") if hasattr(record, name)
        }
        if isinstance(record, TableLoad):
            changes["stations"] = tuple(moved(station) for station in record.stations)
        return replace(record, **changes) if changes else record

    new = replace(
        member, length=round(length, 6), supports=tuple(moved(support) for support in member.supports),
        carried=tuple(moved(mass) for mass in member.carried),
    )  # fmt: skip
    if isinstance(new, SparMember | SurfaceMember):
        new = replace(new, chord=tuple(moved(station) for station in new.chord))
    cases = tuple(replace(case, loads=tuple(moved(load) for load in case.loads)) for case in brief.load_cases)
    return replace(brief, member=new, load_cases=cases)


def _stretched(candidate: Candidate, share: float) -> Candidate:
    """Zones and stations of a form at the same share of the length."""
    zones = tuple(replace(zone, low=zone.low * share, high=zone.high * share) for zone in candidate.zones)
    form = candidate.form
    for name in ("width", "diameter", "height"):
        stations = getattr(form, name, None)
        if stations:
            form = replace(form, **{name: tuple(replace(station, x=station.x * share) for station in stations)})
    return replace(candidate, zones=zones, form=form)


def scaled(candidate: Candidate, field: str, share: float, digits: int) -> Candidate:
    """All sizes of a law of the form times ``share``."""
    stations = getattr(candidate.form, field)
    sizes = tuple(replace(station, size=round(station.size * share, digits)) for station in stations)
    return replace(candidate, form=replace(candidate.form, **{field: sizes}))


def scaled_sizes(field: str, title: str, stations: tuple[Station, ...]) -> Iterator[Parameter]:
    """The first size of a law, all others in proportion; nothing of a law without sizes."""
    if not stations:
        return
    now = stations[0].size

    def put(state: State, value: float) -> State:
        brief, candidate, materials = state
        return brief, scaled(candidate, field, value / getattr(candidate.form, field)[0].size, 9), materials

    yield Parameter(field, title, "length", now, 0.5 * now, 2.0 * now, put)


def plain_size(candidate: Candidate, field: str, title: str, least: float, most: float) -> Parameter:
    """A length of the form that is no law along the span, from ``least`` to ``most`` times what it is."""

    def put(state: State, value: float) -> State:
        brief, changed, materials = state
        return brief, with_value(changed, ("form", field), round(value, 9)), materials

    now = getattr(candidate.form, field)
    return Parameter(field, title, "length", now, least * now, most * now, put)


def plain_lever(
    candidate: Candidate, field: str, words: str, title: str, shares: Sequence[float], units: UnitSystem,
    digits: int = 5,
) -> Lever:  # fmt: skip
    """Such a length in steps, ``words`` with its value in their braces."""
    sizes = [getattr(candidate.form, field) * share for share in shares]
    options = tuple(
        Option(
            words.format(format_value(round(size, 9), "length", units, with_unit=True)),
            with_value(candidate, ("form", field), round(size, digits)),
        )
        for size in sizes
    )
    return Lever(field, title, options, "steps")


def zone_levers(brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
    """Each zone longer where it fails and shorter where there is room, at its far end in steps."""
    length = spans.long_member(brief).length
    step = ZONE_STEP * length * (-1.0 if passes else 1.0)
    for i, zone in enumerate(candidate.zones):
        ends = [round(zone.high + k * step, 4) for k in range(1, round(1.0 / ZONE_STEP))]
        options = tuple(
            Option(
                f"zone '{zone.name}' to {format_value(end, 'length', units, with_unit=True)}",
                with_value(candidate, ("zones", i, "high"), end),
            )
            for end in ends
            if zone.low + 0.5 * abs(step) < end <= length * (1.0 + 1e-9)
        )
        if options:
            yield Lever(
                f"zone {zone.id}", f"a {'shorter' if passes else 'longer'} zone '{zone.name}'", options, "steps"
            )


def size_lever(
    candidate: Candidate, field: str, what: str, noun: str, step: float, units: UnitSystem, passes: bool
) -> Lever:
    """The sizes of a law in steps of their own: smaller where there is room, larger by ``step`` where it fails."""
    now = getattr(candidate.form, field)[0].size
    shares = [1.0 - 0.02 * k for k in range(1, 26)] if passes else [1.0 + step * k for k in range(1, 31)]
    options = tuple(
        Option(
            f"{what} {format_value(now * share, 'length', units, with_unit=True)}", scaled(candidate, field, share, 6)
        )
        for share in shares
    )
    way = ("lower" if passes else "higher") if field == "height" else ("narrower" if passes else "wider")
    return Lever(field, f"a {way} {noun}", options, "steps")
