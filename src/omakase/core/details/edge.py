"""The edge of a sandwich: run out to a solid flange, or closed square; and a tongue of laminate between its faces."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.details.detail import (
    DetailError,
    LineCase,
    Site,
    bending_across,
    core_layers,
    faces,
    turned,
)
from omakase.core.errors import both_units
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd, layer_stiffness
from omakase.core.materials.material import Material

Closing = Literal["run_out", "potted", "wrap", "strip", "tape", "open"]
GENTLE = 30.0  # degrees; run-outs are usually 20 to 30 degrees (common practice, no source)
POTTED_WIDTH, TAPE_OVERLAP, TAPE_MASS = 0.008, 0.02, 0.12  # m, m on each face, kg/m²: usual sizes (no source)
OPEN_CELLS = ("honeycomb", "wood", "mat", "printed")


class Edge(msgspec.Struct, frozen=True, eq=False, dict=True):
    """The edge of the site's sandwich; ``angle`` : direction across it, degrees from x toward y.

    *run_out*: the face that is not ``flat`` comes down at ``slope`` degrees to a solid ``flange``, ``width`` m
    wide, held along its middle.  *potted*: ``width`` m of core filled with ``filler``; *strip*: the same, solid;
    *wrap*: ``wrap`` laid round it, overlapping by ``width`` m on both faces; *tape*; *open*.  ``tongue`` : a laminate
    through the core that ties the faces where the slope begins, None without.
    """

    key: str
    name: str
    site: Site
    cases: tuple[LineCase, ...]
    closing: Closing = "run_out"
    slope: float = 30.0
    width: float = 0.02
    flat: Literal["face_a", "face_b"] = "face_a"
    angle: float = 0.0
    flange: Stack | None = None
    wrap: Stack | None = None
    filler: Material | None = None
    tongue: Stack | None = None

    def check(self) -> None:
        """Raises DetailError for sizes that cannot be."""
        for fails, field, message in (
            (self.site.stack.core is None and self.closing not in ("open", "tape"), "x",
             "there is no core here: nothing to close"),
            (
                self.closing == "run_out" and not 5.0 <= self.slope <= 90.0,
                "slope",
                "a slope lies between 5 and 90 degrees",
            ),
            (not 1e-3 <= self.width <= 0.5, "width", f"a width of {both_units(self.width)} is outside 1 to 500 mm"),
        ):  # fmt: skip
            if fails:
                raise DetailError(field, message)

    # --- run-out ----------------------------------------------------------------------------------------------------

    @cached_property
    def sheets(self) -> tuple[Stack, Stack]:
        """(the flat face, the face that comes down)."""
        face_a, face_b = faces(self.site.stack)
        return (face_a, face_b) if self.flat == "face_a" else (face_b, face_a)

    @property
    def core_top(self) -> float:
        """Thickness of face A, m."""
        return faces(self.site.stack)[0].thickness

    @property
    def core_bottom(self) -> float:
        """Thickness of face B, m."""
        return faces(self.site.stack)[-1].thickness

    @property
    def distance(self) -> float:
        """m between the faces' middles."""
        return self.site.stack.thickness - sum(face.thickness for face in self.sheets) / 2.0

    @property
    def run(self) -> float:
        """Length of the slope, m."""
        core = sum(layer.thickness for layer in core_layers(self.site.stack))
        return core / math.tan(math.radians(self.slope))

    def face_load(self, case: LineCase) -> float:
        """N/m in the face that comes down, where its slope begins, pull positive.

        The flange is supported along its middle and takes no moment: the load on it, ``opening``, bends the section by
        its distance from there.  The pull goes through the flat face, in whose plane the flange lies (statics).
        """
        moment = case.opening * (self.run + self.width / 2.0)
        return moment / self.distance * (1.0 if self.flat == "face_a" else -1.0)

    def turned_load(self, case: LineCase) -> float:
        """N/m that the kink puts on the core, positive pressing it: N sin α."""
        return self.face_load(case) * math.sin(math.radians(self.slope))

    @cached_property
    def bending(self) -> float:
        """Bending stiffness of the face that comes down, across the edge, N m."""
        return bending_across(self.sheets[1], self.angle)

    @cached_property
    def under_line(self) -> tuple[float, float]:
        """(1/m, m): largest stress of the core, and moment of the face, per N/m of a line load on that face.

        The face as a beam on a core that stretches through its thickness and shears, held on the other face: under a
        wave of k per m it presses back with K = √(E_z G) k coth(k t_c √(G/E_z)); thus (1/π) ∫ K/(D k⁴ + K) dk and
        (1/π) ∫ D k²/(D k⁴ + K) dk.  A bed of springs alone, K = E_z/t_c, gives up to a third less than
        finite elements do.
        """
        layers = core_layers(self.site.stack)
        height = sum(layer.thickness for layer in layers)
        E = height / sum(layer.thickness / layer.material.value("E3") for layer in layers)
        c, s = math.cos(math.radians(self.angle)), math.sin(math.radians(self.angle))
        G = height / sum(
            layer.thickness / (c * c * layer.material.value("G13") + s * s * layer.material.value("G23"))
            for layer in layers
        )
        k = np.geomspace(1e-2 / height, 300.0 / min(height, self.sheets[1].thickness), 2000)
        back = math.sqrt(E * G) * k / np.tanh(k * height * math.sqrt(G / E))
        whole = self.bending * k**4 + back
        return float(np.trapezoid(back / whole, k)) / math.pi, float(
            np.trapezoid(self.bending * k**2 / whole, k)
        ) / math.pi

    @property
    def steep(self) -> float:
        """What a slope beyond 30 degrees adds to the stress at the kink: 1.8 times at 60 (own finite elements)."""
        return 1.0 + 0.8 * max(0.0, self.slope - GENTLE) / GENTLE

    def core_stress(self, case: LineCase) -> float:
        """Stress of the core through its thickness under the kink, Pa, positive pressed."""
        return self.turned_load(case) * self.under_line[0] * self.steep

    def face_moment(self, case: LineCase) -> float:
        """Moment of that face at the kink, N."""
        return abs(self.turned_load(case)) * self.under_line[1]

    def flange_moment(self, case: LineCase) -> float:
        """Moment of the flange where the slope ends, N: what it holds up times half its width."""
        return abs(case.opening) * self.width / 2.0

    # --- closings -------------------------------------------------------------------------------------------------

    @property
    def mass(self) -> float:
        """kg/m that closing the edge adds, without what it takes the place of."""
        core = sum(layer.thickness for layer in core_layers(self.site.stack))
        if self.closing in ("potted", "strip") and self.filler is not None:
            replaced = sum(layer.thickness * layer.material.value("density") for layer in core_layers(self.site.stack))
            return self.width * (core * self.filler.value("density") - replaced)
        if self.closing == "wrap" and self.wrap is not None:
            areal = sum(self.wrap.areal_mass().values())
            return areal * (self.site.stack.thickness + 2.0 * self.width)
        if self.closing == "tape":
            return TAPE_MASS * (self.site.stack.thickness + 2.0 * TAPE_OVERLAP)
        if self.closing == "run_out" and self.flange is not None:
            return self.width * sum(self.flange.areal_mass().values())
        return 0.0

    @property
    def absorbs_water(self) -> bool:
        """Whether the core takes up water at the edge: it lies open, or has open cells under no more than a tape."""
        layers = core_layers(self.site.stack)
        opened = any(
            layer.material.properties["open_cells"].value > 0.0 if "open_cells" in layer.material.properties
            else layer.material.family in OPEN_CELLS
            for layer in layers
        )  # fmt: skip
        return bool(layers) and (self.closing == "open" or (opened and self.closing == "tape"))

    # --- free edge --------------------------------------------------------------------------------------------------

    def parting(self, pull: float) -> tuple[float, int]:
        """(largest stress that parts layers at a free edge, Pa; below which layer) of a laminate pulled by ``pull`` N/m
        along the edge, which runs across ``angle``.

        Stresses across the edge that the layers would have far from it must vanish at it; their moment about an
        interface is carried by stress through the thickness within about one thickness of the edge, the largest
        90 M/(7 h²) (Pagano and Pipes 1973, from memory).  An index to rank stacking orders by, not a strength.
        """
        stack = turned(self.site.stack, 90.0 - self.angle)  # x along the edge
        A, _, _ = laminate_abd(stack)
        strain = np.linalg.solve(A, np.array([pull, 0.0, 0.0]))
        across = [float((layer_stiffness(layer) @ strain)[1]) if layer.structural else 0.0 for layer in stack.layers]
        worst = (0.0, 0)
        for k in range(len(stack.layers) - 1):
            z = float(stack.z_bottom[k])
            moment = sum(
                across[i] * layer.thickness * ((stack.z_top[i] + stack.z_bottom[i]) / 2.0 - z)
                for i, layer in enumerate(stack.layers[: k + 1])
            )
            stress = 90.0 / 7.0 * float(moment) / stack.thickness**2
            worst = max(worst, (stress, k))
        return worst
