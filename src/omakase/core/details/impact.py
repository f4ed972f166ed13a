"""How a face takes stones, dropped tools and heels: a rating with its reasons, never a reserve factor."""

from __future__ import annotations

from functools import cached_property
from typing import Literal

import msgspec

from omakase.core.details.detail import Site, core_layers, faces
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.areal import ply_masses

Threat = Literal["stones", "tool", "heel"]
LEVELS = ("poor", "fair", "good", "very good")
# J/m² that the fibres of a face take up until they break, ½ X²/E t, from which a face is fair, good, very good against
# each threat (common practice, no source: set so that known faces come out as workshops judge them)
BOUNDS = {"stones": (1e3, 2.5e3, 6e3), "tool": (2e3, 5e3, 12e3), "heel": (0.8e3, 2e3, 4e3)}
HEEL, SOFT = 0.6e6, 1.0e6  # Pa: a person's heel, and the flatwise strength below which a core does not carry it
TOUGH = {"aramid": 1.5, "polyester": 1.5, "polypropylene": 1.6, "glass": 1.2, "basalt": 1.2, "flax": 0.9, "carbon": 0.8}
FLOWS = 0.05  # strain by which a metal flows before it tears, as far as that is counted
THREATS: dict[str, str] = {"stones": "stones", "tool": "a dropped tool", "heel": "a person's heel"}


class Rating(msgspec.Struct, frozen=True):
    """``level`` in words, and its ``reasons``."""

    level: str
    reasons: tuple[str, ...]


class ImpactFace(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A face of the site's laminate, and what strikes it."""

    key: str
    name: str
    site: Site
    cases: tuple[()] = ()
    side: Literal["face_a", "face_b"] = "face_a"
    threat: Threat = "stones"

    @cached_property
    def face(self) -> Stack:
        """The laminate that is struck."""
        sheets = faces(self.site.stack)
        return sheets[0] if self.side == "face_a" else sheets[-1]

    @cached_property
    def outer(self) -> tuple[Layer, ...]:
        """Its layers from the outside inward."""
        return self.face.layers if self.side == "face_a" else self.face.layers[::-1]

    @cached_property
    def energy(self) -> float:
        """J/m² that its fibres absorb until they break, by the impact toughness of their family: ½ X²/E t, the mean of
        both directions."""
        total = 0.0
        for layer in self.outer:
            own = layer.material
            each = [own.value(X) ** 2 / (2.0 * own.value(E)) for X, E in (("Xt", "E1"), ("Yt", "E2"))]
            flowing = own.value("Fu") * FLOWS if own.is_metal and "Fu" in own.properties else 0.0
            total += layer.thickness * (sum(each) / 2.0 * TOUGH.get(own.family, 1.0) + flowing)
        return total

    @cached_property
    def rating(self) -> Rating:
        """The level and why."""
        bounds = BOUNDS[self.threat]
        level = sum(self.energy >= bound for bound in bounds)
        reasons = [
            f"{self.mass * 1e3:.0f} g/m² of {self._families()} take up {self.energy * 1e-3:.1f} kJ/m² "
            f"(fair from {bounds[0] * 1e-3:g}, good from {bounds[1] * 1e-3:g})"
        ]
        core, change = self._core()
        level = max(0, min(len(LEVELS) - 1, level + change))
        return Rating(LEVELS[level], (*reasons, core, *self._fibres()))

    @property
    def mass(self) -> float:
        """kg/m² of the fibres, or of sheets."""
        return sum(
            ply_masses(layer.material)[0] if layer.material.kind == "ply"
            else layer.material.value("density") * layer.thickness
            for layer in self.outer
        )  # fmt: skip

    def _families(self) -> str:
        return ", ".join(dict.fromkeys(layer.material.family for layer in self.outer))

    def _core(self) -> tuple[str, int]:
        """(what the core adds or takes, by how many levels)."""
        layers = core_layers(self.site.stack)
        if not layers:
            return "solid: nothing behind it deforms", 0
        soft = min(layers, key=lambda layer: layer.material.value("Zc")).material
        strength = soft.value("Zc")
        if self.threat == "heel":
            told = (
                f"{soft.id} is crushed at {strength / 1e6:.1f} MPa, a heel presses with {HEEL / 1e6:.1f} MPa and more"
            )
            return told, 0 if strength >= SOFT else -1
        if soft.family == "honeycomb":
            return "honeycomb dents, and its bond to the face fails round a blow", -1
        if strength < SOFT:
            return f"{soft.id} is soft: it dents under a thin face", -1
        return f"{soft.id} supports the face elastically", 0

    def _fibres(self) -> tuple[str, ...]:
        """What aramid and other fibres change, and what they do not."""
        families = [layer.material.family for layer in self.outer]
        told = []
        if "carbon" in families:
            told.append("carbon breaks short: damage hides inside and weakens it in compression")
        if "aramid" in families:
            where = "outside" if families[0] == "aramid" else "inside"
            told.append(
                f"aramid {where} holds the pieces together; it adds little stiffness and no strength in compression"
            )
        elif families[0] == "glass":
            told.append("glass outside shows where it was struck")
        elif "carbon" in families:
            told.append(
                "a ply of aramid or glass outside would hold the pieces and show the blow; it adds little stiffness"
            )
        return tuple(told)
