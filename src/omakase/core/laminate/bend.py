"""Stresses through a bent laminate that a moment opens or closes: what pulls its plies apart."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from omakase.core.errors import LayupError, both_units
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import layer_stiffness
from omakase.core.plates.basis import gauss

CELLS = 4  # quadratic ones through each layer
POINTS = 3
POISSON = 0.3  # radial contraction of a ply pulled along the bend, where its material states none
RADIAL_SHARE = 0.6  # of S13: radial strength of a ply that states none (common practice, no source)


class BendStress:
    """Under a moment of 1 N m per metre of width that opens the bend: hoop stress σ_θ, hoop strain and radial stress.

    ``r`` : radii in m at the ends of cells, from the inside; ``layer`` : index from face A, which is the inside, of
    the layer behind each radius.  ``strain`` : (places,) hoop strain there, ``radial`` : (places,) σ_r in Pa,
    continuous; tension positive.

    The exact answer to pure bending of a ring sector of layers, each orthotropic along r and θ: u_r = f(r),
    u_θ = A r θ, so that σ_r' + (σ_r − σ_θ)/r = 0 (Lekhnitskii 1968, for one layer in closed form), by finite elements
    through the thickness.  Across the width each layer contracts as the whole laminate does (narrow), or not at all.
    """

    def __init__(self, stack: Stack, inside: float, wide: bool = False) -> None:
        if not inside > 0.0:
            raise LayupError(f"the inside radius of a bend must be positive, not {both_units(inside)}")
        poisson = 0.0 if wide else _contraction(stack)
        radii, stiff, owner = [inside], [], []
        for i, layer in enumerate(stack.layers):
            C = _along_and_radial(layer, poisson)
            step = layer.thickness / CELLS
            for _ in range(CELLS):
                radii.append(radii[-1] + step)
                stiff.append(C)
                owner.append(i)
        self.stack, self.inside = stack, inside
        self.r, self.layer = np.array(radii), np.array([*owner, owner[-1]])
        self._solve(np.array(stiff))

    def _solve(self, C: np.ndarray) -> None:
        """C : (cells, 2, 2) of (ε_r, ε_θ)."""
        points, weights = (np.array(values) for values in gauss(POINTS))
        low, high = self.r[:-1], self.r[1:]
        half = (high - low)[:, None] / 2.0
        r = (low + high)[:, None] / 2.0 + half * points
        # quadratic shapes at −1, 0, 1
        shape = np.stack([points * (points - 1.0) / 2.0, 1.0 - points**2, points * (points + 1.0) / 2.0])
        slope = np.stack([points - 0.5, -2.0 * points, points + 0.5])
        B = np.empty((len(low), POINTS, 2, 3))
        B[:, :, 0, :] = (slope[:, None, :] / half[None]).transpose(1, 2, 0)
        B[:, :, 1, :] = (shape[:, None, :] / r[None]).transpose(1, 2, 0)
        volume = weights * half * r
        K = np.einsum("cg,cgia,cij,cgjb->cab", volume, B, C, B)
        turned = np.einsum("cg,cgia,ci->ca", volume, B, C[:, :, 1])  # of A = 1
        count = 2 * len(low) + 1
        matrix, right = np.zeros((count, count)), np.zeros(count)
        for cell in range(len(low)):
            at = slice(2 * cell, 2 * cell + 3)
            matrix[at, at] += K[cell]
            right[at] -= turned[cell]
        f = np.linalg.solve(matrix, right)
        local = np.stack([f[0:-2:2], f[1:-1:2], f[2::2]], axis=1)
        strain = np.einsum("cgia,ca->cgi", B, local)
        strain[..., 1] += 1.0
        hoop = np.einsum("ci,cgi->cg", C[:, 1], strain)
        moment = -float(np.sum(weights * half * hoop * (r - r.mean())))  # tension inside opens
        # r σ_r from the inside outward: what the hoop stresses leave over
        pulled = np.concatenate([[0.0], np.cumsum(np.sum(weights * half * hoop, axis=1))])
        self.turn = 1.0 / moment  # rad per rad of the bend and N m/m
        self.radial = pulled / self.r / moment
        at_nodes = f[::2] / self.r + 1.0
        self.strain = at_nodes / moment

    def borders(self) -> Iterator[tuple[int, int]]:
        """(place, layer) at every border of cells inside the bend and on both its sides: of two layers the weaker
        counts."""
        for k in range(1, len(self.r) - 1):
            for layer in {int(self.layer[k - 1]), int(self.layer[k])}:
                yield k, layer

    def thick(self, curvature: float, middle_strain: float = 0.0) -> float:
        """How many times the strain of a straight laminate under the same moment the surfaces see, at least 1.

        ``curvature``, ``middle_strain`` : of the straight one under 1 N m/m that pulls face A.
        """
        half = self.stack.thickness / 2.0
        straight = middle_strain + np.array([half, -half]) * curvature
        return float(max(1.0, np.max(np.abs(self.strain[[0, -1]] / straight))))


def radial_strength(layer: Layer) -> tuple[float, bool]:
    """(strength in Pa of a layer against being pulled apart, whether it is stated): Z_t, or a share of S13."""
    known = layer.material.properties
    if "Zt" in known:
        return layer.material.value("Zt"), True
    return RADIAL_SHARE * layer.material.value("S13"), False


def _contraction(stack: Stack) -> float:
    """Contraction across the width of the whole laminate pulled along the bend."""
    A = sum(layer_stiffness(layer) * layer.thickness for layer in stack.layers if layer.structural)
    flexible = np.linalg.inv(np.asarray(A))
    return float(-flexible[1, 0] / flexible[0, 0])


def _along_and_radial(layer: Layer, poisson: float) -> np.ndarray:
    """(2, 2) stiffness of (ε_r, ε_θ) of a layer; next to none of one that is not counted."""
    Q = layer_stiffness(layer)
    along = float(Q[0, 0] - poisson * Q[0, 1])
    known = layer.material.properties
    metal = layer.material.is_metal
    radial = layer.material.value("E3") if "E3" in known else along if metal else layer.material.value("E2")
    if not metal and "E3" not in known:
        radial = min(radial, 3.0 * layer.material.value("G13"))  # of a cloth, whose E2 is that of its fibres
    own = layer.material.value("nu12") if metal else POISSON
    if not (along > 0.0 and radial > 0.0):
        raise LayupError(f"'{layer.material.id}' has no stiffness along or through the bend")
    flexible = np.array([[1.0 / radial, -own / along], [-own / along, 1.0 / along]])
    share = 1.0 if layer.structural else 1e-3
    return share * np.linalg.inv(flexible)
