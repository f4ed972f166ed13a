"""What a material keeps of its strength where the part works: heat and water in the resin, a thick honeycomb.

Both are factors on strengths, with the reason beside them.  Stiffness is not changed, so deflection and frequency in
the heat are not judged.
"""

from __future__ import annotations

from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Sourced, least_trusted

ROOM = 296.15  # K, at which strengths are stated
WET_LOSS = 20.0  # K by which a dry resin's transition lies higher, where only the wet one is known (no source)
LEAST = 0.05  # of the strength that is left to count with at the transition and above
# what the resin carries: all but the pull of fibres along themselves
RESIN_BORNE = ("Xc", "S12", "S13", "S23", "e1c", "g12u")
RESIN_BORNE_ACROSS = ("Yt", "Yc")
# thickness at which the shear strength of a honeycomb is stated, m: of paper, and of metal foil (from memory)
TESTED_AT, TESTED_AT_METAL = 0.0127, 0.0159
THICKNESS_POWER = -0.2  # of strength over thickness, set to handbook curves for 6 to 50 mm (from memory)


def transition(material: Material, wet: bool) -> float:
    """Glass transition in K of a ply's resin, dry or wet; a dry one not stated lies 20 K above the wet."""
    wet_one = material.value("glass_wet")
    if wet:
        return wet_one
    return material.value("glass_dry") if "glass_dry" in material.properties else wet_one + WET_LOSS


@lru_cache(maxsize=1024)
def heat_factor(material: Material, temperature: float, wet: bool) -> float:
    """Share of the room-temperature dry strength that the resin of a ply keeps at ``temperature`` in K.

    √((T_g − T)/(T_g,dry − T_room)) with the wet transition where the part gets wet: Chamis, NASA TM-83320 (1983), for
    what the matrix carries.  Never above one; 0.05 from the transition on.  One for what states no transition.
    """
    if material.kind != "ply" or "glass_wet" not in material.properties:
        return 1.0
    share = (transition(material, wet) - temperature) / max(transition(material, False) - ROOM, 1.0)
    return float(np.clip(np.sqrt(max(share, 0.0)), LEAST, 1.0))


def thickness_factor(material: Material, thickness: float) -> float:
    """Share of its stated shear strength that a honeycomb of ``thickness`` in m has: (t/t_tested)^−0.2, at most one.

    A thin one is not counted as stronger.  One for other cores, and where the strength was tested by the user.
    """
    tested = any(material.properties[key].source == "tested" for key in ("S13", "S23") if key in material.properties)
    if material.kind != "core" or material.family != "honeycomb" or tested:
        return 1.0
    metallic = material.properties.get("conductive")
    reference = TESTED_AT_METAL if metallic is not None and metallic.value > 0.0 else TESTED_AT
    return float(min(1.0, (thickness / reference) ** THICKNESS_POWER))


def in_service(material: Material, thickness: float | None, temperature: float, wet: bool) -> Material:
    """The material with the strengths it has there; itself where nothing changes."""
    heat = heat_factor(material, temperature, wet)
    thick = 1.0 if thickness is None else thickness_factor(material, thickness)
    if heat == thick == 1.0:
        return material
    return _weakened(material, round(heat, 6), round(thick, 6), round(temperature, 3), wet)


@lru_cache(maxsize=1024)
def _weakened(material: Material, heat: float, thick: float, temperature: float, wet: bool) -> Material:
    """Kept, so that a layup that is edited finds the same record again."""
    properties, reasons = dict(material.properties), list(material.conditions)
    if heat < 1.0:
        keys = (*RESIN_BORNE, *(("Yc",) if material.is_woven else RESIN_BORNE_ACROSS))
        celsius = f"{temperature - 273.15:.0f} °C ({(temperature - 273.15) * 1.8 + 32.0:.0f} °F)"
        reasons.append(
            f"× {heat:.2f} on what the resin of {material.id} carries at {celsius}, {'wet' if wet else 'dry'} (Chamis)"
        )
        _scale(properties, dict.fromkeys(keys, heat), reasons[-1])
    if thick < 1.0:
        reasons.append(f"× {thick:.2f} on the shear strength of {material.id}: thicker than the honeycomb tested")
        _scale(properties, dict.fromkeys(("S13", "S23"), thick), reasons[-1])
    return msgspec.structs.replace(material, properties=properties, conditions=tuple(reasons))


def _scale(properties: dict[str, Sourced], factors: dict[str, float], note: str) -> None:
    for key, factor in factors.items():
        if key in properties:
            old = properties[key]
            source = least_trusted([old.source, "estimated"])
            properties[key] = Sourced(old.value * factor, source, note)
