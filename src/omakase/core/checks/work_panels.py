"""How the checks of panels and of plies are worked out by hand, where their own file does not say it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from functools import partial
from typing import Any, TypeVar

import numpy as np

from omakase.core.checks.design_values import _limit_rows, _turned
from omakase.core.checks.face_failure import surface_rows
from omakase.core.checks.indentation import standing
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import AGREES, Sheet, worked
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_ribs import RibBeam, RibCase

SAME = 1e-9  # relative: two numbers that are one
AnyCase = TypeVar("AnyCase", bound=Any)


def _of_case(cases: Iterable[AnyCase], result: CheckResult) -> AnyCase | None:
    """The load case that a result is of."""
    return next((own for own in cases if own.case.key == result.case_id), None)


@worked("flatwise_tension")
def work_flatwise_tension(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The sum of all pressures."""
    response = _of_case(context.cases, result)
    if response is None:
        return
    names = [f"p{n}" for n, _ in enumerate(response.case.pressures, 1)]
    for name, pressure in zip(names, response.case.pressures, strict=True):
        sheet.given(name, pressure, "pressure", "pressure down on face A, limit load")
    sheet.give_level(context)
    sheet.step("σ", f"−j * ({' + '.join(names)})", "core_stress", "suction at ultimate load")


@worked("dent")
def work_dent(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The force of the patch; what the core carries before it yields is in the method."""
    response = _of_case(context.cases, result)
    for patch, _ in standing(context.section, response.case) if response is not None else ():
        if math.isclose(abs(patch.force) * context.settings.special_factor, result.value, rel_tol=SAME):
            sheet.given("P", abs(patch.force), "force", "force of the patch, limit load")
            sheet.given("s", context.settings.special_factor, "ratio", "special factor")
            sheet.step("F", "s * P", "force", "force that must leave no dent")
            return


@worked("indentation")
def work_indentation(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The force of the patch at ultimate load."""
    response = _of_case(context.cases, result)
    for patch, _ in standing(context.section, response.case) if response is not None else ():
        if math.isclose(abs(patch.force) * context.settings.ultimate_factor, result.value, rel_tol=SAME):
            sheet.given("P", abs(patch.force), "force", "force of the patch, limit load")
            sheet.give_level(context)
            sheet.step("F", "j * P", "force", "force at ultimate load")
            return


@worked("interlaminar_shear")
def work_interlaminar_shear(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Both shear stresses where the result is, over their strengths."""
    case = _of_case(context.cases, result)
    section, place = context.section, result.place
    force = case.ply_shear(section) if case is not None else None
    shear = section.transverse_shear
    if case is None or force is None or shear is None or place.layer is None:
        return
    layer, level = context.stack.layers[place.layer], context.settings.ultimate_factor
    S13, S23 = (layer.material.value(key) for key in ("S13", "S23"))
    cosine, sine = (turn(math.radians(layer.angle)) for turn in (math.cos, math.sin))
    heights = np.linspace(section.stack.z_bottom[place.layer], section.stack.z_top[place.layer], 3)
    for a, b in np.ndindex(force.shape[:2]):
        here = case.place(a, b)
        if (here.x, here.y) != (place.x, place.y):
            continue
        for z in heights:
            x, y = shear.distribution(place.layer, float(z)) @ force[a, b]
            one, two = abs(cosine * x + sine * y), abs(cosine * y - sine * x)
            if math.isclose(level * math.hypot(one / S13, two / S23), result.value, rel_tol=AGREES):
                sheet.given("τ_1", one, "stress", "shear along the fibres, limit load")
                sheet.given("τ_2", two, "stress", "shear across the fibres, limit load")
                sheet.given("S_13", S13, "strength", "shear strength along")
                sheet.given("S_23", S23, "strength", "shear strength across")
                sheet.give_level(context)
                sheet.step("f", "j * sqrt((τ_1 / S_13)^2 + (τ_2 / S_23)^2)", "ratio", "share at ultimate load")
                return


@worked("design_values")
def work_design_values(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The strain of the layer over its cut-off, of the condition that the result names."""
    place, level = result.place, context.settings.ultimate_factor
    if place.layer is None:
        return
    layer = context.stack.layers[place.layer]
    for condition in context.settings.conditions:
        values = condition.families.get(layer.material.family)
        limits = _limit_rows(layer, values) if values is not None and not layer.material.is_metal else None
        if limits is None or not result.title.endswith(condition.name):
            continue
        rows = surface_rows(context.section, [place.layer], partial(_turned, limits))
        shares = level * (rows @ context.places.strains[0:9]).reshape(2, len(limits), -1)
        for n, row in enumerate(limits):
            if np.isclose(shares[:, n], result.value, rtol=SAME).any():
                cut_off = 1.0 / float(np.abs(row).max())
                sheet.given("ε", result.value / level * cut_off, "strain", "strain of the ply there, limit load")
                sheet.given("ε_d", cut_off, "strain", f"design value, {condition.name}")
                sheet.give_level(context)
                sheet.step("f", "j * ε / ε_d", "ratio", "share at ultimate load")
                return


def _on_ribs(context: Context, result: CheckResult) -> Iterator[tuple[RibBeam, RibCase]]:
    """Each rib with what the load case of a result does to it."""
    response = context.response
    for rib in response.ribs if isinstance(response, PanelResponse) else ():
        case = _of_case(rib.cases, result)
        if case is not None:
            yield rib.beam, case


@worked("rib_bond")
def work_rib_bond(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Change of the rib's force over the width of its foot."""
    level = context.settings.ultimate_factor
    for beam, case in _on_ribs(context, result):
        if beam.rib.formed:
            continue
        flow = float(case.flow.max())
        if math.isclose(flow / beam.bond * level, result.value, rel_tol=SAME):
            sheet.given("q", flow, "line_load", "change of the rib's force along it, limit load")
            sheet.given("b", beam.bond, "length", "width of its foot")
            sheet.give_level(context)
            sheet.step("τ", "j * q / b", "stress", "shear of the bond at ultimate load")
            return


@worked("rib_buckling")
def work_rib_buckling(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The compressive strain of the wall over the one at which it buckles."""
    level = context.settings.ultimate_factor
    for beam, case in _on_ribs(context, result):
        pressed = np.maximum(-case.strains[..., 0], 0.0)
        across = pressed.shape[1] // len(beam.pieces)
        for k, limit in enumerate(beam.buckling_strains):
            strain = float(pressed[:, k * across : (k + 1) * across].max())
            if np.isfinite(limit) and math.isclose(level * strain / float(limit), result.value, rel_tol=SAME):
                sheet.given("ε", strain, "strain", "largest compressive strain of the wall, limit load")
                sheet.given("ε_b", float(limit), "strain", "at which it buckles as a long plate")
                sheet.give_level(context)
                sheet.step("f", "j * ε / ε_b", "ratio", "share of its buckling strain at ultimate load")
                return
