"""A braided sleeve by the geometry of its yarns, and a tube made of one."""

from __future__ import annotations

import math
import unittest

import numpy as np

from omakase.core.errors import LayupError, MaterialError
from omakase.core.materials.areal import ply_thickness
from omakase.core.materials.sleeve import LOCKED, STRETCHED, nominal, pulled, pulled_angle
from omakase.core.members.strip import WidthLaw
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Candidate, LayerRecord
from omakase.project.span_translate import wall
from omakase.project.spans import TubeForm

MATERIALS = materials_of(demo_project())
BRAID = MATERIALS["braid30"]


class Sleeves(unittest.TestCase):
    """A yarn of fixed length wound n times round a length l: cos θ = l/L, sin θ = n π d/L (geometry of a helix)."""

    def test_the_angle_follows_the_diameter(self) -> None:
        turns, yarn = 10.0, 10.0 * math.pi * 0.03 / math.sin(math.radians(45.0))
        for diameter in (0.015, 0.025, 0.03, 0.035):
            sine = turns * math.pi * diameter / yarn
            self.assertAlmostEqual(pulled_angle(diameter, 0.03, 45.0), math.degrees(math.asin(sine)))

    def test_the_mass_stays_in_the_sleeve(self) -> None:
        """A piece keeps its mass: areal mass × π d × length, its length going with cos θ."""
        areal = BRAID.value("fibre_areal_mass")
        for diameter in (0.018, 0.026, 0.036):
            angle = pulled_angle(diameter, 0.03, 45.0)
            piece = pulled(BRAID, MATERIALS, diameter)
            length = math.cos(math.radians(angle)) / math.cos(math.radians(45.0))
            self.assertAlmostEqual(piece.value("fibre_areal_mass") * diameter * length / (areal * 0.03), 1.0)
            self.assertEqual(piece.build.angles, (angle, -angle))

    def test_least_areal_mass_at_45_degrees(self) -> None:
        """1/(d cos θ) with d ∝ sin θ is 2/sin 2θ: least where θ is 45°."""
        areas = [pulled(BRAID, MATERIALS, d).value("fibre_areal_mass") for d in np.linspace(0.02, 0.037, 35)]
        best = np.linspace(0.02, 0.037, 35)[int(np.argmin(areas))]
        self.assertAlmostEqual(pulled_angle(float(best), 0.03, 45.0), 45.0, delta=1.0)

    def test_stretched_it_is_stiffer_along(self) -> None:
        thin, wide = (pulled(BRAID, MATERIALS, d) for d in (0.016, 0.036))
        self.assertGreater(thin.value("E1"), 2.0 * wide.value("E1"))
        self.assertLess(thin.value("E2"), wide.value("E2"))

    def test_it_locks(self) -> None:
        for angle, outside in ((LOCKED, 1.01), (STRETCHED, 0.99)):
            edge = 0.03 * math.sin(math.radians(angle)) / math.sin(math.radians(45.0))
            with self.assertRaisesRegex(MaterialError, "locks"):
                pulled_angle(edge * outside, 0.03, 45.0)

    def test_what_is_no_sleeve_stays(self) -> None:
        self.assertIsNone(nominal(MATERIALS["twill200"], MATERIALS))
        self.assertIs(pulled(MATERIALS["twill200"], MATERIALS, 0.02), MATERIALS["twill200"])

    def test_the_wall_of_a_tapering_tube(self) -> None:
        """Each piece of the wall has the angle of its own diameter; the second sleeve lies on the first."""
        candidate = Candidate("c", "c", (LayerRecord("braid30"), LayerRecord("braid30")), form=TubeForm())
        inside = WidthLaw(((0.0, 0.020), (1.0, 0.030)))
        pieces = wall(candidate, 1.0, MATERIALS, inside=inside)
        self.assertGreater(len(pieces), 5)
        for piece in pieces:
            middle = float(inside(np.array([(piece.low + piece.high) / 2.0]))[0])
            outer, inner = piece.stack.layers
            self.assertAlmostEqual(inner.material.build.angles[0], pulled_angle(middle, 0.03, 45.0))
            on = middle + 2.0 * inner.thickness
            self.assertAlmostEqual(outer.material.build.angles[0], pulled_angle(on, 0.03, 45.0))
            self.assertAlmostEqual(inner.thickness, ply_thickness(inner.material))
        with self.assertRaisesRegex(LayupError, "layer 1: a sleeve"):
            wall(candidate, 1.0, MATERIALS, inside=WidthLaw(((0.0, 0.038),)))


if __name__ == "__main__":
    unittest.main()
