"""The cross-section of a rib's walls as quadrilaterals: layers on each other along mid-lines that meet at mitres."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise, product

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.members.panel_ribs import CLOSED, Piece, Rib, rib_pieces
from omakase.core.mesh.mesh import CORNERS, HALF_STEPS, SAME, half_steps, quad_areas, quadratic_slopes

BESIDE = 3.0  # thicknesses of the flat sheet beside a bead
LONGEST_MITRE = 3.0  # of half the wall, at a sharp edge


class Profile(msgspec.Struct, frozen=True, eq=False):
    """``points`` : (n, 2) y across the rib and ζ above its face, m; ``quads`` : (q, 8) of them, corners and then
    middles, turning from y to ζ.  ``layers`` : (q,) number of the layer, from the one toward the panel out.
    ``along`` : (q, 2) unit vectors along the mid-line, whose left is out.
    """

    points: np.ndarray
    quads: np.ndarray
    layers: np.ndarray
    along: np.ndarray

    @property
    def areas(self) -> np.ndarray:
        """Of each quadrilateral, m²: their sides are straight."""
        return quad_areas(self.points[self.quads[:, :4]])

    @property
    def seated(self) -> np.ndarray:
        """(n,) which points lie on the face."""
        return np.asarray(np.abs(self.points[:, 1]) < SAME)

    @property
    def reach(self) -> float:
        """How far its points lie from its middle, m."""
        return float(np.abs(self.points[:, 0]).max())


class Strand(msgspec.Struct, frozen=True, eq=False):
    """A mid-line through ``vertices`` (k, 2); ``seated`` : whether its ends stand on the face; ``cuts`` : places y at
    which something stands on it."""

    vertices: np.ndarray
    seated: tuple[bool, bool] = (False, False)
    cuts: tuple[float, ...] = ()


def profile_of(rib: Rib, levels: np.ndarray, parts: int) -> Profile:
    """``levels`` : heights between the layers of its walls, from their middle, the lowest toward the panel.
    ``parts`` : quadrilaterals along each wall.  Raises MemberError where its walls leave no room for each other."""
    numbers: dict[tuple[int, int], int] = {}
    points: list[np.ndarray] = []
    quads, layers, along = [], [], []
    for strand in _strands(rib, levels):
        for grid, direction in walls_of(strand, levels, parts):
            ids = np.zeros(grid.shape[:2], int)
            for i, j in product(range(grid.shape[0]), range(grid.shape[1])):
                key = round(grid[i, j, 0] / SAME), round(grid[i, j, 1] / SAME)
                if key not in numbers:
                    numbers[key] = len(points)
                    points.append(grid[i, j])
                ids[i, j] = numbers[key]
            for i, j in product(range(grid.shape[0] // 2), range(grid.shape[1] // 2)):
                quads.append([ids[2 * i + a, 2 * j + b] for a, b in HALF_STEPS])
                layers.append(j)
                along.append(direction)
    used = np.unique(quads)  # middles of quadrilaterals are no nodes
    renumbered = np.searchsorted(used, quads)
    found = Profile(np.array(points)[used], renumbered, np.array(layers), np.array(along))
    if not _is_sound(found):
        raise MemberError(f"the walls of a {rib.outline.replace('_', ' ')} rib leave no room for each other")
    return found


def _is_sound(profile: Profile) -> bool:
    """Whether no quadrilateral is folded."""
    first, second = np.einsum("kra,qap->kqrp", quadratic_slopes(CORNERS), profile.points[profile.quads])
    return bool((first[..., 0] * second[..., 1] - first[..., 1] * second[..., 0]).min() > 0.0)


def _strands(rib: Rib, levels: np.ndarray) -> Iterator[Strand]:
    half = (levels[-1] - levels[0]) / 2.0
    if rib.formed:
        bead = _chain(rib_pieces(rib, 2.0 * half))
        flat = np.array([sheet_of(rib, 2.0 * half), 0.0])
        yield Strand(np.concatenate([[bead[0] - flat], bead, [bead[-1] + flat]]))
        return
    if rib.outline in CLOSED or rib.outline == "strip":
        stands = rib.outline != "strip" and not rib.foot
        yield Strand(_chain(rib_pieces(rib, 2.0 * half)), (stands, stands))
        return
    low, top = 0.0, rib.height
    cuts = tuple(float(level) for level in levels)
    if rib.foot:
        low = 2.0 * half
        yield Strand(np.array([[-rib.foot, half], [rib.foot, half]]), cuts=cuts)
    if rib.outline == "tee":
        top -= 2.0 * half
        middle = top + half
        yield Strand(np.array([[-rib.width / 2.0, middle], [rib.width / 2.0, middle]]), cuts=cuts)
    yield Strand(np.array([[0.0, low], [0.0, top]]))


def sheet_of(rib: Rib, thickness: float) -> float:
    """How much of the flat sheet beside a bead is counted among its walls, m: enough for the mitre between them."""
    return min(BESIDE * thickness, rib.width / 2.0)


def _chain(pieces: Sequence[Piece]) -> np.ndarray:
    """The mid-line that pieces make end to end, from the side where y is least."""
    left = list(pieces)
    ends = [end for piece in left for end in (piece.start, piece.end)]
    at = min((end for end in ends if sum(np.allclose(end, other) for other in ends) == 1), key=lambda end: end[0])
    line = [at]
    while left:
        piece = next(own for own in left if np.allclose(own.start, at) or np.allclose(own.end, at))
        left.remove(piece)
        at = piece.end if np.allclose(piece.start, at) else piece.start
        line.append(at)
    return np.array(line)


def walls_of(strand: Strand, levels: np.ndarray, parts: int) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """Of each wall of a strand its places at half steps along and out, (i, j, 2), and its direction.

    ``levels`` : heights between layers, m to the left of the mid-line; ``parts`` : quadrilaterals along each wall."""
    line = strand.vertices
    steps = np.diff(line, axis=0)
    along = steps / np.linalg.norm(steps, axis=1)[:, None]
    out = np.column_stack([-along[:, 1], along[:, 0]])
    mitres = np.array([out[0], *(_mitre(a, b) for a, b in pairwise(out)), out[-1]])
    at = line[:, None] + half_steps(levels)[None, :, None] * mitres.reshape(-1, 1, 2)
    for end, k in ((0, 0), (1, -1)):
        if strand.seated[end]:
            at[k] -= (at[k][:, 1] / along[k][1])[:, None] * along[k]
    few = len(along) > 2 * parts + 3  # facets of a round wall
    for k, direction in enumerate(along):
        cells = [0.0, 1.0] if few else list(np.linspace(0.0, 1.0, parts + 1))
        start, length = line[k][0], steps[k][0]
        if strand.cuts:
            cells = _with_cuts(cells, [(cut - start) / length for cut in strand.cuts])
        shares = half_steps(np.array(cells))
        yield at[k] + shares[:, None, None] * (at[k + 1] - at[k]), direction


def _with_cuts(cells: Sequence[float], cuts: Sequence[float]) -> list[float]:
    """Cells between cuts, and of the others those that are not beside one."""
    near = (max(cuts) - min(cuts)) / 2.0
    return sorted([*(own for own in cells if all(abs(own - cut) > near for cut in cuts) or own in (0.0, 1.0)), *cuts])


def _mitre(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Where both walls' surfaces meet, from the mid-line, by how far they lie out."""
    both = (one + other) / max(1.0 + float(one @ other), 1e-9)
    return both * min(1.0, LONGEST_MITRE / float(np.linalg.norm(both)))
