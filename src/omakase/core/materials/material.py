"""A material record: a short name to type, a kind, and properties with provenance."""

import math
import re
from collections.abc import Iterable
from functools import lru_cache
from typing import Literal

import msgspec

from omakase.core.errors import MaterialError
from omakase.core.materials.properties import PROPERTIES, REQUIRED, REQUIRED_AS_CORE
from omakase.core.materials.provenance import Source, Sourced, least_trusted

Kind = Literal["ply", "sheet", "core", "fibre", "resin", "adhesive", "cloth"]
Family = Literal[
    "carbon", "glass", "aramid", "basalt", "flax", "polyester", "polypropylene",
    "metal", "wood", "foam", "honeycomb", "mat", "printed",
    "epoxy", "vinylester", "acrylic", "polyurethane",
]  # fmt: skip
Architecture = Literal["unidirectional", "plain", "twill", "satin", "spread_tow", "multiaxial", "mat", "braid"]
LAYER_KINDS = ("ply", "sheet", "core")

MOST_DIRECTIONS = 8
BRAID_ANGLE = 45.0
DIRECTION_LIMITS = ("e1t", "e1c", "g12u")

SHORT_NAME = re.compile(r"[a-z][a-z0-9_-]{0,31}\Z")


class Build(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """What a cloth is: its architecture, the fibre by short name, and the angles of a multiaxial or braid.

    A hybrid states its ``second_fibre`` and what share of the mass that has in each direction, ``second_shares``: one
    number for all directions, or one for each, warp before weft.
    """

    architecture: Architecture
    fibre: str
    angles: tuple[float, ...] = ()
    second_fibre: str = ""
    second_shares: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if self.second_fibre or self.second_shares:
            if not self.second_fibre or len(self.second_shares) not in {1, len(self.directions)}:
                raise MaterialError("a hybrid cloth states its second fibre and its share in each direction")
            if not all(0.0 <= share <= 1.0 for share in self.second_shares):
                raise MaterialError("the share of a hybrid's second fibre lies between 0 and 1 in each direction")
        if len(self.angles) > MOST_DIRECTIONS or not all(abs(angle) <= 360.0 for angle in self.angles):
            raise MaterialError(f"a cloth has at most {MOST_DIRECTIONS} directions, each within −360° to 360°")

    @property
    def directions(self) -> tuple[float, ...]:
        """Angles of the layers of straight fibres, each with an equal share of them.  Raises MaterialError."""
        if self.architecture == "unidirectional":
            return (0.0,)
        if self.architecture == "multiaxial":
            if not self.angles:
                raise MaterialError("a multiaxial cloth must state its angles")
            return self.angles
        if self.architecture == "braid":
            return self.angles or (BRAID_ANGLE, -BRAID_ANGLE)
        return (0.0, 90.0)

    @property
    def mixture(self) -> tuple[float, ...]:
        """Share by mass of the second fibre in each of the directions; zeros for a cloth of one fibre."""
        if not self.second_fibre:
            return (0.0,) * len(self.directions)
        return self.second_shares if len(self.second_shares) > 1 else self.second_shares * len(self.directions)


class Recipe(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """What a ply was worked out from: cloth and resin by short name, the process, and the rule for E2 and G12."""

    cloth: str
    resin: str
    process: str
    rule: Literal["chamis", "halpin_tsai"] = "chamis"


class KnockDown(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a check's allowable is multiplied by where this material is used, and the test series that showed it."""

    check: str
    factor: float
    name: str


class Laid(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What laying a layer of a material takes in a shop, by one of its processes.

    ``waste`` : share of what is bought that is cut away.  ``factor`` : on all money, for scrap, overhead and margin.
    ``rate`` : money of an hour of hands; ``resin`` : money per m².  ``piece``, ``area`` : s of hands for each piece and
    each m²; ``part`` : s for each part that is laid up so, ``face`` : money of consumables per m² of its face.
    """

    process: str
    waste: float
    factor: float
    rate: float
    resin: float
    piece: float
    area: float
    part: float
    face: float


def _named(key: str) -> str:
    """A property as the screen names it: its key, which tables use, and its meaning."""
    return f"{key} ({PROPERTIES[key].meaning})"


class Material(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, eq=False):
    """One entry of a library.

    A *ply* is cloth with resin, its thickness follows from the areal mass; a *sheet* (metal, plywood) and a
    *core* are bought by thickness.  What plies are made from are records too: *fibre*, *resin*, *cloth* (which
    states its ``build``), and *adhesive*.  A ply that was worked out states its ``recipe``.  Raises MaterialError if a
    property its kind needs is missing or is outside the physically possible range.  ``sold``: thicknesses in m that can
    be bought; empty where any can.  ``knock_downs`` : factors of checks that accepted test
    series have shown; ``tests`` : names of those series.  A ply worked out from a cloth keeps its ``build``.
    ``laid`` : what laying it takes in the project's shop; never in a file.
    ``conditions`` : factors that its strengths were multiplied by for where a part works, in words; never in a file.
    """

    id: str
    name: str
    kind: Kind
    family: Family
    properties: dict[str, Sourced]
    note: str = ""
    build: Build | None = None
    recipe: Recipe | None = None
    sold: tuple[float, ...] = ()
    knock_downs: tuple[KnockDown, ...] = ()
    tests: tuple[str, ...] = ()
    conditions: tuple[str, ...] = ()
    laid: Laid | None = None

    def __post_init__(self) -> None:
        if not SHORT_NAME.match(self.id):
            raise MaterialError(
                f"'{self.id}' is not a short name: start with a letter, then letters, digits, - or _ (32 at most)"
            )
        missing = [key for key in REQUIRED[self.kind] if key not in self.properties]
        if missing:
            words = ", ".join(_named(key) for key in missing)
            raise MaterialError(f"material '{self.id}' lacks {words}, which a {self.kind} needs")
        for key, sourced in self.properties.items():
            self._check(key, sourced.value)
        if not all(math.isfinite(t) and 1e-5 <= t <= 1.0 for t in self.sold):
            raise MaterialError(f"material '{self.id}': a thickness sold must lie between 0.01 mm and 1 m")
        if self.kind == "cloth" and self.build is None:
            raise MaterialError(f"cloth '{self.id}' does not state its build: architecture and fibre")
        elastic = all(key in self.properties for key in ("nu12", "E1", "E2"))
        if elastic and not self.value("nu12") ** 2 < self.value("E1") / self.value("E2"):
            raise MaterialError(f"material '{self.id}': ν₁₂² must be below E₁/E₂, or the stiffness is not positive")

    def _check(self, key: str, value: float) -> None:
        if key not in PROPERTIES:
            raise MaterialError(f"material '{self.id}' has an unknown property '{key}'")
        spec = PROPERTIES[key]
        if not math.isfinite(value):
            raise MaterialError(f"material '{self.id}': {_named(key)} is not a finite number")
        if value == 0.0 and spec.zero_allowed:
            return
        if not spec.lower <= value <= spec.upper:
            raise MaterialError(
                f"material '{self.id}': {_named(key)} = {value:g} is outside {spec.lower:g} to {spec.upper:g} "
                "(SI units)"
            )

    def value(self, key: str) -> float:
        """Property in SI units.  Raises MaterialError when the material does not state it."""
        try:
            return self.properties[key].value
        except KeyError:
            raise MaterialError(f"material '{self.id}' does not state {key}") from None

    def source(self, keys: Iterable[str]) -> Source:
        """The least trusted provenance among the properties ``keys`` that the material states."""
        return _source(self, tuple(keys))

    @property
    def is_woven(self) -> bool:
        """Cloth with fibres both ways: the modulus across more than half of that along."""
        return self.kind == "ply" and self.value("E2") > 0.5 * self.value("E1")

    @property
    def directions(self) -> tuple[float, ...]:
        """Angles of the layers of straight fibres in a multiaxial or braided ply, whose own strains are judged.

        Empty for other plies, and for one that does not state the failure strains of its fibres.
        """
        if self.kind != "ply" or self.build is None or self.build.architecture not in ("multiaxial", "braid"):
            return ()
        return self.build.directions if all(key in self.properties for key in DIRECTION_LIMITS) else ()

    @property
    def is_metal(self) -> bool:
        """A sheet that yields the same in all directions, and is judged by its yield and ultimate stress."""
        return self.family == "metal"

    @property
    def transverse_strength(self) -> float:
        """The lesser of its two transverse shear strengths, Pa."""
        return min(self.value("S13"), self.value("S23"))

    @property
    def has_face(self) -> bool:
        """A satin, whose two sides differ."""
        return "harness" in self.properties

    @property
    def can_be_core(self) -> bool:
        """Whether the record states what a core needs."""
        return self.kind == "core" or all(key in self.properties for key in REQUIRED_AS_CORE)


@lru_cache(maxsize=4096)
def _source(material: Material, keys: tuple[str, ...]) -> Source:
    """Kept, since every check of every edit asks again; a material is never changed."""
    return least_trusted(material.properties[key].source for key in keys if key in material.properties)
