"""Wrinkling of the compressed face on its core."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from omakase.core.checks.compression import (
    Compression,
    axis_at,
    directional_bending,
    directional_core_shear,
    face_compression,
)
from omakase.core.checks.places import Places
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, worked
from omakase.core.laminate.stack import Stack
from omakase.core.materials.provenance import least_trusted
from omakase.core.members.field import Acting, Place
from omakase.core.plates.section import Core, Face

# k of σ = k (E_f E_c G_c)^(1/3), and c of σ = c E_f √(E_c t_f / (E_f t_c)) for honeycomb
SOLID_CORE = {"design": 0.5, "theory": 0.91}
HONEYCOMB = {"design": 0.33, "theory": 0.82}
TRIED = axis_at(np.arange(0.0, 180.0, 7.5))
ALONG_TRIED = np.stack([np.ones(TRIED.shape[1]), *TRIED], axis=1)  # times ``Compression.parts``: the force along each
ACROSS_TRIED = np.roll(np.arange(TRIED.shape[1]), TRIED.shape[1] // 2)  # which of them lies across each
ROUNDING = 1e-12
BETWEEN_TRIED = 0.99  # of the strongest direction tried to the weakest there is: those between are a little beyond


def wrinkling_stress_solid(
    E_face: np.ndarray, E_core: np.ndarray | float, G_core: np.ndarray, coefficient: float
) -> np.ndarray:
    """Wrinkling stress in Pa on a foam or wood core: k (E_f E_c G_c)^(1/3), moduli in Pa.

    k = 0.5 is the design value, 0.91 that of Hoff and Mautner, Journal of the Aeronautical Sciences 12 (1945) 285.
    """
    return coefficient * np.cbrt(E_face * E_core * G_core)


def wrinkling_stress_honeycomb(
    E_face: np.ndarray,
    E_core: np.ndarray | float,
    t_face: np.ndarray | float,
    t_core: np.ndarray | float,
    coefficient: float,
) -> np.ndarray:
    """Wrinkling stress in Pa on a honeycomb core: c E_f √(E_c t_f / (E_f t_c)).

    c = 0.33 is the lower design line of the sandwich handbooks (MIL-HDBK-23A), 0.82 the theory.
    """
    return coefficient * E_face * np.sqrt(E_core * t_face / (E_face * t_core))


def wave_depth(D_face: np.ndarray, E_core: float, G_core: np.ndarray) -> np.ndarray:
    """Depth in m to which a wrinkle disturbs a thick core: (9 D_f E_c/G_c²)^⅓, D_f in N m, moduli in Pa.

    From the energy of Hoff and Mautner: N = D q² + E_c/(w q²) + G_c w/3 is least over the wave number q and the depth
    w there, and is then G_c w (derived again; 0.91 t_f (E_f E_c/G_c²)^⅓ for an even face, as they print it).
    """
    return np.cbrt(9.0 * D_face * E_core / G_core**2)


def interaction_factor(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """λ with (λ r1)³ + λ r2 = 1 for two-way compression, r1 the ratio along the larger compression.

    The interaction of the sandwich-shell manuals of the 1960s, from memory.  It is on the safe side of the bound
    r1 = 1 that a plane wrinkle wave gives (derived).  With x = λ r1 and p = r2/r1 it is x³ + p x = 1, whose
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

    def remarks(self, axis: np.ndarray) -> tuple[str, ...]:
        """That the wave is deeper than half the core, where the core between both faces takes part as a whole."""
        if self.honeycomb:
            return ()
        depth = float(wave_depth(directional_bending(self._face, axis), self.material.value("E3"),
                                 directional_core_shear(self._core, axis)))  # fmt: skip
        if depth <= self._core.thickness / 2.0:
            return ()
        return (
            "the wave would reach deeper than half the core, out of the formula's range; held by the other face it "
            "wrinkles later, so the value is on the safe side",
        )

    @property
    def method(self) -> str:
        if self.honeycomb:
            return f"{self.coefficient:g} E_f √(E_c t_f / (E_f t_c)), honeycomb"
        return f"{self.coefficient:g} (E_f E_c G_c)^⅓, solid core"


@register(
    "wrinkling",
    "A compressed face buckles in short waves into or away from the core",
    "k (E_f E_c G_c)^⅓ (Hoff and Mautner 1945); honeycomb c E_f √(E_c t_f/(E_f t_c)) (MIL-HDBK-23A); for waves along "
    "every direction, the second compression by (σ₁/σ_w1)³ + σ₂/σ_w2 = 1 (sandwich-shell manuals, from memory)",
    "Flat faces; the design coefficients cover usual initial waviness; solid cores twice as thick as the wave is deep.",
)
def wrinkling(context: Context) -> list[CheckResult]:
    """Lowest factor over both faces and all directions of the wave, one result per load case.

    A plane wave along n sees the compression nᵀ(−N)n and the wrinkling load of that direction (derived), so that a skew
    face may wrinkle along its weak direction rather than along the largest compression.
    """
    section = context.section
    if section.core is None:
        return []
    places = context.places
    rules = _rules(context, section.core)
    of_faces = _waves(context, rules)
    factors = np.stack([waves.factor for waves in of_faces])
    least = factors.min(axis=0)
    places.derived["wrinkling_severity"] = 1.0 / least
    results = []
    for case, k in places.largest(-least):
        which = int(np.argmin(factors[:, k]))
        results.append(_result(context, case.case, places.place(k), section.faces[which], rules[which],
                               of_faces[which], k, places.remarks(1.0 / least, k)))  # fmt: skip
    return results


def wrinkling_severity(context: Context) -> np.ndarray | None:
    """1 over the factor on limit loads at which a face wrinkles, at every place: (places,); None without a core.

    Zero at places far from governing their load case.  Kept.
    """
    section = context.section
    if section.core is None:
        return None
    if "wrinkling_severity" in context.places.derived:
        return context.places.derived["wrinkling_severity"]
    first, second = _waves(context, _rules(context, section.core))
    return 1.0 / np.minimum(first.factor, second.factor)


def _rules(context: Context, core: Core) -> list[WrinklingStress]:
    return [WrinklingStress(context.stack, face, core, context.settings.wrinkling) for face in context.section.faces]


def _waves(context: Context, rules: list[WrinklingStress]) -> list[_Waves]:
    """Those of both faces: of each only where the other does not certainly wrinkle before it."""
    compressed = face_compression(context.section, context.places)
    each = [_Carried(face, rule) for face, rule in zip(context.section.faces, rules, strict=True)]
    surely = context.places.per_case(np.maximum(*(own.least(compressed, n) for n, own in enumerate(each))))
    return [_Waves(own, compressed, context.places, n, surely) for n, own in enumerate(each)]


class _Carried:
    """What a face carries per width along each of the directions tried, N/m: ``along`` (tried,), and its ends."""

    def __init__(self, face: Face, rule: WrinklingStress) -> None:
        self.thickness, self.rule = face.thickness, rule
        self.along = face.thickness * rule(TRIED)
        self.weakest, self.strongest = float(self.along.min()), float(self.along.max())

    def least(self, compressed: Compression, which: int) -> np.ndarray:
        """1 over the largest factor that any place may have, (places,): the interaction is not less than either
        share, and a share not less than along the strongest direction."""
        return compressed.first[which] / self.strongest

    def most(self, compressed: Compression, which: int) -> np.ndarray:
        """1 over the least factor that any place may have, (places,): no more than the sum of both shares."""
        return (compressed.first[which] + compressed.second[which]) / self.weakest


class _Waves:
    """Waves of one face at every place: ``factor`` (places,) of the load, least over the directions of the wave.

    Infinite at places that cannot govern their load case: those that have less than ``surely`` (places,), 1 over a
    factor that is reached somewhere under it.  ``axis``, ``stress``, ``compression`` of the direction that gives it: as
    of ``axis_at``, Pa, N/m.
    """

    def __init__(self, face: _Carried, compressed: Compression, places: Places, which: int, surely: np.ndarray) -> None:
        largest = compressed.first[which]
        at = np.nonzero((largest > 0.0) & (face.most(compressed, which) >= surely * BETWEEN_TRIED))[0]
        count = len(largest)
        self.factor = np.full(count, np.inf)
        self.axis, self.stress, self.compression = np.zeros((2, count)), np.zeros(count), np.zeros(count)
        self.axis[0] = 1.0
        if not len(at):
            return
        key, carried = (which, at), face.along[:, None]
        principal = compressed.axis(key)
        ahead, aside = face.thickness * face.rule(np.stack([principal, -principal], axis=1))
        along = np.concatenate([np.broadcast_to(carried, (len(carried), len(at))), ahead[None]])
        # compression along each direction tried over what is carried there: one product for all places
        first = np.empty(along.shape)
        first[:-1] = (-ALONG_TRIED / carried) @ compressed.parts(key)
        first[-1] = largest[at] / ahead
        np.maximum(first, 0.0, out=first)
        second = np.empty(along.shape)
        second[:-1] = compressed.second[key] / carried[ACROSS_TRIED]
        second[-1] = compressed.second[key] / aside
        most = first + second
        plain = np.zeros(count)
        plain[at] = first.max(axis=0)
        directions, rows = np.nonzero(most >= places.per_case(plain)[at] * (1.0 - ROUNDING))
        factors = np.full(first.shape, np.inf)
        factors[directions, rows] = interaction_factor(first[directions, rows], second[directions, rows])
        best = factors.argmin(axis=0)
        column = np.arange(len(at))
        carries = along[best, column]
        self.factor[at] = factors[best, column]
        self.axis[:, at] = np.where(best < len(carried), TRIED[:, np.minimum(best, len(carried) - 1)], principal)
        self.stress[at] = carries / face.thickness
        self.compression[at] = first[best, column] * carries

    def angle(self, place: int) -> float:
        """Direction of the wave in degrees from x toward y, over −90 to 90."""
        angle = float(np.degrees(np.arctan2(self.axis[1, place], self.axis[0, place])) / 2.0)
        return 90.0 if angle <= -89.5 else angle + 0.0


def _result(
    context: Context, case: Acting, at: Place, face: Face, rule: WrinklingStress, waves: _Waves, k: int,
    corner: tuple[str, ...],
) -> CheckResult:  # fmt: skip
    factor = float(waves.factor[k])
    acts = np.isfinite(factor)
    layer = face.layers[0] if face.name == "A" else face.layers[-1]
    plies = [context.stack.layers[i].material for i in face.layers]
    return context.result(
        "wrinkling",
        "Face wrinkling",
        case,
        float(waves.compression[k]) / face.thickness * context.settings.ultimate_factor if acts else 0.0,
        float(waves.stress[k]) if acts else 0.0,
        replace(at, layer=layer, surface=f"face {face.name}") if acts else Place(),
        method=f"{rule.method}, waves along {waves.angle(k):.0f}°" if acts else rule.method,
        source=least_trusted(
            [rule.material.source(("E3", "G13", "G23")), *(ply.source(("E1", "E2", "G12")) for ply in plies)]
        ),
        reserve=factor / context.settings.ultimate_factor,
        remarks=(*rule.remarks(waves.axis[:, k]), *corner) if acts else (),
        dimension="stress",
    )


@worked("wrinkling")
def work_wrinkling(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """From the compression of the face along the wave that governs."""
    section = context.section
    if section.core is None or result.place.layer is None:
        return
    which = 0 if result.place.layer in section.faces[0].layers else 1
    face, core = section.faces[which], section.core
    rules = _rules(context, core)
    rule, both = rules[which], _waves(context, rules)
    least = np.minimum(both[0].factor, both[1].factor)
    k = next((k for case, k in context.places.largest(-least) if case.case.key == result.case_id), None)
    if k is None or not np.isfinite(both[which].factor[k]):
        return
    waves = both[which]
    axis = waves.axis[:, k]
    t_face = face.thickness
    meaning = f"bending stiffness of face {face.name} along the wave, {waves.angle(k):.0f}°, per width"
    sheet.given("D_f", float(directional_bending(face, axis)), "bending", meaning)
    sheet.given("t_f", t_face, "length", "face thickness")
    sheet.step("E_f", "12 * D_f / t_f^3", "modulus", "bending modulus of the face")
    sheet.given("E_c", rule.material.value("E3"), "modulus", "modulus of the core through the thickness")
    sheet.given("k", rule.coefficient, "ratio", "coefficient")
    if rule.honeycomb:
        sheet.given("t_c", core.thickness, "length", "core thickness")
        sheet.step("σ_w", "k * E_f * sqrt(E_c * t_f / (E_f * t_c))", "stress", "wrinkling stress")
    else:
        sheet.given("G_c", float(directional_core_shear(core, axis)), "modulus", "shear modulus of the core there")
        sheet.step("σ_w", "k * (E_f * E_c * G_c)^(1/3)", "stress", "wrinkling stress")
    sheet.given("N", float(waves.compression[k]), "line_load", "compression of the face along the wave, limit load")
    sheet.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")
    sheet.step("σ", "j * N / t_f", "stress", "compression at ultimate load")
    share = result.reserve_factor * result.value / result.allowable
    if share < 1.0 - 1e-9:  # compression across the wave has its share
        sheet.given("RF", result.reserve_factor, "ratio", "reserve factor: the sum below is 1 at it")
        sheet.given("r2", (1.0 - share**3) / result.reserve_factor, "ratio", "share of the compression across the wave")
        sheet.step("sum", "(RF * σ / σ_w)^3 + RF * r2", "ratio", "both compressions together")
        sheet.closed = True
