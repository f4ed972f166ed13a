"""A lasting dent: the core yields under a patch before anything breaks."""

from __future__ import annotations

from omakase.core.checks.indentation import core_yield_load, crushing_strength, foundation_stiffness, standing
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.members.field import Place


@register(
    "dent",
    "The core yields under a patch at limit load, so that a dent stays",
    "The face as an elastic beam on the core (Hetényi 1946), its largest pressure against the flatwise compressive "
    "strength",
    "Patches with straight edges; the face bends one way, which leaves out what it spreads the other way.",
    ("Zc",),
)
def dent(context: Context) -> list[CheckResult]:
    """Worst patch of each load case at limit load times the special factor; the lower load of bending along x and y."""
    section = context.section
    if section.core is None:
        return []
    core = section.core
    foundation, strength = foundation_stiffness(context.stack, core), crushing_strength(context.stack, core)
    results = []
    for response in context.cases:
        dents = []
        for patch, face in standing(section, response.case):
            allowable = min(
                core_yield_load(across, along, float(face.bending[axis, axis]), foundation, strength)
                for axis, along, across in ((0, patch.along_x, patch.along_y), (1, patch.along_y, patch.along_x))
            )
            load = abs(patch.force) * context.settings.special_factor
            dents.append((allowable / load, load, allowable, patch, face))
        if not dents:
            continue
        reserve, load, allowable, patch, face = min(dents, key=lambda entry: entry[0])
        results.append(
            context.result(
                "dent",
                "Lasting dent",
                response.case,
                load,
                allowable,
                Place(patch.x, patch.y, core.layers[0 if face.name == "A" else -1], f"face {face.name}"),
                method="core yields under the face as an elastic beam, at limit load",
                source=context.stack.layers[core.layers[0]].material.source(("Zc", "E3")),
                reserve=reserve,
                remarks=("an estimate until tested with the real foot or wheel",),
                dimension="force",
            )
        )
    return results
