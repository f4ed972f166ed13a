"""Lateral buckling of spars, and torsion of open walls, against Timoshenko's coefficients and finite strips."""

from __future__ import annotations

import unittest
from itertools import pairwise
from typing import Any
from unittest import mock

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members import spar as spar_module
from omakase.core.members.span import SpanModel
from omakase.core.members.span_loads import Distribution, LineLoad, Moment, PointLoad, SpanCase, Spanned, Support
from omakase.core.members.span_sideways import sideways
from omakase.core.members.spar import WARPING, SparResponse
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.stretches import whole
from omakase.core.members.strip import WidthLaw
from omakase.core.members.tube import KINEMATICS
from omakase.core.sections.cylinder import wall_stiffness
from omakase.core.sections.outlines import OUTLINE_WALLS
from omakase.core.sections.section_strips import SectionStrips
from omakase.evaluate.results.engine import Evaluator
from omakase.project.demo import demo_project
from omakase.project.layers import LayerRecord
from omakase.project.library import materials_of
from omakase.project.model import LoadCase
from omakase.project.spans import ForceLoad, SpanSupport, SparMember, Station

MATERIALS = materials_of(demo_project())
LENGTH = 3.0
CLAMP = (Support(0.0, "clamped"),)
PINS = (Support(0.0), Support(LENGTH))


HELD = (("v", 0), ("w", 0), ("theta", 0))  # by a fork


def spar(
    case: SpanCase, supports: tuple[Support, ...] = CLAMP, outline: str = "box",
    sizes: tuple[float, float] = (0.02, 0.08), thickness: float = 0.5e-3, length: float = LENGTH,
    crown: float = 0.0, foot: float = 0.0,
) -> SparResponse:  # fmt: skip
    """Of aluminium; ``sizes`` : width and height, m."""
    laws = (WidthLaw(((0.0, size), (length, size))) for size in sizes)
    shape = SparShape(outline, *laws, crown=crown, foot=foot)  # type: ignore[arg-type]
    sheet = Stack((make_layer(MATERIALS["al6061"], 0.0, thickness),))
    walls = {name: whole(sheet, length) for name in OUTLINE_WALLS[outline]}  # type: ignore[index]
    return SparResponse(Spar(Spanned(length, supports), shape), walls, [case])


def in_forks(case: SpanCase, length: float, **shape: Any) -> SparResponse:
    """A spar whose ends are held in forks, which keep both from twisting."""
    forks = {"simple": HELD, "anchor": (("u", 0),)}
    with (
        mock.patch.object(spar_module, "KINEMATICS", msgspec.structs.replace(KINEMATICS, **forks)),
        mock.patch.object(spar_module, "WARPING", msgspec.structs.replace(WARPING, **forks)),
    ):
        found = spar(case, (Support(0.0), Support(length)), length=length, **shape)
        found._warping_models[True] = found._warping_model(False)  # with these supports, and no clamps
    return found


def factor(response: SparResponse, bent_before: bool = False) -> float:
    return response.sideways(0, not bent_before)


def by_strips(response: SparResponse, length: float) -> float:
    """The factor of the whole section in one half wave, by finite strips, four to a wall."""
    lines, plate = response.sections.lines, response.walls[0].plates[0]
    flows = -(response.sections.flows[0] @ response.forces[0][len(response.x) // 2])[..., 0]
    nodes, strips, loads = list(lines.nodes[0]), [], []
    for (first, last), (start, _, end) in zip(lines.pieces.tolist(), flows, strict=True):
        way = [first, *range(len(nodes), len(nodes) + 3), last]
        nodes += [lines.nodes[0][first] + share * (lines.nodes[0][last] - lines.nodes[0][first])
                  for share in (0.25, 0.5, 0.75)]  # fmt: skip
        strips += pairwise(way)
        loads += pairwise(start + (end - start) * np.linspace(0.0, 1.0, 5))
    A, _, D = wall_stiffness(plate)
    count = len(strips)
    section = SectionStrips(np.array(nodes), np.array(strips), np.array([A] * count), np.array([D] * count),
                            np.full((count, 2), np.inf))  # fmt: skip
    return float(section.buckling(np.array(loads), np.array([length]))[0][0, 0])


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

    def test_loads_beside_the_shear_centre(self) -> None:
        """A tip load a above it, 4.013 √(EI GJ)/L² (1 − a/L √(EI/GJ)) (Timoshenko and Gere 1961, article 6.3, from
        memory): a symmetric section whose reference line is moved."""
        case = SpanCase("x", (PointLoad(1.0, LENGTH),))
        found = spar(case)
        aside, _, _ = sideways_and_twist(found)
        share = np.sqrt(aside / found.sections.torsion[0]) / LENGTH
        for above in (0.04, -0.04):
            stiffness = np.linalg.inv(found.sections.moved(np.zeros(1), np.array([above])))[0]
            model = SpanModel(found.model.span, KINEMATICS, lambda x, C=stiffness: np.tile(C, (len(x), 1, 1)),
                              found._inertia, (case,), order=4)  # fmt: skip
            forces = model.results()[0].strains @ stiffness
            moved = sideways(model, forces, -2.0 * above * forces[:, 2], False)
            self.assertAlmostEqual((moved / factor(found) - 1.0) / (-above * share), 1.0, delta=0.05)

    def test_free_feet_that_are_pressed(self) -> None:
        """Hats under even moments, feet pressed, and a channel: λ² M² = P_z (GJ + EI_ω π²/L² + λ W), P_z = π² EI_z/L²
        (Vlasov 1961, from memory), and finite strips of the whole section."""
        for length, thickness, shape in (
            (1.5, 1e-3, {"outline": "hat", "sizes": (0.08, 0.05), "crown": 0.04, "foot": 0.02}),
            (1.5, 2e-3, {"outline": "hat", "sizes": (0.05, 0.08), "crown": 0.02, "foot": 0.015}),
            (6.0, 3e-3, {"outline": "hat", "sizes": (0.08, 0.05), "crown": 0.04, "foot": 0.02}),
            (3.0, 3e-3, {"outline": "channel", "sizes": (0.05, 0.08)}),
        ):
            with self.subTest(shape["outline"], length=length):
                ends = Moment(-1.0, 0.0), Moment(1.0, length)
                found = in_forks(SpanCase("x", ends), length, thickness=thickness, **shape)
                own, forces = found.sections, found.forces[0][len(found.x) // 2]
                aside = np.pi**2 * own.bending[0][1, 1] / length**2
                turning = own.turning[0] @ forces - 2.0 * forces[2] * own.shear_centre[1][0]
                held = own.torsion[0] + own.warping[0] * np.pi**2 / length**2
                roots = np.roots([forces[2] ** 2, -aside * turning, -aside * held])
                self.assertAlmostEqual(factor(found) / roots[roots > 0.0].min(), 1.0, delta=1e-3)
                self.assertAlmostEqual(factor(found) / by_strips(found, length), 1.0, delta=0.01)

    def test_what_is_stiff_sideways_tips_where_free_feet_are_pressed(self) -> None:
        """And not where they are pulled: what buckles under loads the other way round, much earlier, hides nothing."""
        hat = {"outline": "hat", "sizes": (0.08, 0.05), "crown": 0.04, "foot": 0.02, "thickness": 1e-3}
        pressed, pulled = (
            in_forks(SpanCase("x", (Moment(-size, 0.0), Moment(size, 1.5))), 1.5, **hat) for size in (1.0, -100.0)
        )
        aside, upright, _ = sideways_and_twist(pressed)
        self.assertGreater(aside, 2.0 * upright)
        self.assertAlmostEqual(factor(pressed, True) / factor(pressed), 1.0, delta=0.02)
        self.assertAlmostEqual(factor(pulled) / 71.84, 1.0, delta=2e-3)  # the other root of the equation above
        self.assertEqual(factor(pulled, True), float("inf"))

    def test_a_hat_against_its_shells(self) -> None:
        """A hat of eight plies on a clamp, 20 N down at its tip so that its feet are pressed, in a general
        finite-element solver whose clamp holds all: 13.01 at 0.6 m, 3.727 at 1.2 m (560 shells, S8R of CalculiX).  A
        clamp that lets it warp holds it less, which is what the check takes, and says."""
        brief = next(own for own in demo_project().briefs if isinstance(own.member, SparMember))
        form = msgspec.structs.replace(brief.candidates[1].form, outline="hat", height=(Station(0.0, 0.03),), bond=0.0,
                                       width=(Station(0.0, 0.08),), crown=0.03, foot=0.015, radius=0.0)  # fmt: skip
        layers = tuple(
            LayerRecord("twill200", angle=45.0 * (k % 2), wall=name) for name in OUTLINE_WALLS["hat"] for k in range(8)
        )
        hat = msgspec.structs.replace(brief.candidates[1], form=form, details=(), zones=(), layers=layers)
        for length, shells in ((0.6, 13.01), (1.2, 3.727)):
            member = msgspec.structs.replace(brief.member, length=length, chord=(), carried=(),
                                             supports=(SpanSupport(0.0, "clamped"),))  # fmt: skip
            down = LoadCase("l1", "down", (ForceLoad(20.0, length),), 1.0)
            one = msgspec.structs.replace(brief, member=member, load_cases=(down,), candidates=(hat,))
            result = Evaluator().evaluate(one, hat, MATERIALS)
            response = result.response
            assert isinstance(response, SparResponse)
            self.assertAlmostEqual(response.sideways(0, linear=True) / shells, 1.0, delta=0.03)
            tipping = result.worst("tipping")
            assert tipping is not None
            self.assertAlmostEqual(tipping.reserve_factor * 1.5, response.sideways(0), places=6)
            self.assertLess(response.sideways(0), 0.7 * shells)
            self.assertTrue(any("warp" in remark for remark in tipping.remarks))

    def test_columns(self) -> None:
        """Channels pressed at their centroid twist as they bend: r₀² (P − P_w)(P − P_φ) = P² y₀², or bend sideways
        alone (Timoshenko and Gere 1961, article 5.7, from memory)."""
        for length, thickness, sizes in (
            (3.0, 2e-3, (0.05, 0.08)),
            (1.0, 1e-3, (0.04, 0.08)),
            (0.8, 1e-3, (0.06, 0.08)),
        ):
            with self.subTest(length=length):
                found = in_forks(SpanCase("x"), length, outline="channel", sizes=sizes, thickness=thickness)
                own = found.sections
                centroid, centre = own.tension_centre[0][0], own.shear_centre[0][0]
                forces = np.zeros((len(found.x), 6))
                forces[:, 0], forces[:, 3] = -1.0, -centroid
                turning = (found.gathered(own.turning) * forces).sum(axis=1)
                upright, aside = np.diag(own.bending[0]) * np.pi**2 / length**2
                square = (centre - centroid) ** 2 + np.trace(own.bending[0]) / own.axial[0]
                twisted = (own.torsion[0] + own.warping[0] * np.pi**2 / length**2) / square
                share = 1.0 - (centre - centroid) ** 2 / square
                both = np.roots([share, -(upright + twisted), upright * twisted]).min()
                least = sideways(found._warping_model(False), forces, turning, False)
                self.assertAlmostEqual(least / min(both, aside), 1.0, delta=5e-3)  # shear of the walls is not in it

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
