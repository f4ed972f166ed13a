"""Strip matrices of a form: Kronecker products of one-dimensional integrals.

The plate is cut along x into strips, one per column of cells.  Within a strip the bubbles in x are private;
functions at the strip's two border lines are shared with the neighbours.  See ``condensation``.
"""

from __future__ import annotations

from functools import cached_property
from itertools import pairwise

import numpy as np

from omakase.core.plates.basis import Basis, gauss
from omakase.core.plates.energies import Form
from omakase.core.plates.grid import FIELDS, Grid
from omakase.core.plates.loads import PlateLoad, load_tables
from omakase.core.plates.samples import Samples

Pairs = tuple[tuple[int, int], ...]


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
    """Where the unknowns of one column of cells are: shared ones first, then private ones, each field by field.

    ``dofs`` : global numbers in the strip's own order; ``shared``, ``private`` : slices of it; ``x_local[f]`` : the
    field's free x functions, shared ones first; ``blocks[f]`` : per half its rows in the field's block and in the
    strip.
    """

    def __init__(self, grid: Grid, index: int, numbers: dict[str, np.ndarray]) -> None:
        self.x_local: dict[str, np.ndarray] = {}
        self.blocks: dict[str, tuple[tuple[slice, slice], tuple[slice, slice]]] = {}
        tables = {}
        for field in grid.fields:
            basis = grid.x[field]
            functions = basis.of_cell[index]
            local = np.flatnonzero(grid.free_x[field][functions])
            self.x_local[field] = local
            block = numbers[field][functions[local]][:, grid.free_y[field]]
            border = int(np.sum(local < 2 * basis.per_node))
            tables[field] = block[:border].ravel(), block[border:].ravel()
        dofs, start = [], 0
        placed: dict[str, list[tuple[slice, slice]]] = {field: [] for field in grid.fields}
        for half in (0, 1):
            for field in grid.fields:
                first, size = (0 if half == 0 else len(tables[field][0])), len(tables[field][half])
                placed[field].append((slice(first, first + size), slice(start, start + size)))
                dofs.append(tables[field][half])
                start += size
            if half == 0:
                self.shared = slice(0, start)
        self.private = slice(self.shared.stop, start)
        self.blocks = {field: (halves[0], halves[1]) for field, halves in placed.items()}
        self.dofs = np.concatenate(dofs)
        self.size = start
        self._grid = grid
        self._in_cell: dict[tuple[str, int], np.ndarray] = {}

    @cached_property
    def cells(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """For each cell where its own functions are, the bubbles in both directions, and where those are that it shares
        with others."""
        return [self._cell(j) for j in range(len(self._grid.y_nodes) - 1)]

    def _cell(self, j: int) -> tuple[np.ndarray, np.ndarray]:
        grid, own, around = self._grid, [], []
        for field in grid.fields:
            bubbles = grid.free_in_cell(field, j) >= 2 * grid.y[field].per_node
            inside = self.x_local[field] >= 2 * grid.x[field].per_node
            places, is_own = self.in_cell(field, j), np.outer(inside, bubbles)
            own.append(places[is_own])
            around.append(places[~is_own])
        return np.concatenate(own), np.concatenate(around)

    def in_cell(self, field: str, j: int) -> np.ndarray:
        """Where the free functions of cell j stand in the strip, (free x functions, free y functions of the cell)."""
        if (field, j) not in self._in_cell:
            of_cell = self._grid.y[field].of_cell[j][self._grid.free_in_cell(field, j)]
            columns = np.searchsorted(np.flatnonzero(self._grid.free_y[field]), of_cell)
            self._in_cell[field, j] = self.places(field)[:, columns]
        return self._in_cell[field, j]

    def places(self, field: str) -> np.ndarray:
        """Where a field's functions stand in the strip, (free x functions, free y functions)."""
        placed = np.concatenate([np.arange(rows.start, rows.stop) for _, rows in self.blocks[field]])
        return placed.reshape(len(self.x_local[field]), -1)


class Coefficients:
    """The coefficients of a form for one pair of fields as a table: (a, b) x derivatives by (c, d) y derivatives."""

    def __init__(self, values: dict[tuple[int, int, int, int], float]) -> None:
        self.x_pairs = tuple(sorted({(a, b) for a, _, b, _ in values}))
        self.y_pairs = tuple(sorted({(c, d) for _, c, _, d in values}))
        self.table = np.zeros((len(self.x_pairs), len(self.y_pairs)))
        for (a, c, b, d), value in values.items():
            self.table[self.x_pairs.index((a, b)), self.y_pairs.index((c, d))] += value


GroupedForm = dict[tuple[str, str], Coefficients]


def grouped(form: Form) -> GroupedForm:
    """A form as one table per pair of fields, as the assembler takes it; serves every grid of a panel."""
    pairs: dict[tuple[str, str], dict[tuple[int, int, int, int], float]] = {}
    for key, value in form.items():
        pairs.setdefault(key[:2], {})[key[2:]] = value
    return {pair: Coefficients(values) for pair, values in pairs.items()}


NOTHING = Coefficients({})


def numbered(grid: Grid) -> tuple[dict[str, np.ndarray], int]:
    """The unknowns' numbers, field by field (x count, y count) with −1 for what is held, and how many there are."""
    numbers, count = {}, 0
    for field in grid.fields:
        free = np.outer(grid.free_x[field], grid.free_y[field])
        numbers[field] = np.full(free.shape, -1)
        numbers[field][free] = np.arange(count, count + int(free.sum()))
        count += int(free.sum())
    return numbers, count


class Assembler:
    """Builds the strip matrices of forms on a grid.

    ``layout`` : (x cells, y cells) integer array saying which form of the list given to ``matrices`` each cell
    takes; by default all take the first.  The integrals are kept, so that another layup on the same grid costs
    little more than the products.
    """

    def __init__(self, grid: Grid, layout: np.ndarray | None = None) -> None:
        self.grid = grid
        shape = (len(grid.x_nodes) - 1, len(grid.y_nodes) - 1)
        self.layout = np.zeros(shape, dtype=int) if layout is None else layout
        self._x = Integrals(grid.x, grid.order)
        self._y = Integrals(grid.y, grid.order)
        self._x_stacks: dict[tuple[int, str, str, Pairs], np.ndarray] = {}
        self._y_stacks: dict[tuple[tuple[int, ...], str, str, Pairs], np.ndarray] = {}
        self._whole_x: dict[tuple[str, str, Pairs], np.ndarray] = {}
        self.numbers, self.unknowns = numbered(grid)
        self.strips = [Strip(grid, i, self.numbers) for i in range(shape[0])]

    @cached_property
    def border_lines(self) -> list[np.ndarray]:
        """The unknowns of each border line, from the left end to the right one, ascending."""
        shared = [np.sort(strip.dofs[strip.shared]) for strip in self.strips]
        between = [np.intersect1d(near, far) for near, far in pairwise(shared)]
        nothing = np.zeros(0, int)
        ends = (
            np.setdiff1d(shared[0], between[0] if between else nothing),
            (np.setdiff1d(shared[-1], between[-1]) if between else nothing),
        )
        return [ends[0], *between, ends[1]]

    @cached_property
    def meets(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """For each strip the places, among its shared unknowns, of those of its line to the left and of its line to the
        right."""
        found = []
        for strip, near, far in zip(self.strips, self.border_lines[:-1], self.border_lines[1:], strict=True):
            dofs = strip.dofs[strip.shared]
            order = np.argsort(dofs)
            found.append((order[np.searchsorted(dofs[order], near)], order[np.searchsorted(dofs[order], far)]))
        return found

    def matrices(self, forms: list[GroupedForm]) -> list[np.ndarray]:
        """One symmetric matrix per strip, in the strip's own order of unknowns."""
        present = {pair for form in forms for pair in form}
        active = self.grid.fields
        pairs = {
            (f, g): [form.get((f, g), NOTHING) for form in forms] for f in active for g in active if (f, g) in present
        }
        return [self._strip_matrix(i, pairs) for i in range(len(self.strips))]

    def _strip_matrix(self, index: int, pairs: dict[tuple[str, str], list[Coefficients]]) -> np.ndarray:
        strip = self.strips[index]
        matrix = np.zeros((strip.size, strip.size))
        groups = [
            (int(k), tuple(int(j) for j in np.flatnonzero(self.layout[index] == k)))
            for k in np.unique(self.layout[index])
        ]
        for (f, g), coefficients in pairs.items():
            block = self._block(index, f, g, [(coefficients[k], cells) for k, cells in groups])
            for rows, to_rows in strip.blocks[f]:
                for columns, to_columns in strip.blocks[g]:
                    part = block[rows, columns]
                    matrix[to_rows, to_columns] = part
                    if f != g:
                        matrix[to_columns, to_rows] = part.T
        return matrix.T  # symmetric, and column by column in memory: LAPACK factors it in place

    def _block(self, index: int, f: str, g: str, groups: list[tuple[Coefficients, tuple[int, ...]]]) -> np.ndarray:
        """Σ c X ⊗ Y for one pair of fields, as one matrix product over the derivative pairs."""
        xf, xg = len(self.strips[index].x_local[f]), len(self.strips[index].x_local[g])
        yf, yg = int(self.grid.free_y[f].sum()), int(self.grid.free_y[g].sum())
        product = np.zeros((xf * xg, yf * yg))
        for coefficients, cells in groups:
            X = self._x_stack(index, f, g, coefficients.x_pairs)
            Y = self._y_stack(cells, f, g, coefficients.y_pairs)
            product += (X.T @ coefficients.table) @ Y
        return product.reshape(xf, xg, yf, yg).transpose(0, 2, 1, 3).reshape(xf * yf, xg * yg)

    def _x_stack(self, index: int, f: str, g: str, pairs: Pairs) -> np.ndarray:
        """(derivative pairs, free x functions of f × of g) integrals over one strip."""
        key = (index, f, g, pairs)
        if key not in self._x_stacks:
            free = np.ix_(self.strips[index].x_local[f], self.strips[index].x_local[g])
            self._x_stacks[key] = np.array(
                [self._x.cell(f == "w", g == "w", a, b, index)[free].ravel() for a, b in pairs]
            )
        return self._x_stacks[key]

    def _y_stack(self, cells: tuple[int, ...], f: str, g: str, pairs: Pairs) -> np.ndarray:
        """(derivative pairs, free y functions of f × of g) integrals over some cells of a strip."""
        key = (cells, f, g, pairs)
        if key not in self._y_stacks:
            free = np.ix_(self.grid.free_y[f], self.grid.free_y[g])
            self._y_stacks[key] = np.array(
                [self._y.row(f == "w", g == "w", c, d, cells)[free].ravel() for c, d in pairs]
            )
        return self._y_stacks[key]

    def along_x(self, f: str, g: str, pairs: Pairs) -> np.ndarray:
        """(derivative pairs, free x functions of f, of g) integrals over the whole length."""
        key = (f, g, pairs)
        if key not in self._whole_x:
            free, cells = np.ix_(self.grid.free_x[f], self.grid.free_x[g]), tuple(range(len(self.grid.x_nodes) - 1))
            self._whole_x[key] = np.array([self._x.row(f == "w", g == "w", a, b, cells)[free] for a, b in pairs])
        return self._whole_x[key]

    def along_y(self, f: str, g: str, pairs: Pairs) -> np.ndarray:
        """(derivative pairs, free y functions of f, of g) integrals over the whole width."""
        cells = tuple(range(len(self.grid.y_nodes) - 1))
        shape = (len(pairs), int(self.grid.free_y[f].sum()), int(self.grid.free_y[g].sum()))
        return self._y_stack(cells, f, g, pairs).reshape(shape)

    def places_in_cell(self, field: str, i: int, j: int) -> np.ndarray:
        """Where the free functions of cell (i, j) stand in strip i, along y first: (functions,)."""
        return self.strips[i].in_cell(field, j).ravel()

    def cell_table(
        self, field: str, derivative: tuple[int, int], i: int, j: int, x: tuple[float, ...], y: tuple[float, ...]
    ) -> np.ndarray:
        """A derivative of these functions at the crossings of reference places x and y in the cell: (places,
        functions)."""
        along_x = self.grid.x[field].values(i, x, derivative[0])[:, self.strips[i].x_local[field]]
        along_y = self.grid.y[field].values(j, y, derivative[1])[:, self.grid.free_in_cell(field, j)]
        both = along_x[:, None, :, None] * along_y[None, :, None, :]  # as np.kron, which takes five times as long
        return np.asarray(both.reshape(len(x) * len(y), -1))

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

    def load_vector(self, load: PlateLoad) -> np.ndarray:
        """Work of a load per unit of each unknown, (unknowns,)."""
        vector = np.zeros(self.unknowns)
        for field, table in load_tables(self.grid, load):
            vector += self.scatter(field, table)
        return vector

    def samples(self, points: np.ndarray) -> Samples:
        """The same reference points in [−1, 1] in every cell."""
        return Samples(self.grid, points)

    def areas(self, points: np.ndarray, weights: np.ndarray) -> np.ndarray:
        """Area in m² that each of these samples stands for by the ``weights`` of a rule on [−1, 1]: (x, y)."""
        half_x, half_y = np.diff(self.grid.x_nodes) / 2.0, np.diff(self.grid.y_nodes) / 2.0
        return np.outer(np.outer(half_x, weights).ravel(), np.outer(half_y, weights).ravel())
