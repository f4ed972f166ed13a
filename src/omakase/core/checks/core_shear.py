"""Core shear, with the strengths along and across the ribbon."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, without_noise, worked
from omakase.core.laminate.strength import shear_ratios
from omakase.core.members.field import Place, WallCase
from omakase.core.plates.section import PlateSection


def core_shear_stress(section: PlateSection, case: WallCase) -> np.ndarray:
    """(τ_xz, τ_yz) in the core in panel axes, Pa: (x, y, 2)."""
    return case.strains[..., 9:11] @ stress_per_strain(section).T


def stress_per_strain(section: PlateSection) -> np.ndarray:
    """(τ_xz, τ_yz) of the core per generalised shear strain φ + grad w, Pa: (2, 2)."""
    assert section.core is not None
    distance = section.faces[0].z_middle - section.faces[1].z_middle
    return section.core.shear_modulus * (distance / section.core.thickness)


@register(
    "core_shear",
    "Transverse shear of the core, L and W combined",
    "τ = G_c γ from the three-layer solution; (τ_L/S_L)² + (τ_W/S_W)² = 1 (quadratic, common practice, no source)",
    "Sandwiches with one core; uniform shear through the core's thickness.",
    ("S13", "S23"),
)
def core_shear(context: Context) -> list[CheckResult]:
    """Largest √((τ_L/S_L)² + (τ_W/S_W)²) over the core's layers and the panel; one result per load case."""
    section = context.section
    if section.core is None:
        return []
    places = context.places
    ratios = _ratios(context)
    squared = ratios[:, 0] * ratios[:, 0] + ratios[:, 1] * ratios[:, 1]
    results = []
    worst = squared.max(axis=0)
    for case, k in places.largest(worst):
        layer = int(np.argmax(squared[:, k]))
        i = section.core.layers[layer]
        place = Place(layer=i)
        if squared[layer, k] > 0.0:
            place = places.place(k, i, _direction(ratios[layer, :, k]))
        value = float(np.sqrt(squared[layer, k])) * context.settings.ultimate_factor
        material = context.stack.layers[i].material
        results.append(
            context.result(
                "core_shear",
                "Core shear",
                case.case,
                value,
                1.0,
                place,
                method="three-layer theory, L and W combined quadratically",
                source=material.source(("G13", "G23", "S13", "S23")),
                remarks=(*_remarks(section), *places.remarks(worst, k)),
            )
        )
    return results


def _ratios(context: Context) -> np.ndarray:
    """(τ_L/S_L, τ_W/S_W) in each layer of the core at every place: (layers, 2, places)."""
    assert context.section.core is not None
    stress = stress_per_strain(context.section)
    rows = np.array([shear_ratios(context.stack.layers[i]) @ stress for i in context.section.core.layers])
    return rows @ context.places.strains[9:11]


def core_shear_severity(context: Context) -> np.ndarray | None:
    """1 over the factor on limit loads at which the core shears, at every place: (places,); None without a core."""
    if context.section.core is None:
        return None
    ratios = _ratios(context)
    return np.sqrt((ratios * ratios).sum(axis=1).max(axis=0))


def _direction(ratios: np.ndarray) -> str:
    return "mostly L" if abs(ratios[0]) >= abs(ratios[1]) else "mostly W"


def _remarks(section: PlateSection) -> tuple[str, ...]:
    """A stiff core takes part in bending, so its shear stress is not uniform over the thickness."""
    assert section.core is not None
    core_energy = sum(
        float(np.trace(section.Q[i][:2, :2])) * section.stack.layers[i].thickness for i in section.core.layers
    )
    total = float(np.trace(section.membrane[:2, :2]))
    share = core_energy / total
    if share > 0.2:
        return (
            f"the core gives {share:.0%} of the in-plane stiffness; its shear stress peaks up to 1.5 times the mean",
        )
    return ()


@worked("core_shear")
def work_core_shear(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the shear strain of the three-layer solution at the place that governs."""
    section = context.section
    i = result.place.layer
    if section.core is None or i is None or i not in section.core.layers:
        return
    ratios = _ratios(context)
    squared = (ratios * ratios).sum(axis=1).max(axis=0)
    k = next((k for case, k in context.places.largest(squared) if case.case.key == result.case_id), None)
    if k is None:
        return
    layer, strains = context.stack.layers[i], context.places.strains[9:11, k]
    angle = np.radians(layer.angle)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    stresses = turn @ stress_per_strain(section) @ strains
    distance = section.faces[0].z_middle - section.faces[1].z_middle
    sheet.given("d", distance, "length", "distance of the faces' middles")
    sheet.given("t_c", section.core.thickness, "length", "core thickness")
    for axis, key, strain in zip("LW", ("G13", "G23"), without_noise(turn @ strains), strict=True):
        if len(section.core.layers) == 1:
            sheet.given(f"G_{axis}", layer.material.value(key), "modulus", f"shear modulus of the core in {axis}")
            sheet.given(f"γ_{axis}", strain, "strain", "shear strain of the solution, limit load")
            sheet.step(f"τ_{axis}", f"G_{axis} * d / t_c * γ_{axis}", "core_stress", "shear stress in the core")
        else:
            sheet.given(f"τ_{axis}", stresses["LW".index(axis)], "core_stress", "shear stress, limit load")
    sheet.given("S_L", layer.material.value("S13"), "core_stress", "shear strength in L")
    sheet.given("S_W", layer.material.value("S23"), "core_stress", "shear strength in W")
    sheet.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")
    sheet.step("f", "j * sqrt((τ_L / S_L)^2 + (τ_W / S_W)^2)", "ratio", "L and W combined, ultimate load")
