"""A cloth laid up another way: more or less resin, and what that does to its thickness, stiffness and strength."""

from __future__ import annotations

import msgspec

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import fibre_volume_fraction
from omakase.core.materials.material import Material
from omakase.core.materials.micromechanics import SHEAR_XI, halpin_tsai
from omakase.core.materials.provenance import Source, Sourced

RESIN_MODULUS, RESIN_POISSON = 3.2e9, 0.35  # a cured epoxy (assumed); only the shear modulus's scaling uses it
FIBRE_SHEAR_MODULUS = {"carbon": 20e9, "glass": 30e9, "aramid": 3e9}  # assumed; the ratio hangs on it but little


class Process(msgspec.Struct, frozen=True):
    """How a cloth is laid up, and the resin mass fraction it leaves in cloth and in mat (common practice)."""

    name: str
    resin_mass_fraction: float
    mat_fraction: float

    @property
    def label(self) -> str:
        """Name and what it leaves in cloth, for a choice."""
        return f"{self.name} ({self.resin_mass_fraction:.0%} resin)"


PROCESSES: dict[str, Process] = {
    "one_to_one": Process("by hand, resin as heavy as the cloth", 0.50, 0.70),
    "bagged": Process("by hand, under vacuum", 0.42, 0.60),
    "infused": Process("infused", 0.37, 0.55),
    "prepreg": Process("prepreg", 0.36, 0.55),
}


def with_resin(material: Material, resin_mass_fraction: float, route: str, measured: bool = False) -> Material:
    """The same cloth with another resin mass fraction.

    What the fibres carry goes with the fibre volume fraction (E1, X; for cloth E2, Y too); the shear moduli by the
    ratio of Halpin and Tsai's equation; what the resin carries (shear strengths, a unidirectional ply's E2 and Y) is
    left as it was, since it changes little.  Values that move are marked estimated, with the route.  ``measured``
    tells that the fraction itself was weighed or measured.  Raises MaterialError for a material that is no ply or a
    fraction out of range.
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
    for key in ("G12", "G13"):
        properties[key] = Sourced(material.value(key) * ratio, "estimated", f"Halpin–Tsai, {note}")
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
