"""What a stack should show as a specimen: its moduli, and the strength of a strip of it.

The specimen lies along the stack's x axis.  Per metre of width unless said otherwise.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np

from omakase.core.checks.compression import axis_at
from omakase.core.checks.crimping import crimping_load
from omakase.core.checks.wrinkling import WrinklingStress
from omakase.core.errors import SpecimenError
from omakase.core.laminate.breaking import Loading, breaking_order
from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import TransverseShear
from omakase.core.laminate.strength import first_layer_strength, shear_strength_along
from omakase.core.plates.section import Face, PlateSection


class Strip:
    """A strip of a stack along x, free to narrow and to curl across."""

    def __init__(self, stack: Stack) -> None:
        self.stack = stack
        self.thickness = stack.thickness

    @cached_property
    def _constants(self) -> LaminateConstants:
        return LaminateConstants(self.stack)

    @property
    def modulus(self) -> float:
        """E of the strip pulled, Pa, over its whole thickness."""
        return self._constants.in_plane.Ex

    @property
    def poisson(self) -> float:
        return self._constants.in_plane.nuxy

    @property
    def bending(self) -> float:
        """D per width, N m."""
        return self._constants.bending.Ex * self.thickness**3 / 12.0

    @property
    def shear(self) -> float:
        """U per width, N/m."""
        return float(TransverseShear(self.stack).stiffness[0, 0])

    def strongest(self, loading: Loading) -> float:
        """Largest load of the order of breaking: N/m pulled, N m/m bent."""
        return breaking_order(self.stack, loading).strongest

    @property
    def pressed(self) -> float:
        """Mean compressive stress at which the first ply fails, Pa."""
        return float(first_layer_strength(self.stack, np.zeros(1), pulled=False)[0])

    @property
    def interlaminar(self) -> float:
        """Least strength of its plies in transverse shear along x, Pa."""
        return shear_strength_along(la for la in self.stack.layers if la.role == "ply" and la.structural)


class SandwichStrip(Strip):
    """A strip of a sandwich.  Raises SpecimenError for a stack without one core between two faces."""

    def __init__(self, stack: Stack) -> None:
        super().__init__(stack)
        self.section = PlateSection(stack)
        if self.section.core is None:
            raise SpecimenError("this test needs a sandwich: faces on one core")
        self.core = self.section.core

    @property
    def distance(self) -> float:
        """Between the middles of the faces, m."""
        return self.section.faces[0].z_middle - self.section.faces[1].z_middle

    @property
    def core_shear_modulus(self) -> float:
        """G of the core along x, Pa."""
        return float(self.core.shear_modulus[0, 0])

    @property
    def shear(self) -> float:
        """G_c d²/t_c, N/m: what ASTM D7250 takes U to be."""
        return self.core_shear_modulus * self.distance**2 / self.core.thickness

    @property
    def core_strength(self) -> float:
        """Shear strength of the core along x, Pa; the weakest of its layers."""
        return shear_strength_along(self.stack.layers[i] for i in self.core.layers)

    def core_value(self, key: str) -> float | None:
        """Least of a property among the core's layers; None where one does not state it."""
        materials = [self.stack.layers[i].material for i in self.core.layers]
        if any(key not in material.properties for material in materials):
            return None
        return min(material.value(key) for material in materials)

    def face_stack(self, face: Face) -> Stack:
        return Stack(tuple(self.stack.layers[i] for i in face.layers))

    def face_strength(self, face: Face, pulled: bool) -> float:
        """Force per width at which the first ply of a face fails, N/m; layers not counted on carry nothing."""
        stack = self.face_stack(face)
        return float(first_layer_strength(stack, np.zeros(1), pulled=pulled)[0]) * stack.thickness

    def wrinkling(self, face: Face) -> float:
        """Force per width at which a compressed face wrinkles by the design rule, N/m."""
        rule = WrinklingStress(self.stack, face, self.core, "design")
        return float(rule(axis_at(np.array(0.0)))) * face.thickness

    @property
    def crimping(self) -> float:
        """Compression at which the core crimps, N/m."""
        return crimping_load(np.array(self.core_shear_modulus), self.distance, self.core.thickness).item()

    def beam_failures(self, width: float, arm: float) -> dict[str, float]:
        """Force at each failure of a beam whose moment per force is ``arm``, m; face A is up and pressed."""
        top, bottom = self.section.faces
        per = self.distance * width / arm
        return {
            "core shear": 2.0 * self.core_strength * self.distance * width,
            "face A fails pressed": self.face_strength(top, False) * per,
            "face B fails pulled": self.face_strength(bottom, True) * per,
            "face A wrinkles": self.wrinkling(top) * per,
        }
