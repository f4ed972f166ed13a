"""A cloth laid up another way: more or less resin, and what that does to its thickness, stiffness and strength."""

from __future__ import annotations

import msgspec

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import fibre_volume_fraction, resin_mass_fraction
from omakase.core.materials.material import Material
from omakase.core.materials.micromechanics import SHEAR_XI, TRANSVERSE_XI, halpin_tsai
from omakase.core.materials.provenance import Source, Sourced

RESIN_MODULUS, RESIN_POISSON = 3.2e9, 0.35  # a cured epoxy (assumed); only the shear modulus's scaling uses it
FIBRE_MODULUS_ACROSS = {"carbon": 15e9, "glass": 73e9, "basalt": 87e9, "aramid": 4.5e9}  # the same
FIBRE_SHEAR_MODULUS = {"carbon": 20e9, "glass": 30e9, "aramid": 3e9}  # assumed; the ratio depends on it only a little


class Process(msgspec.Struct, frozen=True):
    """How a cloth is laid up.

    Compaction fixes the fibre volume fraction, whatever the fibre weighs: ``volume_fraction`` in cloth and
    ``mat_fraction`` in random mat (common practice, no source).  ``by_mass`` : resin as heavy as the cloth instead.
    """

    name: str
    volume_fraction: float
    mat_fraction: float
    by_mass: bool = False

    @property
    def label(self) -> str:
        """Name and what it leaves in cloth, for a choice."""
        return self.name if self.by_mass else f"{self.name} (V_f {self.volume_fraction:.2f})"

    def resin_fraction(self, fibre_density: float, resin_density: float, mat: bool = False) -> float:
        """Resin mass fraction that it leaves in a cloth, or in a ``mat``; densities in kg/m³."""
        if self.by_mass and not mat:
            return 0.5
        volume = self.mat_fraction if mat else self.volume_fraction
        return resin_mass_fraction(volume, fibre_density, resin_density)


PROCESSES: dict[str, Process] = {
    "one_to_one": Process("by hand, resin as heavy as the cloth", 0.40, 0.16, True),
    "bagged": Process("by hand, under vacuum", 0.47, 0.22),
    "infused": Process("infused", 0.54, 0.26),
    "prepreg": Process("prepreg", 0.56, 0.26),
}


def with_resin(material: Material, resin_mass_fraction: float, route: str, measured: bool = False) -> Material:
    """The same cloth with another resin mass fraction.

    Properties of the fibres are proportional to the fibre volume fraction (E1, X; for cloth E2, Y too); the shear
    moduli and a unidirectional ply's E2 by the ratio of Halpin and Tsai's equation; the strengths of the resin are not
    changed, since they change little.  Values that move are marked estimated, with the route. ``measured`` tells that
    the fraction itself was weighed or measured.  Raises MaterialError for a material that is not a ply or a fraction
    out of range.
    """
    if material.kind != "ply":
        raise MaterialError(f"'{material.id}' is no cloth with resin")
    densities = material.value("fibre_density"), material.value("resin_density")
    before = fibre_volume_fraction(material.value("resin_mass_fraction"), *densities)
    after = fibre_volume_fraction(resin_mass_fraction, *densities)
    note = f"scaled from V_f {before:.3f} to {after:.3f}: {route}"
    properties = dict(material.properties)
    for key in ("E1", "Xt", "Xc", *(("E2", "Yt", "Yc") if material.is_woven else ())):
        properties[key] = Sourced(material.value(key) * after / before, "estimated", note)
    resin = RESIN_MODULUS / (2.0 * (1.0 + RESIN_POISSON))
    fibre = FIBRE_SHEAR_MODULUS.get(material.family, 20e9)
    ratio = halpin_tsai(fibre, resin, after, SHEAR_XI) / halpin_tsai(fibre, resin, before, SHEAR_XI)
    ratios = dict.fromkeys(("G12", "G13", "G23"), ratio)
    if not material.is_woven:
        across = FIBRE_MODULUS_ACROSS.get(material.family, 10e9)
        ratios["E2"] = halpin_tsai(across, RESIN_MODULUS, after, TRANSVERSE_XI) / halpin_tsai(
            across, RESIN_MODULUS, before, TRANSVERSE_XI
        )
    for key, factor in ratios.items():
        properties[key] = Sourced(material.value(key) * factor, "estimated", f"Halpin–Tsai, {note}")
    source: Source = "tested" if measured else "estimated"
    properties["resin_mass_fraction"] = Sourced(resin_mass_fraction, source, route)
    return msgspec.structs.replace(material, properties=properties)


def resin_fraction_from_thickness(material: Material, thickness: float) -> float:
    """Resin mass fraction of a void-free ply of measured ``thickness`` in m; the inverse of the cured thickness.

    t = A_f/ρ_f + A_m/ρ_m gives A_m (ASTM D3171 for zero voids).  Raises MaterialError for a ply thinner than its
    fibres alone.
    """
    cloth = material.value("fibre_areal_mass")
    resin = (thickness - cloth / material.value("fibre_density")) * material.value("resin_density")
    if not resin > 0.0:
        raise MaterialError("thinner than the fibres alone: was it several plies, or another cloth?")
    return resin / (resin + cloth)
