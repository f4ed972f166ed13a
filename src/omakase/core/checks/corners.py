"""Rounded corners of flanges that hold a skin: its pull opens them and may part their plies."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.bend import RADIAL_SHARE, BendStress, radial_strength
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.members.field import Place
from omakase.core.members.rib import RibResponse
from omakase.core.members.spar import SparResponse
from omakase.core.plates.section import PlateSection

FLANGED = {"channel": ("web", 1), "z": ("web", 1), "hat": ("sides", 2)}  # wall beside the corners, flanges that share


@register(
    "flange_corner", "The corner of a flange is pulled open by the skin that it holds",
    "Load along the member as a pull of the skin on one edge, at the middle of the bond or of the flange, as a moment "
    "that opens the corner; radial stress of a ring sector of orthotropic layers (Lekhnitskii 1968), as of a bracket",
    "Channels, Z and hats with rounded corners of a laminate without core; the skin carries none of the moment: on "
    "the safe side. Bending also presses flanges inward, which closes the corners and does not open them.",
    ("Zt", "S13"), per="member",
)  # fmt: skip
def flange_corner(context: Context) -> list[CheckResult]:
    """One result per load case that loads a member with such corners along its length."""
    response = context.response
    if not isinstance(response, SparResponse) or response.member.shape.outline not in FLANGED:
        return []
    shape = response.member.shape
    wall, flanges = FLANGED[shape.outline]
    bond = response.rib.bond if isinstance(response, RibResponse) else response.member.bond
    arm = (bond or (shape.foot if shape.outline == "hat" else float(shape.width.first))) / 2.0
    parting = np.zeros(len(response.x))  # index per moment per width
    weakest: dict[int, tuple[int, Layer]] = {}  # number of the layer among all walls, and the layer
    for stretch, at, plate in response.wall_at(wall):
        found = _parting(plate, shape.radius)
        if found is not None:
            parting[at] = found[0]
            weakest |= dict.fromkeys(at.tolist(), (stretch.rows[found[1]], plate.stack.layers[found[1]]))
    results = []
    for result in response.results:
        index = np.abs(result.diagrams.load) / flanges * arm * parting
        k = int(np.argmax(index))
        if index[k] <= 0.0:
            continue
        number, layer = weakest[k]
        stated = radial_strength(layer)[1]
        told = f"the radial strength is taken as {RADIAL_SHARE:g} of S13: a curved-beam test gives it"
        results.append(
            context.result(
                "flange_corner", "Corner pulled open by the skin", result.case,
                float(index[k]) * context.settings.ultimate_factor, 1.0,
                Place(float(response.x[k]), layer=number, wall=wall),
                method="radial stress of a ring sector under the pull of the skin on the flange",
                source=layer.material.source(("Zt",)) if stated else "assumed",
                remarks=() if stated else (told,), wall=wall,
            )
        )  # fmt: skip
    return results


def _parting(plate: PlateSection, radius: float) -> tuple[float, int] | None:
    """(radial stress over strength under 1 N m/m, in which layer) in a corner of an outside ``radius``; None where
    there are no plies to part: a sharp corner, a core, a metal."""
    layers = plate.stack.layers
    inside = radius - plate.stack.thickness
    if inside <= 0.0 or plate.faces or all(layer.material.is_metal for layer in layers):
        return None
    inward = layers[::-1]  # face A is the outside
    bend = BendStress(Stack(inward), inside, wide=True)
    return max((float(bend.radial[k]) / radial_strength(inward[i])[0], len(layers) - 1 - i) for k, i in bend.borders())
