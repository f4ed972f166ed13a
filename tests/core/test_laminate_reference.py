"""Stiffness of random layups against an independent computation with fourth-order tensors and quadrature.

Nothing of the laminate theory under test is used: the compliance is filled in by its definition, turned as a tensor of
the fourth order by the rotation matrix, and integrated through the thickness by Gauss points.
"""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Layer, Stack
from omakase.project.library import shipped_materials

LIB = shipped_materials()
PAIRS = ((0, 0), (1, 1), (0, 1))


def stiffness_tensor(E1: float, E2: float, G12: float, nu12: float) -> np.ndarray:
    """Plane-stress stiffness C_ijkl with σ_ij = C_ijkl ε_kl, (2, 2, 2, 2), Pa."""
    compliance = np.zeros((2, 2, 2, 2))
    compliance[0, 0, 0, 0], compliance[1, 1, 1, 1] = 1.0 / E1, 1.0 / E2
    compliance[0, 0, 1, 1] = compliance[1, 1, 0, 0] = -nu12 / E1
    for i, j in ((0, 1), (1, 0)):
        for k, m in ((0, 1), (1, 0)):
            compliance[i, j, k, m] = 1.0 / (4.0 * G12)
    # inverse on symmetric tensors, by the orthonormal basis of Mandel
    basis = np.zeros((3, 2, 2))
    basis[0, 0, 0] = basis[1, 1, 1] = 1.0
    basis[2, 0, 1] = basis[2, 1, 0] = np.sqrt(0.5)
    matrix = np.einsum("aij,ijkl,bkl->ab", basis, compliance, basis)
    return np.einsum("ab,aij,bkl->ijkl", np.linalg.inv(matrix), basis, basis)


def turned(C: np.ndarray, angle: float) -> np.ndarray:
    """C of a material whose axis 1 lies at ``angle`` degrees from x toward y."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    R = np.array([[c, -s], [s, c]])
    return np.einsum("ia,jb,kc,ld,abcd->ijkl", R, R, R, R, C)


def reference(stack: Stack) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A, B, D by quadrature through the thickness."""
    parts = np.zeros((3, 3, 3))
    points, weights = np.polynomial.legendre.leggauss(4)
    z = sum(layer.thickness for layer in stack.layers) / 2.0
    for layer in stack.layers:
        m = layer.material
        C = turned(stiffness_tensor(*(m.value(k) for k in ("E1", "E2", "G12", "nu12"))), layer.angle)
        Q = np.array([[C[i][k] for k in PAIRS] for i in PAIRS])
        for point, weight in zip(points, weights, strict=True):
            height = z - layer.thickness / 2.0 * (1.0 - point)
            for power in range(3):
                parts[power] += weight * layer.thickness / 2.0 * Q * height**power
        z -= layer.thickness
    return parts[0], parts[1], parts[2]


class RandomLayups(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(20260405)
        names = ["ud200", "twill200", "aramid170", "biax300", "triax450", "gmat450", "ply-birch", "pvc80", "al6061"]
        self.stacks = []
        for _ in range(10):
            chosen = rng.choice(names, rng.integers(2, 12))
            layers = tuple(
                Layer(LIB[name], float(rng.uniform(-90.0, 90.0)), float(rng.uniform(0.05e-3, 4e-3)),
                      "core" if name == "pvc80" else "ply")
                for name in ["ud200", *chosen, "twill200"]
            )  # fmt: skip
            self.stacks.append(Stack(layers))

    def test_stiffness_within_a_tenth_of_a_percent(self) -> None:
        for stack in self.stacks:
            constants = LaminateConstants(stack)
            for own, other in zip((constants.A, constants.B, constants.D), reference(stack), strict=True):
                np.testing.assert_allclose(own, other, rtol=1e-3, atol=1e-9 * abs(other).max())

    def test_constants_within_a_tenth_of_a_percent(self) -> None:
        """Moduli by pulling and bending the reference: the load that gives unit strain with all else free."""
        for stack in self.stacks:
            A, B, D = reference(stack)
            whole = np.block([[A, B], [B, D]])
            constants = LaminateConstants(stack)
            h = stack.thickness
            for index, own in ((0, constants.in_plane.Ex), (1, constants.in_plane.Ey), (2, constants.in_plane.Gxy)):
                self.assertAlmostEqual(_alone(whole, index) / h / own, 1.0, delta=1e-3)
            for index, own in ((3, constants.bending.Ex), (4, constants.bending.Ey), (5, constants.bending.Gxy)):
                self.assertAlmostEqual(12.0 * _alone(whole, index) / h**3 / own, 1.0, delta=1e-3)

    def test_the_polar_modulus_is_the_modulus_of_the_turned_stack(self) -> None:
        for stack in self.stacks[:4]:
            constants = LaminateConstants(stack)
            for angle in (17.0, -52.0):
                other = Stack(tuple(Layer(la.material, la.angle - angle, la.thickness, la.role) for la in stack.layers))
                A, B, D = reference(other)
                own = float(constants.modulus(np.array([angle]))[0])
                self.assertAlmostEqual(_alone(np.block([[A, B], [B, D]]), 0) / stack.thickness / own, 1.0, delta=1e-3)


def _alone(whole: np.ndarray, index: int) -> float:
    """Stiffness against one strain with the loads of all others zero: the Schur complement."""
    rest = [i for i in range(6) if i != index]
    return float(
        whole[index, index] - whole[index, rest] @ np.linalg.solve(whole[np.ix_(rest, rest)], whole[rest, index])
    )


if __name__ == "__main__":
    unittest.main()
