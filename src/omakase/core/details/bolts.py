"""Bolts by themselves: threads, grades, preload by torque, and shares of several in a row."""

from __future__ import annotations

import math

import msgspec
import numpy as np

# nominal diameter and pitch of the coarse thread, mm (ISO 261; from memory)
PITCHES = {
    2.5: 0.45, 3.0: 0.5, 4.0: 0.7, 5.0: 0.8, 6.0: 1.0, 8.0: 1.25, 10.0: 1.5, 12.0: 1.75, 14.0: 2.0, 16.0: 2.0,
    20.0: 2.5, 24.0: 3.0,
}  # fmt: skip
SHEAR_SHARE = 0.6  # of its tensile strength that a bolt carries in shear (common practice, no source)
STEEL, STAINLESS, TITANIUM, ALUMINIUM = "steel", "stainless", "titanium", "aluminium"


class Grade(msgspec.Struct, frozen=True):
    """A bolt's stress under proof load and tensile strength, Pa, its modulus, and what it is made of."""

    proof: float
    tensile: float
    modulus: float
    material: str


# proof and tensile strength of steel bolts: ISO 898-1, up to M16; stainless: ISO 3506-1, whose 0.2 % stress stands for
# the proof; titanium and aluminium: usual bolts, no source.  All from memory.
GRADES: dict[str, Grade] = {
    "4.6": Grade(225e6, 400e6, 205e9, STEEL),
    "5.8": Grade(380e6, 520e6, 205e9, STEEL),
    "8.8": Grade(580e6, 800e6, 205e9, STEEL),
    "10.9": Grade(830e6, 1040e6, 205e9, STEEL),
    "12.9": Grade(970e6, 1220e6, 205e9, STEEL),
    "A2-70": Grade(450e6, 700e6, 195e9, STAINLESS),
    "A4-80": Grade(600e6, 800e6, 195e9, STAINLESS),
    "titanium": Grade(760e6, 900e6, 112e9, TITANIUM),
    "aluminium": Grade(250e6, 310e6, 71e9, ALUMINIUM),
}
# K of T = K F d (common practice, no source; K = 0.2 dry as in handbooks of machine design)
NUT_FACTORS = {"dry": 0.20, "oiled": 0.16, "greased": 0.13, "locked": 0.24}


def pitch(diameter: float) -> float:
    """Pitch of the coarse thread of a diameter, m; of one between two standard ones, in proportion."""
    sizes = sorted(PITCHES)
    return float(np.interp(diameter * 1e3, sizes, [PITCHES[size] for size in sizes])) * 1e-3


def stress_area(diameter: float) -> float:
    """Stress area of a thread, m²: π/4 (d − 0.9382 p)² (ISO 898-1)."""
    return math.pi / 4.0 * (diameter - 0.9382 * pitch(diameter)) ** 2


def preload(torque: float, nut_factor: float, diameter: float) -> float:
    """Preload in N that a torque in N m gives: F = T/(K d)."""
    return torque / (nut_factor * diameter)


class Fastening(msgspec.Struct, frozen=True):
    """Constants of Huth's flexibility of a fastener: bolted or riveted, in metal or in a laminate."""

    power: float
    factor: float


BOLTED_METAL, RIVETED_METAL, BOLTED_LAMINATE = Fastening(2 / 3, 3.0), Fastening(2 / 5, 2.2), Fastening(2 / 3, 4.2)


def flexibility(
    diameter: float, first: tuple[float, float], second: tuple[float, float], fastener_modulus: float,
    kind: Fastening = BOLTED_LAMINATE,
) -> float:  # fmt: skip
    """Flexibility of a fastener in single shear, m/N; ``first``, ``second`` : (thickness m, modulus Pa).

    Huth, in ASTM STP 927 (1986) 221 (from memory): C = ((t1 + t2)/2d)^a b (1/(t1 E1) + 1/(t2 E2) + 1/(2 t1 Ef) +
    1/(2 t2 Ef)).  Range: d/t of about 0.5 to 4.
    """
    (t1, E1), (t2, E2) = first, second
    share = 1.0 / (t1 * E1) + 1.0 / (t2 * E2) + 0.5 / (t1 * fastener_modulus) + 0.5 / (t2 * fastener_modulus)
    return float(((t1 + t2) / (2.0 * diameter)) ** kind.power * kind.factor * share)


def row_shares(count: int, distance: float, first: float, second: float, give: float) -> np.ndarray:
    """Share of the load that each of ``count`` fasteners in line with it carries, (count,), sum 1.

    ``first``, ``second`` : N of stiffness (modulus × area) of the two plates, in the width that belongs to one row;
    ``distance`` m between fasteners; ``give`` m/N of each.  Plates as bars, fasteners as springs: between two
    neighbours the plates' difference in stretch is the difference of their springs' (compatibility; Hart-Smith 1974).
    The first plate pulls at the first fastener and ends beyond the last, the second the other way round.
    """
    if count == 1:
        return np.ones(1)
    matrix, right = np.zeros((count, count)), np.zeros(count)
    matrix[0, :], right[0] = 1.0, 1.0
    for k in range(count - 1):
        # the first plate has passed on what fasteners 0..k took; the second carries that
        matrix[k + 1, : k + 1] = -(distance / first + distance / second)
        matrix[k + 1, k] -= give
        matrix[k + 1, k + 1] += give
        right[k + 1] = -distance / first
    return np.linalg.solve(matrix, right)
