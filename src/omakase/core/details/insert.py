"""An insert: potted part of the way or through, a glued bush, a plate laid in under a face, a wooden plug."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.details.detail import (
    DetailError,
    PointCase,
    Site,
    bending_stiffness,
    core_layers,
    faces,
)
from omakase.core.errors import both_units
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd
from omakase.core.materials.material import Material

Kind = Literal["potted", "through", "bush", "plate", "plug"]
ROUND = ("potted", "through", "bush")
LOOKED_AT = np.geomspace(1.0, 30.0, 600)  # radii over that of the potting, at which core shear is looked for


class Insert(msgspec.Struct, frozen=True, eq=False, dict=True):
    """An insert of ``diameter`` m with what is round it.

    *potted*: in a hole ``potting`` m across and ``depth`` m deep from face A, filled with ``filler``; *through*: the
    same from face to face; *bush*: a tube glued into laminate and core; *plate*: of metal, ``length`` × ``width``,
    ``thickness`` m, laid in under face A; *plug*: a block of ``filler`` for the core, as large.  ``glue`` : holds bush
    and plate, with what is left of its strength ``kept``.  ``tested`` : pull-out load of a test in N, None without one.
    """

    key: str
    name: str
    site: Site
    cases: tuple[PointCase, ...]
    kind: Kind = "through"
    diameter: float = 0.01
    potting: float = 0.02
    depth: float = 0.008
    length: float = 0.04
    width: float = 0.03
    thickness: float = 0.002
    filler: Material | None = None
    glue: Material | None = None
    kept: float = 1.0
    tested: float | None = None
    tested_by: str = ""

    def check(self) -> None:
        """Raises DetailError for sizes that cannot be."""
        cored = self.site.stack.core is not None
        for fails, field, message in (
            (not 1e-3 <= self.diameter <= 0.2, "diameter",
             f"a diameter of {both_units(self.diameter)} is outside 1 to 200 mm"),
            (not cored and self.kind != "bush", "what", "there is no core here: use a bush, or bolts"),
            (self.kind in ("potted", "through") and self.potting < self.diameter, "potting",
             f"the potting of {both_units(self.potting)} is narrower than the insert"),
            (self.kind == "potted" and not 0.0 < self.depth <= self.site.stack.thickness, "depth",
             f"the potting is {both_units(self.depth)} deep, the laminate is {both_units(self.site.stack.thickness)}"),
            (self.kind in ("plate", "plug") and min(self.length, self.width) < self.diameter, "width",
             "it is smaller than what goes into it"),
            (self.kind == "plate" and not 0.0 < self.thickness < self.core_height, "thickness",
             "the plate is as thick as the core or thicker"),
            (self.site.nearest < self.radius, "x",
             f"the edge is {both_units(self.site.nearest)} away: it reaches beyond"),
            (self.tested is not None and self.tested <= 0.0, "tested", "a pull-out load is more than zero"),
        ):  # fmt: skip
            if fails:
                raise DetailError(field, message)

    @cached_property
    def faces(self) -> tuple[Stack, ...]:
        return faces(self.site.stack)

    @cached_property
    def core_height(self) -> float:
        """m of core."""
        return sum(layer.thickness for layer in core_layers(self.site.stack))

    # --- the block that the core holds --------------------------------------------------------------------------

    @cached_property
    def radius(self) -> float:
        """Radius of the body that the core holds, m; for a rectangle that of a circle of the same circumference.

        In honeycomb resin fills cells to some depth beyond the hole: at least 0.932 b + 0.874 s − 0.66 mm of an insert
        of radius b in cells of size s (ESA PSS-03-1202, least value; from memory).
        """
        if self.kind not in ROUND:
            return (self.length + self.width) / math.pi
        own = (self.diameter if self.kind == "bush" else self.potting) / 2.0
        cells = [
            layer.material.value("cell_size") for layer in core_layers(self.site.stack)
            if "cell_size" in layer.material.properties
        ]  # fmt: skip
        if not cells or self.kind == "bush":
            return own
        return max(own, 0.93192 * self.diameter / 2.0 + 0.874 * min(cells) - 0.66151e-3)

    @property
    def held_depth(self) -> float:
        """Depth over which the core holds it, m: from middle to middle of the faces where it goes through."""
        face_a = self.faces[0].thickness
        if self.kind == "potted":
            return min(max(self.depth - face_a / 2.0, 1e-9), self.core_height)
        if self.kind == "plate":
            return self.thickness + face_a / 2.0
        return self.site.stack.thickness - (face_a + self.faces[-1].thickness) / 2.0

    @property
    def is_through(self) -> bool:
        """Whether it reaches both faces."""
        return self.kind in ("through", "bush", "plug")

    @property
    def rim(self) -> float:
        """Length round what the core holds, m."""
        return 2.0 * math.pi * self.radius if self.kind in ROUND else 2.0 * (self.length + self.width)

    @property
    def tilting(self) -> float:
        """Moment over the largest shear per length round it, m²: π r²; of a rectangle about its long axis."""
        if self.kind in ROUND:
            return math.pi * self.radius**2
        a, b = min(self.length, self.width), max(self.length, self.width)
        return (b * a**2 / 2.0 + a**3 / 6.0) / (a / 2.0)

    def core_stress(self, case: PointCase) -> float:
        """Largest shear stress of the core round it, Pa at limit load: of the force P/(u h), of the moment M/(W h)."""
        return (abs(case.pull) / self.rim + abs(case.moment) / self.tilting) / self.held_depth

    def pulled_by(self, case: PointCase) -> float:
        """The pull that gives the same stress of the core as pull and moment together, N."""
        return self.core_stress(case) * self.rim * self.held_depth

    # --- what the faces carry -------------------------------------------------------------------------------------

    @cached_property
    def faces_share(self) -> float:
        """Largest shear stress of the core beside an insert that goes through, over that of the force alone at its rim.

        A rigid potting keeps the core beside it from shearing, and the faces carry the force there by their own
        bending: γ'' + γ'/r − (1/r² + α²) γ = −α² P/(2π r S) with γ = 0 at the rim, thus γ ∝ r_p/r − K1(α r)/K1(α r_p),
        times D0/(D0 + D_f); α² = S (D0 + D_f)/(D0 D_f), S = G d²/t_c, D_f the faces' own bending stiffness, D0 that of
        the faces at their distance (as Ericksen 1953 for sandwich plates pressed by an insert; derived anew).
        """
        from scipy.special import k1e  # slow to import

        if not self.is_through or self.site.stack.core is None:
            return 1.0
        distance = self.held_depth
        own = sum(bending_stiffness(face) for face in self.faces)
        A = [float(np.sqrt(np.prod(np.diag(laminate_abd(face)[0])[:2]))) for face in self.faces]
        far = distance**2 * A[0] * A[1] / (A[0] + A[1])
        layers = core_layers(self.site.stack)
        flexible = sum(
            layer.thickness / math.sqrt(layer.material.value("G13") * layer.material.value("G23")) for layer in layers
        )
        shear = distance**2 / flexible
        alpha = math.sqrt(shear * (far + own) / (far * own))
        x = alpha * self.radius
        stress = 1.0 / LOOKED_AT - k1e(x * LOOKED_AT) / k1e(x) * np.exp(-x * (LOOKED_AT - 1.0))
        return float(stress.max()) * far / (far + own)
