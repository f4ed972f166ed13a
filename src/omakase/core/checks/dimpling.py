"""Intracell dimpling: a thin face buckles between the walls of a honeycomb cell."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.compression import face_compression, mean_bending
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, worked


def dimpling_stress(D_face: float, t_face: float, cell_size: float) -> float:
    """Dimpling stress in Pa: 2 E_f/(1 − ν²) (t_f/s)² of MIL-HDBK-23A, written 24 D_f/(t_f s²) for layered faces.

    ``D_face`` in N m, ``t_face`` and ``cell_size`` in m.  The two forms are equal since D = E t³/12(1 − ν²).
    """
    return 24.0 * D_face / (t_face * cell_size**2)


@register(
    "dimpling",
    "A thin face buckles into the cells of a honeycomb",
    "2 E_f/(1 − ν²) (t_f/s)² (MIL-HDBK-23A); two-way compression adds linearly: a simply supported hexagonal "
    "plate buckles at N s²/D = 42 compressed one way, half that compressed both ways (finite elements, see the tests)",
    "Honeycomb cores that state a cell size; faces of several directions by their mean bending stiffness.",
)
def dimpling(context: Context) -> list[CheckResult]:
    """Lowest factor over both faces on honeycomb; one result per load case."""
    section = context.section
    if section.core is None:
        return []
    places = context.places
    worst: dict[int, CheckResult] = {}
    compression = face_compression(section, places)
    for row, face in enumerate(section.faces):
        nearest = section.core.layers[0] if face.name == "A" else section.core.layers[-1]
        material = context.stack.layers[nearest].material
        if "cell_size" not in material.properties:
            continue
        pressed = compression.first[row] + compression.second[row]
        allowable = dimpling_stress(mean_bending(face), face.thickness, material.value("cell_size"))
        index = pressed / face.thickness / allowable * context.settings.ultimate_factor
        for n, (case, k) in enumerate(places.largest(index)):
            value = float(index[k])
            result = context.result(
                "dimpling",
                "Intracell dimpling",
                case.case,
                float(pressed[k] / face.thickness) * context.settings.ultimate_factor,
                allowable,
                places.place(
                    k,
                    face.layers[0] if face.name == "A" else face.layers[-1],
                    f"face {face.name}",
                ),
                method="24 D_f/(t_f s²), both compressions added",
                source=material.source(("cell_size",)),
                reserve=1.0 / value if value > 0.0 else np.inf,
                remarks=places.remarks(index, k),
                dimension="stress",
            )
            before = worst.get(n)
            if before is None or result.reserve_factor < before.reserve_factor:
                worst[n] = result
    return list(worst.values())


@worked("dimpling")
def work_dimpling(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the compression of the face at the place that governs."""
    section = context.section
    if section.core is None or result.place.layer is None:
        return
    row = 0 if result.place.layer in section.faces[0].layers else 1
    face = section.faces[row]
    nearest = section.core.layers[0] if row == 0 else section.core.layers[-1]
    material = context.stack.layers[nearest].material
    sheet.given("D_f", mean_bending(face), "bending", f"mean bending stiffness of face {face.name}, per width")
    sheet.given("t_f", face.thickness, "length", "face thickness")
    sheet.given("s", material.value("cell_size"), "length", "cell size")
    sheet.step("σ_d", "24 * D_f / (t_f * s^2)", "stress", "dimpling stress")
    factor = context.settings.ultimate_factor
    sheet.given("N", result.value * face.thickness / factor, "line_load", "both compressions added, limit load")
    sheet.given("j", factor, "ratio", "ultimate over limit load")
    sheet.step("σ", "j * N / t_f", "stress", "compression at ultimate load")
