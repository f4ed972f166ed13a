"""From cloth, resin and process to a ply, with the route of every number.

A cloth is taken as unidirectional layers on each other at its own angles, each carrying its share of the fibres, with
the stiffness reduced by the crimp of the weave; a random mat by the rule of Tsai and Pagano.  In a hybrid the two
fibres of a direction lie side by side; the one with the lower failure strain breaks first and governs.  The ply's
stiffness is the mean of its layers', its strength the load at the first failure of fibres or shear in one of them.
"""

from __future__ import annotations

from collections.abc import Mapping

import msgspec
import numpy as np

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import fibre_volume_fraction
from omakase.core.materials.material import Architecture, Material, Recipe
from omakase.core.materials.micromechanics import RULE_NAMES, Lamina, Rule, lamina, side_by_side
from omakase.core.materials.processing import PROCESSES
from omakase.core.materials.provenance import Sourced, least_trusted
from omakase.core.rotation import reduced_stiffness, strain_rotation, transformed_stiffness

ARCHITECTURE_NAMES: dict[Architecture, str] = {
    "unidirectional": "unidirectional", "plain": "plain weave", "twill": "twill 2×2", "satin": "satin",
    "spread_tow": "spread tow", "multiaxial": "multiaxial", "mat": "random mat", "braid": "braided sleeve",
}  # fmt: skip
INTERLAMINAR_SHARE = 0.7  # of the in-plane shear strength that holds between plies (common practice, no source)
# what short random fibres, never quite flat or straight, reach of the rule of thumb in stiffness, pulled and pressed:
# set to ISO 12215-5 for hand-laid glass mat of 30 % glass by mass, E 6.4 GPa, 85 and 117 MPa (from memory)
MAT_STIFFNESS, MAT_PULLED, MAT_PRESSED = 0.71, 0.59, 1.09


def crimped(layer: Lamina, factor: float) -> Lamina:
    """A layer whose fibres run in waves: less stiff along them by a factor, and pulled much less strong.

    Pulled, a wavy tow straightens and breaks the resin beside it: the factor's fourth power fits plain, twill and
    spread tow alike (common practice, no source); pressed it loses as much as it does in stiffness.
    """
    return msgspec.structs.replace(layer, E1=layer.E1 * factor, Xt=layer.Xt * factor**4, Xc=layer.Xc * factor)


def make_ply(
    recipe: Recipe,
    materials: Mapping[str, Material],
    short_name: str,
    name: str = "",
    resin_fraction: Sourced | None = None,
) -> Material:
    """The ply that a recipe gives; ``resin_fraction`` replaces the process's usual resin mass fraction.

    Raises MaterialError for a cloth, fibre, resin or process that is not there or does not state what it must.
    """
    cloth, resin = _of_kind(materials, recipe.cloth, "cloth"), _of_kind(materials, recipe.resin, "resin")
    assert cloth.build is not None
    fibres = _fibres(cloth, materials)
    fibre = fibres[0]
    if recipe.process not in PROCESSES:
        raise MaterialError(f"no process is called '{recipe.process}'")
    process = PROCESSES[recipe.process]
    fibre_density = _fibre_density(cloth, fibres)
    densities = fibre_density.value, resin.value("density")
    usual = process.resin_fraction(*densities, cloth.build.architecture == "mat")
    share = resin_fraction or Sourced(usual, "estimated", process.name)
    V = fibre_volume_fraction(share.value, *densities)
    pure = [lamina(constituent, resin, V, recipe.rule) for constituent in fibres]
    parts = _directions(cloth, fibres, pure)
    values = _mat(pure[0]) if cloth.build.architecture == "mat" else _layers(parts, cloth)
    of_fibres = [constituent.source(("E1", "E2", "G12")) for constituent in fibres]
    source = least_trusted([*of_fibres, resin.source(("E1",)), cloth.source(("crimp",)), share.source, "estimated"])
    route = _route(cloth, recipe.rule, V)
    properties = {
        "fibre_areal_mass": cloth.properties["fibre_areal_mass"],
        "fibre_density": fibre_density,
        "resin_density": resin.properties["density"],
        "resin_mass_fraction": share,
        **{key: Sourced(float(value), source, route) for key, value in values.items()},
    }
    for key in ("harness", "price", "drape"):
        if key in cloth.properties:
            properties[key] = cloth.properties[key]
    properties |= {key: resin.properties[key] for key in ("glass_dry", "glass_wet") if key in resin.properties}
    if cloth.build.architecture in ("multiaxial", "braid"):
        layers = [layer for layer, _ in parts]
        limits = {
            "e1t": min(layer.Xt / layer.E1 for layer in layers),
            "e1c": min(layer.Xc / layer.E1 for layer in layers),
            "g12u": min(layer.S12 / layer.G12 for layer in layers),
        }
        properties |= {key: Sourced(float(value), source, route) for key, value in limits.items()}
    title = name or f"{cloth.name}, {resin.name[0].lower() + resin.name[1:]}"
    family = (
        "carbon" if any(constituent.family == "carbon" for constituent in fibres) else fibre.family
    )  # it conducts, and corrodes metal
    return Material(short_name, title, "ply", family, properties, "", cloth.build, recipe)


def _fibres(cloth: Material, materials: Mapping[str, Material]) -> list[Material]:
    """The one or two fibres of a cloth.  Raises MaterialError."""
    assert cloth.build is not None
    names = [cloth.build.fibre, *([cloth.build.second_fibre] if cloth.build.second_fibre else [])]
    return [_of_kind(materials, name, "fibre") for name in names]


def _fibre_density(cloth: Material, fibres: list[Material]) -> Sourced:
    """Density of the cloth's fibres, of both together in a hybrid: kg/m³."""
    density = fibres[0].properties["density"]
    if len(fibres) == 1:
        return density
    assert cloth.build is not None
    second = float(np.mean(cloth.build.mixture))
    mixed = 1.0 / ((1.0 - second) / density.value + second / fibres[1].value("density"))
    return msgspec.structs.replace(density, value=mixed, note="both fibres by their shares")


def _directions(cloth: Material, fibres: list[Material], pure: list[Lamina]) -> list[tuple[Lamina, float]]:
    """The crimped layer of each direction with its share of the fibres' volume."""
    assert cloth.build is not None
    layers, volumes = [], []
    for second in cloth.build.mixture:
        parts = [(1.0 - second) / fibres[0].value("density")]
        if len(fibres) > 1:
            parts.append(second / fibres[1].value("density"))
        volumes.append(sum(parts))
        layers.append(crimped(side_by_side(pure, [part / sum(parts) for part in parts]), cloth.value("crimp")))
    return [(layer, volume / sum(volumes)) for layer, volume in zip(layers, volumes, strict=True)]


def _of_kind(materials: Mapping[str, Material], short_name: str, kind: str) -> Material:
    material = materials.get(short_name)
    if material is None or material.kind != kind:
        raise MaterialError(f"no {kind} is called '{short_name}'")
    return material


def _route(cloth: Material, rule: Rule, V: float) -> str:
    assert cloth.build is not None
    if cloth.build.architecture == "mat":
        return f"Tsai and Pagano's rule for random fibres at V_f {V:.3f}"
    text = f"rule of mixtures and {RULE_NAMES[rule]} at V_f {V:.3f}"
    angles = cloth.build.directions
    if len(angles) > 1:
        text += f", layers at {'/'.join(f'{a:g}' for a in angles)}°"
    if cloth.value("crimp") < 1.0:
        text += f", crimp factor {cloth.value('crimp'):g}"
    return text


def _layers(parts: list[tuple[Lamina, float]], cloth: Material) -> dict[str, float]:
    assert cloth.build is not None
    angles = cloth.build.directions
    layers, weights = [layer for layer, _ in parts], [weight for _, weight in parts]
    turned = [
        transformed_stiffness(reduced_stiffness(layer.E1, layer.E2, layer.G12, layer.nu12), angle)
        for layer, angle in zip(layers, angles, strict=True)
    ]
    mean = np.average(turned, axis=0, weights=weights)
    compliance = np.linalg.inv(mean)
    T = [strain_rotation(angle) for angle in angles]
    expansion = np.average(
        [
            q @ np.linalg.solve(t, [layer.alpha1, layer.alpha2, 0.0])
            for layer, q, t in zip(layers, turned, T, strict=True)
        ],
        axis=0,
        weights=weights,
    )
    along, across, strength = (
        np.array([getattr(layer, key) for layer in layers]) for key in ("G12", "G23", "S12")
    )  # fmt: skip
    alpha = compliance @ expansion
    c, s = np.cos(np.radians(angles)), np.sin(np.radians(angles))
    values = {
        "E1": 1.0 / compliance[0, 0],
        "E2": 1.0 / compliance[1, 1],
        "G12": 1.0 / compliance[2, 2],
        "nu12": -compliance[1, 0] / compliance[0, 0],
        "G13": np.average(c * c * along + s * s * across, weights=weights),
        "G23": np.average(s * s * along + c * c * across, weights=weights),
        "alpha1": alpha[0],
        "alpha2": alpha[1],
        "S13": INTERLAMINAR_SHARE * strength.min(),
        "S23": INTERLAMINAR_SHARE * strength.min(),
    }
    alone = len(angles) == 1
    for key, column in (("X", 0), ("Y", 1)):
        for letter, sign in (("t", 1.0), ("c", -1.0)):
            strains = [sign * t @ compliance[:, column] for t in T]  # per unit of stress
            values[key + letter] = min(
                _first_failure(layer, strain, alone) for layer, strain in zip(layers, strains, strict=True)
            )
    values["S12"] = min(_first_failure(layer, sign * t @ compliance[:, 2], alone)
                        for layer, t in zip(layers, T, strict=True) for sign in (1.0, -1.0))  # fmt: skip
    return values


def _first_failure(layer: Lamina, strain: np.ndarray, alone: bool) -> float:
    """Stress at which fibres or shear reach their strain in a layer; the resin across only where nothing else holds."""
    limits = [abs(strain[2]) * layer.G12 / layer.S12, strain[0] * layer.E1 / layer.Xt, -strain[0] * layer.E1 / layer.Xc]
    if alone:
        limits += [strain[1] * layer.E2 / layer.Yt, -strain[1] * layer.E2 / layer.Yc]
    worst = max(limits)
    return 1.0 / worst if worst > 0.0 else np.inf


def _mat(straight: Lamina) -> dict[str, float]:
    """Random fibres in the plane: E = 3/8 E1 + 5/8 E2, G = 1/8 E1 + 1/4 E2.

    Tsai and Pagano (1968), as in Composite Materials Workshop; expansion is the mean of an isotropic mixture, strength
    that of the fibres along the load times a factor for their short length.
    """
    E = MAT_STIFFNESS * (3.0 / 8.0 * straight.E1 + 5.0 / 8.0 * straight.E2)
    G = MAT_STIFFNESS * (straight.E1 / 8.0 + straight.E2 / 4.0)
    Q = reduced_stiffness(straight.E1, straight.E2, straight.G12, straight.nu12)
    stress = Q @ np.array([straight.alpha1, straight.alpha2, 0.0])
    alpha = (stress[0] + stress[1]) / (Q[0, 0] + Q[1, 1] + 2.0 * Q[0, 1])
    Xt, Xc = (share * E * X / straight.E1 for share, X in ((MAT_PULLED, straight.Xt), (MAT_PRESSED, straight.Xc)))
    return {
        "E1": E, "E2": E, "G12": G, "nu12": E / (2.0 * G) - 1.0, "G13": straight.G12, "G23": straight.G12,
        "alpha1": alpha, "alpha2": alpha, "Xt": Xt, "Xc": Xc, "Yt": Xt, "Yc": Xc,
        "S12": 0.5 * (Xt + Xc) / 2.0, **dict.fromkeys(("S13", "S23"), INTERLAMINAR_SHARE * straight.S12),
    }  # fmt: skip
