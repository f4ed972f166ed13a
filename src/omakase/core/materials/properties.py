"""The properties a material may carry: name, dimension, meaning and admissible range."""

from __future__ import annotations

import msgspec


class PropertySpec(msgspec.Struct, frozen=True):
    """Meaning of one property.  ``dimension`` is a key of the unit tables; the range is in SI units."""

    symbol: str
    meaning: str
    dimension: str
    lower: float
    upper: float
    zero_allowed: bool = False


def _spec(
    symbol: str, meaning: str, dimension: str, lower: float, upper: float, zero_allowed: bool = False
) -> PropertySpec:
    return PropertySpec(symbol, meaning, dimension, lower, upper, zero_allowed)


_MODULUS = ("modulus", 1e3, 2e12)
_STRENGTH = ("strength", 1e3, 2e10)

PROPERTIES: dict[str, PropertySpec] = {
    "fibre_areal_mass": _spec("A_f", "dry cloth mass per area", "areal_mass", 0.005, 10.0),
    "fibre_density": _spec("ρ_f", "density of the fibre", "density", 500.0, 10000.0),
    "resin_density": _spec("ρ_m", "density of the cured resin", "density", 500.0, 3000.0),
    "resin_mass_fraction": _spec("W_m", "resin share of the cured ply's mass", "ratio", 0.02, 0.98),
    "density": _spec("ρ", "density", "density", 5.0, 25000.0),
    "E1": _spec("E₁", "Young's modulus along 1 (fibre, warp, rolling or ribbon direction)", *_MODULUS),
    "E2": _spec("E₂", "Young's modulus along 2", *_MODULUS),
    "E3": _spec("E_z", "Young's modulus through the thickness", *_MODULUS),
    "G12": _spec("G₁₂", "in-plane shear modulus", *_MODULUS),
    "G13": _spec("G₁₃", "transverse shear modulus in 1-z; G_L of a honeycomb", *_MODULUS),
    "G23": _spec("G₂₃", "transverse shear modulus in 2-z; G_W of a honeycomb", *_MODULUS),
    "nu12": _spec("ν₁₂", "Poisson's ratio, contraction along 2 under stress along 1", "ratio", -1.0, 1.5, True),
    "Xt": _spec("X_t", "tensile strength along 1", *_STRENGTH),
    "Xc": _spec("X_c", "compressive strength along 1", *_STRENGTH),
    "Yt": _spec("Y_t", "tensile strength along 2", *_STRENGTH),
    "Yc": _spec("Y_c", "compressive strength along 2", *_STRENGTH),
    "S12": _spec("S₁₂", "in-plane shear strength", *_STRENGTH),
    "S13": _spec("S₁₃", "transverse shear strength in 1-z; interlaminar strength; L of a honeycomb", *_STRENGTH),
    "S23": _spec("S₂₃", "transverse shear strength in 2-z; W of a honeycomb", *_STRENGTH),
    "Fu": _spec("F_tu", "ultimate tensile strength of a metal, whose X_t is its yield stress", *_STRENGTH),
    "Fbr": _spec("F_br", "bearing strength against a bolt, over diameter times thickness", *_STRENGTH),
    "e1t": _spec("ε_1t", "strain along the fibres of one direction at which they break pulled", "ratio", 1e-4, 1.0),
    "e1c": _spec("ε_1c", "the same, in compression", "ratio", 1e-4, 1.0),
    "g12u": _spec("γ_12u", "shear strain of one direction's layer at which its resin fails", "ratio", 1e-4, 1.0),
    "Zt": _spec("Z_t", "flatwise tensile strength", *_STRENGTH),
    "Zc": _spec("Z_c", "flatwise compressive (crushing) strength", *_STRENGTH),
    "harness": _spec("n", "harness of a satin: each thread shows over n − 1 of n crossings", "ratio", 3.0, 16.0),
    "alpha1": _spec("α₁", "thermal expansion along 1", "expansion", -2e-5, 5e-4, True),
    "alpha2": _spec("α₂", "thermal expansion along 2", "expansion", -2e-5, 5e-4, True),
    "elongation": _spec("ε_b", "elongation at break", "ratio", 0.001, 5.0),
    "crimp": _spec("k_c", "share of a straight fibre's stiffness that the weave keeps", "ratio", 0.5, 1.0),
    "roll_width": _spec("b", "width of the roll", "length", 0.005, 10.0),
    "drape": _spec("", "drape, from 1 stiff to 5 falls into any shape", "ratio", 1.0, 5.0),
    "pick_up": _spec("", "resin pick-up by hand, from 1 little to 5 much", "ratio", 1.0, 5.0),
    "price_volume": _spec("", "price per volume of a core, in the shop's money per m³", "ratio", 0.0, 1e7, True),
    "price_mass": _spec("", "price per mass, in the shop's money per kg", "ratio", 0.0, 1e6, True),
    "price": _spec("", "price per area, in the shop's money per m²", "ratio", 0.0, 1e5, True),
    "tow": _spec("K", "thousands of filaments in a tow", "ratio", 0.05, 100.0),
    "glass_dry": _spec("T_g", "glass transition, dry", "temperature", 200.0, 700.0),
    "glass_wet": _spec("T_gw", "glass transition, wet", "temperature", 200.0, 700.0),
    "service_limit": _spec("T_max", "highest service temperature", "temperature", 250.0, 2000.0),
    "pot_life": _spec("", "pot life of 100 g at 23 °C", "duration", 30.0, 1e7),
    "hardener": _spec("", "hardener for each part of resin, by mass", "ratio", 0.001, 5.0),
    "hardener_volume": _spec("", "hardener for each part of resin, by volume", "ratio", 0.001, 5.0),
    "demould_time": _spec("", "time until demoulding at 23 °C, or in the stated cure", "duration", 60.0, 1e7),
    "full_time": _spec("", "time until full strength at 23 °C, or in the stated cure", "duration", 60.0, 1e7),
    "lap_shear": _spec("τ_l", "lap shear strength on abraded metal", *_STRENGTH),
    "plastic": _spec("γ_p", "shear strain of an adhesive beyond the elastic one", "ratio", 0.0, 10.0, True),
    "gap_low": _spec("", "thinnest bond line of an adhesive", "length", 1e-6, 0.05),
    "gap_high": _spec("", "thickest bond line of an adhesive", "length", 1e-6, 0.05),
    "peel": _spec("", "peel, force per width", "line_load", 10.0, 1e5),
    "cell_size": _spec("s", "honeycomb cell size, diameter of the inscribed circle", "length", 0.0005, 0.1),
    "conductive": _spec("", "conducts electricity: 1 for metal foil honeycomb, 0 otherwise", "ratio", 1.0, 1.0, True),
    "open_cells": _spec("", "cells open to water and resin at a cut: 1 open, 0 closed", "ratio", 1.0, 1.0, True),
    "resin_uptake": _spec("u", "resin taken up by the core per face", "areal_mass", 0.0, 5.0, True),
}

_STIFFNESS = ("E1", "E2", "G12", "G13", "G23", "nu12")
_PLANE_STRENGTH = ("Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23")

REQUIRED: dict[str, tuple[str, ...]] = {
    "ply": (
        "fibre_areal_mass",
        "fibre_density",
        "resin_density",
        "resin_mass_fraction",
        *_STIFFNESS,
        *_PLANE_STRENGTH,
    ),
    "sheet": ("density", *_STIFFNESS, *_PLANE_STRENGTH),
    "core": ("density", *_STIFFNESS, "E3", "S13", "S23", "Zc", "resin_uptake"),
    "fibre": ("density", "E1", "E2", "G12", "nu12", "alpha1", "alpha2", "Xt", "Xc"),
    "resin": ("density", "E1", "nu12", "alpha1", "Xt", "Xc", "S12"),
    "adhesive": ("density", "lap_shear"),
    "cloth": ("fibre_areal_mass", "crimp"),
}
# What a sheet (plywood, say) must have besides to serve as a core.
REQUIRED_AS_CORE: tuple[str, ...] = ("E3", "Zc")
