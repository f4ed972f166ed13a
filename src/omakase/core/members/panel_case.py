"""One load case of a panel as the checks see it: a sum of solutions, sampled."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.kept import keep_last
from omakase.core.members.field import Place, WallCase
from omakase.core.members.panel_edges import EdgeForces, edge_reactions
from omakase.core.members.panel_given import LoadCase, Surface
from omakase.core.members.panel_held import Reaction
from omakase.core.members.panel_ribs import RibCase
from omakase.core.plates.large_deflection import LargeSolution
from omakase.core.plates.lines import (
    couples_twist,
)
from omakase.core.plates.reduced import ReducedSolution
from omakase.core.plates.samples import Samples
from omakase.core.plates.section import PlateSection
from omakase.core.plates.shear_places import in_corners, shear_left_out
from omakase.core.plates.solver import PlateSolution


class Part(msgspec.Struct, frozen=True, eq=False):
    """One solution that a load case is the sum of, times ``factor``, with the case's sample points on its grid."""

    factor: float
    solution: PlateSolution | ReducedSolution | LargeSolution
    samples: Samples
    w_samples: Samples

    def strains(self, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains at the samples, or a derivative of them: (x, y, 11)."""
        return self.factor * self.solution.strains(self.samples, dx, dy)

    def deflection(self) -> np.ndarray:
        """Deflection at its own samples, m, positive up: (x, y)."""
        return self.factor * self.solution.deflection(self.w_samples)


class LookedAt(msgspec.Struct, frozen=True, eq=False):
    """Where fields are sampled, places of the plan in m, and which strains are ``left_out`` there: see CaseResponse."""

    x: np.ndarray
    y: np.ndarray
    w_x: np.ndarray
    w_y: np.ndarray
    left_out: np.ndarray


@keep_last(64)
def looked_at(
    at: Samples, w_at: Samples, surface: Surface, corners: tuple[tuple[bool, ...], ...], reach: float
) -> LookedAt:
    """The same for every layup on one grid, so kept; not to be changed by who gets it."""
    left_out = in_corners(at.x, at.y, (at.x[-1], at.y[-1]), np.array(corners), reach)
    left_out.setflags(write=False)
    along_x, along_y = surface.x.on_chord, surface.y.on_chord
    return LookedAt(along_x(at.x), along_y(at.y), along_x(w_at.x), along_y(w_at.y), left_out)


class Beyond(msgspec.Struct, frozen=True, eq=False):
    """What a load case needed more than the sum of linear solutions.

    ``buckling`` : factor on its loads at which the panel buckles or snaps through, infinite where it does not, None
    where it was not asked; ``how`` it was found.  ``large`` : whether it moves so far that its linear answer says
    little.  ``shape`` : the buckling shape.  ``snap`` : factor on the loads beyond which no state follows, infinite
    where one was found up to ultimate load.  ``level`` : times its ultimate load at which its strains were solved,
    where it is ``large``.
    """

    buckling: float | None = None
    how: str = ""
    large: bool = False
    remarks: tuple[str, ...] = ()
    shape: PlateSolution | None = None
    snap: float = math.inf
    level: float = 1.0


def nothing() -> None:
    """What a case gives back that holds nothing."""


class CaseResponse:
    """Fields of one load case at limit load.

    ``x``, ``y`` : sample places, m.  ``strains`` : (x, y, 11) generalised strains there.  ``w`` : deflection in m,
    positive up, at places of its own ``w_x``, ``w_y``, close enough together that its largest value is met.
    ``left_out`` : (x, y) booleans, the places in ``corners`` (2, 2), by ends along x and y, within ``reach`` of both
    sides, where the theory's strains have no bound.  Places are those of the plan.

    ``moved`` : the solution from which deflections are read, where it is not the one of the strains.  ``beyond`` : what
    the case needed more than a linear plate, None where nothing.  ``again`` : the case with strains solved at another
    level, times its ultimate load; None where they follow their load.  ``rest`` : gives back what ``again`` works with,
    some hundred MB; it is made anew where it is asked for once more.  ``inside`` : what bolts, lines of support and
    elastic edges take at limit load; ``on_edges`` : the answers whose sum tells what its held edges take.
    """

    def __init__(
        self, case: LoadCase, parts: list[Part], corners: np.ndarray, reach: float, surface: Surface,
        moved: Part | None = None, beyond: Beyond | None = None,
    ) -> None:  # fmt: skip
        self.case, self._edges, self.beyond = case, surface.edges, beyond
        self.parts = parts
        self.inside: tuple[Reaction, ...] = ()
        self.on_edges: tuple[EdgeForces, ...] = ()
        self.again: Callable[[float], Answered] | None = None
        self.rest: Callable[[], None] = nothing
        first = parts[0]
        self._along = first.samples.x, first.samples.y
        self.strains: np.ndarray = sum((part.strains() for part in parts[1:]), first.strains())
        pattern = tuple(map(tuple, corners.tolist()))
        places = looked_at(first.samples, first.w_samples, surface, pattern, reach)
        self.x, self.y, self.w_x, self.w_y, self.left_out = places.x, places.y, places.w_x, places.w_y, places.left_out
        deflected = parts if moved is None else [moved]
        self.w: np.ndarray = sum((part.deflection() for part in deflected[1:]), deflected[0].deflection())

    @cached_property
    def reactions(self) -> tuple[Reaction, ...]:
        """What supports take at limit load; of panels that stretch or are pressed what holds them inside only."""
        return (*self.inside, *edge_reactions(self.on_edges))

    def equilibrium_shear(self, section: PlateSection) -> np.ndarray:
        """Shear force (V_x, V_y), N/m, of a monolithic plate from the gradients of its moments: (x, y, 2).

        V_x = M_x,x + M_xy,y and V_y = M_xy,x + M_y,y.  In a thin plate the shear strain is the small difference of
        slope and rotation, so that its stiffness would blow up what is left of the discretisation error.
        """
        stiffness = section.membrane[3:6, 0:6]
        along_x = np.sum([part.strains(dx=1)[..., 0:6] for part in self.parts], axis=0) @ stiffness.T
        along_y = np.sum([part.strains(dy=1)[..., 0:6] for part in self.parts], axis=0) @ stiffness.T
        return np.stack([along_x[..., 0] + along_y[..., 2], along_x[..., 2] + along_y[..., 1]], axis=-1)

    def ply_shear(self, section: PlateSection) -> np.ndarray:
        """``equilibrium_shear``, zero in the corners and beside edges where it cannot be read: (x, y, 2)."""
        force = self.equilibrium_shear(section)
        force[shear_left_out(*self._along, self._edges, couples_twist(section))] = 0.0
        return force

    def place(self, i: int, j: int) -> Place:
        """Where sample (i, j) lies."""
        return Place(float(self.x[i]), float(self.y[j]))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the middle of a side that the place does not name."""
        x = (self.x[0] + self.x[-1]) / 2.0 if place.x is None else place.x
        y = (self.y[0] + self.y[-1]) / 2.0 if place.y is None else place.y
        return int(np.argmin(np.abs(self.x - x))), int(np.argmin(np.abs(self.y - y)))

    @cached_property
    def largest_deflection(self) -> tuple[float, float, float]:
        """(|w|, x, y) of the sample that moves most, m."""
        i, j = np.unravel_index(np.argmax(np.abs(self.w)), self.w.shape)
        return float(abs(self.w[i, j])), float(self.w_x[i]), float(self.w_y[j])


class Answered(msgspec.Struct, frozen=True, eq=False):
    """What a load case does to the whole panel, and to each stack of a patchwork and each rib of one that has any."""

    whole: CaseResponse
    on_stacks: tuple[WallCase, ...] = ()
    on_ribs: tuple[RibCase, ...] = ()
