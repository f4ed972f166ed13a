"""Energies of a plate section as bilinear forms in the derivatives of the five fields.

A form maps (f, g, a, c, b, d) to a coefficient: coefficient × ∫∫ ∂x^a ∂y^c f · ∂x^b ∂y^d g.  Only pairs with f not
after g in FIELDS are listed; the matrices are symmetric.
"""

from __future__ import annotations

import numpy as np

from omakase.core.plates.grid import FIELDS, Curvature
from omakase.core.plates.section import PlateSection

FormKey = tuple[str, str, int, int, int, int]
Form = dict[FormKey, float]

# generalised strain -> its terms (field, factor, x derivative, y derivative)
StrainTerms = tuple[tuple[tuple[str, float, int, int], ...], ...]
STRAINS: StrainTerms = (
    (("u", 1.0, 1, 0),),
    (("v", 1.0, 0, 1),),
    (("u", 1.0, 0, 1), ("v", 1.0, 1, 0)),
    (("px", 1.0, 1, 0),),
    (("py", 1.0, 0, 1),),
    (("px", 1.0, 0, 1), ("py", 1.0, 1, 0)),
    (("w", -1.0, 2, 0),),
    (("w", -1.0, 0, 2),),
    (("w", -2.0, 1, 1),),
    (("px", 1.0, 0, 0), ("w", 1.0, 1, 0)),
    (("py", 1.0, 0, 0), ("w", 1.0, 0, 1)),
)


def strain_terms(curvature: Curvature) -> StrainTerms:
    """The strains of a curved panel by ``curvature``, 1/R along x and y, m⁻¹, positive where the middle lies toward
    face A: w stretches it, and what moves along the surface turns with it, so that its rotation is w,x − u/R (Sanders
    1959, whose share of the turn in the plane is left out).

    Compared with bricks on the true surface, see docs/second-opinion.md.
    """
    if curvature == (0.0, 0.0):
        return STRAINS
    kx, ky = curvature
    more: dict[int, tuple[tuple[str, float, int, int], ...]] = {
        0: (("w", kx, 0, 0),), 1: (("w", ky, 0, 0),),
        6: (("u", kx, 1, 0),), 7: (("v", ky, 0, 1),), 8: (("u", kx, 0, 1), ("v", ky, 1, 0)),
        9: (("u", -kx, 0, 0),), 10: (("v", -ky, 0, 0),),
    }  # fmt: skip
    return tuple(
        (*own, *(term for term in more.get(number, ()) if term[1] != 0.0)) for number, own in enumerate(STRAINS)
    )


# A panel on free or resting edges can slide in its plane; this share of its membrane stiffness per squared length
# holds it there.  No load acts in the plane, so the spring carries nothing but rounding.
IN_PLANE_SPRING = 1e-9


def _add(form: Form, key: FormKey, value: float) -> None:
    form[key] = form.get(key, 0.0) + value


def strain_energy(
    section: PlateSection, size: float, curvature: Curvature = (0.0, 0.0), bed: float = 0.0
) -> Form:  # fmt: skip
    """Form of the strain energy; ``size`` (m) is the longer side, for the in-plane spring.

    ``bed`` : stiffness of a bed that it lies on (Winkler 1867), N/m per m².
    """
    stiffness = np.zeros((11, 11))
    stiffness[:9, :9] = section.membrane
    stiffness[9:, 9:] = section.shear
    form: Form = {}
    terms = strain_terms(curvature)
    for i, row in enumerate(terms):
        for j, column in enumerate(terms):
            if stiffness[i, j] == 0.0:
                continue
            for f, factor_f, a, c in row:
                for g, factor_g, b, d in column:
                    if FIELDS.index(f) <= FIELDS.index(g):
                        _add(form, (f, g, a, c, b, d), stiffness[i, j] * factor_f * factor_g)
    spring = IN_PLANE_SPRING * float(np.trace(section.membrane[:2, :2])) / size**2
    for field in ("u", "v"):
        _add(form, (field, field, 0, 0, 0, 0), spring)
    if bed:
        _add(form, ("w", "w", 0, 0, 0, 0), bed)
    return form


def inertia(section: PlateSection) -> Form:
    """Form of the kinetic energy of w, φx, φy.

    The in-plane inertia of u and v is left out: its effect on bending modes of a flat plate is of the order
    (thickness/length)² times the coupling, and leaving it out keeps in-plane modes from the list.  For curved ones see
    ``inertia_in_plane``.
    """
    rotary = section.rotary_inertia
    return {
        ("w", "w", 0, 0, 0, 0): section.areal_mass,
        ("px", "px", 0, 0, 0, 0): rotary,
        ("py", "py", 0, 0, 0, 0): rotary,
    }


def inertia_in_plane(section: PlateSection) -> Form:
    """Form of the kinetic energy of u and v, by which the modes of a curved panel are slower than ``inertia`` says."""
    return {("u", "u", 0, 0, 0, 0): section.areal_mass, ("v", "v", 0, 0, 0, 0): section.areal_mass}


def membrane_load(Nx: float, Ny: float, Nxy: float) -> Form:
    """Form of a uniform membrane load's work on the slopes of w; N/m, tension positive."""
    return {
        ("w", "w", 1, 0, 1, 0): Nx,
        ("w", "w", 0, 1, 0, 1): Ny,
        ("w", "w", 1, 0, 0, 1): Nxy,
        ("w", "w", 0, 1, 1, 0): Nxy,
    }
