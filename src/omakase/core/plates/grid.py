"""The tensor grid of a rectangular plate: break lines, fields, and which of their functions the edges hold."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import PanelError
from omakase.core.plates.basis import Basis

Edge = Literal["free", "resting", "simple", "clamped"]
InPlane = Literal["may_spread", "ends", "sides", "all", "loose"]
Curvature = tuple[float, float]
FIELDS = ("u", "v", "w", "px", "py")
BREAK_TOLERANCE = 1e-6


class Edges(msgspec.Struct, frozen=True):
    """Support of the four edges: x = 0, x = length, y = 0, y = width."""

    x0: Edge = "simple"
    x1: Edge = "simple"
    y0: Edge = "simple"
    y1: Edge = "simple"

    def check_held(self) -> None:
        """Raises PanelError when the supports leave the panel free to fall or swing."""
        edges = (self.x0, self.x1, self.y0, self.y1)
        held = sum(edge != "free" for edge in edges)
        if held < 2 and "clamped" not in edges:
            raise PanelError(
                "the panel is not held: clamp one edge or support at least two"
                if held
                else "all four edges are free: the panel would fall"
            )


def held_functions(
    edge: Edge, field: str, along_x: bool, three_layer: bool, in_plane: InPlane = "may_spread"
) -> tuple[bool, bool]:
    """Whether an edge holds a field's (value, slope across the edge).

    Resting: w only.  Simple: w and the tangential u and φ, what handbooks mean by simply supported.  Clamped:
    everything, and for a sandwich also the slope of w, since the clamp holds each face against its own bending.

    ``in_plane`` : the supported edges of the ends (x0, x1), of the sides or of all also hold what crosses them in the
    plane, so that they cannot spread; those of a loose panel hold nothing in the plane.
    """
    if edge == "free" or (in_plane == "loose" and field in ("u", "v")):
        return False, False
    if field == ("u" if along_x else "v") and in_plane in ("all", "ends" if along_x else "sides"):
        return True, False
    if edge == "clamped":
        return True, field == "w" and three_layer
    tangential = ("v", "py") if along_x else ("u", "px")
    return field == "w" or (edge == "simple" and field in tangential), False


def merge_breaks(length: float, breaks: Iterable[float]) -> np.ndarray:
    """Sorted cell borders from 0 to ``length``; breaks outside are dropped, near doubles merged."""
    nodes = [0.0]
    tolerance = BREAK_TOLERANCE * length
    for x in sorted(breaks):
        if x - nodes[-1] > tolerance and length - x > tolerance:
            nodes.append(float(x))
    return np.array([*nodes, length])


class Grid:
    """Cells, bases and free functions of a plate of ``length`` × ``width`` (m).

    ``x_breaks``, ``y_breaks``: break lines inside.  ``order``: polynomial order of every field in both
    directions.  ``in_plane``: see ``held_functions``.  ``curvature``: 1/R along x and y, m⁻¹.  ``held_inside``: what
    holds it is attached to it, and its edges need not.  Per field f, ``x[f]``
    and ``y[f]`` are its bases, ``free_x[f]`` and ``free_y[f]`` boolean masks.
    """

    def __init__(
        self,
        length: float,
        width: float,
        edges: Edges,
        order: int,
        x_breaks: Iterable[float] = (),
        y_breaks: Iterable[float] = (),
        three_layer: bool = True,
        fields: tuple[str, ...] = FIELDS,
        in_plane: InPlane = "may_spread",
        curvature: Curvature = (0.0, 0.0),
        held_inside: bool = False,
    ) -> None:
        if not held_inside:
            edges.check_held()
        self.length, self.width, self.edges = length, width, edges
        self.order, self.fields, self.three_layer = order, fields, three_layer
        self.in_plane, self.curvature = in_plane, curvature
        self.x_nodes = merge_breaks(length, x_breaks)
        self.y_nodes = merge_breaks(width, y_breaks)
        bases = [
            {smooth: Basis(nodes, order, smooth) for smooth in (False, True)} for nodes in (self.x_nodes, self.y_nodes)
        ]
        self.x = {field: bases[0][field == "w"] for field in FIELDS}
        self.y = {field: bases[1][field == "w"] for field in FIELDS}
        self.free_x = {field: self._mask(self.x[field], field, (edges.x0, edges.x1), True) for field in FIELDS}
        self.free_y = {field: self._mask(self.y[field], field, (edges.y0, edges.y1), False) for field in FIELDS}
        self._free_in_cell: dict[tuple[str, int], np.ndarray] = {}

    def _mask(self, basis: Basis, field: str, ends: tuple[Edge, Edge], along_x: bool) -> np.ndarray:
        mask = np.ones(basis.count, dtype=bool)
        for end, edge in enumerate(ends):
            held = held_functions(edge, field, along_x, self.three_layer, self.in_plane)
            for function, fixed in zip(basis.edge_functions(end), held, strict=False):
                if fixed:
                    mask[function] = False
        return mask

    def free_in_cell(self, field: str, j: int) -> np.ndarray:
        """Which of the y functions of cell j are free, by their number in the cell; kept."""
        if (field, j) not in self._free_in_cell:
            self._free_in_cell[field, j] = np.flatnonzero(self.free_y[field][self.y[field].of_cell[j]])
        return self._free_in_cell[field, j]

    def values_at(self, field: str, coefficients: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """A field of these ``coefficients`` at the crossings of places x (n,) and y (m,) in m: (n, m)."""
        return self.x[field].values_at(x) @ coefficients @ self.y[field].values_at(y).T

    @property
    def unknowns(self) -> int:
        """Number of free functions of the active fields."""
        return sum(int(self.free_x[f].sum()) * int(self.free_y[f].sum()) for f in self.fields)
