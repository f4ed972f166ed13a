"""Buckling of walls that bend over their width, against cylinders, curved panels in print, and finite strips."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from scipy.linalg import eigh

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.plates.section import PlateSection
from omakase.core.sections import curved_walls
from omakase.core.sections.curved_walls import CurvedWall
from omakase.core.sections.cylinder import axial_buckling, knock_down, wall_stiffness
from omakase.core.sections.long_plates import long_plate
from omakase.project.library import shipped_materials

GAUSS = np.polynomial.legendre.leggauss(6)


def wall(*angles: float, material: str = "twill200") -> PlateSection:
    own = shipped_materials()[material]
    return PlateSection(Stack(tuple(Layer(own, angle, 0.25e-3) for angle in angles)))


def arc(radius: float, angle: float, corners: int) -> np.ndarray:
    at = np.linspace(0.0, angle, corners)
    return radius * np.stack([np.cos(at), np.sin(at)], axis=1)


def no_knock_down():
    return mock.patch.object(curved_walls, "knock_down", lambda _plate, radius, _loading: np.ones(len(radius)))


class Strips:
    """Finite strips of a thin-walled section (Y. K. Cheung, Finite Strip Method in Structural Analysis, 1976), written
    for this comparison: classical plates with straight edges in waves along, cubics across."""

    def __init__(self, nodes: np.ndarray, pieces: list[tuple[int, int]], plates: list[PlateSection]) -> None:
        self.nodes, self.pieces = nodes, pieces
        self.laws = [(wall_stiffness(plate)[0], wall_stiffness(plate)[2]) for plate in plates]

    def factor(self, loads: list[tuple[float, float]], waves: np.ndarray) -> float:
        """Least factor on compression at both ends of each piece, N/m, over half waves along."""
        return min(self._of(loads, np.pi / wave) for wave in waves)

    def _of(self, loads: list[tuple[float, float]], k: float) -> float:
        size = 4 * len(self.nodes)
        K, G = np.zeros((2, size, size))
        for (i, j), law, ends in zip(self.pieces, self.laws, loads, strict=True):
            along = self.nodes[j] - self.nodes[i]
            width = float(np.hypot(*along))
            c, s = along / width
            turn = np.kron(np.eye(2), np.array([[1, 0, 0, 0], [0, c, s, 0], [0, -s, c, 0], [0, 0, 0, 1.0]]))
            at = np.ix_(*2 * ([*range(4 * i, 4 * i + 4), *range(4 * j, 4 * j + 4)],))
            stiff, pressed = self._strip(width, *law, k, *ends)
            K[at] += turn.T @ stiff @ turn
            G[at] += turn.T @ pressed @ turn
        return 1.0 / float(eigh(G, K, eigvals_only=True, subset_by_index=(size - 1, size - 1))[0])

    @staticmethod
    def _strip(
        b: float, A: np.ndarray, D: np.ndarray, k: float, first: float, last: float
    ) -> tuple[np.ndarray, np.ndarray]:
        K, G = np.zeros((2, 8, 8))
        for point, weight in zip(*GAUSS, strict=True):
            t = (point + 1.0) / 2.0
            u, v, w, du, dv, dw, ddw = np.zeros((7, 8))
            u[[0, 4]] = v[[1, 5]] = 1.0 - t, t
            du[[0, 4]] = dv[[1, 5]] = -1.0 / b, 1.0 / b
            bent = [2, 3, 6, 7]
            w[bent] = 1 - 3 * t**2 + 2 * t**3, b * (t - 2 * t**2 + t**3), 3 * t**2 - 2 * t**3, b * (t**3 - t**2)
            dw[bent] = (
                np.array([6 * t**2 - 6 * t, b * (1 - 4 * t + 3 * t**2), 6 * t - 6 * t**2, b * (3 * t**2 - 2 * t)]) / b
            )
            ddw[bent] = np.array([12 * t - 6, b * (6 * t - 4), 6 - 12 * t, b * (6 * t - 2)]) / b**2
            strains = np.stack([-k * u, dv, du + k * v])
            curvatures = np.stack([k**2 * w, -ddw, -2.0 * k * dw])
            even = np.array([[1, 1, 0], [1, 1, 0], [0, 0, 1]])  # nothing skew, as in the theory compared with
            share = weight * b / 2.0
            K += share * (strains.T @ (A * even) @ strains + curvatures.T @ (D * even) @ curvatures)
            G += share * k**2 * (first * (1.0 - t) + last * t) * (np.outer(v, v) + np.outer(w, w))
        return K, G


class CurvedWalls(unittest.TestCase):
    def test_half_a_cylinder_buckles_as_the_cylinder(self) -> None:
        """Against the determinant of NASA SP-8007 (1968) with its knock-down, and transverse shear in series."""
        for plate in (wall(0.0, 0.0), wall(45.0, 0.0, 45.0), wall(0.0, 90.0, 0.0, material="ud200")):
            radius = np.array([0.05])
            expected = axial_buckling(plate, radius, 1.0) * knock_down(plate, radius, "axial")
            found = CurvedWall(arc(0.05, np.pi, 41)).pressed(plate, "axial")[0].min()
            softened = 1.0 / (1.0 / float(expected[0]) + 1.0 / long_plate(plate).shear)
            self.assertAlmostEqual(found / softened, 1.0, delta=0.05)

    def test_a_flat_wall_buckles_as_the_plate(self) -> None:
        plate = wall(45.0, 0.0, 45.0)
        flat = CurvedWall(np.array([[0.0, 0.0], [0.02, 0.0], [0.05, 0.0]]))
        np.testing.assert_allclose(flat.pressed(plate, "axial")[0], long_plate(plate).compression(flat.wide), rtol=5e-3)
        np.testing.assert_allclose(flat.sheared(plate, 1.0), long_plate(plate).in_shear(flat.wide), rtol=1e-9)

    def test_a_slightly_curved_panel_carries_what_is_printed(self) -> None:
        """k = 4 + 3 Z²/π⁴ of an even one with Z up to about 5 (Batdorf 1947, from memory), Z = b²/(R t) √(1 − ν²)."""
        plate = wall(0.0, material="al6082")
        A, _, D = wall_stiffness(plate)
        ratio, thickness = D[0, 1] / D[0, 0], float(np.sqrt(12.0 * D[0, 0] / A[0, 0]))
        width = 0.03
        for Z in (1.0, 3.0, 5.0):
            radius = width**2 * np.sqrt(1.0 - ratio**2) / (Z * thickness)
            curved = CurvedWall(arc(radius, width / radius, 31))
            whole = int(curved.wide.argmax())
            with no_knock_down():
                found = curved.pressed(plate, "axial")[0][whole]
            expected = (4.0 + 3.0 * Z**2 / np.pi**4) * np.pi**2 * D[0, 0] / width**2
            self.assertAlmostEqual(found / expected, 1.0, delta=0.01)

    def test_noses_buckle_a_little_before_finite_strips_say(self) -> None:
        """The front of aerofoils closed by a web, bent: a skin flat behind and round in front; a cylinder of its mean
        radius, as it once was taken, carries more."""
        for ratio, share, plies in (
            (0.12, 0.3, (45.0, 45.0)), (0.12, 0.45, (0.0, 90.0, 0.0)), (0.18, 0.3, (0.0, 0.0)),
            (0.09, 0.35, (45.0, 0.0)),
        ):  # fmt: skip
            plate, chord = wall(*plies), 0.26
            x = share * (1.0 - np.cos(np.linspace(0.0, np.pi / 2.0, 9)))
            half = 5.0 * ratio * (0.2969 * np.sqrt(x) - 0.126 * x - 0.3516 * x**2 + 0.2843 * x**3 - 0.1015 * x**4)
            upper, lower = np.stack([x, half], axis=1)[::-1], np.stack([x, -half], axis=1)[1:]
            nose = chord * np.concatenate([upper, lower])
            count = len(nose)
            web = [nose[-1] + (nose[0] - nose[-1]) * t for t in (0.25, 0.5, 0.75)]
            nodes = np.concatenate([nose, web])
            around = [*range(count - 1), count - 1, count, count + 1, count + 2]
            pieces = [(i, (i + 1) % len(nodes)) for i in around]
            pressed = [(float(nodes[i, 1]), float(nodes[j, 1])) for i, j in pieces]  # 1 N/m per m above the middle
            strips = Strips(nodes, pieces, [plate] * len(pieces))
            exact = strips.factor(pressed, chord * np.geomspace(0.03, 0.6, 25))
            curved = CurvedWall(nose)
            mean = curved.weights @ np.array([sum(pressed[k]) / 2.0 for k in range(count - 1)])
            with no_knock_down():
                loads = curved.pressed(plate, "bending")[0]
            found = float((loads / np.maximum(mean, 1e-12)).min())
            self.assertGreater(found / exact, 0.6, (ratio, share, plies))
            self.assertLess(found / exact, 1.0, (ratio, share, plies))
            smeared = float(axial_buckling(plate, np.array([curved.wide.max() / np.pi]), 1.0)[0]) / max(
                map(max, pressed)
            )
            self.assertGreater(smeared / exact, 1.3)
