"""The cells of a span with the tables of its functions.  They are the same for every layup of a member, so they are
kept."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from omakase.core.kept import keep_last
from omakase.core.members.span_loads import Drop, InPieces, LineLoad, PointLoad, SpanCase, Spanned
from omakase.core.plates.basis import Basis, gauss
from omakase.core.plates.grid import merge_breaks

if TYPE_CHECKING:
    from scipy.sparse import csr_array

CELLS = 6  # at least, so that the section's change along the span is met
SAMPLES = -np.cos(np.pi * np.arange(7) / 6.0)  # in each cell, both ends included
FADES = (3.0, 9.0)  # decay lengths at which cells end beside a clamp or a step of load


class Term(msgspec.Struct, frozen=True):
    """``factor`` times a derivative of a displacement."""

    field: str
    derivative: int
    factor: float = 1.0


class Kinematics(msgspec.Struct, frozen=True):
    """``fields`` : displacements, and whether the slope is continuous too; w, positive up, is among them.

    ``strains`` : each a sum of terms; stiffness (n, n) acts on them in this order.  ``inertia`` : terms whose squares
    times the section's inertia (n,) are twice the kinetic energy.  ``clamped``, ``simple`` : (field, derivative) held
    by a support; ``anchor`` : also held by the first support, where no clamp does.
    ``rotation`` : the turn of the section that a moment works on.
    """

    fields: tuple[tuple[str, bool], ...]
    strains: tuple[tuple[Term, ...], ...]
    inertia: tuple[Term, ...]
    clamped: tuple[tuple[str, int], ...]
    simple: tuple[tuple[str, int], ...]
    anchor: tuple[tuple[str, int], ...]
    rotation: Term


class SpanMesh:
    """Cells between ``nodes`` (m), polynomials of an ``order``, and what kinematics makes of them at fixed points.

    ``x`` : sample places, ``centres`` : of the cell each lies in.  ``gauss_x``, ``weights`` : (cells, points).
    ``between`` : (samples, points) what a value at each sample of a cell gives, straight between them, at those points.
    ``strains``, ``inertia``, ``slope``, and where it has them ``tipping`` (twist, curvatures sideways and upright, and
    slopes of twist, sideways, upright) : at the points of integration, (cells, points, strains, local functions).
    ``samples`` : strains, then displacements as named in ``shown``, at the samples: (cells, samples · both, local).
    """

    def __init__(self, nodes: tuple[float, ...], order: int, kinematics: Kinematics) -> None:
        self.nodes, self.kinematics = np.array(nodes), kinematics
        self.cells = len(nodes) - 1
        self._bases = {smooth: Basis(self.nodes, order, smooth) for smooth in (False, True)}
        self.smooth = dict(kinematics.fields)
        self.start: dict[str, int] = {}
        self.unknowns = 0
        for field, smooth in kinematics.fields:
            self.start[field] = self.unknowns
            self.unknowns += self._bases[smooth].count
        self._layouts: dict[tuple[int, ...], Layout] = {}
        self.dofs = np.concatenate(
            [np.array(self._bases[smooth].of_cell) + self.start[field] for field, smooth in kinematics.fields],
            axis=1,
        )
        self.half = np.diff(self.nodes) / 2.0
        self.middle = (self.nodes[1:] + self.nodes[:-1]) / 2.0
        self.x = (self.middle[:, None] + self.half[:, None] * SAMPLES).ravel()
        self.centres = np.repeat(self.middle, len(SAMPLES))
        points, weights = gauss(order + 1)
        self.gauss_x = self.middle[:, None] + self.half[:, None] * np.array(points)
        self.weights = self.half[:, None] * weights
        self.between = np.array([np.interp(points, SAMPLES, own) for own in np.eye(len(SAMPLES))])
        self.strains = self._operator(kinematics.strains, points)
        self.inertia = self._operator(tuple((term,) for term in kinematics.inertia), points)
        self.slope = self._operator(((Term("w", 1),),), points)
        if {"theta", "psi"} <= set(self.start):
            terms = ("theta", 0), ("psi", 1), ("phi", 1), ("theta", 1), ("v", 1), ("w", 1)
            self.tipping = self._operator(tuple((Term(*term),) for term in terms), points)
        shown = {field: Term(field, 0) for field, _ in kinematics.fields} | {"turn": kinematics.rotation}
        self.shown = tuple(shown)
        sampled = self._operator((*kinematics.strains, *((term,) for term in shown.values())), tuple(SAMPLES))
        self.samples = sampled.reshape(self.cells, -1, sampled.shape[-1])

    def _operator(self, strains: tuple[tuple[Term, ...], ...], points: tuple[float, ...]) -> np.ndarray:
        """Each strain at reference points of every cell per local coefficient: (cells, points, strains, local)."""
        count = sum(self._bases[smooth].order + 1 for _, smooth in self.kinematics.fields)
        table = np.zeros((self.cells, len(points), len(strains), count))
        offset = {}
        start = 0
        for field, smooth in self.kinematics.fields:
            offset[field] = start
            start += self._bases[smooth].order + 1
        for i, terms in enumerate(strains):
            for term in terms:
                basis = self._bases[self.smooth[term.field]]
                columns = slice(offset[term.field], offset[term.field] + basis.order + 1)
                for cell in range(self.cells):
                    table[cell, :, i, columns] += term.factor * basis.values(cell, points, term.derivative)
        return table

    def local(self, B: np.ndarray, C: np.ndarray) -> np.ndarray:
        """Bᵀ C B summed over the points of each cell: (cells, local, local)."""
        flat = B.reshape(self.cells, -1, B.shape[-1])
        return flat.swapaxes(1, 2) @ (C @ B).reshape(flat.shape)

    def row(self, field: str, x: float, derivative: int = 0) -> np.ndarray:
        """A displacement at x per unknown, (unknowns,)."""
        basis = self._bases[self.smooth[field]]
        cell = int(np.clip(np.searchsorted(self.nodes, x, "right") - 1, 0, self.cells - 1))
        point = min(max(float((x - self.middle[cell]) / self.half[cell]), -1.0), 1.0)
        row = np.zeros(self.unknowns)
        row[self.start[field] + basis.of_cell[cell]] = basis.values(cell, (point,), derivative)[0]
        return row

    def function(self, field: str, x: float, derivative: int) -> int:
        """Index of the unknown that is a displacement's value or slope at a node."""
        node = int(np.argmin(np.abs(self.nodes - x)))
        return self.start[field] + (2 if self.smooth[field] else 1) * node + derivative

    def layout(self, held: tuple[int, ...]) -> Layout:
        """Where the unknowns that nothing holds stand in the equations; kept."""
        if held not in self._layouts:
            self._layouts[held] = Layout(self, held)
        return self._layouts[held]

    def basis(self, field: str) -> Basis:
        """The basis of a displacement."""
        return self._bases[self.smooth[field]]

    def node_by_node(self) -> np.ndarray:
        """The unknowns node by node with the bubbles between, so that the equations are a narrow band: (unknowns,)."""
        place = np.empty(self.unknowns)
        for field, smooth in self.kinematics.fields:
            start, basis = self.start[field], self._bases[smooth]
            for cell, functions in enumerate(basis.of_cell):
                place[start + functions[2 * basis.per_node :]] = cell + 0.5
            nodes = np.arange(self.cells + 1)
            for derivative in range(basis.per_node):
                place[start + basis.per_node * nodes + derivative] = nodes
        return np.argsort(place, kind="stable")


class Layout:
    """The free unknowns of a mesh in an order that makes a narrow band, and how local matrices go into it.

    ``free`` : (n,) which unknowns they are, in that order.
    """

    def __init__(self, mesh: SpanMesh, held: tuple[int, ...]) -> None:
        order = mesh.node_by_node()
        self.free = order[~np.isin(order, held)]
        self.size = len(self.free)
        place = np.full(mesh.unknowns, -1)
        place[self.free] = np.arange(self.size)
        rows = np.broadcast_to(place[mesh.dofs][:, :, None], (*mesh.dofs.shape, mesh.dofs.shape[1])).ravel()
        columns = np.broadcast_to(place[mesh.dofs][:, None, :], (*mesh.dofs.shape, mesh.dofs.shape[1])).ravel()
        self._kept = np.nonzero((rows >= 0) & (columns >= 0))[0]
        rows, columns = rows[self._kept], columns[self._kept]
        below = rows >= columns
        self._lower = self._kept[below]
        self._width = int((rows - columns)[below].max(initial=0)) + 1
        self._flat = (rows - columns)[below] * self.size + columns[below]
        entries, self._entry = np.unique(rows * self.size + columns, return_inverse=True)
        self._indices = (entries % self.size).astype(np.int32)
        self._starts = np.searchsorted(entries, self.size * np.arange(self.size + 1)).astype(np.int32)

    def bands(self, local: np.ndarray) -> np.ndarray:
        """The sum of local matrices (cells, local, local) as the lower bands that LAPACK takes: (width, n)."""
        values = np.bincount(self._flat, local.ravel()[self._lower], self._width * self.size)
        return values.reshape(self._width, self.size)

    def sparse(self, local: np.ndarray) -> csr_array:
        """The sum of local matrices as a sparse matrix, (n, n)."""
        from scipy.sparse import csr_array

        values = np.bincount(self._entry, local.ravel()[self._kept], len(self._indices))
        return csr_array((values, self._indices, self._starts), shape=(self.size, self.size))


@keep_last(48)
def mesh(nodes: tuple[float, ...], order: int, kinematics: Kinematics) -> SpanMesh:
    """The mesh; kept, since most edits change the layup and not the span."""
    return SpanMesh(nodes, order, kinematics)


def mesh_nodes(
    span: Spanned, cases: Sequence[SpanCase], breaks: Sequence[float], fading: float, parts: int
) -> np.ndarray:
    """Cell borders: where supports, loads and the section change, beside them where something fades, and between."""
    firm: set[float] = {support.x for support in span.supports} | set(breaks) | {mass.x for mass in span.masses}
    for case in cases:
        for load in case.loads:
            if isinstance(load, LineLoad | InPieces):
                firm |= {load.low, load.high}
            elif isinstance(load, PointLoad | Drop) and load.along > 0.0:
                firm |= {load.x - load.along / 2.0, load.x + load.along / 2.0}
            else:
                firm.add(load.x)
    nodes = merge_breaks(span.length, firm)
    if fading > 0.0:
        fading = float(f"{fading:.1g}")  # so that a small edit to the layup finds the same cells again
        extra = [node + side * far * fading for node in nodes for side in (-1, 1) for far in FADES]
        kept = list(nodes)
        for place in extra:
            if min(abs(place - node) for node in kept) > 0.7 * fading:
                kept.append(place)
        nodes = merge_breaks(span.length, kept)
    longest = span.length / CELLS
    borders = []
    for low, high in pairwise(nodes):
        count = max(1, int(np.ceil((high - low) / longest - 1e-9))) * parts
        borders += [low + (high - low) * k / count for k in range(count)]
    return np.array([*borders, span.length])
