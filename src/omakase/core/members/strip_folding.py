"""The section of a strip that bends: a flat one curves across, an arch or a hat flattens and its walls vibrate by
themselves.  What finite strips of its walls say of it, over half a wave along the span."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from omakase.core.members.span_loads import Spanned
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import wall_stiffness
from omakase.core.sections.folded import FoldedPlate
from omakase.core.sections.profile import StripSection, corners_of

STRIPS = 4  # of each wall of a hat, and four times as many of an arch
ACROSS = 12  # of a flat strip
SLENDER = 0.05  # widths to a half wave, up to which a strip curves across freely, within two thousandths
ALIKE = 2e-3  # share of its bending stiffness, up to which it makes no difference how a strip curves across
BAYS = (1.0, np.pi / 3.9266, np.pi / 4.7300)  # half waves of a bay with none, one and both of its ends clamped
CLAMPED_OVERHANG, OVERHANG = np.pi / 1.8751, 2.0


def half_wave(span: Spanned) -> float:
    """Half a wave in m that bends as sharply as the longest bay or overhang between its supports, 0 without supports.

    Of a uniform beam's first vibration in that bay alone, λ = π/(kL) (Blevins 1979, table 8-1): 1 between ends that
    turn freely, 0.80 where one end is clamped or goes on beyond the support, 0.66 where both are; of a clamped
    overhang 1.68, of one that goes on from a bay 2.
    """
    supports = sorted({own.x: own.held for own in span.supports}.items())
    if not supports:
        return 0.0
    stiff = [held == "clamped" or 0 < k < len(supports) - 1 for k, (_, held) in enumerate(supports)]
    waves = [
        (high - low) * BAYS[stiff[k] + stiff[k + 1]]
        for k, ((low, _), (high, _)) in enumerate(itertools.pairwise(supports))
    ]
    for (place, held), end in ((supports[0], 0.0), (supports[-1], span.length)):
        waves.append(abs(end - place) * (CLAMPED_OVERHANG if held == "clamped" else OVERHANG))
    return max(waves)


def held_across(span: Spanned, width: float, plate: PlateSection) -> float:
    """How far a flat strip is held from curving across as it bends: 0 as a narrow one that curves freely, 1 as a wide
    one that stays flat across, by the mean sag of the same wall over half a wave of its longest bay under an even load.

    Between a beam free to curve, M_y = 0, and a plate that bends to a cylinder.
    """
    wave = half_wave(span)
    A, B, D = wall_stiffness(plate)
    law = np.block([[A[:2, :2], B[:2, :2]], [B[:2, :2], D[:2, :2]]])  # κ_x is the third, κ_y the last
    narrow, wide = (width / float(np.linalg.inv(own)[2, 2]) for own in (law, law[:3, :3]))
    if width < SLENDER * wave or wave <= 0.0 or wide < (1.0 + ALIKE) * narrow:
        return 0.0
    place = -np.cos(np.linspace(0.0, np.pi, ACROSS + 1)) / 2.0  # closer at the edges, which curl
    corners = np.column_stack([place, np.zeros(ACROSS + 1)])
    sag = FoldedPlate(corners * width, A, B, D).sag(wave, np.diff(place))
    return float(np.clip(((wave / np.pi) ** 4 / sag - narrow) / (wide - narrow), 0.0, 1.0))


def kept_of_height(span: Spanned, width: float, section: StripSection) -> float:
    """Share of the bending stiffness from its height that an arched or a hat strip keeps as it flattens.

    From the sag of its folded walls over half a wave, as long as the longest bay or twice as an overhang, with the load
    even on an arch and on the crown of a hat: the beam gets what is left for its height, at least nothing.  Compared
    with bricks under a seat: sag within 5 %.  ``width`` : the mean along the span, m.
    """
    wave = half_wave(span)
    if not section.bent or wave <= 0.0:
        return 1.0
    line, names = corners_of(section.line, STRIPS)
    on_top = np.array([name in ("", "crown") for name in names])
    lengths = np.hypot(*np.diff(line, axis=0).T)
    sag = FoldedPlate(line * width, *wall_stiffness(section.wall.section)).sag(
        wave, on_top * lengths / (on_top * lengths).sum()
    )
    k = np.pi / wave
    left = 1.0 / (k**4 * sag)  # of the sag of folded plates, which do not shear across their walls
    flat = StripSection(section.wall, section.line, section.offset, 0.0).bending(width)
    return float(np.clip((left - flat) / (section.bending(width) - flat), 0.0, 1.0))


def frequencies_as_folded(
    span: Spanned, width: float, sections: Sequence[StripSection], lengths: Sequence[float], beam: tuple[float, ...]
) -> tuple[float, ...]:
    """Natural frequencies in Hz of the folded walls of a bent strip, ascending, as many as the ``beam`` has.

    Each vibration of the beam says how long the waves are: half a wave of the same section vibrates as fast.  Over
    waves of that length the folded walls vibrate up and down with what flattens, and crowns and sides by themselves.
    In twist and aside they are as long as the longest bay, or twice the overhang, over 1, 2, 3 (1, 3, 5), since clamped
    ends hold a twist no better than simple ones; carried masses make them longer.  Compared with bricks of an arch and
    of hats on two supports: the first four vibrations within 4 %, too low; clamped and hanging over, the first up to
    half too low, others within 10 %.

    ``sections`` over ``lengths`` along the span: stiffness and mass are their mean.
    """
    supports = sorted({own.x for own in span.supports})
    if not supports or not beam:
        return beam
    bay = max((high - low for low, high in itertools.pairwise(supports)), default=0.0)
    overhang = 2.0 * max(supports[0], span.length - supports[-1])
    shares = np.array(lengths) / sum(lengths)
    walls = [section.wall.section for section in sections]
    A, B, D = (sum(share * own for share, own in zip(shares, stiff, strict=True))
               for stiff in zip(*(wall_stiffness(wall) for wall in walls), strict=True))  # fmt: skip
    areal_mass = float(shares @ [wall.areal_mass for wall in walls])
    bending = float(shares @ [section.bending(width) for section in sections])
    line, _ = corners_of(sections[0].line, STRIPS)
    plate = FoldedPlate(line * width, A, B, D, areal_mass)
    found: list[float] = []
    for number, frequency in enumerate(beam, 1):
        own = np.pi * (bending / (areal_mass * width * (2.0 * np.pi * frequency) ** 2)) ** 0.25
        along = max(bay / number, overhang / (2 * number - 1), own if span.masses else 0.0)
        found += [*plate.frequencies(own, even=True), *plate.frequencies(along, even=False)]
    return tuple(float(own) for own in sorted(found)[: len(beam)])
