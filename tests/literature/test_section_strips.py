"""Finite strips of whole sections against plates and shells in print, and strips of classical plates."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np

from omakase.core.sections.cylinder import wall_stiffness
from omakase.core.sections.section_strips import SectionStrips
from tests.literature.test_curved_walls import Strips, wall

E, NU, THICK = 70e9, 0.3, 1e-3
STIFF = E * THICK**3 / (12.0 * (1.0 - NU**2))
D = STIFF * np.array([[1.0, NU, 0.0], [NU, 1.0, 0.0], [0.0, 0.0, (1.0 - NU) / 2.0]])
A = 12.0 / THICK**2 * D
NONE = np.full(2, np.inf)


def section(
    corners: list[tuple[float, float]], closed: bool = False, cut: int = 6, shear: np.ndarray = NONE,
    held: tuple[int, ...] = (), turned: int = 0,
) -> SectionStrips:  # fmt: skip
    """Of aluminium, straight from corner to corner; the first ``turned`` strips run the other way."""
    ends = np.array([*corners, corners[0]] if closed else corners, float)
    nodes = [start + share * (end - start) for start, end in pairwise(ends) for share in np.arange(cut) / cut]
    nodes += [] if closed else [ends[-1]]
    strips = np.array([(i, (i + 1) % len(nodes)) for i in range(len(nodes) - (not closed))])
    strips[:turned] = strips[:turned, ::-1]
    count = len(strips)
    return SectionStrips(np.array(nodes), strips, np.array([A] * count), np.array([D] * count),
                         np.array([shear] * count), held)  # fmt: skip


def coefficient(own: SectionStrips, width: float, waves: np.ndarray) -> float:
    """k in N = k π² D/b², pressed evenly."""
    factors, shares = own.buckling(np.ones((own.count, 2)), waves)
    assert np.allclose(shares.sum(axis=2), 1.0)
    return float(factors.min()) * width**2 / (np.pi**2 * STIFF)


class Printed(unittest.TestCase):
    def test_four_like_walls_are_hinged_plates(self) -> None:
        """k = 4 (Timoshenko and Gere 1961, chapter 9)."""
        box = section([(0.0, 0.0), (0.1, 0.0), (0.1, 0.1), (0.0, 0.1)], closed=True)
        self.assertAlmostEqual(coefficient(box, 0.1, np.array([0.1])), 4.0, delta=0.01)

    def test_legs_of_an_angle_are_flanges(self) -> None:
        """k = 0.425 + (b/a)² of a plate with one edge free (Timoshenko and Gere 1961, article 9.4)."""
        angle = section([(0.1, 0.0), (0.0, 0.0), (0.0, 0.1)])
        for long in (4.0, 6.0):
            found = coefficient(angle, 0.1, np.array([long * 0.1]))
            self.assertAlmostEqual(found / (0.425 + long**-2), 1.0, delta=0.015)

    def test_clamped_edges(self) -> None:
        """k = 6.97 in half waves of 0.66 b (Timoshenko and Gere 1961, article 9.4)."""
        plate = section([(0.0, 0.0), (0.1, 0.0)], cut=10, held=(0, 10))
        self.assertAlmostEqual(coefficient(plate, 0.1, np.linspace(0.05, 0.09, 9)), 6.97, delta=0.02)

    def test_a_cylinder(self) -> None:
        """N = E t²/(R √(3 (1 − ν²))), the classical load."""
        radius, at = 0.1, np.arange(160) * 2.0 * np.pi / 160
        corners = [(float(y), float(z)) for y, z in radius * np.stack([np.cos(at), np.sin(at)], axis=1)]
        factors, _ = section(corners, closed=True, cut=1).buckling(np.ones((160, 2)), np.geomspace(0.012, 0.04, 15))
        self.assertAlmostEqual(factors.min() * radius * np.sqrt(3.0 * (1.0 - NU**2)) / (E * THICK**2), 1.0, delta=0.02)

    def test_transverse_shear(self) -> None:
        """N_0/(1 + D (k² + β²)/S) of a hinged plate whose normals stay straight (Plantema 1966, from memory), in square
        waves N_0/(1 + N_0/(2 S)); strips that run the other way change nothing."""
        whole = 4.0 * np.pi**2 * STIFF / 0.1**2
        for share in (0.5, 1.0, 10.0):
            for turned in (0, 3):
                box = section([(0.0, 0.0), (0.1, 0.0), (0.1, 0.1), (0.0, 0.1)], closed=True, cut=8,
                              shear=np.full(2, share * whole), turned=turned)  # fmt: skip
                found = coefficient(box, 0.1, np.array([0.1])) / 4.0
                self.assertAlmostEqual(found * (1.0 + 0.5 / share), 1.0, delta=0.01)

    def test_nothing_buckles_that_is_pulled(self) -> None:
        plate = section([(0.0, 0.0), (0.1, 0.0)], held=(0, 6))
        self.assertEqual(plate.buckling(-np.ones((6, 2)), np.array([0.1]))[0].tolist(), [[np.inf]])


class Compared(unittest.TestCase):
    def test_walls_of_other_layups_as_by_strips_of_classical_plates(self) -> None:
        """A thick cap on thin skins that bend, pressed unevenly: what single plates do not see."""
        thick, thin = wall(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, material="ud200"), wall(45.0, 45.0)
        at = np.linspace(0.0, np.pi, 25)
        nodes = np.stack([0.05 * np.cos(at), 0.03 * np.sin(at)], axis=1)
        strips = list(pairwise(range(25)))
        plates = [thick if 10 <= i < 14 else thin for i in range(24)]
        loads = [(1e3 * (1.0 - i / 30.0), 1e3 * (1.0 - (i + 1) / 30.0)) for i in range(24)]
        laws = [wall_stiffness(plate) for plate in plates]
        own = SectionStrips(nodes, np.array(strips), np.array([law[0] for law in laws]),
                            np.array([law[2] for law in laws]), np.array([NONE] * 24))  # fmt: skip
        waves = np.array([0.01, 0.03, 0.09])
        found, _ = own.buckling(np.array(loads), waves)
        other = Strips(nodes, strips, plates)
        for (factor,), wave in zip(found, waves, strict=True):
            self.assertAlmostEqual(factor / other.factor(loads, np.array([wave])), 1.0, delta=2e-3)


if __name__ == "__main__":
    unittest.main()
