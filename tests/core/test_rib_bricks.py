"""Ribs as bricks: sections without folds, weight, bonds that let the whole move, loads, and what is refused."""

from __future__ import annotations

import unittest

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.members.panel_patchwork import Box, Lying, Patchwork, patchwork
from omakase.core.members.panel_ribs import Rib, RibBeam
from omakase.core.mesh.curving import curving_of
from omakase.core.mesh.lifted import lifted_nodes
from omakase.core.mesh.mesh import Mesh, quadratic_slopes
from omakase.core.mesh.panel_bricks import panel_bricks
from omakase.core.mesh.panel_plan import plan_of
from omakase.core.mesh.piece import piece_of
from omakase.core.mesh.rib_bricks import lines_of, rib_bricks, under_beads
from omakase.core.mesh.rib_profile import profile_of
from omakase.core.plates.grid import Edges
from omakase.core.plates.section import PlateSection
from tests.support import brick_weight, isotropic, orthotropic, sheet

CLOTH = orthotropic(60e9, 60e9, 4e9, 0.05)
WALL = Stack((sheet(CLOTH, 0.3e-3), sheet(CLOTH, 0.4e-3, 45.0), sheet(CLOTH, 0.3e-3)))
LEVELS = np.array([-0.5e-3, -0.2e-3, 0.2e-3, 0.5e-3])
SIMPLE = Edges("simple", "simple", "simple", "simple")
AIR = LoadCase("air", (1000.0,), (), 0.0, "a")
FLAT = Panel(0.6, 0.4, SIMPLE)
RIBS = {
    "hat": Rib(False, 0.25, 0.03, 0.37, "hat", 0.018, 0.025, 0.015, 0.015, filling=60.0),
    "hat without feet": Rib(True, 0.2, 0.0, 0.6, "hat", 0.018, 0.025, 0.015, 0.0),
    "tee": Rib(True, 0.2, 0.0, 0.6, "tee", 0.02, 0.02, foot=0.012, on_a=True),
    "blade": Rib(False, 0.3, 0.0, 0.4, "blade", 0.02, foot=0.0, on_a=True),
    "strip": Rib(True, 0.1, 0.1, 0.5, "strip", width=0.04),
    "triangle": Rib(True, 0.2, 0.0, 0.6, "triangle", 0.015, 0.03, foot=0.01),
    "arc": Rib(False, 0.3, 0.0, 0.4, "half_round", 0.012, 0.03, foot=0.01, on_a=True),
    "bead": Rib(True, 0.2, 0.0, 0.6, "triangle", 0.012, 0.05, formed=True),
    "bead inside": Rib(False, 0.3, 0.05, 0.35, "half_round", 0.012, 0.05, formed=True, on_a=True),
}


def beam(rib: Rib) -> RibBeam:
    return RibBeam(rib, PlateSection(WALL), 30e6)


def even() -> Patchwork:
    return patchwork(WALL.layers, [Lying() for _ in WALL.layers], 0.6, 0.4)


def bricks(*ribs: Rib, panel: Panel = FLAT, zones: Patchwork | None = None) -> Mesh:
    work = even() if zones is None else zones
    heights = (0.0,) if zones is None else tuple((own.thickness - WALL.thickness) / 2.0 for own in work.stacks)
    return panel_bricks(panel, WALL, (AIR,), 12, frozenset(), work, heights, [beam(rib) for rib in ribs])


class Profiles(unittest.TestCase):
    def test_their_area_is_that_of_the_mid_lines(self) -> None:
        for name, rib in RIBS.items():
            with self.subTest(name):
                own = profile_of(rib, LEVELS, 2)
                length = sum(piece.length for piece in beam(rib).pieces)
                if rib.formed:
                    length += 2.0 * 3e-3  # the flat sheet beside
                self.assertAlmostEqual(own.areas.sum() / (length * 1e-3), 1.0, delta=0.06)
                self.assertGreater(own.areas.min(), 0.0)
                by_layer = [own.areas[own.layers == k].sum() for k in range(3)]
                np.testing.assert_allclose(np.array(by_layer) / own.areas.sum(), (0.3, 0.4, 0.3), atol=0.03)
                self.assertEqual(len(np.unique(own.points.round(8), axis=0)), len(own.points))

    def test_walls_without_room_are_refused(self) -> None:
        tight = Rib(True, 0.2, 0.0, 0.6, "hat", 0.01, 0.012, 0.001, 0.01)
        with self.assertRaisesRegex(MemberError, "no room"):
            profile_of(tight, 4.0 * LEVELS, 2)


class OnPanels(unittest.TestCase):
    def test_they_weigh_what_the_program_says(self) -> None:
        for name, rib in RIBS.items():
            own, plain = beam(rib), brick_weight(bricks())
            with self.subTest(name):
                more = brick_weight(bricks(rib)) - plain
                self.assertAlmostEqual(more, own.mass * (rib.high - rib.low), delta=0.06 * own.mass + 1e-6)

    def test_no_brick_is_folded(self) -> None:
        corners = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
        for name, rib in RIBS.items():
            mesh = bricks(rib)
            for group in mesh.groups:
                p = mesh.nodes[group.elements[:, [0, 1, 2, 3, 8, 9, 10, 11]]]
                first, second = np.einsum("kra,qap->kqrp", quadratic_slopes(corners), p)
                along = (mesh.nodes[group.elements[:, 4:8]] - mesh.nodes[group.elements[:, :4]]).mean(axis=1)
                with self.subTest(name, group=group.name):
                    self.assertGreater((np.cross(first, second) * along[:, None]).sum(axis=2).min(), 0.0)

    def test_what_is_bonded_moves_with_the_panel_as_one_body(self) -> None:
        """The weights of the face give back every place on it: no movement of a rigid body strains a bond."""
        panel, walls = FLAT, piece_of(WALL, 0.0)
        for name, rib in RIBS.items():
            plan = plan_of(panel, even(), 12, lines_of(panel.surface, [beam(rib)]))
            formed = under_beads(plan, panel.surface, [beam(rib)])
            there = np.tile(~formed[:, None], (1, 3))
            lifted = lifted_nodes(plan, curving_of(panel), LEVELS, there)
            own = rib_bricks(lifted, [(beam(rib), walls)], 2, (False,) * 4, (True,) * 4)  # type: ignore[arg-type]
            places = np.concatenate([lifted.nodes, own.nodes])
            shared = {int(node) for group in own.groups for node in group.elements.ravel() if node < len(lifted.nodes)}
            with self.subTest(name):
                self.assertTrue(shared or own.bonded)
                self.assertEqual(bool(own.pushed), rib.formed)
                for node, leaders, weights in own.bonded:
                    self.assertGreater(node, max(leaders))
                    self.assertAlmostEqual(weights.sum(), 1.0)
                    np.testing.assert_allclose(weights @ places[leaders], places[node], atol=1e-9)
            used = np.unique(np.concatenate([group.elements.ravel() for group in bricks(rib).groups]))
            self.assertEqual(len(used), used.max() + 1)  # no node hangs in the air

    def test_clamped_ends_are_built_in(self) -> None:
        clamped = Panel(0.6, 0.4, Edges("clamped", "simple", "simple", "simple"))
        rib = RIBS["tee"]
        mesh = bricks(rib, panel=clamped)
        tip = int(np.argmax(mesh.nodes[:, 2] - mesh.nodes[:, 0]))
        self.assertTrue(mesh.held[tip].all())
        self.assertFalse(bricks(rib).held[tip].any())

    def test_all_of_a_pressure_is_taken_where_there_is_a_bead(self) -> None:
        for name in ("bead", "bead inside", "hat"):
            mesh = bricks(RIBS[name])
            forces = mesh.cases[0].forces
            with self.subTest(name):
                self.assertAlmostEqual(forces[:, 2].sum() / (-1000.0 * 0.24), 1.0, places=9)
                middle = forces[:, 2] @ mesh.nodes[:, :2] / forces[:, 2].sum()
                np.testing.assert_allclose(middle, (0.3, 0.2), atol=1e-9)

    def test_a_rib_follows_a_step_and_bridges_an_opening(self) -> None:
        stuff = sheet(isotropic(70e9, 0.3), 1e-3)
        layers = [*WALL.layers, stuff]
        rib = RIBS["tee"]
        for box, words in ((Box(0.0, 0.2, 0.0, 0.4), ""), (Box(0.0, 0.6, 0.0, 0.2), "runs along it")):
            step = patchwork(layers, [*(Lying() for _ in WALL.layers), Lying((box,))], 0.6, 0.4)
            if words:
                self.assertIn(words, self.refused(rib, step))
                continue
            mesh = bricks(rib, zones=step)
            place = np.abs(mesh.nodes[:, 1] - 0.2) < 0.005
            top = [mesh.nodes[place & (np.abs(mesh.nodes[:, 0] - x) < 0.03), 2].max() for x in (0.1, 0.5)]
            face = [mesh.nodes[~place & (np.abs(mesh.nodes[:, 0] - x) < 0.03)
                               & (np.abs(mesh.nodes[:, 1] - 0.05) < 0.04), 2].max() for x in (0.1, 0.5)]  # fmt: skip
            self.assertAlmostEqual(abs(face[0] - face[1]), 1e-3, places=9)
            self.assertAlmostEqual(top[0] - top[1], face[0] - face[1], places=9)
            self.assertIn("step", self.refused(msgspec.structs.replace(RIBS["bead"], on_a=True), step))
        opened = patchwork(WALL.layers, [Lying() for _ in WALL.layers], 0.6, 0.4, [Box(0.2, 0.3, 0.15, 0.25)])
        mesh = bricks(RIBS["tee"], zones=opened)
        over = (np.abs(mesh.nodes[:, 0] - 0.25) < 0.03) & (np.abs(mesh.nodes[:, 1] - 0.2) < 0.005)
        self.assertTrue(over.any())
        self.assertGreater(mesh.nodes[over, 2].min(), WALL.thickness / 2.0 - 1e-9)

    def refused(self, rib: Rib, zones: Patchwork) -> str:
        with self.assertRaises(MemberError) as caught:
            bricks(rib, zones=zones)
        return str(caught.exception)

    def test_ribs_on_an_arch_follow_it(self) -> None:
        arched = Panel(0.6, 0.4, SIMPLE, "sides", (0.0, 0.05))
        for name in ("hat", "tee", "arc"):
            with self.subTest(name):
                mesh = bricks(RIBS[name], panel=arched)
                for group in mesh.groups:
                    assert group.frames is not None
                    lengths = np.linalg.norm(group.frames, axis=2)
                    np.testing.assert_allclose(lengths, 1.0, atol=1e-9)
                    np.testing.assert_allclose((group.frames[:, 0] * group.frames[:, 1]).sum(axis=1), 0.0, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
