"""Classical lamination theory: reduced stiffness, A, B, D, and transverse shear by energy equivalence."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from omakase.core.errors import LayupError
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.material import Material
from omakase.core.rotation import reduced_stiffness, transformed_stiffness


def material_stiffness(material: Material) -> np.ndarray:
    """Plane-stress stiffness of a material in its own axes, (3, 3), Pa."""
    return reduced_stiffness(*(material.value(key) for key in ("E1", "E2", "G12", "nu12")))


def layer_stiffness(layer: Layer) -> np.ndarray:
    """In-plane stiffness of a layer in panel axes, (3, 3), Pa; zero for a layer that is not counted on."""
    return _turned(layer.material, layer.angle) if layer.structural else np.zeros((3, 3))


@lru_cache(maxsize=2048)
def _turned(material: Material, angle: float) -> np.ndarray:
    """Stiffness of a material turned; kept, since an edit changes one layer of many, and not to be changed."""
    return transformed_stiffness(material_stiffness(material), angle)


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
    top, bottom = z_top * z_top, z_bottom * z_bottom
    weights = np.array([z_top - z_bottom, (top - bottom) / 2.0, (top * z_top - bottom * z_bottom) / 3.0])
    A, B, D = (weights @ Q.reshape(-1, 9)).reshape(3, 3, 3)
    return A, B, D


# Modulus across straight fibres in resin, Pa, by family (typical, assumed): it parts warp from weft in a satin
ACROSS: dict[str, float] = {"carbon": 8e9, "glass": 11e9, "basalt": 11e9, "aramid": 5.5e9}
ACROSS_OTHERS = 5e9


def straight_stiffness(material: Material) -> tuple[float, float]:
    """(Q along, Q across), Pa, of the straight fibres that a cloth is crossed from: their mean is the cloth's."""
    Q = material_stiffness(material)
    across = ACROSS.get(material.family, ACROSS_OTHERS)
    return float(Q[0, 0] + Q[1, 1] - across), across


def more_warp(material: Material) -> float:
    """Share of warp on a satin's warp side beyond one half: (n − 1)/n − ½."""
    harness = material.value("harness")
    return (harness - 1.0) / harness - 0.5


def satin_difference(material: Material) -> np.ndarray:
    """Half the difference of the stiffness of a satin's two halves, warp side less weft side, (3, 3), Pa.

    An n-harness satin is two half-thick layers of crossed straight fibres: the share of warp is s = (n − 1)/n on one
    side and 1/n on the other, so that Q = Q̄ ± (s − ½)(Q_warp − Q_weft).  With the parallel fibres' Q11 + Q22 = 2 Q̄11
    and their modulus across known, Q_warp − Q_weft = 2 (Q̄11 − E_across) diag(1, −1, 0) (derived).  Zero for other
    materials.
    """
    difference = np.zeros((3, 3))
    if material.has_face:
        along, across = straight_stiffness(material)
        difference[0, 0] = more_warp(material) * (along - across)
        difference[1, 1] = -difference[0, 0]
    return difference


def layer_halves(layer: Layer) -> tuple[np.ndarray, np.ndarray]:
    """Stiffness in material axes of the upper and the lower half of a layer, which differ for a satin only, Pa."""
    Q, half = material_stiffness(layer.material), satin_difference(layer.material)
    return (Q - half, Q + half) if layer.turned else (Q + half, Q - half)


class Slices:
    """The stack as slices of even stiffness: a layer each, two for a satin, whose sides differ.

    ``Q`` : (m, 3, 3), Pa; ``z_top``, ``z_bottom`` : (m,), m; ``layer`` : (m,) index of the layer each belongs to.
    """

    def __init__(self, stack: Stack) -> None:
        Q, top, bottom, layers = [], [], [], []
        for i, layer in enumerate(stack.layers):
            upper, lower = float(stack.z_top[i]), float(stack.z_bottom[i])
            if layer.material.has_face and layer.structural and layer.role == "ply":
                middle = (upper + lower) / 2.0
                Q += [transformed_stiffness(half, layer.angle) for half in layer_halves(layer)]
                top += [upper, middle]
                bottom += [middle, lower]
                layers += [i, i]
            else:
                Q.append(layer_stiffness(layer))
                top.append(upper)
                bottom.append(lower)
                layers.append(i)
        self.Q, self.z_top, self.z_bottom = np.array(Q), np.array(top), np.array(bottom)
        self.layer = np.array(layers)

    def abd(self, about: float = 0.0, layers: range | None = None) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """A, B, D of all layers or some, curvature taken about height ``about`` in m."""
        # each layer's slices follow those of the one above it
        chosen = slice(None) if layers is None else slice(*np.searchsorted(self.layer, (layers.start, layers.stop)))
        return abd(self.Q[chosen], self.z_top[chosen] - about, self.z_bottom[chosen] - about)


@lru_cache(maxsize=64)
def slices(stack: Stack) -> Slices:
    """The slices of a stack; kept, not to be changed by who gets them."""
    return Slices(stack)


@lru_cache(maxsize=64)
def laminate_abd(stack: Stack) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A, B, D of the whole stack about its mid-plane, cores included; kept, not to be changed by who gets them."""
    return slices(stack).abd()


_GAUSS_POINTS, _GAUSS_WEIGHTS = np.polynomial.legendre.leggauss(3)


class TransverseShear:
    """Transverse shear stiffness and stress of a laminate from equilibrium.

    The in-plane stress gradients that go with a shear force give τ(z) = f(z) V, f from
    F(z) = (a(z) A⁻¹ B − b(z)) (D − B A⁻¹ B)⁻¹ with a, b the stiffness integrals from face B up to z, taking the
    gradients of M_x along x and of M_y along y only (two cylindrical bending modes, after Rolfes and Rohwer 1997;
    derived again for this program).  Equal energy gives the stiffness.  Limits, both tested: 5/6 G h for a
    homogeneous plate and G_c d²/t_c for thin stiff faces on a soft core.

    A satin enters with its mean stiffness here.  Layers that are not counted on carry no shear stress between two
    counted ones only if they lie outside; inside they would need a shear stiffness, so their shear modulus is used
    throughout.

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
        return self._at(np.array([index]), np.array([z]))[0]

    def _at(self, index: np.ndarray, z: np.ndarray) -> np.ndarray:
        """f at heights z (n,) in layers ``index`` (n,): (n, 2, 2)."""
        bottom = self._stack.z_bottom[index]
        Q = self._Q[index]
        a = self._below[index] + Q * (z - bottom)[:, None, None]
        b = self._below_moment[index] + Q * ((z * z - bottom * bottom) / 2.0)[:, None, None]
        F = (a @ self._coupling - b) @ self._flexibility
        return F[:, [[0, 2], [2, 1]], [[0, 1], [0, 1]]]

    def _compliance(self) -> np.ndarray:
        layers = self._stack.layers
        half = np.repeat((self._stack.z_top - self._stack.z_bottom) / 2.0, len(_GAUSS_POINTS))
        middle = np.repeat((self._stack.z_top + self._stack.z_bottom) / 2.0, len(_GAUSS_POINTS))
        index = np.repeat(np.arange(len(layers)), len(_GAUSS_POINTS))
        f = self._at(index, middle + half * np.tile(_GAUSS_POINTS, len(layers)))
        weights = half * np.tile(_GAUSS_WEIGHTS, len(layers))
        each = np.linalg.inv(np.array([layer_shear_stiffness(layer) for layer in layers]))[index]
        return np.asarray((weights[:, None, None] * (f.swapaxes(1, 2) @ each @ f)).sum(axis=0))
