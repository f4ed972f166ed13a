"""What is given of a panel: its size, shape, supports and load cases, and how finely it is solved."""

from __future__ import annotations

import math
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import PanelError, both_units
from omakase.core.plates.grid import Curvature, Edges, InPlane
from omakase.core.plates.loads import EdgeLoad, PatchLoad

MIN_SIDE, MAX_SIDE = 0.01, 50.0
MAX_ASPECT = 30.0
MAX_PATCHES_PER_CASE = 6
MOST_BOLTS = 80
MOST_OVAL = 4.0
ROUND_BEYOND = "the patch reaches beyond the round panel"
Outline = Literal["rectangle", "round"]


class Accuracy(msgspec.Struct, frozen=True):
    """How finely a panel is solved.

    Polynomial orders of the grid of one cell, of one cut along its edges or into equal cells, and of one cut around
    patches or into several layers; sample points per cell for each unit of order; relative tolerance of the
    frequencies' Lanczos iteration; how many modes; places per cell and direction at which the deflection is looked at;
    parts that every cell is cut into each way; whether lines follow the layers that fade beside edges and patches;
    whether panels that move far are solved so.
    """

    smooth_order: int
    edge_order: int
    patch_order: int
    sampling: float = 2.0
    eigen_tolerance: float = 1e-6
    modes: int = 6
    deflections: int = 25
    cells: int = 1
    layers: bool = True
    large: bool = False


LINEAR = Accuracy(10, 8, 6)
FULL = msgspec.structs.replace(LINEAR, large=True)
QUICK = Accuracy(7, 6, 4, 2.0, 1e-5, 2, 15, layers=False)
REFINED = Accuracy(10, 8, 6, cells=2)  # cells halved: what the full order is checked with


class Arc(msgspec.Struct, frozen=True):
    """A circular arc over a ``chord``, m, its middle ``rise`` above the ends; a rise of 0 is a straight line."""

    chord: float
    rise: float = 0.0

    @property
    def curvature(self) -> float:
        """1/R with the sign of the rise, m⁻¹."""
        return 8.0 * self.rise / (self.chord**2 + 4.0 * self.rise**2)

    @property
    def length(self) -> float:
        """m, along the arc."""
        k = self.curvature
        return self.chord if k == 0.0 else 2.0 * self._half_angle / abs(k)

    @property
    def _half_angle(self) -> float:
        return 2.0 * math.atan(2.0 * abs(self.rise) / self.chord)

    def along(self, place: float) -> float:
        """Place along the arc, m, of one on the chord."""
        k = abs(self.curvature)
        if k == 0.0:
            return place
        return (self._half_angle + math.asin(max(-1.0, min(1.0, (place - self.chord / 2.0) * k)))) / k

    def on_chord(self, places: np.ndarray) -> np.ndarray:
        """Places on the chord, m, of those along the arc."""
        k = abs(self.curvature)
        if k == 0.0:
            return places
        on_chord = self.chord / 2.0 + np.sin(places * k - self._half_angle) / k
        return np.clip(on_chord, 0.0, self.chord)  # no further by rounding


class Bolt(msgspec.Struct, frozen=True):
    """A fastener at (x, y) m of the plan: its washer, ``washer`` m across, keeps its place and lets the panel turn.

    ``in_plane`` : it also holds the panel's middle plane where it is.
    """

    x: float
    y: float
    washer: float = 0.02
    in_plane: bool = False


class Held(msgspec.Struct, frozen=True):
    """What holds a panel beside its edges: bolts, lines of support, elastic edges and a bed that it lies on.

    ``across``, ``along`` : lines of support over the whole panel, at these x and at these y, m.  ``springs`` : of the
    edges x0, x1, y0, y1, N/m per metre of edge; 0 for none.  ``bed`` : N/m per m² of panel; pushes and pulls.
    """

    bolts: tuple[Bolt, ...] = ()
    across: tuple[float, ...] = ()
    along: tuple[float, ...] = ()
    springs: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    bed: float = 0.0

    @property
    def anything(self) -> bool:
        return bool(self.bolts or self.across or self.along or any(self.springs) or self.bed)

    def check(self, length: float, width: float) -> None:
        """Raises PanelError where something of it is off the panel or has no sensible size."""
        if len(self.bolts) > MOST_BOLTS:
            raise PanelError(f"more than {MOST_BOLTS} bolts")
        for bolt in self.bolts:
            if not (0.0 <= bolt.x <= length and 0.0 <= bolt.y <= width):
                where = both_units(bolt.x, bolt.y, between=", ")
                raise PanelError(f"a bolt at x, y of {where} is off the panel of {both_units(length, width)}")
            if not 0.0 < bolt.washer <= min(length, width) / 4.0:
                raise PanelError("a washer is wider than nothing and at most a quarter of the panel's shorter side")
        for place, size in [*((x, length) for x in self.across), *((y, width) for y in self.along)]:
            if not 0.0 < place < size:
                raise PanelError(f"a line of support {both_units(place)} from the edge is not inside the panel")
        if not all(math.isfinite(value) and value >= 0.0 for value in (*self.springs, self.bed)):
            raise PanelError("the stiffness of an elastic edge or bed must be more than zero")

    def check_holds(self, edges: Edges, length: float, width: float) -> None:
        """Raises PanelError where all of it, with the edges, leaves the panel free to fall or to swing."""
        if "clamped" in (edges.x0, edges.x1, edges.y0, edges.y1) or self.bed:
            return
        points = [(bolt.x, bolt.y) for bolt in self.bolts]
        ends = (0.0, None), (length, None), (None, 0.0), (None, width)
        held = (edges.x0, edges.x1, edges.y0, edges.y1)
        lines = [end for end, edge, k in zip(ends, held, self.springs, strict=True) if edge != "free" or k]
        lines += [(x, None) for x in self.across] + [(None, y) for y in self.along]
        for x, y in lines:
            points += [(0.0 if x is None else x, 0.0 if y is None else y)]
            points += [(length if x is None else x, width if y is None else y)]
        plane = np.array([(1.0, x / length, y / width) for x, y in points] or [(0.0, 0.0, 0.0)])
        if np.linalg.matrix_rank(plane, 1e-6) < 3:
            raise PanelError(
                "the panel is not held: bolts and lines of support must keep it from falling and from swinging"
            )


class Surface(msgspec.Struct, frozen=True):
    """A panel laid out flat: what the plate solver works on.  ``held_inside`` : supports inside it help to hold it, so
    its edges alone need not.

    ``round`` : an oval with these axes, whose middle is ``dish`` m above its rim; ``bolts`` are its own.
    """

    x: Arc
    y: Arc
    edges: Edges
    in_plane: InPlane = "may_spread"
    held_inside: bool = False
    round: bool = False
    dish: float = 0.0
    bolts: tuple[Bolt, ...] = ()

    @property
    def length(self) -> float:
        return self.x.length

    @property
    def width(self) -> float:
        return self.y.length

    @property
    def curvature(self) -> Curvature:
        """1/R along x and y, the mean over the surface: an arc leans where the other one does, by cos of its slope,
        whose mean along an arc is chord over length."""
        if self.round:
            return 8.0 * self.dish / self.length**2, 8.0 * self.dish / self.width**2
        x, y = self.x, self.y
        return x.curvature * y.chord / y.length, y.curvature * x.chord / x.length

    @property
    def curved(self) -> bool:
        return self.curvature != (0.0, 0.0)

    def patch(self, patch: PatchLoad) -> PatchLoad:
        """A patch where it stands on the surface; it keeps its size and stays inside."""
        if not self.curved or self.round:
            return patch
        sizes = (self.x, patch.x, patch.along_x), (self.y, patch.y, patch.along_y)
        x, y = (min(max(arc.along(place), size / 2.0), arc.length - size / 2.0) for arc, place, size in sizes)
        return msgspec.structs.replace(patch, x=x, y=y)


class Panel(msgspec.Struct, frozen=True):
    """Size in m (length along x, width along y), supports and shape.  Raises PanelError outside the stated ranges.

    ``in_plane`` : which supported edges cannot spread.  ``held`` : what else holds it.  ``rise`` : by how
    much the middle of an arc along x, and of one along y, lies above its ends, m, positive toward face A.  Sizes are
    those of the plan; ``surface`` is the panel laid out flat, with the lengths of its arcs, and knows its curvature.

    ``outline`` : "round" for an oval with these axes, whose edge is held in one way all round; its middle lies
    ``rise``, given twice, above its rim.
    """

    length: float
    width: float
    edges: Edges = Edges()
    in_plane: InPlane = "may_spread"
    rise: tuple[float, float] = (0.0, 0.0)
    held: Held = Held()
    outline: Outline = "rectangle"

    def __post_init__(self) -> None:
        for name, side in (("length", self.length), ("width", self.width)):
            if not MIN_SIDE <= side <= MAX_SIDE:
                raise PanelError(f"a {name} of {both_units(side)} is outside 10 mm to 50 m (0.4 in to 164 ft)")
        if max(self.length, self.width) > MAX_ASPECT * min(self.length, self.width):
            raise PanelError(f"a panel more than {MAX_ASPECT:g} times as long as wide is a beam, not a plate")
        if self.outline == "round":
            self._check_round()
        if self.held.anything:
            self.held.check(self.length, self.width)
            self.held.check_holds(self.edges, self.length, self.width)
        else:
            self.edges.check_held()
        for rise, size, name in zip(self.rise, (self.length, self.width), ("length", "width"), strict=True):
            if not abs(rise) <= size / 2.0:
                raise PanelError(
                    f"a rise of {both_units(rise)} over a {name} of {both_units(size)} is beyond half a circle"
                )

    def _check_round(self) -> None:
        """Raises PanelError for what a round panel cannot be."""
        edges = {self.edges.x0, self.edges.x1, self.edges.y0, self.edges.y1}
        if len(edges) > 1 or len(set(self.held.springs)) > 1:
            raise PanelError("the edge of a round panel is held in one way all round")
        if self.held.across or self.held.along:
            raise PanelError("a round panel has no lines of support: hold it along its edge, by bolts or on a bed")
        if self.rise[0] != self.rise[1]:
            raise PanelError("a round panel has one rise, that of its middle above its rim")
        if max(self.length, self.width) > MOST_OVAL * min(self.length, self.width):
            raise PanelError(f"an oval panel is at most {MOST_OVAL:g} times as long as wide")
        for bolt in self.held.bolts:
            if math.hypot(2.0 * bolt.x / self.length - 1.0, 2.0 * bolt.y / self.width - 1.0) > 1.0:
                where = both_units(bolt.x, bolt.y, between=", ")
                raise PanelError(f"a bolt at x, y of {where} is off the round panel")

    @property
    def plan_area(self) -> float:
        """m² seen from above: what a pressure acts on."""
        return self.length * self.width * (math.pi / 4.0 if self.outline == "round" else 1.0)

    @property
    def area(self) -> float:
        """m² of its middle surface, of a curved panel along its arcs."""
        if self.outline == "rectangle":
            return self.surface.length * self.surface.width
        a, b = self.length / 2.0, self.width / 2.0
        # of a spherical cap exactly, of an oval one to the second order of the rise
        return math.pi * a * b * (1.0 + self.rise[0] ** 2 / 2.0 * (a**-2 + b**-2))

    @property
    def curved(self) -> bool:
        return self.rise != (0.0, 0.0)

    @property
    def surface(self) -> Surface:
        """The panel laid out flat."""
        if self.outline == "round":
            return Surface(
                Arc(self.length), Arc(self.width), self.edges, self.in_plane, self.held.anything, True, self.rise[0],
                self.held.bolts,
            )  # fmt: skip
        arcs = [Arc(size, rise) for size, rise in zip((self.length, self.width), self.rise, strict=True)]
        return Surface(arcs[0], arcs[1], self.edges, self.in_plane, self.held.anything)


class LoadCase(msgspec.Struct, frozen=True):
    """A named sum of limit loads.  ``gravity``: own weight in multiples of g, positive pressing down on face A.

    Load cases are distinguished by ``id``, or by name where none is given.
    """

    name: str
    pressures: tuple[float, ...] = ()
    patches: tuple[PatchLoad, ...] = ()
    gravity: float = 0.0
    id: str = ""
    edge: EdgeLoad | None = None

    @property
    def key(self) -> str:
        """What tells it from others of the same brief."""
        return self.id or self.name

    def check_on(self, panel: Panel) -> None:
        """Raises PanelError when a load is not finite, does not fit on the panel, or there are too many patches."""
        if not all(math.isfinite(p) for p in (*self.pressures, self.gravity)):
            raise PanelError(f"load case '{self.name}': a load is not a finite number")
        if len(self.patches) > MAX_PATCHES_PER_CASE:
            raise PanelError(f"load case '{self.name}' has more than {MAX_PATCHES_PER_CASE} patches")
        if self.edge is not None:
            self._check_edge(panel, self.edge)
        for patch in self.patches:
            try:
                patch.check_inside(panel.length, panel.width)
                if panel.outline == "round" and not _inside_oval(patch, panel.length, panel.width):
                    raise PanelError(ROUND_BEYOND)
            except PanelError as error:
                raise PanelError(f"load case '{self.name}': {error}") from None

    def _check_edge(self, panel: Panel, edge: EdgeLoad) -> None:
        """Raises PanelError where forces along the edges are not finite, or pull at an edge that takes none."""
        try:
            edge.check()
            if panel.outline == "round" and (edge.Nx[0] != edge.Nx[1] or edge.Ny[0] != edge.Ny[1]):
                raise PanelError("forces along a round edge are the same all along it")
        except PanelError as error:
            raise PanelError(f"load case '{self.name}': {error}") from None


def _inside_oval(patch: PatchLoad, length: float, width: float) -> bool:
    """Whether all corners of a patch lie on an oval with these axes."""
    low_x, high_x, low_y, high_y = patch.bounds
    corners = [(x, y) for x in (low_x, high_x) for y in (low_y, high_y)]
    return all(math.hypot(2.0 * x / length - 1.0, 2.0 * y / width - 1.0) <= 1.0 + 1e-9 for x, y in corners)
