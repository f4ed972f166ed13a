"""Parts on the scale: predicted against weighed, the ledger over all jobs, and the factors that it offers."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import msgspec

from omakase.core.build.errors import BuildError
from omakase.core.build.ledger import Entry, Tally, tally
from omakase.core.build.masses import STATES, Cause, Weighing, explained
from omakase.core.errors import OmakaseError
from omakase.evaluate.build.plan import PartPlan
from omakase.project.build import BagLog, CureLog, Job, ResinUse, Shop, ShopFactor, State, WeighIn
from omakase.project.commands import EditShop, replace
from omakase.project.model import Project, Reading, by_id, new_id

STATE_NAMES: dict[str, str] = {
    "demoulded": "demoulded", "trimmed": "trimmed", "assembled": "with fittings", "faired": "faired",
    "painted": "painted",
}  # fmt: skip
LEDGER_STATES = ("trimmed", "demoulded")  # in which layups are compared: nothing is on a part yet that hides them
MOVED = 1e-4  # share of a mass below which two predictions are the same one
OFF_BY = 0.02  # difference of measured resin use below which no factor is offered
CURED = 0.9  # of the cure's temperature (in °C above 0) that a log must hold


class LedgerRow(msgspec.Struct, frozen=True):
    """A weighing in the ledger."""

    job: Job
    weighed: WeighIn
    part: str
    entry: Entry


class Offer(msgspec.Struct, frozen=True):
    """A factor that the ledger or measured use offers: what it is for, and what it rests on.  ``standing`` : the factor
    that counts now, None without one."""

    what: str
    process: str
    name: str
    tally: Tally
    text: str
    worth: bool
    standing: ShopFactor | None


def weigh_in(
    part: PartPlan, serial: str, on: str, state: State, mass: Reading, thickness: Reading | None, crew: str, job: Job
) -> Job:  # fmt: skip
    """The job with a weighing more; what was predicted is frozen with it.  Raises BuildError."""
    if not mass.value > 0.0:
        raise BuildError("a part weighs more than nothing", "mass")
    if thickness is not None and not thickness.value > 0.0:
        raise BuildError("a thickness is more than nothing", "thickness")
    identity = new_id("m", {own.id for own in job.weighed})
    made = WeighIn(
        identity, part.made.part.id, serial, on, state, mass, part.mass(state), thickness, part.made.process.id, crew
    )  # fmt: skip
    return replace(job, weighed=(*job.weighed, made))


def causes(part: PartPlan, job: Job, weighed: WeighIn) -> list[Cause]:
    """Why it weighs what it does, as far as readings tell; a later prediction than that of the weighing is not used for
    the total, which stays the frozen one."""
    rows = part.rows
    earlier = [
        Weighing(own.mass.value, own.state, own.thickness.value if own.thickness is not None else None)
        for own in job.weighed
        if own.part == weighed.part and own.serial == weighed.serial and own.id != weighed.id
    ]
    now = Weighing(
        weighed.mass.value, weighed.state, weighed.thickness.value if weighed.thickness is not None else None
    )  # fmt: skip
    layers = part.made.candidate.layers
    planned = planned_thickness(part)
    resin = part.made.resin
    density = resin.value("density") if resin is not None else 1150.0
    area = max(part.areas, default=0.0) if len({layer.wall for layer in layers}) == 1 else 0.0
    found = explained(rows, now, earlier, planned if area else 0.0, density, area)
    moved = sum(row.mass for row in rows if row.kind in STATES[weighed.state]) - weighed.predicted
    if abs(moved) > MOVED * weighed.predicted:
        found.append(Cause("planned otherwise since", moved, "the plan was changed after the weighing"))
    return found


def planned_thickness(part: PartPlan) -> float:
    """m through all layers that lie everywhere."""
    total = 0.0
    whole = max(part.areas, default=0.0)
    for row, (layer, area) in enumerate(zip(part.made.candidate.layers, part.areas, strict=True)):
        if area >= 0.6 * whole:
            total += part.thickness(row) if layer.thickness is None else layer.thickness
    return total


def ledger(project: Project) -> list[LedgerRow]:
    """All weighings of all jobs, newest last."""
    rows = []
    for job in project.jobs:
        names = {own.id: own.name for own in job.parts}
        for own in job.weighed:
            if own.predicted > 0.0 and own.mass.value > 0.0:
                name = f"{names.get(own.part, own.part)} {own.serial}".strip()
                entry = Entry(name, own.predicted, own.mass.value, own.process, own.crew)
                rows.append(LedgerRow(job, own, names.get(own.part, own.part), entry))
    return sorted(rows, key=lambda row: row.weighed.on)


def compared(rows: Iterable[LedgerRow]) -> list[LedgerRow]:
    """One weighing of each part for the tally: trimmed where it was weighed so, else as demoulded."""
    best: dict[tuple[str, str, str], LedgerRow] = {}
    for row in rows:
        if row.weighed.state not in LEDGER_STATES:
            continue
        key = (row.job.id, row.weighed.part, row.weighed.serial)
        before = best.get(key)
        if before is None or LEDGER_STATES.index(row.weighed.state) <= LEDGER_STATES.index(before.weighed.state):
            best[key] = row
    return list(best.values())


def tallies(project: Project, by: str = "process") -> dict[str, Tally]:
    """Mean and scatter of weighed over predicted, by process or by crew."""
    groups: dict[str, list[float]] = {}
    for row in compared(ledger(project)):
        groups.setdefault(getattr(row.entry, by), []).append(row.entry.ratio)
    return {name: tally(ratios) for name, ratios in groups.items()}


def offers(project: Project) -> list[Offer]:
    """What the ledger and measured resin offer, process by process; also what stands and may be withdrawn."""
    return [*_mass_offers(project), *_resin_offers(project)]


def _mass_offers(project: Project) -> Iterator[Offer]:
    shop = project.shop
    names = {own.id: own.name for own in shop.processes}
    for process, found in tallies(project).items():
        parts = "part" if found.count == 1 else "parts"
        spread = "" if found.deviation is None else f", scatter {100.0 * found.deviation:.1f} %"
        text = f"weighed is {found.mean:.3f} of predicted over {found.count} {parts}{spread}"
        yield Offer(
            "mass", process, names.get(process, process), found, text, found.offers, _standing(shop, "mass", process)
        )  # fmt: skip


def _resin_offers(project: Project) -> Iterator[Offer]:
    shop = project.shop
    names = {own.id: own.name for own in shop.processes}
    groups: dict[str, list[float]] = {}
    for job in project.jobs:
        for own in job.uses:
            if own.planned > 0.0 and own.mixed > own.left:
                groups.setdefault(own.process, []).append((own.mixed - own.left) / own.planned)
    for process, ratios in groups.items():
        found = tally(ratios)
        text = f"{found.mean:.3f} of the planned resin was used over {found.count} laying-ups"
        worth = abs(found.mean - 1.0) > OFF_BY
        yield Offer(
            "resin", process, names.get(process, process), found, text, worth, _standing(shop, "resin", process)
        )  # fmt: skip


def _standing(shop: Shop, what: str, process: str) -> ShopFactor | None:
    return next((own for own in shop.factors if own.what == what and own.process == process), None)


def accept(project: Project, offer: Offer, on: str) -> EditShop:
    """Command by which an offer's factor counts from now on, in place of one that stood."""
    shop = project.shop
    identity = new_id("f", {own.id for own in shop.factors})
    before = offer.standing.value if offer.standing is not None else 1.0
    # weighings freeze a prediction that may hold the factor already: what they show comes on top of it
    value = offer.tally.mean * (before if offer.what == "mass" and _predicted_with(project, offer) else 1.0)
    made = ShopFactor(identity, "mass" if offer.what == "mass" else "resin", offer.process, value, offer.text,
                      offer.tally.count, on)  # fmt: skip
    kept = tuple(own for own in shop.factors if own is not offer.standing)
    return EditShop(shop, replace(shop, factors=(*kept, made)), f"take the factor for {offer.name}")


def _predicted_with(project: Project, offer: Offer) -> bool:
    """Whether all weighings of a process came after its standing factor."""
    if offer.standing is None or not offer.standing.on:
        return False
    dates = [row.weighed.on for row in compared(ledger(project)) if row.entry.process == offer.process]
    return bool(dates) and min(dates) > offer.standing.on


def withdraw(project: Project, offer: Offer) -> EditShop:
    """Command that takes a standing factor back.  Raises OmakaseError where none stands."""
    if offer.standing is None:
        raise OmakaseError("there is no such factor")
    shop = project.shop
    kept = tuple(own for own in shop.factors if own is not offer.standing)
    return EditShop(shop, replace(shop, factors=kept), f"withdraw the factor for {offer.name}")


def with_use(job: Job, part: PartPlan, planned: float, mixed: float, left: float, on: str) -> Job:
    """The job with measured resin use.  Raises BuildError."""
    if not mixed > 0.0:
        raise BuildError("write down what was mixed", "mixed")
    if not 0.0 <= left < mixed:
        raise BuildError("what was left over is less than what was mixed", "left")
    identity = new_id("u", {own.id for own in job.uses})
    made = ResinUse(identity, part.made.part.id, on, planned, mixed, left, part.made.process.id)
    return replace(job, uses=(*job.uses, made))


def without_log(job: Job, identity: str) -> Job:
    """The job without a weighing, a resin use or a log, by its id."""
    return replace(
        job, weighed=tuple(own for own in job.weighed if own.id != identity),
        uses=tuple(own for own in job.uses if own.id != identity),
        bags=tuple(own for own in job.bags if own.id != identity),
        cures=tuple(own for own in job.cures if own.id != identity),
    )  # fmt: skip


class Cured(msgspec.Struct, frozen=True):
    """What a cure log shows: highest temperature, s above the cure's own, whether that is enough, and the glass
    transition reached in K (None where the resin states none) against the highest service temperature."""

    highest: float
    seconds: float
    wanted: float
    reached: bool
    glass: float | None
    service: float


GLASS_ABOVE = 25.0  # K that a glass transition may lie above the temperature of its cure: common practice
MARGIN = 20.0  # K that service stays below the glass transition: common practice, no source


def cured(log: CureLog, part: PartPlan, wanted: float, at: float) -> Cured:
    """A log against a cure of ``wanted`` s at ``at`` K.  Raises BuildError for a log whose times do not increase.

    The glass transition that is reached is no more than what was cured at plus about 25 K, and no more than the
    resin's own (common practice, no source).
    """
    import numpy as np

    t, value = _columns(log)
    hot = np.maximum(value, 0.0) >= at - 3.0
    seconds = float(np.sum(np.diff(t) * (hot[1:] & hot[:-1])))
    highest = float(value.max())
    resin = part.made.resin
    glass = None
    if resin is not None and "glass_dry" in resin.properties:
        glass = min(resin.value("glass_dry"), highest + GLASS_ABOVE)
    return Cured(highest, seconds, wanted, seconds >= wanted * (1.0 - 1e-9), glass,
                 part.made.brief.surroundings.temperature)  # fmt: skip


def _columns(log: CureLog | BagLog):  # type: ignore[no-untyped-def]
    import numpy as np

    t = np.array([own.time for own in log.points])
    value = np.array([own.value for own in log.points])
    if len(t) < 2 or not (np.diff(t) > 0.0).all():
        raise BuildError("a log needs two readings or more that run on in time")
    return t, value


RICHER = {"resin": 1.06, "uptake": 1.12}  # a simulated part has more of these than planned


def simulated_mass(part: PartPlan, state: State) -> float:
    """kg that a simulated part lays on the scale: a little rich in resin, as parts are."""
    return sum(row.mass * RICHER.get(row.kind, 1.0) for row in part.rows if row.kind in STATES[state])


def find_weighing(job: Job, identity: str) -> WeighIn | None:
    return by_id(job.weighed, identity)
