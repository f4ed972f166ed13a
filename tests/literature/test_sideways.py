"""Lateral buckling of spars, and torsion of open walls, against Timoshenko's coefficients."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.span_loads import Distribution, LineLoad, Moment, PointLoad, SpanCase, Spanned, Support
from omakase.core.members.spar import Spar, SparResponse, SparShape
from omakase.core.members.stretches import whole
from omakase.core.members.strip import WidthLaw
from omakase.core.sections.outlines import OUTLINE_WALLS
from omakase.project.demo import demo_project
from omakase.project.library import materials_of

MATERIALS = materials_of(demo_project())
LENGTH = 3.0
CLAMP = (Support(0.0, "clamped"),)
PINS = (Support(0.0), Support(LENGTH))


def spar(
    case: SpanCase, supports: tuple[Support, ...] = CLAMP, outline: str = "box",
    sizes: tuple[float, float] = (0.02, 0.08), thickness: float = 0.5e-3,
) -> SparResponse:  # fmt: skip
    """Of aluminium; ``sizes`` : width and height, m."""
    shape = SparShape(outline, *(WidthLaw(((0.0, size), (LENGTH, size))) for size in sizes))  # type: ignore[arg-type]
    sheet = Stack((make_layer(MATERIALS["al6061"], 0.0, thickness),))
    walls = {name: whole(sheet, LENGTH) for name in OUTLINE_WALLS[outline]}  # type: ignore[index]
    return SparResponse(Spar(Spanned(LENGTH, supports), shape), walls, [case])


def factor(response: SparResponse, bent_before: bool = False) -> float:
    return response.model.sideways(response.results[0].diagrams, bent_before)


def sideways_and_twist(response: SparResponse) -> tuple[float, float, float]:
    """EI about the upright and the lying axis, N m², and √(EI GJ)."""
    bending, torsion = response.sections.bending[0], response.sections.torsion[0]
    return bending[1, 1], bending[0, 0], float(np.sqrt(bending[1, 1] * torsion))


class Sideways(unittest.TestCase):
    def test_coefficients_of_the_book(self) -> None:
        """Timoshenko and Gere 1961, chapter 6 (from memory): 4.013 of a tip load on a cantilever, 12.85 of an even one;
        even moments π between forks, so half of it where only one end is a fork: the second half is its mirror image.
        Loads at the axis, no warping."""
        ends = Moment(1.0, 0.0), Moment(-1.0, LENGTH)
        even = Distribution((LineLoad(1 / LENGTH, 1 / LENGTH, 0.0, LENGTH),))
        for name, loads, supports, coefficient, power in (
            ("tip load", (PointLoad(1.0, LENGTH),), CLAMP, 4.013, 2),
            ("even load", (even,), CLAMP, 12.85, 2),
            ("even moment", ends, PINS, np.pi / 2.0, 1),
        ):
            with self.subTest(name):
                found = spar(SpanCase("x", loads), supports)
                root = sideways_and_twist(found)[2]
                self.assertAlmostEqual(factor(found) / (coefficient * root / LENGTH**power), 1.0, delta=0.005)

    def test_the_way_up_does_not_matter(self) -> None:
        down, up = (factor(spar(SpanCase("x", (PointLoad(force, LENGTH),)))) for force in (1.0, -1.0))
        self.assertAlmostEqual(down / up, 1.0, places=6)

    def test_bent_before(self) -> None:
        """Vacharajittiphan, Woolcock and Trahair 1974 (from memory): an even moment divided by √(1 − EI_z/EI_y), with
        GJ/EI_y small; a section as stiff sideways as upright does not tip."""
        case = SpanCase("x", (PointLoad(1.0, LENGTH),))
        found = spar(case)
        aside, upright, _ = sideways_and_twist(found)
        self.assertAlmostEqual(factor(found, True) / factor(found), (1.0 - aside / upright) ** -0.5, delta=1e-3)
        self.assertEqual(factor(spar(case, sizes=(0.0501, 0.05)), True), float("inf"))
        self.assertEqual(spar(case, sizes=(0.08, 0.02)).measures["tipping"], ())

    def test_unloaded_spars_do_not_tip(self) -> None:
        self.assertEqual(spar(SpanCase("own vibration")).measures["tipping"], ())


class OpenTorsion(unittest.TestCase):
    def test_three_walls_of_metal_whose_edges_are_loose(self) -> None:
        """A rectangle t by b has J = b t³/3 (1 − 0.63 t/b) (Timoshenko and Goodier 1970, article 109)."""
        for thickness in (0.5e-3, 2e-3):
            channel = spar(SpanCase("x", (PointLoad(1.0, LENGTH),)), outline="channel", thickness=thickness)
            lengths = channel.sections.lines.lengths[0]
            wanted = lengths.sum() / (lengths - 0.63 * thickness).sum()
            self.assertAlmostEqual(channel.loose_torsion / wanted, 1.0, delta=0.002)
        self.assertEqual(spar(SpanCase("x")).loose_torsion, 1.0)


if __name__ == "__main__":
    unittest.main()
