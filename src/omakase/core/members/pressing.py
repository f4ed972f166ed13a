"""Membrane forces in a panel: at which factor they buckle it, and how they make deflections grow before that."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from omakase.core.members.panel_case import Beyond
from omakase.core.members.panel_given import Surface
from omakase.core.members.panel_grid import GridKey, quadrature
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel, PlateSolution

EIGENVALUE = "eigenvalue under the linear membrane forces"
CLEAR = 0.95  # of the buckling load, up to which the growth of deflections is counted
AMPLIFIED = "forces along the edges make deflections grow: counted at ultimate load"
BUCKLED = "it buckles before its ultimate load: what follows is without the growth of deflections"


def buckling_of_forces(
    key: GridKey, model: PlateModel, forces: np.ndarray, section: PlateSection, tolerance: float = 1e-8
) -> Beyond:
    """The buckling factor of membrane ``forces`` (x, y, 3) N_x, N_y, N_xy at the grid's Gauss points, in N/m.

    Of a curved panel with a knock-down, by the ``section`` of most of it.  ``tolerance`` : of the Lanczos iteration.
    """
    largest = float(np.abs(forces).max())
    if largest == 0.0:
        return Beyond(math.inf)
    matrices = [-matrix for matrix in quadrature(key).membrane_matrices(forces)]
    factors, shapes = model.buckling_of(matrices, largest, tolerance=tolerance)
    if not len(factors):
        return Beyond(math.inf)
    factor, remarks = float(factors[0]), []
    if key.surface.curved:
        down = knock_down(section, key.surface)
        factor *= down
        of = "NASA SP-8032, of a spherical cap" if key.surface.round else "NASA SP-8007, of a cylinder"
        remarks.append(f"a curved panel is never as round as drawn: × {down:.2f} ({of})")
    return Beyond(factor, EIGENVALUE, remarks=tuple(remarks), shape=shapes[0])


def grown(
    key: GridKey, model: PlateModel, forces: np.ndarray, load: np.ndarray, linear: PlateSolution, beyond: Beyond,
    ultimate: float,
) -> tuple[Beyond, PlateSolution, PlateSolution]:  # fmt: skip
    """The solutions for strains and for deflections under a load vector with membrane ``forces``, whose growth is
    counted at ultimate and at limit load; the ``linear`` one where nothing bends the panel or it buckles first."""
    assert beyond.buckling is not None
    if not np.abs(linear.deflection(quadrature(key).samples)).max() > 1e-6 * model.section.stack.thickness:
        return beyond, linear, linear
    if ultimate > CLEAR * beyond.buckling:
        return msgspec.structs.replace(beyond, remarks=(*beyond.remarks, BUCKLED)), linear, linear
    matrices = quadrature(key).membrane_matrices(forces)
    strained, moved = model.stiffened(load, matrices, (ultimate, 1.0))
    return msgspec.structs.replace(beyond, remarks=(*beyond.remarks, AMPLIFIED)), strained, moved


def knock_down(section: PlateSection, surface: Surface) -> float:
    """Factor on the buckling load of a curved panel, 1 − 0.9 (1 − e^(−√(R/t)/16)) of NASA SP-8007 (1968) for cylinders.

    Of a round dish 0.14 + 3.2/λ² of NASA SP-8032 (1969) for spherical caps (from memory), λ = 2 (12 (1 − ν²))^¼ √(h/t)
    with its rise h and ν 0.3, at most 1.

    With the thickness of an even sheet of the same D/A, √(12 D/A), and the smaller radius.
    """
    if surface.round:
        squared = 4.0 * math.sqrt(12.0 * (1.0 - 0.3**2)) * abs(surface.dish) / section.sheet_thickness
        return min(1.0, 0.14 + 3.2 / squared)
    k = max(abs(value) for value in surface.curvature)
    return 1.0 - 0.9 * (1.0 - math.exp(-math.sqrt(1.0 / (k * section.sheet_thickness)) / 16.0))
