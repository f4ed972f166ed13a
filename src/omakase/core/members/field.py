"""What the checks see of any member: its walls, each with a section and the strains at sampled places.

A member of whatever kind gives a ``Response``: the fields of its walls, and its own numbers such as mass, deflection
and frequencies.  The checks of plies, faces and cores loop over the fields and know no kind.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection


class Place(msgspec.Struct, frozen=True, omit_defaults=True):
    """Where a check governs: on the member in m, round a section in degrees from its top, on which wall of several and
    how far along its mid-line, ``s`` in m.

    ``layer`` : index from face A of the wall's stack, with the ``surface`` of it.
    """

    x: float | None = None
    y: float | None = None
    layer: int | None = None
    surface: str = ""
    around: float | None = None
    wall: str = ""
    s: float | None = None


class Named(Protocol):
    """A load case as people call it, and what tells it from others."""

    @property
    def name(self) -> str: ...
    @property
    def key(self) -> str: ...


class Acting(Named, Protocol):
    """What a load case does to a wall from outside: what stands on it."""

    @property
    def pressures(self) -> tuple[float, ...]: ...
    @property
    def patches(self) -> tuple[PatchLoad, ...]: ...


SPOTS = (
    "close to bolts, corners of zones and of the panel, ends of ribs and the lines on which ribs stand, strains are "
    "left out: the theory gives ones without bound there; look after these places in the detail"
)


class WallCase(Protocol):
    """One load case on one wall at limit load: generalised strains (x, y, 11), and places that no check may look at."""

    @property
    def case(self) -> Acting: ...
    @property
    def x(self) -> np.ndarray: ...
    @property
    def y(self) -> np.ndarray: ...
    @property
    def strains(self) -> np.ndarray: ...
    @property
    def left_out(self) -> np.ndarray: ...

    def place(self, i: int, j: int) -> Place:
        """Where sample (i, j) lies."""
        ...

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place."""
        ...

    def ply_shear(self, section: PlateSection) -> np.ndarray | None:
        """Transverse shear force (V_x, V_y), N/m, that plies of a laminate pass on: (x, y, 2), zero where it is not to
        be looked at; None where there is none."""
        ...


class WallField(msgspec.Struct, frozen=True, eq=False):
    """A wall: its stack and section, and what each load case does to it.

    ``name`` : of the wall, empty where there is only one.  ``rough_shear`` : why its shear between plies may be off.
    ``rows`` : which of the whole wall's layers the stack's are, where some run over a stretch only; empty for all.
    ``stations`` : indices of its places along among those of the member, where that has a span.
    """

    stack: Stack
    section: PlateSection
    cases: tuple[WallCase, ...]
    name: str = ""
    rough_shear: str = ""
    rows: tuple[int, ...] = ()
    stations: np.ndarray | None = None


class Measured(msgspec.Struct, frozen=True):
    """A number of the member under one load case, and where; ``case`` is its key, empty where none is meant."""

    value: float
    name: str = ""
    case: str = ""
    x: float | None = None
    y: float | None = None
    remarks: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """What tells its load case from others."""
        return self.case


class Response(Protocol):
    """What any member answers.  ``measures`` by quantity, see ``core.quantities``; SI.

    ``case_remarks`` : what to know of every strength under a load case, by its key.
    """

    @property
    def case_remarks(self) -> Mapping[str, tuple[str, ...]]: ...

    @property
    def fields(self) -> tuple[WallField, ...]: ...
    @property
    def measures(self) -> Mapping[str, tuple[Measured, ...]]: ...
    @property
    def frequencies(self) -> tuple[float, ...]: ...
    @property
    def mass(self) -> float: ...
    @property
    def area(self) -> float: ...
    @property
    def areal_mass(self) -> float: ...
