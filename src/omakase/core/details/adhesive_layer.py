"""Stress in a layer of glue between two adherends: shear lag, peel, and what a ductile glue carries.  Per unit width.

Adherend 1 is pulled at the left end and ends at the right, adherend 2 the other way round.  A_i membrane stiffness N/m,
D_i bending stiffness N m, t_i thickness m; glue of shear modulus G and modulus E, Pa, ``gap`` m thick.
"""

from __future__ import annotations

import math
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import ArrayLike

STEEP = 2.0  # of a segment's length times the largest rate at which stresses fade
MOST_SEGMENTS, LEAST_SEGMENTS = 120, 12
NODES = 401  # of the bars of a scarf or a stepped joint


class Glue(msgspec.Struct, frozen=True):
    """A layer of glue: moduli and strengths, Pa; ``plastic`` shear strain beyond the elastic one, 0 if brittle."""

    G: float
    E: float
    gap: float
    shear_strength: float
    peel_strength: float
    plastic: float = 0.0


class Adherend(msgspec.Struct, frozen=True):
    """A sheet: A N/m, D N m, thickness m."""

    A: float
    D: float
    thickness: float


def volkersen_rate(glue: Glue, A1: float, A2: float) -> float:
    """λ of Volkersen's equation, 1/m: λ² = (G/gap)(1/A1 + 1/A2)."""
    return math.sqrt(glue.G / glue.gap * (1.0 / A1 + 1.0 / A2))


def volkersen(glue: Glue, A1: float, A2: float, length: float, x: np.ndarray) -> np.ndarray:
    """Shear stress at x per N/m of load, 1/m: Volkersen 1938, for unlike adherends.

    τ'' = λ² τ with τ' = (G/gap)(N1/A1 − N2/A2) at both ends, closed form.
    """
    rate = volkersen_rate(glue, A1, A2)
    left, right = glue.G / glue.gap / A1, glue.G / glue.gap / A2
    # τ = (right cosh λx + left cosh λ(ℓ − x))/(λ sinh λℓ), by exponentials that do not overflow
    down = 1.0 - math.exp(-2.0 * rate * length)
    far = np.exp(-rate * (length - x)) + np.exp(-rate * (length + x))
    near = np.exp(-rate * x) + np.exp(-rate * (2.0 * length - x))
    return (right * far + left * near) / (rate * down)


def elastic_peak(glue: Glue, A1: float, A2: float, length: float) -> float:
    """Largest elastic shear stress per N/m of load, 1/m: at the end where the softer sheet is pulled."""
    return float(volkersen(glue, A1, A2, length, np.array([0.0, length])).max())


@lru_cache(maxsize=4096)
def plastic_capacity(glue: Glue, A1: float, A2: float, length: float) -> float:
    """Load in N/m at which the shear strain at one end of the overlap reaches the limit of the glue.

    The glue is elastic up to its strength, then yields by ``plastic`` more: the idea of Hart-Smith, NASA CR-112235 and
    -112236 (1973), from memory; derived anew.  Where it yields γ'' is constant, where not γ'' = λ² γ, and at the ends
    γ' is set by the load; zones that yield at one or both ends are found so that they fit the length.  Bounds: the
    strength over the whole overlap, and A_i √(2 gap (1/A1 + 1/A2) τ (γ_e/2 + γ_p)) of a long one (energy).
    """
    from scipy.optimize import brentq  # slow to import

    elastic = glue.shear_strength / glue.G
    most = elastic + glue.plastic
    if glue.plastic <= 0.0:
        return glue.shear_strength / elastic_peak(glue, A1, A2, length)
    full = glue.shear_strength * length
    low = glue.shear_strength / elastic_peak(glue, A1, A2, length)
    if end_strain(glue, A1, A2, length, full * (1.0 - 1e-9)) <= most:
        return full
    return float(brentq(lambda load: end_strain(glue, A1, A2, length, load) - most, low, full * (1.0 - 1e-9)))


def end_strain(glue: Glue, A1: float, A2: float, length: float, load: float) -> float:
    """Largest shear strain of a glue that yields, under a load in N/m below its full capacity."""
    elastic, rate = glue.shear_strength / glue.G, volkersen_rate(glue, A1, A2)
    peak = load * elastic_peak(glue, A1, A2, length)
    if peak <= glue.shear_strength:
        return peak / glue.G
    # slopes of γ over λ γ_e at the two ends
    slopes = sorted((load / (A * glue.gap * rate * elastic) for A in (A1, A2)), reverse=True)
    steep, gentle = slopes

    def both(middle: float) -> float:
        """How much longer zones at both ends and an elastic ``middle`` are together than the overlap, times λ."""
        turn = math.tanh(middle / 2.0)
        return (steep - turn) + (gentle - turn) + middle - rate * length

    def one(middle: float) -> float:
        """The same with a zone at the steep end only; the elastic part has the slope of the other at its end."""
        start = (gentle - math.sinh(middle)) / math.cosh(middle)
        return steep + start + middle - rate * length

    from scipy.optimize import brentq  # slow to import

    whole = rate * length
    if both(whole) > 0.0 and both(0.0) <= 0.0:
        middle = float(brentq(both, 0.0, whole))
        turn = math.tanh(middle / 2.0)
        if gentle - turn >= 0.0:
            zone = steep - turn
            return elastic * (1.0 + zone * turn + zone**2 / 2.0)
    middle = float(brentq(one, 1e-9, min(whole, 300.0)))
    start = (gentle - math.sinh(middle)) / math.cosh(middle)
    zone = steep + start
    return elastic * (1.0 - zone * start + zone**2 / 2.0)


def long_capacity(glue: Glue, A1: float, A2: float) -> float:
    """``plastic_capacity`` of an overlap of infinite length, N/m."""
    return min(end_capacity(glue, A1, A2), end_capacity(glue, A2, A1))


def end_capacity(glue: Glue, loaded: float, free: float) -> float:
    """Load in N/m of one sheet that the glue carries at an end where the other sheet is free, of a long overlap."""
    work = glue.shear_strength * (glue.shear_strength / glue.G / 2.0 + glue.plastic)
    return loaded * math.sqrt(2.0 * glue.gap * (1.0 / loaded + 1.0 / free) * work)


# --- bending of a single lap ------------------------------------------------------------------------------------


def end_moments(first: Adherend, second: Adherend, gap: float, length: float, load: float) -> tuple[float, float]:
    """(moment in adherend 1 at the left end, in adherend 2 at the right end), N, under ``load`` N/m, with its sign.

    Sheets that are long outside the overlap, which the pull straightens (Goland and Reissner 1944, here for unlike
    sheets): beams under tension on either side of an overlap that bends as one.  M = ∫ σ z dz, z up.  In compression
    the moment without straightening is given: it grows with the load, which a joint that is free to bend cannot carry.
    """
    d = (first.thickness + second.thickness) / 2.0 + gap
    down, up = d * second.A / (first.A + second.A), d * first.A / (first.A + second.A)
    if load <= 0.0:
        tiny = 1e-6 * min(first.D, second.D) / length**2
        one, two = end_moments(first, second, gap, length, tiny)
        return one * load / tiny, two * load / tiny
    whole = first.D + second.D + d**2 * first.A * second.A / (first.A + second.A)
    k1, k2, k = (math.sqrt(load / D) for D in (first.D, second.D, whole))
    far = math.exp(-k * length)
    # w1 = a e^(k1 x); overlap w = p e^(k (x − ℓ)) + q e^(−kx) about its own axis; w2 = b e^(−k2 (x − ℓ))
    matrix = np.array([
        [1.0, 0.0, -far, -1.0], [k1, 0.0, -k * far, k], [0.0, 1.0, -1.0, -far], [0.0, k2, k, -k * far],
    ])  # fmt: skip
    a, b, _, _ = np.linalg.solve(matrix, np.array([down, 0.0, -up, 0.0]))
    return -load * a, -load * b


class LapStress(msgspec.Struct, frozen=True, eq=False):
    """Stress in the glue along an overlap: places ``x`` m, ``shear`` and ``peel`` Pa, and the ``moments`` in N of
    adherend 1 at the left and adherend 2 at the right end."""

    x: np.ndarray
    shear: np.ndarray
    peel: np.ndarray
    moments: tuple[float, float]


class Lap:
    """A lap of two sheets, elastic; answers each load quickly.

    Sheets as beams that stretch and bend, the glue as springs in shear and peel (Goland and Reissner 1944; Hart-Smith
    1973): eight linear equations of the first order in N1, V1, M1, V2, M2, τ, σ, σ'.  Solved segment by segment with
    the matrix exponential, which is exact.  Lever arms of the shear reach to the middle of the glue, so that moments
    balance.
    """

    def __init__(self, first: Adherend, second: Adherend, glue: Glue, length: float) -> None:
        from scipy.linalg import expm  # slow to import

        self.first, self.second, self.glue, self.length = first, second, glue, length
        self._lever = (first.thickness + glue.gap) / 2.0, (second.thickness + glue.gap) / 2.0
        matrix, self._scale = self._equations()
        rate = float(np.abs(np.linalg.eigvals(matrix)).max())
        count = math.ceil(rate * length / STEEP)
        self._count = max(LEAST_SEGMENTS, min(MOST_SEGMENTS, count))
        step = length / self._count
        self._x = np.linspace(0.0, length, self._count + 1)
        self._answers = self._solve(expm(matrix * step))

    def _equations(self) -> tuple[np.ndarray, np.ndarray]:
        """The matrix of y' = M y for y in units of their own, and those units."""
        one, two, glue = self.first, self.second, self.glue
        h1, h2 = self._lever
        lag = math.sqrt(glue.gap / glue.G / (1.0 / one.A + 1.0 / two.A))
        matrix = np.zeros((8, 8))
        matrix[0, 5] = 1.0  # N1' = τ
        matrix[1, 6] = 1.0  # V1' = σ
        matrix[2, 1], matrix[2, 5] = 1.0, -h1  # M1' = V1 − h1 τ
        matrix[3, 6] = -1.0
        matrix[4, 3], matrix[4, 5] = 1.0, -h2
        shear = glue.G / glue.gap
        matrix[5, 0] = shear * (1.0 / one.A + 1.0 / two.A)  # τ' with N2 = P − N1; P acts as a constant below
        matrix[5, 2], matrix[5, 4] = -shear * h1 / one.D, -shear * h2 / two.D
        matrix[6, 7] = 1.0
        peel = glue.E / glue.gap
        matrix[7, 2], matrix[7, 4] = -peel / one.D, peel / two.D
        scale = np.array([1.0, 1.0, lag, 1.0, lag, 1.0 / lag, 1.0 / lag, 1.0 / lag**2])
        return matrix * scale[None, :] / scale[:, None], scale

    def _solve(self, step: np.ndarray) -> np.ndarray:
        """States at all places for one unit of each given force: (places, 8, 6).

        N1 is counted from its share P A1/(A1 + A2), where nothing changes any more; the unknown states are bound by the
        exponential from place to place, by five given forces at the left and three at the right.
        """
        from scipy.linalg import solve_banded  # slow to import

        places = self._count + 1
        size = 8 * places
        matrix = np.zeros((size, size))
        right = np.zeros((size, 6))
        for row, k in enumerate((0, 1, 2, 3, 4)):
            matrix[row, k] = 1.0
            right[row, row] = 1.0 / self._scale[k]
        for i in range(self._count):
            rows = slice(5 + 8 * i, 13 + 8 * i)
            matrix[rows, 8 * i : 8 * i + 8] = -step
            matrix[rows, 8 * i + 8 : 8 * i + 16] = np.eye(8)
        for k in range(3):
            matrix[size - 3 + k, size - 8 + k] = 1.0
        right[size - 3, 5] = 1.0 / self._scale[0]
        band = 12
        lower_upper = np.zeros((2 * band + 1, size))
        for offset in range(-band, band + 1):
            diagonal = np.diagonal(matrix, offset)
            start = max(offset, 0)
            lower_upper[band - offset, start : start + len(diagonal)] = diagonal
        answers = solve_banded((band, band), lower_upper, right)
        return answers.reshape(places, 8, 6) * self._scale[None, :, None]

    def stress(self, load: float, opening: float = 0.0, bends: bool = True) -> LapStress:
        """Under ``load`` N/m along it and ``opening`` N/m that pulls the sheets apart at the left end.

        ``bends`` : free to bend under its own eccentricity; else kept from it.
        """
        left = right = 0.0
        if bends:
            left, right = end_moments(self.first, self.second, self.glue.gap, self.length, load)
        cut = (right - left - sum(self._lever) * load) / self.length
        return self.under(load, cut, left, right, opening)

    def under(self, load: float, cut: float, left: float, right: float, opening: float = 0.0) -> LapStress:
        """Under a force ``load``, a shear force ``cut`` N/m and a moment ``left`` N of adherend 1 at the left end, in
        balance with ``right`` of adherend 2 at the other."""
        share = self.first.A / (self.first.A + self.second.A)
        # a positive shear force pushes the end face down, so that what opens is negative in sheet 1
        given = np.array([load * (1.0 - share), cut - opening, left, opening, 0.0, -load * share])
        states = self._answers @ given
        return LapStress(self._x, -states[:, 5], states[:, 6], (left, right))


# --- joints whose sheets change along the overlap ---------------------------------------------------------------


def shear_between(first: ArrayLike, second: ArrayLike, length: float, spring: float) -> np.ndarray:
    """Shear stress per N/m of load at places evenly from 0 to ``length``, 1/m, between two bars of changing stiffness.

    ``first``, ``second`` : A of the elements between the places, N/m; ``spring`` = G/gap, N/m³.  Linear finite elements
    of two bars with springs between them: scarfs, steps, doublers (Hart-Smith, NASA CR-112237, elastic).
    """
    count = np.size(first) + 1
    force = np.zeros((count, 2))
    force[0, 0] = -1.0
    moved = moved_bars(first, second, length, spring, force, 2 * count - 1)  # the far end of the second stands still
    return spring * (moved[:, 1] - moved[:, 0])


def moved_bars(
    first: ArrayLike, second: ArrayLike, length: float, spring: float, force: np.ndarray, still: int
) -> np.ndarray:
    """How far two bars with springs between them move, m, (places, 2), under forces (places, 2), N/m.

    ``first``, ``second``, ``length``, ``spring`` as for ``shear_between``; ``still`` : which unknown does not move, in
    the order first bar, second bar, place by place.
    """
    bars = [np.asarray(own, float) for own in (first, second)]
    k = np.arange(len(bars[0]))
    h = length / len(k)
    size = 2 * (len(k) + 1)
    bands = np.zeros((7, size))

    def add(i: np.ndarray, j: np.ndarray, value: np.ndarray | float) -> None:
        np.add.at(bands, (3 + i - j, j), value)

    for bar, own in enumerate(bars):
        a, b = 2 * k + bar, 2 * k + 2 + bar
        for i, j, sign in ((a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0)):
            add(i, j, sign * own / h)
    for p, q, share in ((k, k, 1 / 3), (k + 1, k + 1, 1 / 3), (k, k + 1, 1 / 6), (k + 1, k, 1 / 6)):
        for one, two, sign in ((0, 0, 1.0), (1, 1, 1.0), (0, 1, -1.0), (1, 0, -1.0)):
            add(2 * p + one, 2 * q + two, sign * spring * h * share)
    right = force.ravel().copy()
    for column in range(max(0, still - 3), min(size, still + 4)):
        bands[3 + still - column, column] = 0.0
    bands[3, still], right[still] = 1.0, 0.0
    from scipy.linalg import solve_banded  # slow to import

    return solve_banded((3, 3), bands, right).reshape(-1, 2)
