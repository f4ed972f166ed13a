"""Edits of a project's series of tests, as commands; what was accepted from them, and how it is withdrawn."""

from __future__ import annotations

import re
from collections.abc import Callable

from omakase.core.errors import OmakaseError
from omakase.project.commands import ArrangeAcceptances, ArrangeSeries, replace
from omakase.project.model import Acceptance, CurveRecord, Project, Reading, Series, Specimen, by_id, new_id
from omakase.project.step_log import with_units
from omakase.units import QuantityError, UnitSystem, parse_reading

DID_NOT_FAIL = ("held", "at least")
SAID = re.compile(r"(?P<said>broke|failed|cracked|held|at least)(?:\s+at)?\s+(?P<rest>\S.*)", re.IGNORECASE)
STRENGTHS = ("Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23", "Zt", "Zc", "Fu")


def find_specimen(series: Series, specimen_id: str) -> Specimen | None:
    return by_id(series.specimens, specimen_id)


def add_series(project: Project, series: Series) -> tuple[ArrangeSeries, str]:
    """Command that adds a series under a free id, with its planned specimens to fill in, and the id."""
    identity = new_id("t", {series.id for series in project.series})
    count = max(series.planned, 1) if not series.specimens else 0
    specimens = series.specimens or tuple(Specimen(f"p{i + 1}", f"{i + 1}") for i in range(count))
    new = replace(series, id=identity, specimens=specimens)
    return ArrangeSeries(project.series, (*project.series, new), f"plan {new.name}"), identity


def change_series(project: Project, new: Series, text: str) -> ArrangeSeries:
    """Command that puts a changed series in the place of the one with its id."""
    return ArrangeSeries(
        project.series, tuple(new if series.id == new.id else series for series in project.series), text
    )


def remove_series(project: Project, series_id: str) -> ArrangeSeries:
    """Command that removes a series.  Raises OmakaseError while something was accepted from it."""
    if any(entry.series == series_id for entry in project.acceptances):
        raise OmakaseError("something was accepted from this series: withdraw that first")
    rest = tuple(series for series in project.series if series.id != series_id)
    return ArrangeSeries(project.series, rest, "remove a series")


def add_specimen(series: Series, name: str = "") -> tuple[Series, str]:
    """The series with one specimen more, and that one's id."""
    identity = new_id("p", {specimen.id for specimen in series.specimens})
    return replace(series, specimens=(*series.specimens, Specimen(identity, name or identity[1:]))), identity


def change_specimen(series: Series, specimen_id: str, change: Callable[[Specimen], Specimen]) -> Series:
    """The series with one specimen changed."""
    return replace(
        series,
        specimens=tuple(change(specimen) if specimen.id == specimen_id else specimen for specimen in series.specimens),
    )


def dated(before: Series, after: Series, day: str) -> Series:
    """The series after an edit on ``day``, its specimens with the day on which their data and their mass came in."""
    known = {specimen.id: specimen for specimen in before.specimens}

    def bears(specimen: Specimen) -> bool:
        return specimen.curve is not None or bool(specimen.log) or specimen.force is not None

    def with_days(specimen: Specimen) -> Specimen:
        old = known.get(specimen.id, Specimen(specimen.id, specimen.name))
        tested, weighed = specimen.tested, specimen.weighed
        if bears(specimen) != bears(old):
            tested = day if bears(specimen) else ""
        if (specimen.mass is None) != (old.mass is None):
            weighed = day if specimen.mass is not None else ""
        if (tested, weighed) == (specimen.tested, specimen.weighed):
            return specimen
        return replace(specimen, tested=tested, weighed=weighed)

    return replace(after, specimens=tuple(with_days(specimen) for specimen in after.specimens))


def remove_specimen(series: Series, specimen_id: str) -> Series:
    return replace(series, specimens=tuple(specimen for specimen in series.specimens if specimen.id != specimen_id))


def with_curve(specimen: Specimen, curve: CurveRecord) -> Specimen:
    """A specimen whose data is a curve; a log or single value it had is given up."""
    return replace(specimen, curve=curve, log="", force=None, region=None)


def with_log(specimen: Specimen, log: str, units: UnitSystem = "si") -> Specimen:
    """A specimen whose data is a step log; bare deflections get the unit that they were typed in, so that they mean the
    same whatever units the project shows later."""
    return replace(specimen, log=with_units(log, units), curve=None, force=None, region=None)


def with_force(specimen: Specimen, text: str, units: UnitSystem) -> Specimen:
    """A specimen whose data is one force from a paper; an empty text removes it.  Raises QuantityError.

    "broke at" before it may stand or not; "held" says that it did not fail.  A volume is one of water.
    """
    if not text.strip():
        return replace(specimen, force=None)
    match = SAID.match(text.strip())
    said, typed = (match["said"].lower(), match["rest"]) if match else ("", text.strip())
    try:
        value, half = parse_reading(typed, "force", units)
    except QuantityError as error:
        try:
            value, half = parse_reading(f"{typed} water", "force", units)
        except QuantityError:
            raise error from None
    place = specimen.place
    if said:
        place = "none" if said in DID_NOT_FAIL else "" if place == "none" else place
    reading = Reading(value, half, text.strip())
    return replace(specimen, force=reading, curve=None, log="", region=None, place=place)


def with_mass(specimen: Specimen, text: str, units: UnitSystem) -> Specimen:
    """A specimen with its mass as weighed; an empty text removes it.  Raises QuantityError."""
    if not text.strip():
        return replace(specimen, mass=None)
    value, half = parse_reading(text, "mass", units)
    return replace(specimen, mass=Reading(value, half, text.strip()))


def with_size(specimen: Specimen, key: str, value: float | None) -> Specimen:
    """A specimen with a size of its own; None takes the series' again."""
    sizes = {name: value for name, value in specimen.sizes.items() if name != key}
    return replace(specimen, sizes=sizes if value is None else {**sizes, key: value})


def sizes_of(series: Series, specimen: Specimen) -> dict[str, float]:
    """The series' sizes with the specimen's own over them."""
    return {**series.sizes, **specimen.sizes}


def accept(project: Project, entry: Acceptance) -> ArrangeAcceptances:
    """Command that lets a test series count; one of the same property or check and material is replaced.

    A strength and a factor from one series would count the same specimens twice: the newer takes the older's place.
    Stiffness and strength of a series may stand side by side.
    """
    identity = new_id("a", {acceptance.id for acceptance in project.acceptances})

    def twice(acceptance: Acceptance) -> bool:
        kinds = {acceptance.kind, entry.kind}
        strengths = all(one.kind == "factor" or one.key in STRENGTHS for one in (acceptance, entry))
        return acceptance.series == entry.series and kinds == {"factor", "allowable"} and strengths

    rest = tuple(
        acceptance for acceptance in project.acceptances
        if (acceptance.kind, acceptance.material, acceptance.key) != (entry.kind, entry.material, entry.key)
        and not twice(acceptance)
    )  # fmt: skip
    new = (*rest, replace(entry, id=identity))
    return ArrangeAcceptances(project.acceptances, new, f"accept '{entry.name}'")


def withdraw(project: Project, acceptance_id: str) -> ArrangeAcceptances:
    """Command that takes an acceptance back: everything is computed as before it."""
    rest = tuple(acceptance for acceptance in project.acceptances if acceptance.id != acceptance_id)
    return ArrangeAcceptances(project.acceptances, rest, "withdraw what was accepted")
