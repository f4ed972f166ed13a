"""The records of a project file.  All values are SI; angles are in degrees.

Records are immutable: an edit makes new records and shares the rest with the old ones, so that a snapshot for a
worker thread or for undo costs nothing.  Types are checked when a file is read; whether the values make sense is
checked by ``validation``, record by record, so that one bad candidate does not spoil the rest.
"""

from collections.abc import Iterable
from typing import Literal, Protocol, TypeVar

import msgspec

from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Source
from omakase.core.specimens.curve import Quantity
from omakase.project.build import Job as Job
from omakase.project.build import Shop as Shop
from omakase.project.conditions import AppliedCondition, ConditionRecord
from omakase.project.details import Detail
from omakase.project.layers import LayerRecord as LayerRecord
from omakase.project.panels import EdgeLoad, OwnWeight, PanelMember, PatchLoad, PressureLoad
from omakase.project.reading import Reading as Reading
from omakase.project.spans import (
    BracketForm,
    BracketMember,
    LegForm,
    LegMember,
    PanelForm,
    SpanLoads,
    SparForm,
    SparMember,
    StripForm,
    StripMember,
    TubeForm,
    TubeMember,
    Zone,
)
from omakase.project.spans import Record as _Record
from omakase.project.wings import RibForm, RibMember, SurfaceForm, SurfaceMember, WingLoads

FORMAT = "omakase-project"
VERSION = 15


Load = PressureLoad | PatchLoad | EdgeLoad | OwnWeight | SpanLoads | WingLoads
Member = PanelMember | StripMember | TubeMember | SparMember | LegMember | BracketMember | RibMember | SurfaceMember
Form = PanelForm | StripForm | TubeForm | SparForm | LegForm | BracketForm | RibForm | SurfaceForm


class LoadCase(_Record, frozen=True):
    """Loads that act together, at limit level: as stated, times ``factor``."""

    id: str
    name: str
    loads: tuple[Load, ...] = ()
    factor: float = 1.0


Relative = Literal["mass", "deflection", "thickness"]


class Limits(_Record, frozen=True):
    """What the member must meet; null where the brief sets no limit.  Turns in degrees.

    ``against`` : what must be no worse than the baseline's, whatever that is.
    """

    deflection: float | None = None
    frequency_minimum: float | None = None
    frequency_band: tuple[float, float] | None = None
    reserve_factor: float = 1.0
    mass: float | None = None
    thickness: float | None = None
    rotation: float | None = None
    twist: float | None = None
    diameter: float | None = None
    bay_sag: float | None = None
    span_mass: float | None = None
    divergence: float | None = None
    against: tuple[Relative, ...] = ()


class Judgement(_Record, frozen=True):
    """Factors and the school of thought that strength is judged by."""

    factor_of_safety: float = 1.5
    special_factor: float = 1.0
    special_factor_reason: str = ""
    criterion: Literal["maximum_strain", "tsai_wu"] = "maximum_strain"
    wrinkling: Literal["design", "theory"] = "design"


class Surroundings(_Record, frozen=True):
    """Where the part works: highest temperature in K, wet or dry, and whether an aerial lies behind it.

    ``radius`` : tightest bend of its shape in m, null for a flat one.  ``twisted`` : carries twist.
    """

    temperature: float = 296.15
    wet: bool = False
    aerial: bool = False
    radius: float | None = None
    twisted: bool = False


class Accepted(_Record, frozen=True):
    """A finding that the designer knows of and lives with, by its rule's name, and why; ``on`` : the day, if known."""

    rule: str
    reason: str
    on: str = ""


class MeasuredPart(_Record, frozen=True):
    """What is known of a part without its layup, an older one or one cut open: ``mass`` kg, ``thickness`` m, and where
    they are known its ``stiffness`` N/m, force over deflection as the brief loads it, and ``breaking`` load in N."""

    mass: float
    thickness: float
    stiffness: float | None = None
    breaking: float | None = None


class Candidate(_Record, frozen=True):
    """A recipe for the brief: its form, zones, and layers from face A (top, outside) down to face B, wall by wall.

    ``measured`` : a part that stands beside the others by its measurements; it has no layers.  ``details`` : where
    loads enter it.
    """

    id: str
    name: str
    layers: tuple[LayerRecord, ...] = ()
    origin: str = ""
    note: str = ""
    accepted: tuple[Accepted, ...] = ()
    form: Form = PanelForm()
    zones: tuple[Zone, ...] = ()
    measured: MeasuredPart | None = None
    details: tuple[Detail, ...] = ()

    @property
    def reasons(self) -> dict[str, str]:
        """Why each accepted finding is lived with, by its rule."""
        return {entry.rule: entry.reason for entry in self.accepted}


class Formula(_Record, frozen=True):
    """What works out a number of a brief from the vehicle's quantities; the number itself stands in its place.

    ``path`` : of the number, from the brief, such as load_cases[0].loads[1].force.
    """

    path: str
    text: str


class Brief(_Record, frozen=True):
    """What the part must do, and the candidates for it.  ``baseline`` is the id of a candidate or empty.

    ``supports_given`` : how its edges are held cannot be changed, so that no way out proposes that.  ``formulas`` :
    those of its numbers that follow the vehicle's quantities.  ``conditions`` : whose design values it is judged by.
    """

    id: str
    name: str
    member: Member = PanelMember()
    load_cases: tuple[LoadCase, ...] = ()
    limits: Limits = Limits()
    judgement: Judgement = Judgement()
    surroundings: Surroundings = Surroundings()
    candidates: tuple[Candidate, ...] = ()
    baseline: str = ""
    note: str = ""
    supports_given: bool = False
    formulas: tuple[Formula, ...] = ()
    conditions: tuple[AppliedCondition, ...] = ()


class Sample(_Record, frozen=True):
    """A panel that was made: its schedule, size in m, and what scale and caliper said of it.

    ``masses`` : readings of its one mass, kg, perhaps in two units.  ``photo`` : path of a picture, as it was given.
    """

    id: str
    name: str
    layers: tuple[LayerRecord, ...] = ()
    length: float = 0.2
    width: float = 0.2
    masses: tuple[Reading, ...] = ()
    thickness: Reading | None = None
    note: str = ""
    photo: str = ""


class CurveColumn(_Record, frozen=True):
    """One column of a curve: whole numbers with spaces between them, each times ``step`` is the value in SI."""

    quantity: Quantity
    step: float
    values: str


class CurveRecord(_Record, frozen=True):
    """A test curve as kept: means of neighbouring rows where the file had more ``rows`` than are kept.

    ``source`` : name of the file or device, ``digest`` : SHA-256 of that file, so that it can be found again.
    """

    columns: tuple[CurveColumn, ...]
    rows: int
    source: str = ""
    digest: str = ""


class LoadItem(_Record, frozen=True):
    """Something to load with: a block, a bar, a bucket; mass in kg."""

    name: str
    mass: float


class Region(_Record, frozen=True):
    """How a person wants one specimen reduced: the region of the curve's axis in SI, or none."""

    start: float
    end: float


class Specimen(_Record, frozen=True):
    """One specimen: sizes in SI that differ from the series', what the test gave, and how it failed.

    One of ``curve``, ``log`` (a step log as typed) and ``force`` (one value) says what it carried.  ``place`` and
    ``manner`` of the failure; ``verdict`` empty where it follows from the place; ``reason`` why a person overruled it.
    ``batch`` : of material or day of work, by which values are pooled; empty where nobody said.  ``tested`` and
    ``weighed`` : the days on which its load and its mass were entered, empty where that is not known.
    """

    id: str
    name: str
    batch: str = ""
    sizes: dict[str, float] = {}
    mass: Reading | None = None
    curve: CurveRecord | None = None
    log: str = ""
    force: Reading | None = None
    place: str = ""
    manner: str = ""
    verdict: Literal["", "valid", "at_least", "void"] = ""
    reason: str = ""
    region: Region | None = None
    photo: str = ""
    note: str = ""
    tested: str = ""
    weighed: str = ""


class ProofStation(_Record, frozen=True):
    """A place along a part that is loaded for its proof: N put on the stretch around ``x`` m, and the deflection there
    in m, both at limit load."""

    x: float
    load: float
    deflection: float


class Frozen(_Record, frozen=True):
    """What was predicted, and of what, when the series was planned: it does not follow later edits.

    ``forces`` : failure in words to force in N; ``values`` : result to value in SI; ``stiffness`` N/m; ``source`` : the
    least trusted provenance it rests on; ``rests_on`` : in words, the properties that were estimates.  ``line`` : of a
    part with a span, its deflections at limit load, and ``twist`` in degrees at its far end.
    """

    on: str
    forces: dict[str, float] = {}
    values: dict[str, float] = {}
    stiffness: float = 0.0
    source: Source = "assumed"
    rests_on: tuple[str, ...] = ()
    line: tuple[ProofStation, ...] = ()
    twist: float | None = None


class Series(_Record, frozen=True):
    """Specimens of one recipe under one method.

    ``layers`` : of the candidate when it was planned; ``turned`` : specimens cut along the panel's width.
    ``material`` : the one it speaks of.  ``capacity`` : N, of the rig, 0 if unknown; ``lever``, ``tare`` (kg) and
    ``items`` of a step test; ``compliance`` m/N taken off crosshead travel; ``shear_modulus`` Pa whose share is taken
    off a deflection; ``toe`` : whether the toe is taken off strains, ``offset`` : strain of the yield line.
    ``working_load`` : N at which deflections are compared; ``cost`` : money per m².
    """

    id: str
    name: str
    method: str
    layers: tuple[LayerRecord, ...] = ()
    turned: bool = False
    brief: str = ""
    candidate: str = ""
    material: str = ""
    recipe: str = ""
    sizes: dict[str, float] = {}
    planned: int = 5
    capacity: float = 0.0
    lever: float = 1.0
    tare: float = 0.0
    items: tuple[LoadItem, ...] = ()
    compliance: float = 0.0
    shear_modulus: float = 0.0
    toe: bool = True
    offset: float = 0.002
    working_load: float = 0.0
    cost: float = 0.0
    prediction: Frozen | None = None
    specimens: tuple[Specimen, ...] = ()
    note: str = ""


class Acceptance(_Record, frozen=True):
    """What a series of tests changes until it is withdrawn.

    ``kind`` "allowable": the material's property ``key`` becomes ``value``.  "factor": results of the check ``key`` in
    candidates with the material are multiplied by ``value``.  ``text`` : what it rests on, in words.
    """

    id: str
    series: str
    name: str
    kind: Literal["allowable", "factor"]
    material: str
    key: str
    value: float
    text: str = ""
    on: str = ""


class Decision(_Record, frozen=True, eq=False):
    """A candidate chosen for its brief, with what it was and what it came to then: it does not follow later edits.

    ``revision`` : counts the decisions of a brief; ``on`` : the day, as 2026-11-28.  ``given`` : the brief without its
    candidates.  ``materials`` : those of its layers as they were.  ``values`` : results by quantity in SI, ``governs``
    what governed, ``reserve`` : times what was required.  ``withdrawn`` : the day, empty while it stands.
    """

    id: str
    brief: str
    candidate: str
    revision: int
    on: str
    who: str
    why: str
    given: Brief
    chosen: Candidate
    materials: tuple[Material, ...] = ()
    passes: bool = True
    governs: str = ""
    reserve: float | None = None
    values: dict[str, float] = {}
    withdrawn: str = ""
    withdrawn_why: str = ""

    def __eq__(self, other: object) -> bool:
        """By what would be written: records of materials are distinguished by identity."""
        if self is other:
            return True
        return isinstance(other, Decision) and msgspec.json.encode(self) == msgspec.json.encode(other)

    def __hash__(self) -> int:
        return hash((self.id, self.brief, self.candidate, self.revision))


class VehicleQuantity(_Record, frozen=True):
    """A named number of the vehicle, as typed: "9.2 kg", or a formula of others, "= airframe + payload".

    ``unit`` : in which its value is shown; empty for the usual one.
    """

    name: str
    text: str = ""
    unit: str = ""
    note: str = ""


class VehiclePart(_Record, frozen=True):
    """A part of a vehicle: ``count`` of the chosen candidate of a ``brief``, or with no brief one whose ``mass`` and
    ``cost`` are typed, as quantities of the sheet are; the cost in the project's money."""

    name: str
    brief: str = ""
    count: int = 1
    mass: str = ""
    cost: str = ""
    note: str = ""


class Vehicle(_Record, frozen=True):
    """Parts that are added up against a budget; ``mass_budget``, ``cost_budget`` as typed, empty for none."""

    id: str
    name: str
    parts: tuple[VehiclePart, ...] = ()
    mass_budget: str = ""
    cost_budget: str = ""


class OpinionLine(_Record, frozen=True):
    """One number of ours and of a finite-element solver, SI.  ``mesh`` : relative change from a coarser mesh."""

    what: str
    dimension: str
    program: float
    solver: float
    mesh: float | None = None


class Opinion(_Record, frozen=True):
    """What a solver said of a candidate of a brief on a day, as 2026-11-28.  ``of`` : digest of brief, candidate and
    materials as they were; of another state it says nothing."""

    id: str
    brief: str
    candidate: str
    on: str
    of: str
    lines: tuple[OpinionLine, ...] = ()


class Project(_Record, frozen=True):
    """The whole document."""

    format: Literal["omakase-project"] = "omakase-project"
    version: int = VERSION
    title: str = ""
    units: Literal["si", "inch_pound"] = "si"
    briefs: tuple[Brief, ...] = ()
    materials: tuple[Material, ...] = ()
    samples: tuple[Sample, ...] = ()
    series: tuple[Series, ...] = ()
    acceptances: tuple[Acceptance, ...] = ()
    quantities: tuple[VehicleQuantity, ...] = ()
    decisions: tuple[Decision, ...] = ()
    vehicles: tuple[Vehicle, ...] = ()
    conditions: tuple[ConditionRecord, ...] = ()
    shop: Shop = Shop()
    jobs: tuple[Job, ...] = ()
    opinions: tuple[Opinion, ...] = ()


class _Named(Protocol):
    @property
    def id(self) -> str: ...


Entry = TypeVar("Entry", bound=_Named)


def by_id(entries: Iterable[Entry], identity: str) -> Entry | None:
    """The entry with an id; None where there is none."""
    return next((entry for entry in entries if entry.id == identity), None)


def find_brief(project: Project, brief_id: str) -> Brief:
    """The brief with this id.  Raises KeyError."""
    for brief in project.briefs:
        if brief.id == brief_id:
            return brief
    raise KeyError(brief_id)


def without_candidates(brief: Brief) -> Brief:
    """The brief alone: what an edit of a candidate leaves as it is."""
    return msgspec.structs.replace(brief, candidates=(), baseline="")


def find_candidate(brief: Brief, candidate_id: str) -> Candidate:
    """The candidate with this id.  Raises KeyError."""
    for candidate in brief.candidates:
        if candidate.id == candidate_id:
            return candidate
    raise KeyError(candidate_id)


def new_id(prefix: str, taken: set[str]) -> str:
    """The first free id of a numbered series, so that a file's diff stays small."""
    number = 1
    while f"{prefix}{number}" in taken:
        number += 1
    return f"{prefix}{number}"


def new_brief(brief_id: str, name: str = "New panel", member: Member | None = None) -> Brief:
    """A brief to start from: a member, by default a simply supported panel, under its own weight."""
    case = LoadCase("l1", "own weight", (OwnWeight(1.0),))
    return Brief(
        id=brief_id, name=name, member=member or PanelMember(), load_cases=(case,), limits=Limits(deflection=0.005)
    )


def new_project(units: Literal["si", "inch_pound"] = "si") -> Project:
    """An empty project with one brief to fill in."""
    return Project(title="Untitled", units=units, briefs=(new_brief("b1"),))
