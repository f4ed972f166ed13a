"""Solutions that start from those of a plate much like it are the solutions."""

from __future__ import annotations

import unittest

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.panel import QUICK, LoadCase, Panel, respond
from omakase.core.plates.assembly import Assembler, grouped
from omakase.core.plates.condensation import Factorisation, multiply
from omakase.core.plates.energies import inertia, strain_energy
from omakase.core.plates.grid import Edges, Grid
from omakase.core.plates.iteration import TOLERANCE, Operator, solve_near
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel
from omakase.project.library import shipped_materials

LIB = shipped_materials()
PATCH = PatchLoad(500.0, 0.25, 0.15, 0.1, 0.1)
EDGES = Edges("clamped", "simple", "free", "resting")


def stack(core: float, angle: float = 30.0) -> Stack:
    faces = [make_layer(LIB["ud200"], angle), make_layer(LIB["twill200"], 45.0)]
    return Stack((*faces, make_layer(LIB["pvc80"], 0.0, core), make_layer(LIB["twill200"], 0.0)))


class Plates(unittest.TestCase):
    def setUp(self) -> None:
        grid = Grid(0.6, 0.4, EDGES, 5, (0.2, 0.3), (0.1, 0.2))
        self.assembler = Assembler(grid)

    def energy(self, core: float, angle: float = 30.0):  # type: ignore[no-untyped-def]
        return grouped(strain_energy(PlateSection(stack(core, angle)), 0.6))

    def test_the_operator_is_the_assembled_matrix(self) -> None:
        rng = np.random.default_rng(3)
        for form in (self.energy(0.01), grouped(inertia(PlateSection(stack(0.01))))):
            vector = rng.standard_normal(self.assembler.unknowns)
            product = multiply(self.assembler, self.assembler.matrices([form]), vector)
            largest = abs(product).max()
            np.testing.assert_allclose(Operator(self.assembler, form)(vector), product, atol=1e-9 * largest)

    def test_a_neighbour_is_solved_in_a_few_iterations(self) -> None:
        before = Factorisation(self.assembler, self.assembler.matrices([self.energy(0.010)]))
        after = Factorisation(self.assembler, self.assembler.matrices([self.energy(0.0105, 37.0)]))
        load = PlateModel(PlateSection(stack(0.01)), self.assembler).load_vector(
            [PatchLoad(500.0, 0.25, 0.15, 0.1, 0.1)]
        )
        found = solve_near(Operator(self.assembler, self.energy(0.0105, 37.0)), before, load, [before.solve(load)])
        assert found is not None
        exact = after.solve(load)
        self.assertLess(found[1], 8)
        self.assertAlmostEqual(float(found[0] @ load) / float(exact @ load), 1.0, delta=1e-4)
        np.testing.assert_allclose(found[0], exact, atol=1e-3 * abs(exact).max())

    def test_one_too_far_away_says_so(self) -> None:
        before = Factorisation(self.assembler, self.assembler.matrices([self.energy(0.002)]))
        far = Operator(self.assembler, self.energy(0.2, 90.0))
        load = PlateModel(PlateSection(stack(0.01)), self.assembler).load_vector(
            [PatchLoad(500.0, 0.25, 0.15, 0.1, 0.1)]
        )
        self.assertIsNone(solve_near(far, before, load, [np.zeros_like(load)]))

    def test_frequencies_from_a_neighbours_shapes(self) -> None:
        model = PlateModel(PlateSection(stack(0.0105, 37.0)), self.assembler)
        exact, _ = model.frequencies(2)
        _, before = PlateModel(PlateSection(stack(0.01)), self.assembler).frequencies(4)
        near, _ = model.frequencies_near(np.stack([shape.vector for shape in before], axis=1))
        np.testing.assert_allclose(near[:2], exact, rtol=1e-3)

    def test_a_row_of_edits_gives_what_a_fresh_start_gives(self) -> None:
        panel, case = Panel(0.6, 0.4, EDGES), (LoadCase("foot", (300.0,), (PATCH,)),)
        for step in range(8):
            layup = stack(0.008 + 0.0007 * step, 10.0 * step)
            row = respond(panel, layup, case, QUICK)
            fresh = respond(panel, layup, case, msgspec.structs.replace(QUICK, eigen_tolerance=1e-9, from_before=False))
            self.assertAlmostEqual(
                row.cases[0].largest_deflection[0] / fresh.cases[0].largest_deflection[0], 1.0, delta=TOLERANCE
            )
            np.testing.assert_allclose(row.frequencies, fresh.frequencies, rtol=2e-3)
            # a quarter of what the quick order's strains are off by
            scale = np.abs(fresh.cases[0].strains).max(axis=(0, 1))
            np.testing.assert_allclose(row.cases[0].strains / scale, fresh.cases[0].strains / scale, atol=5e-3)


if __name__ == "__main__":
    unittest.main()
