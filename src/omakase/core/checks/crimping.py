"""Shear crimping: the core shears under the compression of the faces."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.compression import alike_all_round, core_share, face_compression
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, worked
from omakase.core.members.field import Place


def crimping_load(G_core: np.ndarray, distance: float, t_core: float) -> np.ndarray:
    """Compression in N/m at which the core crimps: G_c d²/t_c, short-wave limit of sandwich buckling (Allen 1969)."""
    return G_core * distance**2 / t_core


@register(
    "crimping",
    "The core shears in short waves under compression of the panel",
    "N = G_c d²/t_c (Allen 1969), along the direction in which it is nearest",
    "In bending the force of the compressed face alone is taken, on the safe side since the other face steadies it.",
)
def crimping(context: Context) -> list[CheckResult]:
    """Largest compression of one face, or of both together, over the crimping load; one result per load case.

    An orthotropic core is looked at in every direction: the largest eigenvalue of G⁻¹ (−N).
    """
    section = context.section
    core = section.core
    if core is None:
        return []
    distance = section.faces[0].z_middle - section.faces[1].z_middle
    layer = core.layers[0]
    material = context.stack.layers[layer].material
    places = context.places
    compression = face_compression(section, places)
    share = compression.first / core.shear_modulus[0, 0]
    if not alike_all_round(core):
        share = core_share(core, compression)
    index = share / crimping_load(np.array(1.0), distance, core.thickness)
    worst = index.max(axis=0)
    results = []
    for case, k in places.largest(worst):
        at = int(np.argmax(index[:, k])), k
        value, allowable, place = 0.0, 0.0, Place(layer=layer)
        if index[at] > 0.0:
            value = float(compression.first[at]) * context.settings.ultimate_factor
            allowable = float(compression.first[at] / index[at])
            place = places.place(k, layer, "")
        factor = float(index[at]) * context.settings.ultimate_factor
        results.append(
            context.result(
                "crimping",
                "Shear crimping",
                case.case,
                value,
                allowable,
                place,
                method="G_c d²/t_c",
                source=material.source(("G13", "G23")),
                reserve=1.0 / factor if factor > 0.0 else np.inf,
                remarks=places.remarks(worst, k),
                dimension="line_load",
            )
        )
    return results


@worked("crimping")
def work_crimping(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the compression and the core's modulus in the direction that governs."""
    section = context.section
    if section.core is None:
        return
    distance = section.faces[0].z_middle - section.faces[1].z_middle
    modulus = result.allowable * section.core.thickness / distance**2
    sheet.given("G_c", modulus, "modulus", "shear modulus of the core in the direction that governs")
    sheet.given("d", distance, "length", "distance of the faces' middles")
    sheet.given("t_c", section.core.thickness, "length", "core thickness")
    sheet.step("N_cr", "G_c * d^2 / t_c", "line_load", "load at which the core crimps")
    factor = context.settings.ultimate_factor
    sheet.given("N", result.value / factor, "line_load", "largest compression, limit load")
    sheet.given("j", factor, "ratio", "ultimate over limit load")
    sheet.step("N_u", "j * N", "line_load", "compression at ultimate load")
