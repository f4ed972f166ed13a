"""First-ply failure of faces and laminates."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Protocol

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Settings
from omakase.core.checks.working import Sheet, without_noise, worked
from omakase.core.laminate.failure import (
    CRITERIA,
    CRITERION_NAMES,
    Criterion,
    inverse,
    metal_allowable,
    strain_limits,
    von_mises_stress,
)
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Place
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation

STRENGTHS = ("E1", "E2", "G12", "Xt", "Xc", "Yt", "Yc", "S12", "Fu", "e1t", "e1c", "g12u")


@register(
    "face_failure",
    "First ply of a face or laminate to reach its strength",
    "Maximum strain (Jones 1999, 2.9.2) or Tsai–Wu with F12* = −1/2 (Tsai and Wu 1971); metals by von Mises, "
    "yield at limit load and ultimate strength at ultimate load",
    "Linear material up to first-ply failure; residual stresses from cure are not counted.  Multiaxial cloth and "
    "braid: fibres and shear of each direction.",
    ("Xt", "Xc", "Yt", "Yc", "S12", "Fu"),
)
def face_failure(context: Context) -> list[CheckResult]:
    """Lowest load factor over all structural plies, both surfaces, all sampled places; one result per load case."""
    section, settings = context.section, context.settings
    by_material = _by_material(context.stack)
    places = context.places
    names = [(i, name) for plies in by_material.values() for i in plies for name in ("upper", "lower")]
    rules = [ply_rule(settings, section, plies) for plies in by_material.values()]
    severity = places.derived["ply_severity"] = _severity(rules, places.strains[0:9])
    governing_places = list(places.largest(severity))
    if not governing_places:
        return []
    there = places.strains[0:9, [k for _, k in governing_places]]
    factors = np.concatenate([rule.factors(there) for rule in rules])
    surface, least = np.argmin(factors, axis=0), factors.min(axis=0)
    results = []
    for n, (case, k) in enumerate(governing_places):
        i, name = names[surface[n]]
        place = places.place(k, i, name) if np.isfinite(least[n]) else Place()
        governing = context.stack.layers[i].material
        factor = float(least[n]) / settings.ultimate_factor
        results.append(
            context.result(
                "face_failure",
                "Face failure" if section.faces else "Ply failure",
                case.case,
                1.0 / factor,
                1.0,
                place,
                method=_method(settings, governing),
                source=governing.source(STRENGTHS),
                reserve=factor,
                remarks=(*_remarks(context), *places.remarks(severity, k)),
            )
        )
    return results


def _by_material(stack: Stack) -> dict[str, list[int]]:
    """Counted plies of each material: they are judged together, all places and load cases at once."""
    indices: dict[str, list[int]] = {}
    for i, layer in enumerate(stack.layers):
        if layer.structural and layer.role == "ply":
            indices.setdefault(layer.material.id, []).append(i)
    return indices


def _severity(rules: list[PlyRule], strains: np.ndarray) -> np.ndarray:
    severity = rules[0].severity(strains)
    for rule in rules[1:]:
        severity = np.maximum(severity, rule.severity(strains))
    return severity


def ply_severity(context: Context) -> np.ndarray:
    """1 over the factor on limit loads at which the first ply fails, at every place: (places,); kept."""
    if "ply_severity" in context.places.derived:
        return context.places.derived["ply_severity"]
    rules = [ply_rule(context.settings, context.section, plies) for plies in _by_material(context.stack).values()]
    return _severity(rules, context.places.strains[0:9])


def _method(settings: Settings, governing: Material) -> str:
    if governing.is_metal:
        return f"von Mises, {metal_allowable(governing, settings.factor_of_safety)[1]}"
    if governing.directions:
        return "first ply, maximum strain of each direction of its fibres"
    return f"first ply, {CRITERION_NAMES[settings.criterion]}"


class PlyRule(Protocol):
    """How plies of one material are judged, upper and lower surfaces, from generalised strains (9, places)."""

    def severity(self, strains: np.ndarray) -> np.ndarray:
        """The larger, the nearer the worst surface is to failure at each place: 1 over the load factor, (places,)."""

    def factors(self, strains: np.ndarray) -> np.ndarray:
        """Factor on limit loads at which each surface fails at each place, (surfaces, places)."""


def ply_rule(settings: Settings, section: PlateSection, plies: list[int]) -> PlyRule:
    """The rule for ``plies`` of one material."""
    material = section.stack.layers[plies[0]].material
    if material.is_metal:
        allowable = metal_allowable(material, settings.factor_of_safety)[0]
        return _ByCriterion(section, plies, lambda strain, metal: inverse(von_mises_stress(strain, metal) / allowable))
    if settings.criterion == "maximum_strain" or material.directions:
        return _ByStrain(section, plies)
    return _ByCriterion(section, plies, CRITERIA[settings.criterion])


def surface_rows(section: PlateSection, plies: list[int], per_strain: Callable[[float], np.ndarray]) -> np.ndarray:
    """What ``per_strain`` (k, 3) of a ply's angle makes of its surfaces' strains: (surfaces · k, 9)."""
    stack = section.stack
    turned = np.array([per_strain(stack.layers[i].angle) for i in plies])
    surfaces = ((i, float(z[i])) for i in plies for z in (stack.z_top, stack.z_bottom))
    levels = np.array([(1.0, *section.levels(i, z)) for i, z in surfaces]).reshape(len(plies), 2, 1, 3, 1)
    return (turned[:, None, :, None, :] * levels).reshape(-1, 9)


class _ByStrain:
    """Maximum strain: the limits are in the rows, so that one product and its maximum say it all."""

    def __init__(self, section: PlateSection, plies: list[int]) -> None:
        material = section.stack.layers[plies[0]].material
        self._rows = surface_rows(section, plies, lambda angle: _limited(material, angle))
        self._surfaces = 2 * len(plies)

    def severity(self, strains: np.ndarray) -> np.ndarray:
        return (self._rows @ strains).max(axis=0)

    def factors(self, strains: np.ndarray) -> np.ndarray:
        return inverse((self._rows @ strains).reshape(self._surfaces, -1, strains.shape[1]).max(axis=1))


class _ByCriterion:
    """Any criterion, through its load factor; that of a metal is taken to ultimate load."""

    def __init__(self, section: PlateSection, plies: list[int], criterion: Criterion) -> None:
        self._surfaces = 2 * len(plies)
        self._material, self._criterion = section.stack.layers[plies[0]].material, criterion
        self._rows = surface_rows(section, plies, strain_rotation)

    def severity(self, strains: np.ndarray) -> np.ndarray:
        return 1.0 / self.factors(strains).min(axis=0)

    def factors(self, strains: np.ndarray) -> np.ndarray:
        stresses = (self._rows @ strains).reshape(self._surfaces, 3, strains.shape[1])
        return self._criterion(np.moveaxis(stresses, 1, -1), self._material)


@lru_cache(maxsize=1024)
def _limited(material: Material, angle: float) -> np.ndarray:
    """Strains of a ply over their limits per strain in panel axes, (m, 3)."""
    return strain_limits(material) @ strain_rotation(angle)


def _remarks(context: Context) -> tuple[str, ...]:
    section = context.section
    remarks = []
    for face in section.faces:
        if face.thickness > 0.25 * context.stack.thickness:
            remarks.append(
                f"face {face.name} is more than a quarter of the total thickness; its own shear strain is neglected"
            )
    if context.stack.several_cores:
        remarks.append("several cores: judged as one laminate with first-order shear, less exact than three layers")
    if any(layer.material.is_metal and "Fu" not in layer.material.properties for layer in context.stack.layers):
        remarks.append("a metal states no ultimate strength: first yield at ultimate load is taken as failure")
    return tuple(remarks)


@worked("face_failure")
def work_face_failure(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the strains of the ply that governs, in panel axes, turned to its fibres."""
    i = result.place.layer
    if i is None or result.place.surface not in ("upper", "lower"):
        return
    severity = ply_severity(context)
    k = next((k for case, k in context.places.largest(severity) if case.case.key == result.case_id), None)
    layer = context.stack.layers[i]
    if k is None or layer.material.directions:
        return
    z = float((context.stack.z_top if result.place.surface == "upper" else context.stack.z_bottom)[i])
    levels = np.array([1.0, *context.section.levels(i, z)])
    strain = without_noise(levels @ context.places.strains[0:9, k].reshape(3, 3))
    for symbol, value, name in zip(("ε_x", "ε_y", "γ_xy"), strain, ("along x", "along y", "in shear"), strict=True):
        sheet.given(symbol, value, "strain", f"strain {name} at its {result.place.surface} side, limit load")
    sheet.given("θ", layer.angle, "angle", "ply angle")
    sheet.step("ε1", "ε_x * cos(θ)^2 + ε_y * sin(θ)^2 + γ_xy * sin(θ) * cos(θ)", "strain", "along the fibres")
    sheet.step("ε2", "ε_x * sin(θ)^2 + ε_y * cos(θ)^2 - γ_xy * sin(θ) * cos(θ)", "strain", "across them")
    sheet.step("γ12", "2 * (ε_y - ε_x) * sin(θ) * cos(θ) + γ_xy * (cos(θ)^2 - sin(θ)^2)", "strain", "shear")
    if layer.material.is_metal:
        _von_mises(layer.material, context.settings, sheet)
        return
    (_tsai_wu if context.settings.criterion == "tsai_wu" else _strain_ratios)(layer.material, sheet)
    sheet.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")
    sheet.step("f", "j * index", "ratio", "share of the ply's strength, ultimate load")


def _von_mises(material: Material, settings: Settings, sheet: Sheet) -> None:
    _ply_stresses(material, sheet)
    sheet.step("σ_v", "sqrt(σ1^2 - σ1 * σ2 + σ2^2 + 3 * τ12^2)", "stress", "von Mises, limit load")
    allowable, what = metal_allowable(material, settings.factor_of_safety)
    sheet.given("F", allowable, "strength", f"{what}, brought to limit load by the factor of safety")
    sheet.given("j", settings.ultimate_factor, "ratio", "ultimate over limit load")
    sheet.step("f", "j * σ_v / F", "ratio", "share of the metal's strength")


def _ply_stresses(material: Material, sheet: Sheet) -> None:
    for key in ("E1", "E2", "G12"):
        sheet.given(key, material.value(key), "modulus", "modulus")
    sheet.given("ν12", material.value("nu12"), "ratio", "Poisson's ratio")
    sheet.step("q", "1 - ν12^2 * E2 / E1", "ratio", "1 − ν12 ν21")
    sheet.step("σ1", "E1 * (ε1 + ν12 * E2 / E1 * ε2) / q", "stress", "stress along the fibres")
    sheet.step("σ2", "E2 * (ε2 + ν12 * ε1) / q", "stress", "across them")
    sheet.step("τ12", "G12 * γ12", "stress", "shear")


def _strain_ratios(material: Material, sheet: Sheet) -> None:
    steps = {step.symbol: step.value for step in sheet.steps}
    along, across = ("Xt" if steps["ε1"] >= 0.0 else "Xc"), ("Yt" if steps["ε2"] >= 0.0 else "Yc")
    for modulus, strength in (("E1", along), ("E2", across), ("G12", "S12")):
        sheet.given(modulus, material.value(modulus), "modulus", "modulus")
        sheet.given(strength, material.value(strength), "strength", "strength")
    sheet.step("index", f"max(abs(ε1) * E1 / {along}, abs(ε2) * E2 / {across}, abs(γ12) * G12 / S12)", "ratio",
               "largest strain over what it may be")  # fmt: skip


def _tsai_wu(material: Material, sheet: Sheet) -> None:
    _ply_stresses(material, sheet)
    for key in ("Xt", "Xc", "Yt", "Yc", "S12"):
        sheet.given(key, material.value(key), "strength", "strength")
    sheet.step("a", "σ1^2 / (Xt * Xc) + σ2^2 / (Yt * Yc) + (τ12 / S12)^2 - σ1 * σ2 / sqrt(Xt * Xc * Yt * Yc)", "ratio",
               "quadratic part")  # fmt: skip
    sheet.step("b", "σ1 * (1 / Xt - 1 / Xc) + σ2 * (1 / Yt - 1 / Yc)", "ratio", "linear part")
    sheet.step("index", "(b + sqrt(b^2 + 4 * a)) / 2", "ratio", "1 over the load factor")
