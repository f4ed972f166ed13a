"""Plates answered in few shapes: what holds exactly, what is a bound, and how near they come."""

from __future__ import annotations

import unittest

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.panel import respond, responses
from omakase.core.members.panel_case import CaseResponse
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.members.panel_grid import assembler
from omakase.core.members.reduced_panel import LIVE, ReducedPanel
from omakase.core.plates.assembly import Assembler, grouped
from omakase.core.plates.condensation import multiply
from omakase.core.plates.energies import inertia, strain_energy
from omakase.core.plates.grid import Edges, Grid
from omakase.core.plates.loads import PatchLoad, Pressure
from omakase.core.plates.reduced import Operator, ReducedPlate
from omakase.core.plates.samples import Samples, lobatto
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

    def test_the_shapes_of_two_plates_give_the_solutions_of_both(self) -> None:
        """Whatever a shape is made of, the section it was solved for is answered as on the whole grid."""
        model = PlateModel(PlateSection(stack(0.01)), self.assembler)
        other = PlateModel(PlateSection(stack(0.02, 75.0)), self.assembler)
        load = model.load_vector([PATCH])
        reduced = ReducedPlate(
            self.assembler, model.section, np.stack([m.factor.solve(load) for m in (model, other)], axis=1), load
        )
        samples = Samples(self.assembler.grid, lobatto(7))
        for own in (model, other):
            exact = own.solve([[PATCH]])[0]
            found = reduced.solve(own.section)
            np.testing.assert_allclose(
                found.deflection(samples), exact.deflection(samples), atol=1e-7 * abs(exact.deflection(samples)).max()
            )
            scale = abs(exact.strains(samples)).max(axis=(0, 1))
            np.testing.assert_allclose(found.strains(samples) / scale, exact.strains(samples) / scale, atol=1e-5)

    def test_it_is_never_softer_than_the_whole_grid(self) -> None:
        """Rayleigh and Ritz: fewer shapes give less work of the load and higher frequencies (Rayleigh's quotient)."""
        model = PlateModel(PlateSection(stack(0.01)), self.assembler)
        load = model.load_vector([PATCH])
        modes = model.frequencies(3)[1]
        shapes = np.stack([model.factor.solve(load), *(mode.vector for mode in modes)], axis=1)
        reduced = ReducedPlate(self.assembler, model.section, shapes, load)
        for core, angle in ((0.004, 30.0), (0.03, 30.0), (0.01, 80.0)):
            section = PlateSection(stack(core, angle))
            exact = PlateModel(section, self.assembler)
            work = np.linalg.solve(reduced.stiffness(section), reduced.load) @ reduced.load
            self.assertLessEqual(work, load @ exact.factor.solve(load) * (1.0 + 1e-9))
            self.assertGreaterEqual(reduced.frequencies(section, 1)[0], exact.frequencies(1)[0][0] * (1.0 - 1e-9))

    def test_layups_far_from_its_own_are_answered_as_by_the_whole_grid(self) -> None:
        panel, cases = Panel(0.6, 0.4, EDGES), (LoadCase("foot", (300.0,), (PATCH,), 2.0),)
        own = stack(0.01)
        turned = [stack(0.01, 30.0 + turn) for turn in (12.0, 45.0, 90.0)]
        doubled, left_out = Stack((own.layers[0], *own.layers)), Stack(own.layers[1:])
        near = [own, stack(0.007), stack(0.014), *turned, doubled, left_out]
        reduced = ReducedPanel(panel, cases, near)
        softer = Stack((*own.layers[:2], make_layer(LIB["hc48"], 0.0, 0.0127), own.layers[3]))
        for layup in (own, stack(0.005), stack(0.03), stack(0.012, 75.0), softer, left_out):
            found, exact = reduced.respond(layup, cases), respond(panel, layup, cases)
            assert found is not None
            self.assertAlmostEqual(
                found.cases[0].largest_deflection[0] / exact.cases[0].largest_deflection[0], 1.0, delta=1e-2
            )
            np.testing.assert_allclose(found.frequencies, exact.frequencies[:2], rtol=5e-3)
            whole = self.on_the_grids_of(reduced, layup, cases)
            for kind in (slice(0, 3), slice(3, 6), slice(9, 11)):  # of the mid-plane, of bending, of the core
                largest = [abs(case.strains[..., kind][~case.left_out]).max() for case in (found.cases[0], whole)]
                self.assertAlmostEqual(largest[0] / largest[1], 1.0, delta=0.1)

    @staticmethod
    def on_the_grids_of(reduced: ReducedPanel, layup: Stack, cases: tuple[LoadCase, ...]) -> CaseResponse:
        """The first load case solved outright on the grids that the shapes live on."""
        section = PlateSection(layup)
        units = {}
        for unit, (key, _) in reduced._units.items():
            load = Pressure(1.0) if unit is None else unit
            units[unit] = key, PlateModel(section, assembler(key)).solve([[load]])[0]
        return responses(cases, section, units, LIVE)[0]

    def test_another_load_may_be_put_on_but_not_moved(self) -> None:
        panel, cases = Panel(0.6, 0.4, EDGES), (LoadCase("foot", (300.0,), (PATCH,)),)
        reduced = ReducedPanel(panel, cases, [stack(0.01)])
        heavier = (LoadCase("foot", (-500.0,), (msgspec.structs.replace(PATCH, force=900.0),), 3.0),)
        found, exact = reduced.respond(stack(0.01), heavier), respond(panel, stack(0.01), heavier)
        assert found is not None
        self.assertAlmostEqual(
            found.cases[0].largest_deflection[0] / exact.cases[0].largest_deflection[0], 1.0, delta=1e-2
        )
        moved = (LoadCase("foot", (), (msgspec.structs.replace(PATCH, x=0.3),)),)
        self.assertIsNone(reduced.respond(stack(0.01), moved))
        self.assertIsNone(reduced.respond(Stack(stack(0.01).layers[:2]), cases))


if __name__ == "__main__":
    unittest.main()
