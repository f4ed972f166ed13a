"""Lateral loads on a rectangular plate.  A positive pressure pushes down onto face A (toward −z)."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from omakase.core.errors import PanelError, both_units
from omakase.core.plates.basis import Basis, interval_integral, straight_integral
from omakase.core.plates.grid import Grid

STANDARD_GRAVITY = 9.80665  # m/s², exact by definition


class Pressure(msgspec.Struct, frozen=True):
    """Uniform pressure in Pa over the whole panel."""

    pressure: float


class PatchLoad(msgspec.Struct, frozen=True):
    """Force in N spread evenly over a rectangle centred at (x, y), of size ``along_x`` × ``along_y``, in m."""

    force: float
    x: float
    y: float
    along_x: float
    along_y: float

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """x low, x high, y low, y high."""
        return (
            self.x - self.along_x / 2.0,
            self.x + self.along_x / 2.0,
            self.y - self.along_y / 2.0,
            self.y + self.along_y / 2.0,
        )

    @property
    def pressure(self) -> float:
        """Mean pressure under the patch, Pa."""
        return self.force / (self.along_x * self.along_y)

    def check_inside(self, length: float, width: float) -> None:
        """Raises PanelError when a number of it is not finite, it has no size, or it reaches beyond the panel."""
        numbers = {"force": self.force, "place along x": self.x, "place along y": self.y,
                   "length": self.along_x, "width": self.along_y}  # fmt: skip
        for name, value in numbers.items():
            if not math.isfinite(value):
                raise PanelError(f"the {name} of a patch load is not a finite number")
        if not (self.along_x > 0.0 and self.along_y > 0.0):
            raise PanelError("a patch load needs a positive length and width")
        low_x, high_x, low_y, high_y = self.bounds
        slack = 1e-9 * max(length, width)
        if low_x < -slack or low_y < -slack or high_x > length + slack or high_y > width + slack:
            raise PanelError(
                f"the patch reaches from x, y of {both_units(low_x, low_y, between=', ')} to "
                f"{both_units(high_x, high_y, between=', ')}, beyond the panel of {both_units(length, width)}"
            )


class EdgeLoad(msgspec.Struct, frozen=True):
    """Forces per width along the edges, N/m, tension positive, in balance with each other.

    ``Nx`` pulls at the ends, running straight from the first number at y = 0 to the second at the far side; ``Ny`` at
    the sides, from x = 0 on; ``Nxy`` shears along all four edges.
    """

    Nx: tuple[float, float] = (0.0, 0.0)
    Ny: tuple[float, float] = (0.0, 0.0)
    Nxy: float = 0.0

    @property
    def largest(self) -> float:
        """Largest of its numbers, N/m."""
        return max(abs(self.Nxy), *(abs(force) for force in (*self.Nx, *self.Ny)))

    def check(self) -> None:
        """Raises PanelError when a number of it is not finite."""
        if not all(math.isfinite(force) for force in (*self.Nx, *self.Ny, self.Nxy)):
            raise PanelError("a force along an edge is not a finite number")


PlateLoad = Pressure | PatchLoad | EdgeLoad
Tables = list[tuple[str, np.ndarray]]


def load_tables(grid: Grid, load: PlateLoad) -> Tables:
    """Work of the load per unit coefficient of a field, (x count, y count), N per unit, for each field it works on."""
    if isinstance(load, EdgeLoad):
        return _edge_tables(grid, load)
    if isinstance(load, Pressure):
        bounds, pressure = (0.0, grid.length, 0.0, grid.width), load.pressure
    else:
        bounds, pressure = load.bounds, load.pressure
    along_x = interval_integral(grid.x["w"], bounds[0], bounds[1])
    along_y = interval_integral(grid.y["w"], bounds[2], bounds[3])
    return [("w", -pressure * np.outer(along_x, along_y))]


def _edge_tables(grid: Grid, load: EdgeLoad) -> Tables:
    """Work of tractions on u and v: what pulls at one edge pulls the other way at the opposite one."""
    ends = {field: _difference_of_ends(grid.x[field]) for field in ("u", "v")}
    sides = {field: _difference_of_ends(grid.y[field]) for field in ("u", "v")}
    over_x = {field: interval_integral(grid.x[field], 0.0, grid.length) for field in ("u", "v")}
    over_y = {field: interval_integral(grid.y[field], 0.0, grid.width) for field in ("u", "v")}
    Nx, Ny = (straight_integral(basis, *forces) for basis, forces in ((grid.y["u"], load.Nx), (grid.x["v"], load.Ny)))
    return [
        ("u", np.outer(ends["u"], Nx) + load.Nxy * np.outer(over_x["u"], sides["u"])),
        ("v", np.outer(Ny, sides["v"]) + load.Nxy * np.outer(ends["v"], over_y["v"])),
    ]


def _difference_of_ends(basis: Basis) -> np.ndarray:
    """Each function's value at the far end less that at the near one, (count,)."""
    values = np.zeros(basis.count)
    values[basis.edge_functions(1)[0]] += 1.0
    values[basis.edge_functions(0)[0]] -= 1.0
    return values
