"""How the buckling of walls of a spar is worked out by hand."""

from __future__ import annotations

import math

import numpy as np

from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.wall_buckling import (
    EarlierTogether,
    Part,
    chain_factors,
    chain_springs,
    earlier_together,
    governing_part,
    is_curved,
    on_flange,
)
from omakase.core.checks.work_members import SAME, at_places, of_kind
from omakase.core.checks.working import Sheet, worked
from omakase.core.members.spar import SparResponse
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import knock_down, wall_stiffness
from omakase.core.sections.long_plates import LongPlate, long_plate


@worked("wall_buckling")
@at_places
@of_kind(SparResponse)
def work_wall_buckling(
    response: SparResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """Compression, bending and shear of the wall over the loads at which it buckles."""
    level = context.settings.ultimate_factor
    walls = zip(response.chains, chain_factors(response), chain_springs(response), strict=True)
    for chain, factors, springs in walls:
        factor = float(factors[index][k])
        if chain.wall != result.wall or not math.isclose(level / factor, result.value, rel_tol=SAME):
            continue
        flows = response.line_forces(chain, index)[k]
        plate = response.plate_at(chain.wall, k)
        earlier = earlier_together(response, index, chain)
        if is_curved(chain):
            part = governing_part(response, chain, index, k)
            _loads_of_part(sheet, part, plate)
            sheet.given("N", part.acting, "line_load", "compression of the part, mean, limit load")
            over = _share_together(sheet, earlier)
            sheet.step("a", f"N / N_c{over}", "ratio", "compression")
            sheet.given("q", float(np.abs(flows[:, 1]).mean()), "line_load", "shear flow, mean, limit load")
            sheet.given(
                "q_b", part.sheared, "line_load", "shear flow at which a part buckles: a flat one, or a cylinder"
            )
            sheet.step("b", "(q / q_b)^2", "ratio", "shear")
            sheet.give_level(context)
            sheet.step("f", "j * (a + sqrt(a^2 + 4 * b)) / 2", "ratio", "1 over the factor at ultimate load")
            return
        wide = float(response.width(chain)[k])
        law, spring = long_plate(plate), float(springs[index][k])
        _give_plate(sheet, law, wide, spring, chain.free)
        if chain.free:
            if response.member.rib_pitch:
                sheet.given("c", response.member.rib_pitch, "length", "length between ribs")
            _loads_of_flange(sheet, spring, bool(response.member.rib_pitch))
            pressed = float(on_flange(response, chain, -flows[None, :, 0])[0])
            sheet.given(
                "N", pressed, "line_load", "compression, by the square of the way from the held edge, limit load"
            )
            over = _share_together(sheet, earlier)
            sheet.step("a", f"N / N_c{over}", "ratio", "compression; shear fades toward the free edge")
            sheet.give_level(context)
            sheet.step("f", "j * a", "ratio", "1 over the factor at ultimate load")
            return
        _loads_of_wall(sheet, spring)
        one, two = -float(flows[0, 0]), -float(flows[-1, 0])
        sheet.given("N_1", one, "line_load", "compression at one edge, limit load")
        sheet.given("N_2", two, "line_load", "compression at the other edge, limit load")
        over = _share_together(sheet, earlier)
        sheet.step("a", f"max(N_1 + N_2, 0) / 2 / N_c{over}", "ratio", "compression")
        sheet.given("q", float(np.abs(flows[:, 1]).mean()), "line_load", "shear flow, mean, limit load")
        sheet.step("b", f"((N_1 − N_2) / 2 / N_b{over})^2 + (q / q_b)^2", "ratio", "bending and shear")
        sheet.give_level(context)
        sheet.step("f", "j * (a + sqrt(a^2 + 4 * b)) / 2", "ratio", "1 over the factor at ultimate load")
        return


def _share_together(sheet: Sheet, earlier: EarlierTogether | None) -> str:
    """What divides shares of loads along where walls buckle together earlier than this one alone."""
    if earlier is None:
        return ""
    sheet.given(
        "λ_s", earlier.strips, "ratio", "factor of the whole section by finite strips, on limit loads without shear"
    )
    sheet.given("λ_1", earlier.alone, "ratio", "factor of this wall alone at the same place, without shear")
    down = ""
    if earlier.knocked != 1.0:
        sheet.given("γ_s", earlier.knocked, "ratio", "what a curved skin's knock-down leaves of its load")
        down = " * γ_s"
    sheet.step("r", f"λ_s{down} / λ_1", "ratio", "walls buckle together: what is left of loads along")
    return " / r"


def _loads_of_part(sheet: Sheet, part: Part, plate: PlateSection) -> None:
    """The load at which a part of a curved wall buckles, as ``CurvedWall`` has it."""
    wall, i = part.wall, part.index
    if part.acting <= 0.0 or not part.exact:
        sheet.given("N_c", part.pressed, "line_load",
                    "of the part that buckles first, between those at places worked out")  # fmt: skip
        return
    law, a = long_plate(plate), np.linalg.inv(wall_stiffness(plate)[0])
    sheet.given("π", math.pi, "ratio", "")
    sheet.given("b_p", float(wall.wide[i]), "length", "width of the part of the skin that buckles first")
    sheet.step("β", "π / b_p", "curvature", "half a wave over its width")
    sheet.given("l", float(wall.pressed(plate, part.loading)[1][i]), "length", "half wave along")
    sheet.step("k", "π / l", "curvature", "half a wave along")
    for name, value in (("11", law.D11), ("22", law.D22), ("12", law.D12), ("66", law.D66)):
        sheet.given(f"D_{name}", value, "bending", "bending stiffness per width")
    sheet.step("N_d", "D_11 * k^2 + 2 * (D_12 + 2 * D_66) * β^2 + D_22 * β^4 / k^2", "line_load", "from bending")
    for name, value in (("11", a[0, 0]), ("22", a[1, 1]), ("12", a[0, 1]), ("66", a[2, 2])):
        sheet.given(f"a_{name}", float(value), "compliance", "in-plane compliance, A⁻¹")
    sheet.given("κ", float(wall.curvature[i]), "curvature", "curvature of the part")
    sheet.given("γ", float(knock_down(plate, wall.radii, part.loading)[i]), "ratio", "knock-down, NASA SP-8007")
    stretched = "(γ * κ)^2 * k^2 / (a_22 * k^4 + (2 * a_12 + a_66) * k^2 * β^2 + a_11 * β^4)"
    sheet.step("N_k", stretched, "line_load", "from the curvature")
    _give_shear(sheet, law)
    sheet.step("N_c", "1 / (1 / (N_d + N_k) + 1 / S)", "line_load", "buckling load of the part in compression")


def _give_plate(sheet: Sheet, law: LongPlate, wide: float, spring: float, free: bool) -> None:
    """The wall as a long plate: its stiffness and width, and how its edges are held."""
    sheet.given("D_11", law.D11, "bending", "bending stiffness along, per width; uneven layups free to stretch")
    sheet.given("D_22", law.D22, "bending", "across")
    sheet.step("m", "sqrt(D_11 * D_22)", "bending", "mean of both")
    if free:
        sheet.given("D_66", law.D66, "bending", "stiffness in twist")
    else:
        sheet.given("D_12", law.D12, "bending", "between both")
        sheet.given("D_66", law.D66, "bending", "in twist")
        sheet.step("T", "D_12 + 2 * D_66", "bending", "of twist")
    sheet.given("h", wide, "length", "width of the wall, middle to middle of those beside it")
    sheet.given("π", math.pi, "ratio", "")
    if spring > 0.0:
        sheet.given("k", spring, "force", "spring of the walls beside it against turning, per length and rad")
    _give_shear(sheet, law)


def _give_shear(sheet: Sheet, law: LongPlate) -> None:
    sheet.given("S", law.shear, "line_load", "transverse shear stiffness, the lesser of both directions")


def _softened(sheet: Sheet, symbol: str, formula: str, meaning: str) -> None:
    """A buckling load, with what the wall gives in transverse shear."""
    sheet.step(f"{symbol}0", formula, "line_load", f"{meaning}, without transverse shear")
    sheet.step(symbol, f"1 / (1 / {symbol}0 + 1 / S)", "line_load", meaning)


def _loads_of_wall(sheet: Sheet, spring: float) -> None:
    """Loads at which a wall between two others buckles, each alone, as ``LongPlate`` has them."""
    if spring > 0.0:
        sheet.step("ξ", "k * h / (k * h + 10 * D_22)", "ratio", "how far the edges are clamped")
    else:
        sheet.given("ξ", 0.0, "ratio", "how far the edges are clamped: they turn freely")
    pressed = "π^2 / h^2 * (2 * sqrt(1 + 4.139 * ξ) * m + (2 + 0.42 * ξ^2) * T)"
    _softened(sheet, "N_c", pressed, "buckling load in compression")
    _softened(sheet, "N_b", "π^2 / h^2 * (13.4 * m + 10.45 * T)", "buckling load in bending, at the edge")
    K = sheet.step("K", "T / m", "ratio", "of twist to bending")
    sheared = (
        "4 / h^2 * sqrt(m * D_22) * (8.125 + 5.64 * K − 0.6 * K^2)"  # (D11 D22³)^¼ = √(m D22)
        if K <= 1.0
        else "4 / h^2 * sqrt(D_22 * T) * (11.7 + 0.532 / K + 0.938 / K^2)"
    )
    _softened(sheet, "q_b", sheared, "buckling load in shear")


def _loads_of_flange(sheet: Sheet, spring: float, in_bays: bool) -> None:
    """The load at which a wall with one edge free buckles, as ``LongPlate`` has it."""
    if spring > 0.0:
        sheet.step("ξ", "k * h / (k * h + 4.12 * D_22)", "ratio", "how far its edge is clamped")
    else:
        sheet.given("ξ", 0.0, "ratio", "how far its edge is clamped: it turns freely")
    along = " + π^2 * D_11 / c^2" if in_bays else ""
    pressed = f"(12 * D_66 + 7 * m * sqrt(ξ)) / h^2{along}"
    _softened(sheet, "N_c", pressed, "buckling load in compression")
