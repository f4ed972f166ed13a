"""What one stack of a panel with zones is there: its section at its height, and its load cases in its places."""

from __future__ import annotations

import copy
from typing import Literal

import numpy as np

from omakase.core.members.field import SPOTS, Acting, Place
from omakase.core.members.panel_case import CaseResponse
from omakase.core.members.panel_given import LoadCase
from omakase.core.members.panel_patchwork import Patchwork
from omakase.core.plates.section import PlateSection

Flush = Literal["face_a", "middle", "face_b"]
NEARLY_NOTHING = 1e-9  # share of the panel's stiffness that an opening keeps, so that it can be solved


def shifted(section: PlateSection, height: float) -> PlateSection:
    """The section as one whose middle plane lies ``height`` m above the plane of reference: ε0 + height κφ."""
    if height == 0.0:
        return section
    own = copy.copy(section)
    move = np.eye(9)
    move[0:3, 3:6] = height * np.eye(3)
    own.membrane = move.T @ section.membrane @ move
    return own


def void(section: PlateSection) -> PlateSection:
    """Next to nothing in place of a section, without mass."""
    own = copy.copy(section)
    own.membrane = NEARLY_NOTHING * section.membrane
    own.shear = NEARLY_NOTHING * section.shear
    own.areal_mass, own.rotary_inertia = 0.0, 0.0
    return own


class RegionCase:
    """One load case in the places of one stack: see ``field.WallCase``.  Strains are those of its own middle plane."""

    left_out_told = SPOTS

    def __init__(
        self, whole: CaseResponse, inside: np.ndarray, beside: np.ndarray, height: float, case: LoadCase
    ) -> None:
        self.case: Acting = case
        self._beside = beside
        self._whole, self._inside, self._height = whole, inside, height
        i, j = np.nonzero(inside)
        self.x, self._y = whole.x[i], whole.y[j]
        self.y = self._y[:1]  # its places are one row: (places, 1)
        self.strains = self._own(whole.strains)
        self.left_out = whole.left_out[inside][:, None]

    def _own(self, strains: np.ndarray) -> np.ndarray:
        own = strains[self._inside][:, None, :].copy()
        own[..., 0:3] += self._height * own[..., 3:6]
        return own

    def place(self, i: int, _j: int) -> Place:
        """Where place ``i`` lies."""
        return Place(float(self.x[i]), float(self._y[i]))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The place of this stack nearest to another place."""
        x = float(self.x.mean()) if place.x is None else place.x
        y = float(self._y.mean()) if place.y is None else place.y
        return int(np.argmin((self.x - x) ** 2 + (self._y - y) ** 2)), 0

    def ply_shear(self, section: PlateSection) -> np.ndarray:
        """As of a ``CaseResponse``, zero also beside the borders of zones: (places, 1, 2)."""
        force = self._whole.ply_shear(shifted(section, self._height))
        force[self._beside] = 0.0
        return force[self._inside][:, None, :]


def heights_of(patches: Patchwork, flush: Flush) -> tuple[float, ...]:
    """By how much the middle of each stack lies above that of the stack of the largest area, m: ``flush`` : which
    surface of them is even."""
    side = {"face_a": -1.0, "middle": 0.0, "face_b": 1.0}[flush]
    half = patches.stacks[patches.base].thickness / 2.0
    return tuple(side * (stack.thickness / 2.0 - half) for stack in patches.stacks)
