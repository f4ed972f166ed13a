"""Records of the shop and its jobs: what is built of which candidates, how, when, and what it weighed.

Times in s, temperatures in K, money in the project's own.
"""

from typing import Literal

from omakase.project.details import Face
from omakase.project.reading import Reading
from omakase.project.spans import Record

HOUR, MINUTE = 3600.0, 60.0
State = Literal["demoulded", "trimmed", "assembled", "faired", "painted"]


class Consumable(Record, frozen=True):
    """Something that is used up: m² of it for each m² of part (``share``), money and kg of resin that it takes up for
    each m² of itself."""

    name: str
    share: float = 1.2
    price: float = 0.0
    uptake: float = 0.0


class ProcessRecord(Record, frozen=True):
    """How parts are laid up and cured.

    ``cutting`` : s for each piece; ``set_up``, ``bagging``, ``demoulding`` : s for each part; ``laying`` : s for each
    m² of each layer.  ``people`` : who lay up together.  ``cure`` : s, 0 for what the resin needs at the shop's
    temperature; ``oven`` : K that it is cured at, 0 for the shop's.  ``mixed`` : resin is mixed for it; a prepreg
    brings its own. ``drop``, ``drop_time`` : Pa that a bag may lose in so many s, 0 for no bag.  ``learning`` : hours
    when the number of parts doubles.  ``source`` : where its numbers are from.
    """

    id: str
    name: str
    cutting: float = 3.0 * MINUTE
    set_up: float = 0.5 * HOUR
    laying: float = 0.25 * HOUR
    bagging: float = 0.0
    demoulding: float = 0.5 * HOUR
    people: int = 1
    cure: float = 0.0
    oven: float = 0.0
    mixed: bool = True
    drop: float = 0.0
    drop_time: float = 300.0
    learning: float = 0.9
    consumables: tuple[Consumable, ...] = ()
    source: str = ""


class StockRecord(Record, frozen=True):
    """What the shop has or buys of a material: ``width`` of its roll or sheet and ``length`` of a sheet in m, 0 for the
    usual; ``thickness`` : of a core or sheet that it is of, m, 0 for all; ``left`` : m of roll, sheets, or kg of resin
    with its hardener; null where nobody counted."""

    material: str
    thickness: float = 0.0
    width: float = 0.0
    length: float = 0.0
    left: float | None = None


class MouldRecord(Record, frozen=True):
    """A mould or jig: how many there are, and what one costs."""

    name: str
    count: int = 1
    cost: float = 0.0


class ShopFactor(Record, frozen=True):
    """What the ledger or measured use has shown of a process until it is withdrawn: predicted ``mass``, or ``resin`` to
    mix, is multiplied by ``value``.  ``parts`` : on how many it rests."""

    id: str
    what: Literal["mass", "resin"]
    process: str
    value: float
    text: str = ""
    parts: int = 0
    on: str = ""


PEEL = Consumable("peel ply", 1.1, 3.5, 0.06)
FILM, BREATHER = Consumable("perforated film", 1.1, 1.2), Consumable("breather", 1.2, 2.5, 0.04)
BAG, TAPE = Consumable("bagging film", 1.5, 1.6), Consumable("sealant tape", 1.0, 2.0)
FLOW = Consumable("flow mesh", 1.1, 2.2, 0.25)
PRACTICE = "common practice, no source"
USUAL_PROCESSES: tuple[ProcessRecord, ...] = (
    ProcessRecord("hand", "laid up by hand", laying=0.25 * HOUR, consumables=(PEEL,), source=PRACTICE),
    ProcessRecord(
        "bag", "by hand, under vacuum", laying=0.25 * HOUR, bagging=0.75 * HOUR, drop=1700.0, people=2,
        consumables=(PEEL, FILM, BREATHER, BAG, TAPE), source=PRACTICE,
    ),
    ProcessRecord(
        "infusion", "infused", laying=0.15 * HOUR, bagging=1.5 * HOUR, drop=500.0,
        consumables=(PEEL, FLOW, BAG, TAPE), source=PRACTICE,
    ),
    ProcessRecord(
        "prepreg", "prepreg in the oven", laying=0.3 * HOUR, bagging=0.75 * HOUR, drop=1700.0, cure=8.0 * HOUR,
        oven=393.15, mixed=False, consumables=(FILM, BREATHER, BAG, TAPE), source=PRACTICE,
    ),
)  # fmt: skip


class Shop(Record, frozen=True):
    """The shop that a project is built in.

    ``currency`` : what its money is called.  ``people`` at work from ``opens`` for ``day`` on ``days`` of the week, 0
    for Monday.  ``rate`` : money of an hour of hands; ``overhead``, ``margin``, ``scrap`` : shares;
    ``waste`` : of bought cloth and core that is cut away, for a price before a cut list is made.  ``trim`` : m left
    round a ply, ``spacing`` between pieces on a roll, ``splice`` : by which plies overlap at a splice, 0 where plies
    may not be spliced.  ``wetting`` : s in which one person wets out 1 m² of one layer.  ``pot_share`` : of the pot
    life that a batch may take.  ``cup_loss`` : kg that stay in a cup, ``tool_loss`` : kg in brushes and rollers for
    each m² of cloth. ``largest_cup`` : kg mixed at once.
    """

    currency: str = ""
    temperature: float = 296.15
    people: int = 2
    opens: float = 8.0 * HOUR
    day: float = 8.0 * HOUR
    days: tuple[int, ...] = (0, 1, 2, 3, 4)
    rate: float = 0.0
    overhead: float = 0.0
    margin: float = 0.0
    scrap: float = 0.0
    waste: float = 0.25
    trim: float = 0.02
    spacing: float = 0.005
    splice: float = 0.03
    wetting: float = 6.0 * MINUTE
    pot_share: float = 0.7
    cup_loss: float = 0.01
    tool_loss: float = 0.01
    largest_cup: float = 0.3
    processes: tuple[ProcessRecord, ...] = USUAL_PROCESSES
    stock: tuple[StockRecord, ...] = ()
    moulds: tuple[MouldRecord, ...] = ()
    factors: tuple[ShopFactor, ...] = ()


class FinishRecord(Record, frozen=True):
    """A pass of body work or paint: ``thickness`` m that stays on ``share`` of the face, of a ``density``; s of
    hands."""

    kind: Literal["filler", "paint"] = "filler"
    what: str = "filler"
    thickness: float = 0.2e-3
    density: float = 1300.0
    share: float = 1.0
    hours: float = 0.0


class HardwareRecord(Record, frozen=True):
    """Something bolted or glued on: how many, kg of each."""

    what: str
    mass: float
    count: int = 1


class JobPart(Record, frozen=True):
    """A part of a job: ``count`` of a candidate for each unit, none named for the one decided for.

    ``process`` : id of the shop's; ``mould`` by name; ``first`` : the face that lies in the mould.  ``resin`` : short
    name, empty for the one its plies are worked out with.  ``chamfer`` : degrees of the core's edge, 90 for none.
    ``score`` : m between cuts made in a core both ways, 0 for none, each ``kerf`` m wide; ``kerfs`` : whether resin
    fills them.
    """

    id: str
    name: str
    brief: str
    candidate: str = ""
    count: int = 1
    process: str = "bag"
    mould: str = ""
    first: Face = "face_a"
    resin: str = ""
    chamfer: float = 90.0
    score: float = 0.0
    kerf: float = 1.2e-3
    kerfs: Literal["filled", "open"] = "filled"
    finishes: tuple[FinishRecord, ...] = ()
    hardware: tuple[HardwareRecord, ...] = ()


class WorkRecord(Record, frozen=True):
    """Work on a unit beside laying up its parts: closing bond, fairing, painting, a proof.

    ``hours`` : s of hands of each of ``people``, ``wait`` : s after.  ``after`` : ids of parts and works; ``mould``
    that it takes.  ``adhesive`` : short name, over ``area`` m² with a bond line ``gap`` m thick; none without one.
    """

    id: str
    name: str
    hours: float = HOUR
    wait: float = 0.0
    people: int = 1
    after: tuple[str, ...] = ()
    mould: str = ""
    adhesive: str = ""
    area: float = 0.0
    gap: float = 1e-3


class WeighIn(Record, frozen=True):
    """A part on the scale.  ``part`` : id in the job, ``serial`` : which of them.  ``predicted`` : kg in that state,
    as it
    was when the part was weighed.  ``thickness`` : mean of the part, where someone measured it."""

    id: str
    part: str
    serial: str
    on: str
    state: State
    mass: Reading
    predicted: float
    thickness: Reading | None = None
    process: str = ""
    crew: str = ""
    note: str = ""


class ResinUse(Record, frozen=True):
    """What was mixed for a part and what was left over, kg, against what was ``planned`` to be mixed."""

    id: str
    part: str
    on: str
    planned: float
    mixed: float
    left: float = 0.0
    process: str = ""
    note: str = ""


class LogPoint(Record, frozen=True):
    """A reading of a log: s from its start, and Pa or K."""

    time: float
    value: float


class BagLog(Record, frozen=True):
    """Readings of the gauge after the pump was closed, for the drop test of a part's bag; ``found`` : what was
    wrong."""

    id: str
    part: str
    on: str
    points: tuple[LogPoint, ...]
    found: str = ""


class CureLog(Record, frozen=True):
    """Temperatures of a part's cure."""

    id: str
    part: str
    on: str
    points: tuple[LogPoint, ...]


class Job(Record, frozen=True):
    """What is built: ``units`` of its ``parts`` and ``works`` from the day ``start`` on, as 2026-11-30.

    ``planned`` : units that the tooling is spread over.
    """

    id: str
    name: str
    revision: int = 1
    who: str = ""
    start: str = ""
    units: int = 1
    planned: int = 10
    parts: tuple[JobPart, ...] = ()
    works: tuple[WorkRecord, ...] = ()
    weighed: tuple[WeighIn, ...] = ()
    uses: tuple[ResinUse, ...] = ()
    bags: tuple[BagLog, ...] = ()
    cures: tuple[CureLog, ...] = ()
    note: str = ""
