"""Strip matrices of a form: Kronecker products of one-dimensional integrals.

The plate is cut along x into strips, one per column of cells.  Within a strip the bubbles in x are private;
functions at the strip's two border lines are shared with the neighbours.  See ``condensation``.
"""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from omakase.core.plates.basis import Basis, gauss
from omakase.core.plates.energies import Form
from omakase.core.plates.grid import FIELDS, Grid


class Integrals:
    """Cache of ∫ f^(a) g^(b) over cells of one axis, per pair of basis kinds."""

    def __init__(self, bases: dict[str, Basis], order: int) -> None:
        self._bases = {basis.smooth: basis for basis in bases.values()}
        self._points, self._weights = gauss(order + 1)
        self._cells: dict[tuple[bool, bool, int, int, int], np.ndarray] = {}
        self._rows: dict[tuple[bool, bool, int, int, tuple[int, ...]], np.ndarray] = {}

    def cell(self, f_smooth: bool, g_smooth: bool, a: int, b: int, cell: int) -> np.ndarray:
        """(order + 1, order + 1) integrals over one cell, exact (Gauss rule of degree 2 order + 1)."""
        key = (f_smooth, g_smooth, a, b, cell)
        if key not in self._cells:
            basis = self._bases[f_smooth]
            half = (basis.nodes[cell + 1] - basis.nodes[cell]) / 2.0
            left = basis.values(cell, self._points, a)
            right = self._bases[g_smooth].values(cell, self._points, b)
            self._cells[key] = (left * (self._weights * half)[:, None]).T @ right
        return self._cells[key]

    def row(self, f_smooth: bool, g_smooth: bool, a: int, b: int, cells: tuple[int, ...]) -> np.ndarray:
        """(count_f, count_g) integrals over several cells, assembled."""
        key = (f_smooth, g_smooth, a, b, cells)
        if key not in self._rows:
            f, g = self._bases[f_smooth], self._bases[g_smooth]
            total = np.zeros((f.count, g.count))
            for cell in cells:
                total[np.ix_(f.of_cell[cell], g.of_cell[cell])] += self.cell(f_smooth, g_smooth, a, b, cell)
            self._rows[key] = total
        return self._rows[key]


class Strip:
    """Where the unknowns of one column of cells are: global numbers, which are private, and local x functions."""

    def __init__(self, grid: Grid, index: int, numbers: dict[str, np.ndarray]) -> None:
        dofs, private = [], []
        self.x_local: dict[str, np.ndarray] = {}
        self.slices: dict[str, slice] = {}
        start = 0
        for field in grid.fields:
            basis = grid.x[field]
            functions = basis.of_cell[index]
            local = np.flatnonzero(grid.free_x[field][functions])
            self.x_local[field] = local
            block = numbers[field][functions[local]][:, grid.free_y[field]]
            dofs.append(block.ravel())
            is_bubble = local >= 2 * basis.per_node
            private.append(np.repeat(is_bubble, block.shape[1]))
            self.slices[field] = slice(start, start + block.size)
            start += block.size
        self.dofs = np.concatenate(dofs)
        mask = np.concatenate(private)
        self.private = np.flatnonzero(mask)
        self.shared = np.flatnonzero(~mask)
        self.size = start


class Assembler:
    """Builds the strip matrices of forms on a grid.

    ``layout`` : (x cells, y cells) integer array saying which form of the list given to ``matrices`` each cell
    takes; by default all take the first.
    """

    def __init__(self, grid: Grid, layout: np.ndarray | None = None) -> None:
        self.grid = grid
        shape = (len(grid.x_nodes) - 1, len(grid.y_nodes) - 1)
        self.layout = np.zeros(shape, dtype=int) if layout is None else layout
        self._x = Integrals(grid.x, grid.order)
        self._y = Integrals(grid.y, grid.order)
        self.numbers: dict[str, np.ndarray] = {}
        count = 0
        for field in grid.fields:
            free = np.outer(grid.free_x[field], grid.free_y[field])
            numbers = np.full(free.shape, -1)
            numbers[free] = np.arange(count, count + int(free.sum()))
            count += int(free.sum())
            self.numbers[field] = numbers
        self.unknowns = count
        self.strips = [Strip(grid, i, self.numbers) for i in range(shape[0])]

    def matrices(self, forms: list[Form]) -> list[np.ndarray]:
        """One symmetric matrix per strip, in the strip's own order of unknowns."""
        return [self._strip_matrix(i, forms) for i in range(len(self.strips))]

    def _strip_matrix(self, index: int, forms: list[Form]) -> np.ndarray:
        strip = self.strips[index]
        matrix = np.zeros((strip.size, strip.size))
        groups = [
            (forms[k], tuple(int(j) for j in np.flatnonzero(self.layout[index] == k)))
            for k in np.unique(self.layout[index])
        ]
        for f, g in self._pairs(forms):
            block = self._block(strip, index, f, g, groups)
            matrix[strip.slices[f], strip.slices[g]] = block
            if f != g:
                matrix[strip.slices[g], strip.slices[f]] = block.T
        return matrix

    def _pairs(self, forms: list[Form]) -> list[tuple[str, str]]:
        pairs = {(key[0], key[1]) for form in forms for key in form}
        return [(f, g) for f in FIELDS for g in FIELDS if (f, g) in pairs and {f, g} <= set(self.grid.fields)]

    def _block(
        self, strip: Strip, index: int, f: str, g: str, groups: list[tuple[Form, tuple[int, ...]]]
    ) -> np.ndarray:
        """Σ X ⊗ Y for one pair of fields, as one matrix product over the (a, b) derivative pairs."""
        f_smooth, g_smooth = f == "w", g == "w"
        across: dict[tuple[int, int], np.ndarray | float] = defaultdict(float)
        for form, cells in groups:
            for (field_f, field_g, a, c, b, d), coefficient in form.items():
                if (field_f, field_g) == (f, g):
                    across[a, b] = across[a, b] + coefficient * self._y.row(f_smooth, g_smooth, c, d, cells)
        xf, xg = strip.x_local[f], strip.x_local[g]
        y_free = np.ix_(self.grid.free_y[f], self.grid.free_y[g])
        X = np.array([self._x.cell(f_smooth, g_smooth, a, b, index)[np.ix_(xf, xg)] for a, b in across])
        Y = np.array([np.asarray(total)[y_free] for total in across.values()])
        product = X.reshape(len(X), -1).T @ Y.reshape(len(Y), -1)
        ny_f, ny_g = Y.shape[1:]
        return product.reshape(len(xf), len(xg), ny_f, ny_g).transpose(0, 2, 1, 3).reshape(len(xf) * ny_f, -1)

    def gather(self, vector: np.ndarray) -> dict[str, np.ndarray]:
        """Coefficients per field, (x count, y count), of a vector of unknowns; held functions are zero."""
        fields = {}
        for field in FIELDS:
            table = np.zeros((self.grid.x[field].count, self.grid.y[field].count))
            if field in self.numbers:
                free = self.numbers[field] >= 0
                table[free] = vector[self.numbers[field][free]]
            fields[field] = table
        return fields

    def scatter(self, field: str, table: np.ndarray) -> np.ndarray:
        """Load vector from a field's work per unit coefficient, (x count, y count)."""
        vector = np.zeros(self.unknowns)
        free = self.numbers[field] >= 0
        vector[self.numbers[field][free]] = table[free]
        return vector
