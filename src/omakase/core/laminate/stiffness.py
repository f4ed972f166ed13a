"""Classical lamination theory: reduced stiffness, A, B, D, and transverse shear by energy equivalence."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import LayupError
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.material import Material


def reduced_stiffness(E1: float, E2: float, G12: float, nu12: float) -> np.ndarray:
    """Plane-stress stiffness Q in material axes, (3, 3), Pa; order 11, 22, 12 with engineering shear strain.

    Jones, Mechanics of Composite Materials (1999), eq. 2.70.
    """
    nu21 = nu12 * E2 / E1
    factor = 1.0 / (1.0 - nu12 * nu21)
    return np.array([[E1 * factor, nu12 * E2 * factor, 0.0], [nu12 * E2 * factor, E2 * factor, 0.0], [0.0, 0.0, G12]])


def strain_rotation(angle: float) -> np.ndarray:
    """Matrix T with (ε1, ε2, γ12) = T (εx, εy, γxy) for a material axis at ``angle`` degrees from x toward y."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.array([[c * c, s * s, c * s], [s * s, c * c, -c * s], [-2 * c * s, 2 * c * s, c * c - s * s]])


def transformed_stiffness(Q: np.ndarray, angle: float) -> np.ndarray:
    """Q in panel axes, (3, 3), Pa: Tᵀ Q T with the strain rotation T (energy is invariant)."""
    T = strain_rotation(angle)
    return T.T @ Q @ T


def material_stiffness(material: Material) -> np.ndarray:
    """Plane-stress stiffness of a material in its own axes, (3, 3), Pa."""
    return reduced_stiffness(*(material.value(key) for key in ("E1", "E2", "G12", "nu12")))


def layer_stiffness(layer: Layer) -> np.ndarray:
    """In-plane stiffness of a layer in panel axes, (3, 3), Pa; zero for a layer that is not counted on."""
    if not layer.structural:
        return np.zeros((3, 3))
    return transformed_stiffness(material_stiffness(layer.material), layer.angle)


def layer_shear_stiffness(layer: Layer) -> np.ndarray:
    """Transverse shear stiffness (xz, yz) of a layer in panel axes, (2, 2), Pa."""
    c, s = np.cos(np.radians(layer.angle)), np.sin(np.radians(layer.angle))
    R = np.array([[c, s], [-s, c]])
    G = np.diag([layer.material.value("G13"), layer.material.value("G23")])
    return R.T @ G @ R


def stack_stiffness(stack: Stack) -> np.ndarray:
    """In-plane stiffness of every layer in panel axes, (n, 3, 3), Pa."""
    return np.array([layer_stiffness(layer) for layer in stack.layers])


def abd(Q: np.ndarray, z_top: np.ndarray, z_bottom: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A (N/m), B (N), D (N m), each (3, 3), of layers with stiffness Q (n, 3, 3) between z_bottom and z_top (n,).

    Jones (1999), eqs. 4.22 to 4.24.  z is measured from whatever plane the curvature refers to.
    """
    A = np.einsum("nij,n->ij", Q, z_top - z_bottom)
    B = np.einsum("nij,n->ij", Q, (z_top**2 - z_bottom**2) / 2.0)
    D = np.einsum("nij,n->ij", Q, (z_top**3 - z_bottom**3) / 3.0)
    return A, B, D


def laminate_abd(stack: Stack) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A, B, D of the whole stack about its mid-plane, cores included."""
    return abd(stack_stiffness(stack), stack.z_top, stack.z_bottom)


_GAUSS_POINTS, _GAUSS_WEIGHTS = np.polynomial.legendre.leggauss(3)


class TransverseShear:
    """Transverse shear stiffness and stress of a laminate from equilibrium.

    The in-plane stress gradients that go with a shear force give τ(z) = f(z) V, f from
    F(z) = (a(z) A⁻¹ B − b(z)) (D − B A⁻¹ B)⁻¹ with a, b the stiffness integrals from face B up to z, taking the
    gradients of M_x along x and of M_y along y only (two cylindrical bending modes, after Rolfes and Rohwer 1997;
    derived again for this program).  Equal energy gives the stiffness.  Limits, both tested: 5/6 G h for a
    homogeneous plate and G_c d²/t_c for thin stiff faces on a soft core.

    Layers that are not counted on carry no shear stress between two counted ones only if they lie outside;
    inside they would need a shear stiffness, so their shear modulus is used throughout.

    Attributes: ``stiffness`` : (2, 2) array, N/m, relating (V_x, V_y) to (γ_xz, γ_yz).
    Raises LayupError if the bending stiffness is singular.
    """

    def __init__(self, stack: Stack) -> None:
        Q = stack_stiffness(stack)
        A, B, D = abd(Q, stack.z_top, stack.z_bottom)
        try:
            self._coupling = np.linalg.solve(A, B)
            self._flexibility = np.linalg.inv(D - B @ self._coupling)
        except np.linalg.LinAlgError:
            raise LayupError("the layup has no bending stiffness") from None
        self._Q = Q
        self._stack = stack
        # stiffness integrals at the lower surface of each layer, gathered from face B upward
        first = Q * (stack.z_top - stack.z_bottom)[:, None, None]
        second = Q * ((stack.z_top**2 - stack.z_bottom**2) / 2.0)[:, None, None]
        below = np.cumsum(first[::-1], axis=0)[::-1] - first
        below_moment = np.cumsum(second[::-1], axis=0)[::-1] - second
        self._below, self._below_moment = below, below_moment
        self.stiffness = np.linalg.inv(self._compliance())

    def distribution(self, index: int, z: float) -> np.ndarray:
        """f(z) : (2, 2) array, 1/m, with (τ_xz, τ_yz) = f (V_x, V_y) in layer ``index`` at height z (m)."""
        bottom = self._stack.z_bottom[index]
        a = self._below[index] + self._Q[index] * (z - bottom)
        b = self._below_moment[index] + self._Q[index] * (z * z - bottom * bottom) / 2.0
        F = (a @ self._coupling - b) @ self._flexibility
        return np.array([[F[0, 0], F[2, 1]], [F[2, 0], F[1, 1]]])

    def _compliance(self) -> np.ndarray:
        compliance = np.zeros((2, 2))
        for i, layer in enumerate(self._stack.layers):
            half = layer.thickness / 2.0
            middle = self._stack.z_bottom[i] + half
            shear_compliance = np.linalg.inv(layer_shear_stiffness(layer))
            for point, weight in zip(_GAUSS_POINTS, _GAUSS_WEIGHTS, strict=True):
                f = self.distribution(i, middle + half * point)
                compliance += weight * half * f.T @ shear_compliance @ f
        return compliance
