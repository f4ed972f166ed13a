"""Crushing of the core under pressure and patches."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, worked
from omakase.core.members.field import Place
from omakase.core.plates.loads import PatchLoad


def patch_pressures(patches: tuple[PatchLoad, ...]) -> Iterator[tuple[float, float, float]]:
    """(pressure in Pa, x, y) in every area that some of the patches cover together, those that overlap added up."""
    x_lines = sorted({x for patch in patches for x in patch.bounds[:2]})
    y_lines = sorted({y for patch in patches for y in patch.bounds[2:]})
    for x in ((low + high) / 2.0 for low, high in pairwise(x_lines)):
        for y in ((low + high) / 2.0 for low, high in pairwise(y_lines)):
            over = [p.pressure for p in patches if p.bounds[0] < x < p.bounds[1] and p.bounds[2] < y < p.bounds[3]]
            if over:
                yield sum(over), x, y


@register(
    "core_crushing",
    "The core is crushed by the load on it",
    "Mean pressure under the load against the flatwise compressive strength (common practice, no source)",
    "Loads pushing on either face; the spread of load by the face is not counted, on the safe side.",
    ("Zc",),
)
def core_crushing(context: Context) -> list[CheckResult]:
    """Largest pressure of a load case, patches added to the uniform part, over the core's Z_c."""
    section = context.section
    if section.core is None:
        return []
    weakest = min(section.core.layers, key=lambda i: context.stack.layers[i].material.value("Zc"))
    material = context.stack.layers[weakest].material
    results = []
    for response in context.cases:
        case = response.case
        uniform = sum(case.pressures)
        loads = [(uniform, Place(layer=weakest))]
        loads += [(uniform + pressure, Place(x, y, weakest, "")) for pressure, x, y in patch_pressures(case.patches)]
        # upward loads press on face B; taken as suction on face A they are judged by flatwise tension
        pressing = [(abs(p), place) for p, place in loads if p != 0.0]
        if not pressing:
            continue
        pressure, place = max(pressing, key=lambda item: item[0])
        value = pressure * context.settings.ultimate_factor
        allowable = material.value("Zc")
        results.append(
            context.result(
                "core_crushing",
                "Core crushing",
                case,
                value,
                allowable,
                place,
                method="mean pressure under the load / Z_c",
                source=material.source(("Zc",)),
                dimension="core_stress",
            )
        )
    return results


@worked("core_crushing")
def work_core_crushing(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the pressure that is spread over all and the patches that cover the place."""
    response = next((case for case in context.cases if case.case.key == result.case_id), None)
    if response is None:
        return
    parts = []
    for n, pressure in enumerate(response.case.pressures, 1):
        sheet.given(f"p{n}", pressure, "pressure", "pressure over all of a face, limit load")
        parts.append(f"p{n}")
    place = result.place
    if place.x is not None and place.y is not None:
        for n, patch in enumerate(response.case.patches, 1):
            left, right, low, high = patch.bounds
            if left < place.x < right and low < place.y < high:
                sheet.given(f"F{n}", patch.force, "force", "force on a patch, limit load")
                sheet.given(f"a{n}", patch.along_x, "length", "its length")
                sheet.given(f"b{n}", patch.along_y, "length", "its width")
                parts.append(f"F{n} / (a{n} * b{n})")
    if parts:
        sheet.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")
        sheet.step("p", f"j * abs({' + '.join(parts)})", "core_stress", "pressure on the core at ultimate load")
