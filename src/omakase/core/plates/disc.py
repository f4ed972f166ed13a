"""Round and oval plates: a grid of rings and sectors on the unit disc.

A place is x = a r cos θ, y = b r sin θ from the middle, with the half axes a and b, so that an oval is a disc whose
derivatives are scaled.  The fields are those of a rectangular plate, along x and y, as products of the same functions
of r with functions of θ that close on themselves.  At the middle all θ are one place: there w has one value and one
slope along x and y each, the other fields one value.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from omakase.core.plates.assembly import Assembler, GroupedForm, Strip, numbered
from omakase.core.plates.basis import Basis, gauss
from omakase.core.plates.energies import StrainTerms
from omakase.core.plates.grid import FIELDS, Curvature, Edge, Edges, Grid, InPlane, held_functions
from omakase.core.plates.loads import EdgeLoad, PatchLoad, PlateLoad
from omakase.core.plates.samples import Samples

MIDDLE = 0.02  # of the first ring: samples come no nearer to the middle, where derivatives divide by r
PATCH_PARTS, PATCH_POINTS = 6, 4  # of a patch each way: parts, and Gauss points in each
MORE_POINTS = 3  # Gauss points per cell and side beyond the order: the derivatives are no polynomials

# derivative along r and θ -> its factor as a sum of coefficient · cos^i θ · sin^j θ / r^m
Factor = tuple[tuple[float, int, int, int], ...]
PolarTerms = tuple[tuple[tuple[int, int], Factor], ...]


@lru_cache(maxsize=64)
def polar_terms(dx: int, dy: int) -> PolarTerms:
    """∂x^dx ∂y^dy on the unit disc, from ∂x = cos θ ∂r − sin θ/r ∂θ and ∂y = sin θ ∂r + cos θ/r ∂θ."""
    terms: dict[tuple[int, int, int, int, int], float] = {(0, 0, 0, 0, 0): 1.0}  # i, j, m, p, q
    for along_x in (False,) * dy + (True,) * dx:
        following: dict[tuple[int, int, int, int, int], float] = {}
        for (i, j, m, p, q), value in terms.items():
            parts: list[tuple[tuple[int, int, int, int, int], float]] = []
            more = (1, 0) if along_x else (0, 1)  # cos θ or sin θ before the derivative along r
            parts.append(((i + more[0], j + more[1], m, p + 1, q), value))
            parts.append(((i + more[0], j + more[1], m + 1, p, q), -m * value))
            sign, other = (-1.0, (0, 1)) if along_x else (1.0, (1, 0))
            parts.append(((i + other[0], j + other[1], m + 1, p, q + 1), sign * value))
            parts.append(((i - 1 + other[0], j + 1 + other[1], m + 1, p, q), -sign * i * value))
            parts.append(((i + 1 + other[0], j - 1 + other[1], m + 1, p, q), sign * j * value))
            for key, own in parts:
                if own:
                    following[key] = following.get(key, 0.0) + own
        terms = following
    grouped: dict[tuple[int, int], list[tuple[float, int, int, int]]] = {}
    for (i, j, m, p, q), value in terms.items():
        if value:
            grouped.setdefault((p, q), []).append((value, i, j, m))
    return tuple((key, tuple(parts)) for key, parts in grouped.items())


def _factor(parts: Factor, r: np.ndarray, theta: np.ndarray) -> np.ndarray:
    """At the crossings of r (n,) and θ (...): (n, ...)."""
    cos, sin = np.cos(theta), np.sin(theta)
    total = np.zeros((len(r), *theta.shape))
    for value, i, j, m in parts:
        total += np.multiply.outer(r ** float(-m), value * cos**i * sin**j)
    return total


class RoundBasis(Basis):
    """A basis on a row of cells whose last node is its first one again."""

    def __init__(self, nodes: np.ndarray, order: int, smooth: bool) -> None:
        super().__init__(nodes, order, smooth)
        lost = self.per_node
        self.count -= lost
        start = self.per_node * self.cells
        self.of_cell = [
            np.concatenate(
                [
                    self.per_node * i + np.arange(self.per_node),
                    self.per_node * ((i + 1) % self.cells) + np.arange(self.per_node),
                    start + self.bubbles * i + np.arange(self.bubbles),
                ]
            )
            for i in range(self.cells)
        ]

    def nearest(self, values: np.ndarray, points: np.ndarray, at_nodes: np.ndarray) -> np.ndarray:
        """Coefficients of what has the values and slopes ``at_nodes`` (per node, cells) and comes nearest to ``values``
        (cells, points) at reference ``points``: (count,)."""
        coefficients = np.zeros(self.count)
        for k, own in enumerate(at_nodes):
            coefficients[k : self.per_node * self.cells : self.per_node] = own if k == 0 else own / self._slope_unit
        for cell, functions in enumerate(self.of_cell):
            table = self.values(cell, tuple(points))
            inner = 2 * self.per_node
            left = values[cell] - table[:, :inner] @ coefficients[functions[:inner]]
            if self.bubbles:
                coefficients[functions[inner:]] = np.linalg.lstsq(table[:, inner:], left, rcond=None)[0]
        return coefficients


class DiscGrid(Grid):
    """Rings and sectors of a plate with axes ``length`` and ``width``, m.

    ``x_nodes`` : borders of the rings, 0 to 1; ``y_nodes`` : of the sectors, rad, once round.  ``edge`` : how all of
    its edge is held; what a simple one holds along itself is attached, see ``OnRim``.
    """

    def __init__(
        self,
        length: float,
        width: float,
        edge: Edge,
        order: int,
        rings: Sequence[float],
        sectors: Sequence[float],
        three_layer: bool = True,
        fields: tuple[str, ...] = FIELDS,
        in_plane: InPlane = "may_spread",
        curvature: Curvature = (0.0, 0.0),
    ) -> None:
        self.length, self.width, self.edges = length, width, Edges(edge, edge, edge, edge)
        self.half = length / 2.0, width / 2.0
        self.order, self.fields, self.three_layer = order, fields, three_layer
        self.in_plane, self.curvature = in_plane, curvature
        self.x_nodes, self.y_nodes = np.array(rings), np.array(sectors)
        along = {smooth: Basis(self.x_nodes, order, smooth) for smooth in (False, True)}
        around = {smooth: RoundBasis(self.y_nodes, order, smooth) for smooth in (False, True)}
        self.x = {field: along[field == "w"] for field in FIELDS}
        self.y: dict[str, Basis] = {field: around[field == "w"] for field in FIELDS}
        self.free_x = {field: self._free(field, edge) for field in FIELDS}
        self.free_y = {field: np.ones(self.y[field].count, bool) for field in FIELDS}
        self._free_in_cell: dict[tuple[str, int], np.ndarray] = {}

    def _free(self, field: str, edge: Edge) -> np.ndarray:
        basis = self.x[field]
        free = np.ones(basis.count, bool)
        free[list(basis.edge_functions(0))] = False  # the middle has unknowns of its own
        # what only an edge along x or y would hold, along itself, is left to what is attached to a round one
        held = [
            held_functions(edge, field, along, self.three_layer, "loose" if self.in_plane == "loose" else "may_spread")
            for along in (True, False)
        ]
        values = all(own[0] for own in held) or (field in ("u", "v") and self.in_plane == "all" and edge != "free")
        slopes = all(own[1] for own in held)
        for function, fixed in zip(basis.edge_functions(1), (values, slopes), strict=False):
            free[function] = not fixed
        return free

    def polar(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(r, θ) on the unit disc of places in m from the plate's lower left corner; θ between the sectors' ends."""
        across, up = x / self.half[0] - 1.0, y / self.half[1] - 1.0
        first = self.y_nodes[0]
        return np.hypot(across, up), first + np.mod(np.arctan2(up, across) - first, 2.0 * np.pi)

    def places(self, r: np.ndarray, theta: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(x, y) in m of the crossings of r (n,) and θ (m,): (n, m) each."""
        return (
            self.half[0] * (1.0 + np.outer(r, np.cos(theta))),
            self.half[1] * (1.0 + np.outer(r, np.sin(theta))),
        )

    def values_at(self, field: str, coefficients: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """As of a rectangular grid; no number outside the plate."""
        r, theta = self.polar(*np.meshgrid(x, y, indexing="ij"))
        values = np.full(r.shape, np.nan)
        for i, j, there in self.by_cell(r, theta):
            along, around = self.reference(i, j, r[there], theta[there])
            own = coefficients[np.ix_(self.x[field].of_cell[i], self.y[field].of_cell[j])]
            at_x, at_y = self.x[field].values(i, tuple(along)), self.y[field].values(j, tuple(around))
            values[there] = np.einsum("pi,ij,pj->p", at_x, own, at_y)
        return values

    def by_cell(self, r: np.ndarray, theta: np.ndarray) -> Iterable[tuple[int, int, np.ndarray]]:
        """(ring, sector, which of the places lie there) for every cell that has some."""
        rings = np.searchsorted(self.x_nodes, r, side="right") - 1
        rings[(r >= 1.0) & (r <= 1.0 + 1e-9)] = len(self.x_nodes) - 2
        sectors = np.clip(np.searchsorted(self.y_nodes, theta, side="right") - 1, 0, len(self.y_nodes) - 2)
        cells = rings * len(self.y_nodes) + sectors
        for cell in np.unique(cells):
            i, j = divmod(int(cell), len(self.y_nodes))
            if i < len(self.x_nodes) - 1:
                yield i, j, cells == cell

    def reference(self, i: int, j: int, r: np.ndarray, theta: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Places in [−1, 1] of a cell."""
        low, high = self.x_nodes[i], self.x_nodes[i + 1]
        near, far = self.y_nodes[j], self.y_nodes[j + 1]
        return np.clip((2.0 * r - low - high) / (high - low), -1.0, 1.0), (2.0 * theta - near - far) / (far - near)


class DiscSamples(Samples):
    """Samples of a plate of rings and sectors: ``x`` is r, ``y`` is θ, derivatives are along x and y."""

    def __init__(self, grid: DiscGrid, points: np.ndarray, narrow: np.ndarray | None = None) -> None:
        super().__init__(grid, points, narrow=narrow)
        self._disc = grid
        self.x = np.maximum(self.x, MIDDLE * grid.x_nodes[1])
        cell, places = self._in_x[0]
        self._in_x[0] = cell, tuple(max(place, 2.0 * MIDDLE - 1.0) for place in places)
        self._factors: dict[tuple[int, int], list[tuple[tuple[int, int], np.ndarray]]] = {}

    def field(self, name: str, coefficients: np.ndarray, dx: int, dy: int) -> np.ndarray:
        if (dx, dy) not in self._factors:
            scale = self._disc.half[0] ** -dx * self._disc.half[1] ** -dy
            self._factors[dx, dy] = [(by, scale * _factor(parts, self.x, self.y)) for by, parts in polar_terms(dx, dy)]
        total = np.zeros((len(self.x), len(self.y)))
        for by, factor in self._factors[dx, dy]:
            total += factor * super().field(name, coefficients, *by)
        return total

    def strains(self, terms: StrainTerms, coefficients: Mapping[str, np.ndarray], dx: int, dy: int) -> np.ndarray:
        result = np.zeros((len(self.x), len(self.y), len(terms)))
        for k, own in enumerate(terms):
            for name, factor, own_dx, own_dy in own:
                if name in coefficients:
                    result[..., k] += factor * self.field(name, coefficients[name], own_dx + dx, own_dy + dy)
        return result


class DiscStrip(Strip):
    """Where the unknowns of one ring are: those of its border circles first, then its own."""

    def __init__(self, assembler: DiscAssembler, index: int) -> None:
        grid, numbers = assembler.grid, assembler.numbers
        shared, private = [], []
        for field in grid.fields:
            basis = grid.x[field]
            functions = basis.of_cell[index]
            border = functions[: 2 * basis.per_node]
            shared.append(numbers[field][border[grid.free_x[field][border]]].ravel())
            private.append(numbers[field][functions[2 * basis.per_node :]].ravel())
            if index == 0:
                private.append(np.array([number for _, _, number in assembler.middle[field]]))
        self.dofs = np.concatenate([*shared, *private]).astype(int)
        self.size = len(self.dofs)
        self.shared = slice(0, sum(len(own) for own in shared))
        self.private = slice(self.shared.stop, self.size)
        self._disc, self._index = assembler, index
        self._where = np.full(assembler.unknowns, -1)
        self._where[self.dofs] = np.arange(self.size)
        self._grid = grid
        self._cells: dict[tuple[str, int], np.ndarray] = {}

    def _cell(self, j: int) -> tuple[np.ndarray, np.ndarray]:
        own, around = [], []
        for field in self._disc.grid.fields:
            basis_x, basis_y = self._disc.grid.x[field], self._disc.grid.y[field]
            places = self.in_cell(field, j).ravel()
            local = self._disc.local_x(field, self._index)
            inside = np.outer(local >= 2 * basis_x.per_node, np.arange(basis_y.order + 1) >= 2 * basis_y.per_node)
            is_own = np.concatenate([inside.ravel(), np.zeros(len(places) - inside.size, bool)])
            own.append(places[is_own])
            around.append(places[~is_own])
        return np.concatenate(own), np.concatenate(around)

    def in_cell(self, field: str, j: int) -> np.ndarray:
        """Where the functions of cell j stand in the strip, those of the middle last: (functions,)."""
        if (field, j) not in self._cells:
            self._cells[field, j] = self._where[self._disc.numbers_in_cell(field, self._index, j)]
        return self._cells[field, j]


class DiscAssembler(Assembler):
    """Strip matrices of forms on a ``DiscGrid``, integrated at Gauss points."""

    grid: DiscGrid

    def __init__(self, grid: DiscGrid) -> None:
        self.grid = grid
        self.layout = np.zeros((len(grid.x_nodes) - 1, len(grid.y_nodes) - 1), int)
        self.numbers, count = numbered(grid)
        self.middle: dict[str, list[tuple[int, np.ndarray, int]]] = {}  # (x function, its θ coefficients, unknown)
        for field in grid.fields:
            self.middle[field] = []
            for function, around in enumerate(self._at_middle(field)):
                self.middle[field].append((int(function > 0), around, count))
                count += 1
        self.unknowns = count
        self.strips = [DiscStrip(self, i) for i in range(self.layout.shape[0])]
        self._tables: dict[tuple[Any, tuple[int, int], int, bool], np.ndarray] = {}

    def _at_middle(self, field: str) -> list[np.ndarray]:
        """What runs round the middle there: 1, and of the slope of w cos θ and sin θ."""
        basis = self.grid.y[field]
        assert isinstance(basis, RoundBasis)
        points = np.array(gauss(basis.order + 4)[0])
        nodes = self.grid.y_nodes
        theta = (nodes[1:, None] + nodes[:-1, None]) / 2.0 + np.diff(nodes)[:, None] / 2.0 * points
        ends = nodes[:-1]
        functions = [(np.ones_like(theta), np.ones_like(ends), np.zeros_like(ends))]
        if field == "w":
            functions += [
                (np.cos(theta), np.cos(ends), -np.sin(ends)),
                (np.sin(theta), np.sin(ends), np.cos(ends)),
            ]
        return [
            basis.nearest(values, points, np.stack([at_nodes, slopes])[: basis.per_node])
            for values, at_nodes, slopes in functions
        ]

    def local_x(self, field: str, i: int) -> np.ndarray:
        """Which of the x functions of ring i are free, by their number in the cell."""
        return np.flatnonzero(self.grid.free_x[field][self.grid.x[field].of_cell[i]])

    def numbers_in_cell(self, field: str, i: int, j: int) -> np.ndarray:
        """The unknowns of a cell, those of the middle last: (functions,)."""
        functions = self.grid.x[field].of_cell[i][self.local_x(field, i)]
        numbers = self.numbers[field][np.ix_(functions, self.grid.y[field].of_cell[j])].ravel()
        if i:
            return numbers
        return np.concatenate([numbers, [number for _, _, number in self.middle[field]]]).astype(int)

    def places_in_cell(self, field: str, i: int, j: int) -> np.ndarray:
        return self.strips[i].in_cell(field, j)

    def cell_table(
        self, field: str, derivative: tuple[int, int], i: int, j: int, x: tuple[float, ...], y: tuple[float, ...]
    ) -> np.ndarray:
        return self._table(field, derivative, i, [j], x, y)[0]

    def _table(
        self, field: str, derivative: tuple[int, int], i: int, sectors: Sequence[int], x: tuple[float, ...],
        y: tuple[float, ...],
    ) -> np.ndarray:  # fmt: skip
        """A derivative of the functions of some sectors of ring i: (sectors, places, functions)."""
        grid = self.grid
        along, around, nodes = grid.x[field], grid.y[field], grid.y_nodes
        local, extra = self.local_x(field, i), [] if i else self.middle[field]
        low, high = grid.x_nodes[i], grid.x_nodes[i + 1]
        r = (low + high) / 2.0 + (high - low) / 2.0 * np.array(x)
        theta = np.array(
            [(nodes[j] + nodes[j + 1]) / 2.0 + (nodes[j + 1] - nodes[j]) / 2.0 * np.array(y) for j in sectors]
        )
        scale = grid.half[0] ** -derivative[0] * grid.half[1] ** -derivative[1]
        count = len(local) * (around.order + 1)
        total = np.zeros((len(sectors), len(x), len(y), count + len(extra)))
        for (p, q), parts in polar_terms(*derivative):
            factor = scale * _factor(parts, r, theta).swapaxes(0, 1)  # (sectors, r, θ)
            in_x = along.values(i, x, p)
            in_y = np.array([around.values(j, y, q) for j in sectors])
            product = np.einsum("ri,stj->srtij", in_x[:, local], in_y).reshape(*factor.shape, count)
            total[..., :count] += factor[..., None] * product
            for k, (function, coefficients, _) in enumerate(extra):
                own = np.array(
                    [table @ coefficients[around.of_cell[j]] for table, j in zip(in_y, sectors, strict=True)]
                )
                total[..., count + k] += factor * np.einsum("r,st->srt", in_x[:, function], own)
        return total.reshape(len(sectors), len(x) * len(y), -1)

    def _gauss_table(self, field: str, derivative: tuple[int, int], i: int) -> np.ndarray:
        """Of all sectors of a ring at its Gauss points."""
        held = (tuple(self.local_x(field, i)), len(self.middle[field]) if i == 0 else 0)
        key = held, derivative, i, field == "w"
        if key not in self._tables:
            points, _ = gauss(self.grid.order + MORE_POINTS)
            sectors = range(self.layout.shape[1])
            self._tables[key] = self._table(field, derivative, i, sectors, points, points)
        return self._tables[key]

    def _weights(self, i: int) -> np.ndarray:
        """Areas of a ring's Gauss points, (sectors, points)."""
        points, weights = gauss(self.grid.order + MORE_POINTS)
        areas = self.areas(np.array(points), weights)
        count = len(points)
        own = areas[i * count : (i + 1) * count].reshape(count, -1, count)
        return own.swapaxes(0, 1).reshape(-1, count * count)

    def areas(self, points: np.ndarray, weights: np.ndarray) -> np.ndarray:
        nodes = self.grid.x_nodes
        r = (nodes[1:, None] + nodes[:-1, None]) / 2.0 + np.diff(nodes)[:, None] / 2.0 * points
        return self.grid.half[0] * self.grid.half[1] * r.ravel()[:, None] * super().areas(points, weights)

    def samples(self, points: np.ndarray) -> Samples:
        return DiscSamples(self.grid, points)

    def matrices(self, forms: list[GroupedForm]) -> list[np.ndarray]:
        """One symmetric matrix per ring, of the first form."""
        form, matrices = forms[0], []
        for i, strip in enumerate(self.strips):
            matrix = np.zeros((strip.size, strip.size), order="F")
            weights = self._weights(i)[:, :, None]
            for (f, g), coefficients in form.items():
                if f not in self.grid.fields or g not in self.grid.fields:
                    continue
                sides: dict[tuple[int, int], np.ndarray] = {}
                for a, (left_x, right_x) in enumerate(coefficients.x_pairs):
                    for c, (left_y, right_y) in enumerate(coefficients.y_pairs):
                        value = coefficients.table[a, c]
                        if value:
                            own = value * self._gauss_table(g, (right_x, right_y), i)
                            left = left_x, left_y
                            sides[left] = sides[left] + own if left in sides else own
                block = sum(
                    self._gauss_table(f, left, i).swapaxes(1, 2) @ (weights * own) for left, own in sides.items()
                )
                for j, own in enumerate(np.asarray(block)):
                    at_f, at_g = strip.in_cell(f, j), strip.in_cell(g, j)
                    matrix[np.ix_(at_f, at_g)] += own
                    if f != g:
                        matrix[np.ix_(at_g, at_f)] += own.T
            matrices.append(matrix)
        return matrices

    def gather(self, vector: np.ndarray) -> dict[str, np.ndarray]:
        fields = super().gather(vector)
        for field, own in self.middle.items():
            for function, around, number in own:
                fields[field][function] += vector[number] * around
        return fields

    def load_vector(self, load: PlateLoad) -> np.ndarray:
        if isinstance(load, EdgeLoad):
            return self._edge_vector(load)
        if isinstance(load, PatchLoad):
            return self._patch_vector(load)
        return self._area_vector([("w", (0, 0), -load.pressure)])

    def _area_vector(self, terms: Sequence[tuple[str, tuple[int, int], float]]) -> np.ndarray:
        """∫ of a sum of (field, derivative, factor) over the plate, per unit of each unknown."""
        vector = np.zeros(self.unknowns)
        for i in range(len(self.strips)):
            weights = self._weights(i)
            for field, derivative, factor in terms:
                if field in self.grid.fields and factor:
                    work = factor * np.einsum("sp,spf->sf", weights, self._gauss_table(field, derivative, i))
                    for j, own in enumerate(work):
                        vector[self.numbers_in_cell(field, i, j)] += own
        return vector

    def _edge_vector(self, load: EdgeLoad) -> np.ndarray:
        """Even forces along the edge do the work of the same even forces in the plate on its strains."""
        terms = [("u", (1, 0), load.Nx[0]), ("v", (0, 1), load.Ny[0])]
        return self._area_vector([*terms, ("u", (0, 1), load.Nxy), ("v", (1, 0), load.Nxy)])

    def _patch_vector(self, load: PatchLoad) -> np.ndarray:
        points, weights = gauss(PATCH_POINTS)
        steps = (np.arange(PATCH_PARTS)[:, None] + (np.array(points) + 1.0) / 2.0).ravel() / PATCH_PARTS
        shares = np.tile(weights / 2.0, PATCH_PARTS) / PATCH_PARTS
        low_x, high_x, low_y, high_y = load.bounds
        x, y = np.meshgrid(low_x + (high_x - low_x) * steps, low_y + (high_y - low_y) * steps, indexing="ij")
        return self.point_vector("w", x, y, -load.force * np.outer(shares, shares))

    def point_vector(self, field: str, x: np.ndarray, y: np.ndarray, weights: np.ndarray) -> np.ndarray:
        """Σ of ``weights`` times a field at places x, y in m, all of one shape, per unit of each unknown."""
        vector, grid = np.zeros(self.unknowns), self.grid
        r, theta = grid.polar(x, y)
        for i, j, there in grid.by_cell(r, theta):
            along, around = grid.reference(i, j, r[there], theta[there])
            at_x, at_y = grid.x[field].values(i, tuple(along)), grid.y[field].values(j, tuple(around))
            own = np.einsum("p,pi,pj->ij", weights[there], at_x[:, self.local_x(field, i)], at_y).ravel()
            if i == 0:
                of_cell = grid.y[field].of_cell[j]
                middle = [
                    weights[there] @ (at_x[:, function] * (at_y @ coefficients[of_cell]))
                    for function, coefficients, _ in self.middle[field]
                ]
                own = np.concatenate([own, middle])
            vector[self.numbers_in_cell(field, i, j)] += own
        return vector
