"""Strips as bricks: weight, loads in balance with the supports, and plies that end."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.members.span_loads import LineLoad, PointLoad, SpanCase, Spanned, Support
from omakase.core.members.stretches import Stretch
from omakase.core.members.strip import Strip, StripResponse, WidthLaw
from omakase.core.mesh.mesh import Mesh
from omakase.core.mesh.strip_bricks import strip_bricks
from omakase.core.sections.profile import Profile
from tests.support import brick_weight, isotropic, sandwich, sheet, soft_core

ENDS = Spanned(0.6, (Support(0.05), Support(0.55)))
CASE = SpanCase("seat", (PointLoad(800.0, 0.3), LineLoad(100.0, 200.0, 0.1, 0.5)))
FOAM = sandwich(isotropic(60e9, 0.3, 1500.0), 0.8e-3, soft_core(30e6), 10e-3)
PLY = sheet(isotropic(60e9, 0.3, 1500.0), 0.5e-3)
STRIPS = {
    "flat": (Strip(ENDS, WidthLaw(((0.0, 0.2),))), FOAM),
    "tapered": (Strip(ENDS, WidthLaw(((0.0, 0.2), (0.6, 0.1)))), FOAM),
    "arched": (Strip(ENDS, WidthLaw(((0.0, 0.2),)), Profile("arched", 0.015)), Stack((PLY, PLY, PLY))),
    "hat": (Strip(ENDS, WidthLaw(((0.0, 0.2),)), Profile("hat", 0.02, 0.06, 0.03)), Stack((PLY, PLY))),
}


def mesh_of(name: str) -> tuple[Mesh, StripResponse]:
    strip, stack = STRIPS[name]
    response = StripResponse(strip, stack, (CASE,))
    return strip_bricks(response, 24), response


class Strips(unittest.TestCase):
    def test_they_weigh_what_the_program_says(self) -> None:
        for name in STRIPS:
            mesh, response = mesh_of(name)
            with self.subTest(name):
                self.assertAlmostEqual(brick_weight(mesh) / response.mass, 1.0, delta=0.01)

    def test_loads_and_reactions_are_in_balance(self) -> None:
        for name in STRIPS:
            mesh, _ = mesh_of(name)
            forces = mesh.cases[0].forces
            with self.subTest(name):
                self.assertAlmostEqual(float(forces.sum(axis=0)[2]), 0.0, delta=1e-6)  # with the supports' own
                between = (mesh.nodes[:, 0] > 0.06) & (mesh.nodes[:, 0] < 0.54)
                self.assertAlmostEqual(float(forces[between, 2].sum()), -860.0, delta=1.0)
        hat, _ = mesh_of("hat")
        pushed = np.abs(hat.cases[0].forces[:, 2]) > 0.0
        self.assertGreater(hat.nodes[pushed, 2].min(), 0.018)  # on the crown

    def test_no_node_hangs_in_the_air_and_no_brick_is_folded(self) -> None:
        for name in STRIPS:
            mesh, _ = mesh_of(name)
            used = np.unique(np.concatenate([group.elements.ravel() for group in mesh.groups]))
            with self.subTest(name):
                self.assertEqual(len(used), len(mesh.nodes))
                for group in mesh.groups:
                    p = mesh.nodes[group.elements]
                    edges = np.stack([p[:, 1] - p[:, 0], p[:, 3] - p[:, 0], p[:, 4] - p[:, 0]], axis=1)
                    self.assertGreater(np.linalg.det(edges).min(), 0.0)
                self.assertTrue(mesh.held[:, 2].any() and mesh.held[:, 0].any())

    def test_plies_that_end_are_there_where_they_are(self) -> None:
        strip = STRIPS["flat"][0]
        thick, thin = Stack((PLY, PLY, PLY)), Stack((PLY, PLY))
        stretches = (Stretch(0.0, 0.25, thick, (0, 1, 2)), Stretch(0.25, 0.6, thin, (1, 2)))
        response = StripResponse(strip, stretches, (CASE,))
        mesh = strip_bricks(response, 24)
        self.assertAlmostEqual(brick_weight(mesh) / response.mass, 1.0, delta=1e-6)
        bottom = mesh.nodes[:, 2].min()
        for low, high, tall in ((0.0, 0.25, 1.5e-3), (0.26, 0.6, 1e-3)):
            own = (mesh.nodes[:, 0] >= low) & (mesh.nodes[:, 0] <= high)
            self.assertAlmostEqual(mesh.nodes[own, 2].max() - bottom, tall)
            self.assertAlmostEqual(mesh.nodes[own, 2].min(), bottom)  # flush on face B


if __name__ == "__main__":
    unittest.main()
