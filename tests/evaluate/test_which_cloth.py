"""Which cloth: the fewest layers that reach a stiffness, against going through all counts one by one."""

from __future__ import annotations

import math
import unittest

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.materials.areal import ply_thickness
from omakase.evaluate.materials.which_cloth import MOST, Wanted, _angles, as_candidate, face_of, options, reached_by
from omakase.project import translate
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of, shipped_materials

LIB = shipped_materials()
FEW = {name: LIB[name] for name in ("ud200", "twill200", "gmat450", "biax300", "pvc80", "c-twill200", "satin4")}


def stack(name: str, angles: tuple[float, ...]) -> Stack:
    return Stack(tuple(make_layer(LIB[name], angle) for angle in angles))


class Question(unittest.TestCase):
    def test_against_brute_force(self) -> None:
        for wanted in (Wanted(12e6, 12e6), Wanted(20e6, 2e6, 1.0, 0.1), Wanted(bend_x=5.0, bend_y=5.0)):
            found = {(o.material.id, o.pattern): o for o in options(wanted, FEW) if o is not None}
            self.assertTrue(found)
            for (name, _), option in found.items():
                pattern = tuple(dict.fromkeys(option.angles))
                for count in range(1, MOST + 1):
                    laid = _angles(pattern, count)
                    has = reached_by(stack(name, laid))
                    if set(laid) == set(pattern) and all(
                        getattr(has, key) >= getattr(wanted, key) * (1 - 1e-9)
                        for key in ("stretch_x", "stretch_y", "bend_x", "bend_y")
                    ):
                        break
                self.assertEqual(len(option.angles), count, (name, pattern))

    def test_what_an_option_says_of_itself(self) -> None:
        option = next(o for o in options(Wanted(30e6), FEW) if o is not None and o.material.id == "biax300")
        count = len(option.angles)
        self.assertAlmostEqual(option.thickness, count * ply_thickness(LIB["biax300"]))
        carbon, resin, V = (
            1780.0,
            1150.0,
            0.47,
        )  # under vacuum: carbon of 300 g/m² and what fills the rest of the volume
        filling = 0.3 / carbon / V * (1.0 - V) * resin
        self.assertAlmostEqual(option.mass, count * (0.3 + filling))
        self.assertAlmostEqual(option.resin, count * filling)
        self.assertEqual(option.cost, count * LIB["c-biax300"].value("price"))
        self.assertGreaterEqual(option.reached.stretch_x, 30e6)

    def test_a_limit_of_mass_and_what_cannot_be_reached(self) -> None:
        self.assertFalse([o for o in options(Wanted(1e12), FEW) if o is not None])
        light = [o for o in options(Wanted(12e6, mass=0.75), FEW) if o is not None]
        self.assertTrue(light)
        self.assertTrue(all(option.mass <= 0.75 for option in light))
        free = [o for o in options(Wanted(12e6), FEW) if o is not None]
        self.assertGreater(len(free), len(light))

    def test_only_plies_answer(self) -> None:
        names = {o.material.id for o in options(Wanted(1e6), LIB) if o is not None}
        self.assertTrue(all(LIB[name].kind == "ply" for name in names))
        self.assertGreater(len(names), 25)

    def test_symmetric_whatever_the_count(self) -> None:
        for count in range(1, 12):
            for pattern in ((0.0,), (0.0, 90.0), (45.0, -45.0), (0.0, 45.0, -45.0, 90.0)):
                laid = _angles(pattern, count)
                self.assertEqual(len(laid), count)
                self.assertEqual(laid, laid[::-1])

    def test_it_becomes_a_candidate_with_the_old_core_and_face(self) -> None:
        project = demo_project()
        brief = project.briefs[0]
        base = brief.candidates[3]
        face = face_of(translate.stack(base, materials_of(project)))
        self.assertEqual(len(face.layers), 2)
        wanted = reached_by(face)
        self.assertTrue(math.isfinite(wanted.mass))
        option = next(o for o in options(Wanted(wanted.stretch_x), LIB) if o is not None)
        command, identity = as_candidate(option, brief, base)
        document = Document(project)
        document.do(command)
        new = next(c for c in document.project.briefs[0].candidates if c.id == identity)
        self.assertEqual(new.layers[-3:], base.layers[2:])
        self.assertIn("which cloth", new.origin)
        document.undo()
        self.assertEqual(document.project, project)


if __name__ == "__main__":
    unittest.main()
