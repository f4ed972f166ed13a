"""Sum of the layers, from cloth and resin mass of cloth and resin: fibre volume fraction, cured thickness and mass."""

from __future__ import annotations

from functools import lru_cache

from omakase.core.errors import MaterialError
from omakase.core.materials.material import Material


def fibre_volume_fraction(resin_mass_fraction: float, fibre_density: float, resin_density: float) -> float:
    """Fibre volume fraction V_f of a void-free ply.

    V_f = (W_f/ρ_f) / (W_f/ρ_f + W_m/ρ_m) with W_f = 1 − W_m, the relation of ASTM D3171 for zero voids.
    ``resin_mass_fraction`` in (0, 1); densities in kg/m³.  Raises MaterialError outside these ranges.
    """
    if not 0.0 < resin_mass_fraction < 1.0:
        raise MaterialError(f"a resin mass fraction of {resin_mass_fraction:g} is not between 0 and 1")
    if fibre_density <= 0.0 or resin_density <= 0.0:
        raise MaterialError("densities must be positive")
    fibre = (1.0 - resin_mass_fraction) / fibre_density
    return fibre / (fibre + resin_mass_fraction / resin_density)


def resin_mass_fraction(volume_fraction: float, fibre_density: float, resin_density: float) -> float:
    """Resin mass fraction of a void-free ply of a fibre volume fraction: the inverse of ``fibre_volume_fraction``."""
    if not 0.0 < volume_fraction < 1.0:
        raise MaterialError(f"a fibre volume fraction of {volume_fraction:g} is not between 0 and 1")
    resin = (1.0 - volume_fraction) * resin_density
    return resin / (resin + volume_fraction * fibre_density)


def cured_thickness(fibre_areal_mass: float, fibre_density: float, volume_fraction: float) -> float:
    """Thickness in m of a ply: t = A_f/(ρ_f V_f); areal mass in kg/m², density in kg/m³."""
    return fibre_areal_mass / (fibre_density * volume_fraction)


@lru_cache(maxsize=1024)
def ply_thickness(material: Material) -> float:
    """Cured thickness in m of a ply material from the areal masses of cloth and resin."""
    volume_fraction = fibre_volume_fraction(
        material.value("resin_mass_fraction"), material.value("fibre_density"), material.value("resin_density")
    )
    return cured_thickness(material.value("fibre_areal_mass"), material.value("fibre_density"), volume_fraction)


def ply_masses(material: Material) -> tuple[float, float]:
    """Mass per area in kg/m² of the (cloth, resin) of a ply material: A_f and A_f W_m/(1 − W_m)."""
    cloth = material.value("fibre_areal_mass")
    share = material.value("resin_mass_fraction")
    return cloth, cloth * share / (1.0 - share)
