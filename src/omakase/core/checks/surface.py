"""What may happen to a lifting surface beside what happens to any thin wall: skins on a core, the core, divergence."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.checks.limits import stiffness_source
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.wrinkling import SOLID_CORE, wave_depth, wrinkling_stress_solid
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import least_trusted
from omakase.core.members.field import Place
from omakase.core.members.surface import SurfaceResponse
from omakase.core.sections.cylinder import bending_alone, wall_stiffness

DIRECTIONS = np.arange(0.0, 180.0, 7.5)
ON_CORE = ("skin", "upper cap", "lower cap")


@register(
    "skin_wrinkling", "A compressed skin wrinkles on the core that fills a lifting surface",
    "k (E_f E_c G_c)^⅓ (Hoff and Mautner 1945) of the skin's bending stiffness, for waves along every direction",
    "Cores deep compared with the wave; the skin taken as flat.",
)  # fmt: skip
def skin_wrinkling(context: Context) -> list[CheckResult]:
    """One result per load case for each stretch of solid skin on a core."""
    waves = wrinkling_waves(context)
    if waves is None:
        return []
    core = waves.core
    remarks: tuple[str, ...] = ()
    if waves.depth > context.response.thickness / 2.0:  # type: ignore[attr-defined]
        remarks = ("the wave would reach deeper than half the section, out of the formula's range",)
    source = least_trusted([core.source(("E3", "G13", "G23")), stiffness_source(context)])
    results, factor = [], SOLID_CORE[context.settings.wrinkling]
    for case, k in context.places.largest(waves.share):
        acts = waves.share[k] > 0.0
        stress = float(waves.stress[waves.along[k]])
        results.append(
            context.result(
                "skin_wrinkling", "Skin wrinkling on the core", case.case,
                float(waves.share[k]) * stress * context.settings.ultimate_factor if acts else 0.0, stress,
                context.places.place(k) if acts else Place(),
                method=f"{factor:g} (E_f E_c G_c)^⅓, waves along {DIRECTIONS[waves.along[k]]:.0f}°",
                source=source, remarks=remarks if acts else (), dimension="stress",
            )
        )  # fmt: skip
    return results


class Waves(msgspec.Struct, frozen=True, eq=False):
    """``share`` (places,) of the wrinkling load that acts at limit load, ``along`` which of the directions it is most;
    ``stress`` (directions,) at which the skin wrinkles, Pa, and its ``bending`` stiffness there, N m; ``depth`` of the
    wave, m; the ``core`` it wrinkles on."""

    share: np.ndarray
    along: np.ndarray
    stress: np.ndarray
    bending: np.ndarray
    depth: float
    core: Material


def skin_severity(context: Context) -> np.ndarray | None:
    """1 over the factor on limit loads at which a skin wrinkles on the core that fills the surface, (places,)."""
    waves = wrinkling_waves(context)
    return None if waves is None else np.maximum(waves.share, 0.0)


def wrinkling_waves(context: Context) -> Waves | None:
    """How a skin wrinkles on the core; None where no solid skin lies on a core that fills the member."""
    response = context.response
    if not isinstance(response, SurfaceResponse) or response.surface.filling is None:
        return None
    if context.field.name not in ON_CORE or context.section.core is not None:
        return None
    core = response.surface.filling
    E, G = core.value("E3"), min(core.value(key) for key in ("G13", "G23"))
    A, B, D = wall_stiffness(context.section)
    bent = bending_alone(A, B, D)
    t = context.stack.thickness
    cosine, sine = np.cos(np.radians(DIRECTIONS)), np.sin(np.radians(DIRECTIONS))
    ways = np.stack([cosine**2, sine**2, 2.0 * cosine * sine], axis=1)
    stiff = np.einsum("di,ij,dj->d", ways, bent, ways)
    rule = SOLID_CORE[context.settings.wrinkling]
    stress = wrinkling_stress_solid(12.0 / t**3 * stiff, E, np.full(len(stiff), G), rule)
    strains = context.places.strains
    shares = -(ways @ (A @ strains[:3] + B @ strains[3:6])) / (t * stress)[:, None]
    depth = float(wave_depth(np.array(stiff.max()), E, np.array(G)))
    return Waves(shares.max(axis=0), shares.argmax(axis=0), stress, stiff, depth, core)


@register(
    "filling_shear", "The core that fills a lifting surface shears",
    "Shear strain that walls and core share, times three halves, times the core's modulus against its strength",
    "A core glued to skin and webs all round; moduli and strengths of the weaker direction.",
    ("S13", "S23"), per="member",
)  # fmt: skip
def filling_shear(context: Context) -> list[CheckResult]:
    """One result per load case of a surface with a core."""
    response = context.response
    if not isinstance(response, SurfaceResponse) or response.surface.filling is None:
        return []
    core = response.surface.filling
    modulus = min(core.value(key) for key in ("G13", "G23"))
    strength = min(core.value(key) for key in ("S13", "S23"))
    results = []
    for result in response.results:
        strain, x = response.largest_shear(result)
        if strain > 0.0:
            results.append(
                context.result(
                    "filling_shear", "Shear of the core inside", result.case,
                    strain * modulus * context.settings.ultimate_factor, strength, Place(x),
                    method="shear strain shared with the walls", source=core.source(("G13", "G23", "S13", "S23")),
                    dimension="core_stress",
                )
            )  # fmt: skip
    return results


@register(
    "filling_crushing", "The skins of a bent lifting surface crush the core that fills it",
    "Skin force per width times curvature (Brazier 1927) against the core's crushing strength",
    "Both grow with the load, the pressure with its square; loads on the skin itself are not included.",
    ("Zc",), per="member",
)  # fmt: skip
def filling_crushing(context: Context) -> list[CheckResult]:
    """One result per load case that bends a surface with a core."""
    response = context.response
    if not isinstance(response, SurfaceResponse) or response.surface.filling is None:
        return []
    core, results = response.surface.filling, []
    for index, result in enumerate(response.results):
        pressure, x = response.crushing(index)
        if pressure > 0.0:
            factor = float(np.sqrt(core.value("Zc") / pressure)) / context.settings.ultimate_factor
            results.append(
                context.result(
                    "filling_crushing", "Crushing of the core inside", result.case, 1.0 / factor, 1.0, Place(x),
                    reserve=factor, method="skin force times curvature; grows with the square of the load",
                    source=core.source(("Zc",)),
                )
            )  # fmt: skip
    return results


@register(
    "divergence", "Lift twists a lifting surface until it breaks", "(GJ θ')' + q a c e θ = 0 by strip theory "
    "(Bisplinghoff, Ashley and Halfman 1955, chapter 8)",
    "A straight surface held at its root, below the speed of sound; flutter and control reversal happen at other "
    "speeds, often lower ones, and are not checked.",
    per="member",
)  # fmt: skip
def divergence(context: Context) -> list[CheckResult]:
    """The speed at sea level, where its axis lies behind the quarter chord."""
    limit = context.limits.divergence
    return [
        context.result(
            "divergence", "Divergence speed", None, measure.value, limit or 0.0,
            reserve=np.inf if limit is None else measure.value / limit, method="strip theory",
            source=stiffness_source(context), remarks=measure.remarks, dimension="air_speed", kind="limit",
        )
        for measure in context.response.measures.get("divergence", ())
    ]  # fmt: skip
