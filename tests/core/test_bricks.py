"""Bricks of panels: where they are, that nothing is torn, that loads and supports are what they stand for."""

from __future__ import annotations

import math
import unittest
from collections import Counter

import numpy as np

from omakase.core.members.panel_given import Bolt, Held, LoadCase, Panel
from omakase.core.mesh.curving import Curving, curving_of
from omakase.core.mesh.mesh import Mesh, quadratic, quadratic_slopes
from omakase.core.mesh.panel_bricks import panel_bricks
from omakase.core.mesh.panel_plan import plan_of
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import EdgeLoad, PatchLoad
from tests.support import CLAMPED, SIMPLE, isotropic, sandwich, soft_core

STACK = sandwich(isotropic(70e9, 0.3, 2700.0), 0.001, soft_core(20e6), 0.01, 0.0005)
AIR = LoadCase("air", (-800.0,))
FREE = Edges("free", "free", "free", "free")
BOLTS = Held(tuple(Bolt(x, y, 0.02, x < 0.1) for x in (0.02, 0.48) for y in (0.0, 0.3)))
PANELS = {
    "arched": Panel(0.9, 0.5, SIMPLE, "sides", (0.0, 0.06)),
    "saddle": Panel(0.9, 0.5, SIMPLE, rise=(0.04, -0.05)),
    "round": Panel(0.42, 0.30, SIMPLE, outline="round"),
    "dished": Panel(0.42, 0.30, SIMPLE, "all", (0.03, 0.03), outline="round"),
    "clamped dish": Panel(0.3, 0.3, CLAMPED, rise=(-0.02, -0.02), outline="round"),
    "on bolts": Panel(0.5, 0.4, FREE, held=BOLTS),
    "on a bed": Panel(0.5, 0.4, FREE, held=Held(bed=1e6)),
    "on springs": Panel(0.5, 0.4, FREE, held=Held(springs=(1e5, 1e5, 0.0, 1e5))),
    "round on a bed": Panel(0.4, 0.3, FREE, held=Held(bed=1e6, springs=(1e5,) * 4), outline="round"),
}  # fmt: skip


def bricks(panel: Panel, *cases: LoadCase) -> Mesh:
    return panel_bricks(panel, STACK, cases or (AIR,), 12)


class Curvings(unittest.TestCase):
    def curvings(self) -> list[Curving]:
        return [curving_of(PANELS[name]) for name in ("arched", "saddle", "dished")]

    def test_tangents_are_derivatives_and_frames_stand_on_them(self) -> None:
        at = np.random.default_rng(3).uniform(0.05, 0.28, (40, 2))
        for curving in self.curvings():
            for axis, tangent in enumerate(curving.tangents(at)):
                step = 1e-6 * np.eye(2)[axis]
                slope = (curving.points(at + step) - curving.points(at - step)) / 2e-6
                np.testing.assert_allclose(tangent, slope, atol=1e-8)
                np.testing.assert_allclose((tangent * curving.frames(at)[:, 2]).sum(axis=1), 0.0, atol=1e-12)
            frames = curving.frames(at)
            np.testing.assert_allclose(
                np.einsum("nai,nbi->nab", frames, frames), np.tile(np.eye(3), (40, 1, 1)), atol=1e-12
            )
            self.assertTrue((frames[:, 2, 2] > 0.5).all())

    def test_a_point_above_the_surface_is_found_back(self) -> None:
        at = np.random.default_rng(4).uniform(0.05, 0.28, (40, 2))
        for curving in self.curvings():
            above = curving.points(at) + 0.006 * curving.frames(at)[:, 2]
            np.testing.assert_allclose(curving.nearest(above), at, atol=1e-7)

    def test_edges_are_level_and_the_middle_is_as_high_as_the_rise(self) -> None:
        arched, dished = PANELS["arched"], PANELS["dished"]
        places = np.array([[0.3, 0.0], [0.3, arched.surface.width], [0.3, arched.surface.width / 2.0]])
        np.testing.assert_allclose(curving_of(arched).points(places)[:, 2], (0.0, 0.0, 0.06), atol=1e-12)
        turn = np.linspace(0.0, 2.0 * math.pi, 30)
        rim = 0.5 * np.column_stack([0.42 * (1.0 + np.cos(turn)), 0.30 * (1.0 + np.sin(turn))])
        np.testing.assert_allclose(curving_of(dished).points(rim)[:, 2], 0.0, atol=1e-12)
        self.assertAlmostEqual(curving_of(dished).points(np.array([[0.21, 0.15]]))[0, 2], 0.03)


class Plans(unittest.TestCase):
    def test_slopes_of_the_shape_functions(self) -> None:
        at = np.random.default_rng(5).uniform(-1.0, 1.0, (30, 2))
        for axis, found in enumerate(quadratic_slopes(at)):
            step = 1e-6 * np.eye(2)[axis]
            np.testing.assert_allclose(found, (quadratic(at + step) - quadratic(at - step)) / 2e-6, atol=1e-8)

    def test_a_round_plan_covers_its_oval_without_cracks(self) -> None:
        plan = plan_of(PANELS["round"], None, 16)
        self.assertAlmostEqual(plan.everywhere().sum() / (math.pi * 0.21 * 0.15), 1.0, delta=1e-4)
        self.assertEqual(len(np.unique(plan.nodes.round(9), axis=0)), len(plan.nodes))
        ends = [(0, 1, 4), (1, 2, 5), (2, 3, 6), (3, 0, 7)]
        borders = Counter(
            (*sorted((int(quad[a]), int(quad[b]))), int(quad[m])) for quad in plan.quads for a, b, m in ends
        )
        side = plan.sides[0]
        rim = {(*sorted(int(own) for own in side.nodes[[a, b]]), int(side.nodes[m])) for a, b, m in side.pieces}
        self.assertEqual({border for border, count in borders.items() if count == 1}, rim)
        self.assertEqual(set(borders.values()), {1, 2})
        corners = np.array([(a, b) for a in (-1.0, 0.0, 1.0) for b in (-1.0, 0.0, 1.0)])
        along, across = np.einsum("kra,qap->kqrp", quadratic_slopes(corners), plan.nodes[plan.quads])
        area = along[..., 0] * across[..., 1] - along[..., 1] * across[..., 0]
        self.assertGreater(area.min(), 0.2 * area.mean())  # no brick is folded, and none has a flat corner

    def test_a_pressure_on_a_part_has_its_force_and_its_middle(self) -> None:
        for name, near in (("round", 2e-3), ("arched", 1e-12)):
            plan = plan_of(PANELS[name], None, 16)
            shares = plan.over((0.15, 0.21, 0.11, 0.16))
            self.assertAlmostEqual(shares.sum(), 0.06 * 0.05, places=12)
            middle = np.einsum("qn,qnk->k", shares, plan.nodes[plan.quads]) / shares.sum()
            np.testing.assert_allclose(middle, (0.18, 0.135), atol=near)
        tiny = plan_of(PANELS["round"], None, 16).over((0.1, 0.1001, 0.1, 0.1001))
        self.assertAlmostEqual(tiny.sum() / 1e-8, 1.0)


class Loads(unittest.TestCase):
    def test_a_pressure_on_a_curved_panel_pushes_by_its_plan(self) -> None:
        """Divergence theorem: what presses on a surface pushes up by the area it covers, and to no side if its rim is
        level."""
        for name in ("arched", "saddle", "dished", "round", "clamped dish"):
            panel = PANELS[name]
            total = bricks(panel).cases[0].forces.sum(axis=0)
            with self.subTest(name):
                near = 800.0 * panel.plan_area
                self.assertAlmostEqual(total[2] / near, 1.0, delta=2e-3)
                np.testing.assert_allclose(total[:2] / near, 0.0, atol=1e-9)

    def test_forces_along_a_round_edge_are_in_balance(self) -> None:
        mesh = bricks(PANELS["round"], LoadCase("pulled", edge=EdgeLoad((3e3, 3e3), (-2e3, -2e3), 1e3)))
        forces = mesh.cases[0].forces
        np.testing.assert_allclose(forces.sum(axis=0), 0.0, atol=1e-9)
        np.testing.assert_allclose(np.cross(mesh.nodes, forces).sum(axis=0), 0.0, atol=2e-2)
        # virtual work of an even strain: N over the plan
        for row, column, N in ((0, 0, 3e3), (1, 1, -2e3), (0, 1, 1e3)):
            work = float(forces[:, row] @ mesh.nodes[:, column])
            self.assertAlmostEqual(work / (N * math.pi * 0.21 * 0.15), 1.0, delta=2e-3)

    def test_a_patch_on_a_dish(self) -> None:
        patch = PatchLoad(200.0, 0.2, 0.15, 0.05, 0.04)
        total = bricks(PANELS["dished"], LoadCase("hand", patches=(patch,))).cases[0].forces.sum(axis=0)
        self.assertAlmostEqual(total[2], -200.0, delta=1e-6)


class Supports(unittest.TestCase):
    def test_every_sum_has_a_displacement_of_its_own(self) -> None:
        """A solver takes the first of each sum out of its equations: it may be in no other first place, nor be held."""
        pulled = LoadCase("pulled", edge=EdgeLoad((3e3, 3e3)))
        meshes = {name: bricks(panel) for name, panel in PANELS.items()}
        meshes |= {f"{name}, pulled": bricks(PANELS[name], pulled) for name in ("round", "arched")}
        for name, mesh in meshes.items():
            with self.subTest(name):
                first = [(int(nodes[0]), int(axes[0])) for nodes, axes, _ in mesh.sums]
                self.assertEqual(len(first), len(set(first)))
                self.assertFalse(any(mesh.held[own] for own in first))
                if mesh.held_loose is not None:
                    self.assertFalse(any(mesh.held_loose[own] for own in first))
                for k, (nodes, axes, _) in enumerate(mesh.sums):
                    terms = set(zip(nodes.tolist(), axes.tolist(), strict=True))
                    self.assertFalse(terms & set(first[:k]))  # so that taking them out never leaves one empty
                for nodes, axes, weights in mesh.sums:
                    self.assertEqual(len(set(zip(nodes.tolist(), axes.tolist(), strict=True))), len(nodes))
                    self.assertGreater(abs(weights[0]), 1e-3)

    def test_no_panel_can_move_as_a_rigid_body(self) -> None:
        for name, panel in PANELS.items():
            mesh = bricks(panel)
            x, y, z = mesh.nodes.T
            none, one = np.zeros_like(x), np.ones_like(x)
            moves = np.array([[one, none, none], [none, one, none], [none, none, one],
                              [none, -z, y], [z, none, -x], [-y, x, none]])  # fmt: skip
            sprung = {node for node, _, _ in mesh.springs}
            rows = [moves[:, axis, node] for node, axis in np.argwhere(mesh.held)]
            for nodes, axes, weights in mesh.sums:
                own = np.array([node not in sprung for node in nodes])  # its spring holds the sum
                rows.append(moves[:, axes[own], nodes[own]] @ weights[own])
            with self.subTest(name):
                self.assertEqual(np.linalg.matrix_rank(np.array(rows), 1e-6), 6)

    def test_edges_of_panels_that_move_far_turn_freely(self) -> None:
        """Held through the whole thickness, a section that turns by θ would have to be thicker by 1/cos θ."""
        panel = Panel(0.9, 0.3, Edges("simple", "resting", "free", "free"))
        for large, count in ((frozenset(), 3), (frozenset({"air"}), 0)):
            mesh = panel_bricks(panel, STACK, (AIR,), 12, large)
            ends = np.abs(mesh.nodes[:, 0] - 0.45) > 0.449
            self.assertGreaterEqual(mesh.held[ends, 2].sum(), count * 9)
            self.assertFalse(mesh.held[ends, 2].any() and not count)
            means = [own for own in mesh.sums if (own[1] == 2).all()]
            self.assertEqual(len(means), 0 if count else int((mesh.columns[:, 0] >= 0)[ends[mesh.columns[:, 0]]].sum()))

    def test_springs_are_as_stiff_as_what_they_stand_for(self) -> None:
        for name, stiffness in (
            ("on a bed", 1e6 * 0.2), ("on springs", 1e5 * (0.4 + 0.4 + 0.5)), ("round on a bed", 1e6 * math.pi * 0.03),
        ):  # fmt: skip
            total = sum(own for _, _, own in bricks(PANELS[name]).springs)
            if name == "round on a bed":
                turn = np.linspace(0.0, 2.0 * math.pi, 4001)
                stiffness += 1e5 * float(
                    np.hypot(*np.diff(0.5 * np.array([0.4 * np.cos(turn), 0.3 * np.sin(turn)]))).sum()
                )
            with self.subTest(name):
                self.assertAlmostEqual(total / stiffness, 1.0, delta=2e-3)

    def test_a_washer_keeps_the_mean_and_lets_the_panel_turn(self) -> None:
        mesh = bricks(PANELS["on bolts"])
        up = [own for own in mesh.sums if (own[1] == 2).all() and len(own[0]) > 4]
        self.assertEqual(len(up), 4)
        for nodes, _, weights in up:
            middle = mesh.nodes[nodes].T @ weights / weights.sum()
            for x in (0.02, 0.48):
                if abs(middle[0] - x) < 1e-3:
                    self.assertLess(np.abs(mesh.nodes[nodes, 0] - x).max(), 0.0101)
            self.assertAlmostEqual(min(abs(middle[0] - 0.02), abs(middle[0] - 0.48)), 0.0, places=9)


if __name__ == "__main__":
    unittest.main()
