"""Arched and hat strips whose crown, sides or edges buckle, or that twist as they bend."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.checks.limits import ratio
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.walls_together import law_of
from omakase.core.errors import both_units
from omakase.core.members.field import Place, WallField
from omakase.core.members.strip import StripResponse
from omakase.core.plates.section import PlateSection
from omakase.core.sections.curved_walls import CurvedWall
from omakase.core.sections.profile import StripSection, corners_of
from omakase.core.sections.section_strips import SectionStrips, least_between
from omakase.core.sections.strip_functions import half_waves

PARTS = 4  # strips across each wall of a hat; four times as many in an arc
SHORTEST, STEP = 0.1, 1.5  # half waves that are tried: from so much of the cloth's width, one after the other
PRESSED, SOME = 1e-12, 0.1  # strain along from which on something is pressed; share of the largest that counts


@register(
    "strip_buckling", "A wall of an arched or hat strip buckles, or the strip twists as it bends",
    "Finite strips of the whole section under what is pressed along, in half waves as long as it is pressed "
    "(Cheung 1976), with transverse shear; an arc knocked down after NASA SP-8007",
    "The section as it is before it flattens, pressed all along the wave as where that is most; no shear, and nothing "
    "that holds it but its ends: on the safe side (in a finite-element solver an arched plank held a quarter longer, a "
    "wide hat that flattens under a load on its crown two to three times).",
    per="member",
)  # fmt: skip
def strip_buckling(context: Context) -> list[CheckResult]:
    """One result per load case that presses some of a bent section."""
    response = context.response
    if not isinstance(response, StripResponse) or not response.section.bent:
        return []
    results = []
    for acting, stretches in zip(response.acting, buckled_stretches(response), strict=True):
        if stretches:
            first = min(stretches, key=lambda own: own.factor)
            least = first.factor / context.settings.ultimate_factor
            method = f"finite strips of the section, half waves of {both_units(round(first.wave, 3))}"
            results.append(
                ratio(context, "strip_buckling", "Buckling of the section", acting, least, Place(first.x), method)
            )
    return results


class Buckled(msgspec.Struct, frozen=True, eq=False):
    """How a stretch of a strip buckles: at ``factor`` times limit loads in half waves ``wave`` m long, as it is at
    ``x`` m, where it is pressed most; ``pressed`` : at its sampled ``stations`` in shares of that."""

    factor: float
    wave: float
    x: float
    pressed: np.ndarray
    stations: np.ndarray


def buckled_stretches(response: StripResponse) -> list[list[Buckled]]:
    """For each load case those of its stretches that are pressed somewhere; kept."""
    if "buckled" not in response.derived:
        known: dict[tuple[float, ...], tuple[float, float]] = {}  # loads of several cases are often in proportion
        response.derived["buckled"] = [
            [
                own
                for part, field in zip(response.parts, response.fields, strict=True)
                if (own := _of_stretch(response, part.plate, part.section, field, index, known)) is not None
            ]
            for index in range(len(response.acting))
        ]
    return response.derived["buckled"]


def section_severity(response: StripResponse, case: int) -> np.ndarray:
    """1 over the factor at which a bent section buckles under a load case, at every place along: (places,)."""
    severity = np.zeros(len(response.x))
    for own in buckled_stretches(response)[case] if response.section.bent else ():
        severity[own.stations] = own.pressed / own.factor
    return severity


def _of_stretch(
    response: StripResponse, plate: PlateSection, section: StripSection, field: WallField, index: int,
    known: dict[tuple[float, ...], tuple[float, float]],
) -> Buckled | None:  # fmt: skip
    """As it is where it is pressed most; None where nothing is pressed."""
    case = field.cases[index]
    along = case.strains[..., 0].min(axis=1) if len(case.x) else np.zeros(1)
    i = int(along.argmin())
    if along[i] > -PRESSED or field.stations is None:
        return None
    width = float(response.member.width(case.x[i : i + 1])[0])
    nodes = width * corners_of(section.line, PARTS)[0]
    strips = np.column_stack([np.arange(len(nodes) - 1), np.arange(1, len(nodes))])
    heights, strains = section.line.z * width, case.strains[i, :, 0]
    low, high = int(heights.argmin()), int(heights.argmax())
    slope = (strains[high] - strains[low]) / (heights[high] - heights[low])
    A, D, shear = law_of(plate)
    pressed = -(strains[low] + slope * (nodes[:, 1] - heights[low])) / np.linalg.inv(A)[0, 0]
    longest = min(_pressed_length(case.x, along, i), response.member.longest_bay())
    most = float(pressed.max())
    key = (id(plate), width, *np.round([longest, *(pressed / most)], 6).tolist())
    if key not in known:
        count = len(strips)
        cut = SectionStrips(nodes, strips, np.array([A] * count), np.array([D] * count), np.array([shear] * count))
        factor, wave = _first(cut, np.column_stack([pressed[:-1], pressed[1:]]) / most, SHORTEST * width, longest)
        if response.member.profile.shape == "arched":
            arc = CurvedWall(nodes)
            factor *= float(arc.pressed(plate, "bending")[0].min() / arc.pressed(plate)[0].min())
        known[key] = factor, wave
    factor, wave = known[key]
    return Buckled(factor / most, wave, float(case.x[i]), np.maximum(along / along[i], 0.0), field.stations)


def _first(cut: SectionStrips, loads: np.ndarray, shortest: float, longest: float) -> tuple[float, float]:
    """The least factor on loads, and its half wave, up to the longest."""
    waves = np.append(half_waves(shortest, longest, STEP), max(longest, shortest))
    factors = cut.buckling(loads, waves)[0][:, 0]
    return least_between(factors, waves, int(factors.argmin()))


def _pressed_length(x: np.ndarray, along: np.ndarray, i: int) -> float:
    """How long the strip is pressed about place ``i`` at least a tenth as much as there, m."""
    other = np.nonzero(along > SOME * along[i])[0]
    first, last = other[other < i].max(initial=0), other[other > i].min(initial=len(x) - 1)
    return float(x[last] - x[first])
