"""Wrinkling of the compressed face on its core."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.compression import (
    axis_at,
    directional_bending,
    directional_core_shear,
    face_compression,
)
from omakase.core.checks.places import Places
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.laminate.stack import Stack
from omakase.core.materials.provenance import least_trusted
from omakase.core.plates.section import Core, Face, PlateSection

# k of σ = k (E_f E_c G_c)^(1/3), and c of σ = c E_f √(E_c t_f / (E_f t_c)) for honeycomb
SOLID_CORE = {"design": 0.5, "theory": 0.91}
HONEYCOMB = {"design": 0.33, "theory": 0.82}
TRIED = axis_at(np.arange(0.0, 180.0, 5.0))


def wrinkling_stress_solid(E_face: np.ndarray, E_core: float, G_core: np.ndarray, coefficient: float) -> np.ndarray:
    """Wrinkling stress in Pa on a foam or wood core: k (E_f E_c G_c)^(1/3), moduli in Pa.

    k = 0.5 is the design value, 0.91 that of Hoff and Mautner, Journal of the Aeronautical Sciences 12 (1945) 285.
    """
    return coefficient * np.cbrt(E_face * E_core * G_core)


def wrinkling_stress_honeycomb(
    E_face: np.ndarray, E_core: float, t_face: float, t_core: float, coefficient: float
) -> np.ndarray:
    """Wrinkling stress in Pa on a honeycomb core: c E_f √(E_c t_f / (E_f t_c)).

    c = 0.33 is the lower design line of the sandwich handbooks (MIL-HDBK-23A), 0.82 the theory.
    """
    return coefficient * E_face * np.sqrt(E_core * t_face / (E_face * t_core))


def interaction_factor(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """λ with (λ r1)³ + λ r2 = 1 for two-way compression, r1 the ratio along the larger compression.

    The interaction of the sandwich-shell manuals of the 1960s, from memory.  It is on the safe side of the bound
    max(r1, r2) = 1 that a plane wrinkle wave gives (derived).  With x = λ r1 and p = r2/r1 it is x³ + p x = 1, whose
    real root is 2 √(p/3) sinh(⅓ arsinh(3/(2p) √(3/p))) (hyperbolic form of Viète's solution).
    """
    first, second = np.maximum(first, 0.0), np.maximum(second, 0.0)
    largest = np.maximum(first, second)
    with np.errstate(divide="ignore", invalid="ignore"):
        # so small that their share of λ is lost in rounding, and p neither zero nor infinite
        r1 = np.maximum(first, 1e-9 * largest)
        p = np.maximum(second, 1e-13 * largest) / r1
        root = np.sqrt(3.0 / p)
        x = 2.0 / root * np.sinh(np.arcsinh(1.5 / p * root) / 3.0)
        return np.where(largest > 0.0, x / r1, np.inf)


class WrinklingStress:
    """Wrinkling stress of one face by direction, an axis (2, ...) as of ``axis_at``.

    E_f is the face's bending modulus 12 D/t_f³ in that direction, so that layered faces count with the bending
    stiffness that a wrinkle meets.
    """

    def __init__(self, stack: Stack, face: Face, core: Core, rule: str) -> None:
        nearest = core.layers[0] if face.name == "A" else core.layers[-1]
        self.material = stack.layers[nearest].material
        self.honeycomb = self.material.family == "honeycomb"
        self.coefficient = (HONEYCOMB if self.honeycomb else SOLID_CORE)[rule]
        self._face, self._core = face, core

    def __call__(self, axis: np.ndarray) -> np.ndarray:
        E_face = 12.0 / self._face.thickness**3 * directional_bending(self._face, axis)
        E_core = self.material.value("E3")
        if self.honeycomb:
            return wrinkling_stress_honeycomb(
                E_face, E_core, self._face.thickness, self._core.thickness, self.coefficient
            )
        return wrinkling_stress_solid(E_face, E_core, directional_core_shear(self._core, axis), self.coefficient)

    @property
    def least_share(self) -> float:
        """Share of the largest compression below which no place can govern.

        With r the larger of the two ratios of stress, the interaction's factor lies between 0.68/r (both equal) and
        1/r; the wrinkling stress lies between its extremes over all directions (a little room between those tried).
        """
        extremes = self(TRIED)
        return 0.95 * 0.68 * float(extremes.min() / extremes.max())

    @property
    def method(self) -> str:
        if self.honeycomb:
            return f"{self.coefficient:g} E_f √(E_c t_f / (E_f t_c)), honeycomb"
        return f"{self.coefficient:g} (E_f E_c G_c)^⅓, solid core"


@register(
    "wrinkling",
    "A compressed face buckles in short waves into or away from the core",
    "k (E_f E_c G_c)^⅓ (Hoff and Mautner 1945); honeycomb c E_f √(E_c t_f/(E_f t_c)) (MIL-HDBK-23A)",
    "Flat faces; the design coefficients cover usual initial waviness.",
)
def wrinkling(context: Context) -> list[CheckResult]:
    """Lowest factor over both faces, one result per load case; only compressed faces can wrinkle."""
    section = context.response.section
    if section.core is None:
        return []
    places = context.places
    rules = [WrinklingStress(context.stack, face, section.core, context.settings.wrinkling) for face in section.faces]
    factors, allowables = _factors(section, rules, places)
    results = []
    for case, k in places.largest(-factors.min(axis=0)):
        which = int(np.argmin(factors[:, k]))
        results.append(_result(context, case.case.name, places.at(k), section.faces[which], rules[which],
                               float(factors[which, k]), float(allowables[which, k]),
                               float(face_compression(section, places).first[which, k])))  # fmt: skip
    return results


def _factors(section: PlateSection, rules: list[WrinklingStress], places: Places) -> tuple[np.ndarray, np.ndarray]:
    """(load factor, wrinkling stress along the larger compression) of each face: both (faces, places).

    Places that cannot govern their load case are left at infinity.
    """
    found = face_compression(section, places)
    largest = found.first[:2]
    least = np.array([[rule.least_share] for rule in rules])
    at = np.nonzero(largest >= least * places.per_case(largest))  # all of face A, then of face B
    axis, end = found.axis(at), int(np.searchsorted(at[0], 1))
    along, across = np.empty_like(axis)
    for rule, part in zip(rules, (slice(0, end), slice(end, None)), strict=True):
        both = rule(np.concatenate([axis[:, part], -axis[:, part]], axis=1))
        along[part], across[part] = both.reshape(2, -1)
    thickness = np.array([face.thickness for face in section.faces])[at[0]]
    factors = np.full_like(largest, np.inf)
    allowables = np.full_like(largest, np.inf)
    allowables[at] = along
    factors[at] = interaction_factor(found.first[at] / (thickness * along), found.second[at] / (thickness * across))
    return factors, allowables


def _result(
    context: Context,
    load_case: str,
    at: tuple[float, float],
    face: Face,
    rule: WrinklingStress,
    factor: float,
    allowable: float,
    compression: float,
) -> CheckResult:
    acts = np.isfinite(factor)
    layer = face.layers[0] if face.name == "A" else face.layers[-1]
    plies = [context.stack.layers[i].material for i in face.layers]
    return CheckResult(
        check="wrinkling",
        title="Face wrinkling",
        kind="strength",
        dimension="stress",
        value=compression / face.thickness * context.settings.ultimate_factor if acts else 0.0,
        allowable=allowable if acts else 0.0,
        reserve_factor=factor / context.settings.ultimate_factor,
        required=context.limits.reserve_factor,
        load_case=load_case,
        place=Place(*at, layer, f"face {face.name}") if acts else Place(),
        method=rule.method,
        source=least_trusted(
            [rule.material.source(("E3", "G13", "G23")), *(ply.source(("E1", "E2", "G12")) for ply in plies)]
        ),
    )
