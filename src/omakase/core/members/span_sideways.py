"""Buckling sideways with a twist of members that are bent or pressed."""

from __future__ import annotations

import numpy as np

from omakase.core.members.span import SpanModel


def sideways(
    model: SpanModel, forces: np.ndarray, turning: np.ndarray, bent_before: bool = True, enough: float = float("inf")
) -> float:
    """Factor on the loads at which a member that is bent or pressed buckles sideways with twist.

    With v, w and ψ = −v', φ = −w' of the shear centre, which lies (y_s, z_s) from the reference line on which the
    loads act: the moment M_y works ∫ M_y θ v'' dx along a sideways bend with a twist θ, its shear force
    ∫ z_s V_z θ θ' dx (Timoshenko and Gere 1961, chapter 6; derived again for loads on the line), M_z and V_y alike,
    the force along ½ ∫ N (v'² + w'²) dx, and all forces N_x in the walls ½ ∫ (W − 2 M_y z_s − 2 M_z y_s) θ'² dx:
    where what is far from the shear centre is pressed, as the free feet of a hat are, less torque turns it (Wagner
    1929).  ``forces`` : (places, 6) of the section at the samples; ``turning`` : (places,) W = ∫ N_x (y² + z²) ds
    in N m².  Beyond ``enough`` it is inf.

    A member that is as stiff sideways as upright does not buckle by M θ v'': that is multiplied by
    √(1 − EI_z/EI_y), as for a uniform beam that has bent before it buckles; without ``bent_before`` it is not, as
    in the linear buckling of general solvers.  Loads above the line make it buckle earlier, those below it later;
    that is not counted, nor that clamps hold warping back, on the safe side.
    """
    if np.abs(forces[:, [0, 2, 3]]).max(initial=0.0) <= 1e-12:
        return float("inf")
    N, _, My, Mz, Vz, Vy = (_at_gauss(model, own) for own in forces.T)
    (ys, zs), weaker = model.about_twist
    slender = [np.sqrt(np.maximum(1.0 - own, 0.0)) if bent_before else np.ones_like(own) for own in weaker]
    form = np.zeros((*N.shape, 6, 6))  # of θ, ψ', φ', θ', v' and w'
    for row, column, value in (
        (0, 1, -slender[0] * My), (0, 2, slender[1] * Mz), (0, 3, zs * Vz + ys * Vy), (4, 4, -N), (5, 5, -N),
        (3, 3, 2.0 * (My * zs + Mz * ys) - _at_gauss(model, turning)),
    ):  # fmt: skip
        form[..., row, column] = form[..., column, row] = value
    form *= model.mesh.weights[..., None, None]
    work = model.mesh.local(model.mesh.tipping, form)
    if np.isfinite(enough) and model.banded.stands(work, enough):
        return float("inf")
    return model.banded.least_factor(work)


def _at_gauss(model: SpanModel, values: np.ndarray) -> np.ndarray:
    """What is known at the samples, straight between them, at the points of integration: (cells, points)."""
    return np.asarray(values.reshape(model.mesh.cells, -1) @ model.mesh.between)
