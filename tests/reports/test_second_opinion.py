"""Meshes and decks: weighed against the program's own numbers, read back by a mesh library, run where a solver is."""

from __future__ import annotations

import re
import stat
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

import meshio
import numpy as np

from omakase.core.errors import MemberError, OmakaseError
from omakase.core.members.panel import PanelResponse
from omakase.core.members.span import SpanAnswers
from omakase.core.members.tube import TubeResponse
from omakase.core.mesh.curving import curving_of
from omakase.core.mesh.mesh import Mesh, over_rectangle, quadratic
from omakase.core.mesh.span_shells import span_shells
from omakase.core.plates.loads import STANDARD_GRAVITY
from omakase.devices import solver
from omakase.devices.solver import Printed, read_printed, solve
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.records import evaluate_brief
from omakase.evaluate.second.comparing import Line, compare, readings, stress_lines
from omakase.evaluate.second.keeping import drop, keep, kept, lines_of, of_candidate
from omakase.evaluate.second.meshing import mesh_of
from omakase.evaluate.second.stresses import on_surface
from omakase.project.commands import replace
from omakase.project.library import materials_of
from omakase.project.panels import EdgeLoad
from omakase.project.spans import TubeForm, Zone
from omakase.project.storage import from_bytes, to_bytes
from omakase.reports.deck import engineering_constants
from omakase.reports.second import deck_of, line_texts, second_opinion
from tests.support import EVALUATOR, demo_project

PROJECT = demo_project()
HOSTILE = "a\n*STEP\n*INCLUDE, INPUT=/etc/passwd"


def candidate(brief: str, name: str = "") -> CandidateResult:
    own = next(own for own in PROJECT.briefs if own.name == brief)
    results = evaluate_brief(PROJECT, own, EVALUATOR).results
    return next(result for result in results if name in ("", result.candidate.name))


FLOOR = candidate("Tricycle footwell floor", "Two above, one below")
SHEET = candidate("Tricycle footwell floor")
SPAR = candidate("Wing spar of the survey drone", "Box, UD caps")


def pulled() -> CandidateResult:
    """The sheet pushed along its length and sheared."""
    brief = next(own for own in PROJECT.briefs if own.name == "Tricycle footwell floor")
    case = replace(brief.load_cases[0], loads=(EdgeLoad(ends=-20e3, shear=4e3),))
    return evaluate_brief(PROJECT, replace(brief, load_cases=(case,)), EVALUATOR).results[0]


PULLED = pulled()


def filled() -> CandidateResult:
    """The wrapped shaft with foam inside."""
    brief = next(own for own in PROJECT.briefs if own.name == "Shaft of a sculling oar")
    wrapped = next(own for own in brief.candidates if own.name == "Wraps of twill and UD")
    assert isinstance(wrapped.form, TubeForm)
    own = replace(wrapped, form=replace(wrapped.form, filling="pvc130"))
    return evaluate_brief(PROJECT, replace(brief, candidates=(own,), baseline=""), EVALUATOR).results[0]


FILLED = filled()


def idle(brief: str, name: str, number: int) -> CandidateResult:
    """With one layer that is not counted on."""
    asked = next(own for own in PROJECT.briefs if own.name == brief)
    whole = next(own for own in asked.candidates if own.name == name)
    layers = [replace(own, structural=i != number) for i, own in enumerate(whole.layers)]
    own = replace(whole, layers=tuple(layers), details=())
    return evaluate_brief(PROJECT, replace(asked, candidates=(own,), baseline=""), EVALUATOR).results[0]


INSIDE = idle("Tricycle footwell floor", "Thicker foam", 1)  # between a ply and the core


def weight(mesh: Mesh) -> float:
    """Mass of the elements by their own volumes, kg: bricks by corners, shells by corners and thickness."""
    total = 0.0
    for group in mesh.groups:
        for own in group.elements:
            p = mesh.nodes[own]
            if group.shape == "brick":
                volume = abs(np.linalg.det(np.array([p[1] - p[0], p[3] - p[0], p[4] - p[0]])))
                total += volume * group.densities[0]
            else:
                area = 0.5 * np.linalg.norm(np.cross(p[2] - p[0], p[3] - p[1]))
                total += area * sum(
                    density * layer.thickness for density, layer in zip(group.densities, group.layers, strict=True)
                )
    return float(total)


class Meshes(unittest.TestCase):
    def test_shape_functions(self) -> None:
        """1 at their own node, 0 at the others, exact for a square of x and y; shares of a pressure as in the books:
        −1/12 at corners, 1/3 at middles (Cook 1989, table of consistent loads; from memory)."""
        nodes = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1), (0, -1), (1, 0), (0, 1), (-1, 0)], float)
        np.testing.assert_allclose(quadratic(nodes), np.eye(8), atol=1e-14)
        at = np.random.default_rng(1).uniform(-1, 1, (20, 2))
        for function in (lambda p: p[:, 0] * p[:, 1], lambda p: p[:, 0] ** 2, lambda p: 1.0 + p[:, 1]):
            np.testing.assert_allclose(quadratic(at) @ function(nodes), function(at), atol=1e-12)
        shares = over_rectangle((0.0, 0.0), (2.0, 3.0), (0.0, 2.0, 0.0, 3.0))
        np.testing.assert_allclose(shares, 6.0 * np.array([-1 / 12] * 4 + [1 / 3] * 4), atol=1e-12)
        part = over_rectangle((0.0, 0.0), (2.0, 3.0), (1.0, 5.0, -1.0, 1.5))
        self.assertAlmostEqual(part.sum(), 1.5, places=12)

    def test_a_panel_weighs_and_is_loaded_as_the_program_says(self) -> None:
        mesh, response = mesh_of(FLOOR), FLOOR.response
        assert isinstance(response, PanelResponse)
        panel = response.panel
        area = panel.length * panel.width
        self.assertAlmostEqual(weight(mesh) / (response.section.areal_mass * area), 1.0, places=9)
        for case, loading in zip((own.case for own in response.cases), mesh.cases, strict=True):
            down = sum(case.pressures) * area + sum(patch.force for patch in case.patches)
            self.assertAlmostEqual(float(-loading.forces[:, 2].sum()), down, delta=1e-6 * max(1.0, abs(down)))
            x, y = (float(loading.forces[:, 2] @ mesh.nodes[:, axis]) for axis in (0, 1))
            about = sum(case.pressures) * area * np.array([panel.length, panel.width]) / 2.0
            for patch in case.patches:
                low_x, high_x, low_y, high_y = patch.bounds
                about = about + patch.force * np.array([low_x + high_x, low_y + high_y]) / 2.0
            np.testing.assert_allclose([-x, -y], about, rtol=1e-6, atol=1e-9)
            self.assertEqual(loading.gravity, case.gravity * STANDARD_GRAVITY)

    def test_forces_along_edges_are_in_balance_in_the_middle_plane(self) -> None:
        mesh = mesh_of(PULLED)
        forces, nodes, panel = mesh.cases[0].forces, mesh.nodes, PULLED.response.panel  # type: ignore[union-attr]
        right = nodes[:, 0] == nodes[:, 0].max()
        self.assertAlmostEqual(float(forces[right, 0].sum()), -20e3 * panel.width, delta=1e-6)
        np.testing.assert_allclose(forces.sum(axis=0), 0.0, atol=1e-6)
        np.testing.assert_allclose(np.cross(nodes, forces).sum(axis=0), 0.0, atol=1e-6)
        self.assertAlmostEqual(float(forces[right, 0] @ nodes[right, 2]), 0.0, delta=1e-6)

    def test_a_spar_weighs_and_is_loaded_as_its_diagrams_say(self) -> None:
        response = SPAR.response
        assert isinstance(response, SpanAnswers)
        mesh = mesh_of(SPAR)
        carried = sum(own.mass for own in response.model.span.masses)
        self.assertAlmostEqual(weight(mesh) / (response.mass + carried), 1.0, delta=2e-3)
        for k, loading in enumerate(mesh.cases):
            diagrams, x = response.results[k].diagrams, response.x
            beyond = mesh.nodes[:, 0] > 0.5 * response.model.span.length
            up = float(loading.forces[beyond, 2].sum())
            place = float(mesh.nodes[beyond, 0].min())
            near = float(np.interp(place, x, diagrams.shear))
            self.assertAlmostEqual(abs(up), abs(near), delta=0.05 * abs(diagrams.shear).max())
            beyond = mesh.nodes[:, 0] > 1e-6  # but for the root, which takes it
            (y, z), own = mesh.nodes[beyond, 1:].T, loading.forces[beyond]
            self.assertAlmostEqual(abs(float(y @ own[:, 2] - z @ own[:, 1])), abs(float(diagrams.torque[0])),
                                   delta=0.02 * abs(diagrams.torque).max() + 1e-6)  # fmt: skip

    def test_the_overlaps_of_a_wrapped_tube_weigh(self) -> None:
        wrapped = candidate("Shaft of a sculling oar", "Wraps of twill and UD")
        response = wrapped.response
        assert isinstance(response, TubeResponse)
        self.assertGreater(response.member.overlap, 0.0)
        carried = sum(own.mass for own in response.model.span.masses)
        self.assertAlmostEqual(weight(mesh_of(wrapped)) / (response.mass + carried), 1.0, delta=6e-3)  # a polygon

    def test_a_load_beside_a_support_has_its_arm(self) -> None:
        shaft = candidate("Shaft of a sculling oar")
        assert isinstance(shaft.response, SpanAnswers)
        stations = mesh_of(shaft).places[:, 0]
        for case in shaft.response.model.cases:
            for load in case.loads:
                self.assertLess(np.abs(stations - load.x).min(), 1e-9)  # type: ignore[union-attr]

    def test_a_filling_weighs_and_bends_as_the_program_says(self) -> None:
        """Its bricks reach out to the middle of the wall: density and moduli make up for it."""
        response = FILLED.response
        assert isinstance(response, TubeResponse)
        assert response.member.filling is not None
        mesh = mesh_of(FILLED)
        bricks = [group for group in mesh.groups if group.shape == "brick"]
        shells = np.unique(np.concatenate([group.elements.ravel() for group in mesh.groups if group.shape == "shell"]))
        middle = response.model.span.length / 2.0
        heavy = bending = 0.0
        for group in bricks:
            for own in group.elements:
                x = mesh.nodes[own[[0, 4]], 0]
                if x[0] <= middle < x[1]:
                    y, z = mesh.nodes[own[[0, 8, 1, 9, 2, 10, 3, 11]], 1:].T  # round an end
                    y_next, z_next = np.roll(y, -1), np.roll(z, -1)
                    turned = y * z_next - y_next * z
                    self.assertGreater(turned.sum(), 0.0)
                    heavy += group.densities[0] * turned.sum() / 2.0
                    second = float((turned * (z**2 + z * z_next + z_next**2)).sum()) / 12.0
                    bending += group.layers[0].material.value("E1") * second
        inside = float(response.member.diameter(np.array([middle]))[0]) / 2.0
        material = response.member.filling
        self.assertAlmostEqual(heavy / (np.pi * inside**2 * material.value("density")), 1.0, delta=0.03)
        self.assertAlmostEqual(bending / (material.value("E1") * np.pi * inside**4 / 4.0), 1.0, delta=0.05)
        used = np.unique(np.concatenate([group.elements.ravel() for group in bricks]))
        self.assertEqual(set(shells) - set(used), set())  # bonded all round, all along
        np.testing.assert_array_equal(np.union1d(used, shells), np.arange(len(mesh.nodes)))

    def test_a_layer_that_is_not_counted_on_weighs_and_carries_next_to_nothing(self) -> None:
        spar = idle("Wing spar of the survey drone", "Box, UD caps", 0)
        for result in (INSIDE, spar):
            mesh = mesh_of(result)
            layers = {layer.material.name: layer.material for group in mesh.groups for layer in group.layers}
            own = next(material for name, material in layers.items() if name.endswith("not counted on"))
            before = next(material for name, material in layers.items() if own.name.startswith(f"{name}, "))
            E1, _, E3, _, _, _, G12, G13, _ = engineering_constants(own)
            was = engineering_constants(before)
            np.testing.assert_allclose([E1, G12, E3, G13], [1e-3 * was[0], 1e-3 * was[6], was[2], was[7]])
        panel = INSIDE.response.panel  # type: ignore[union-attr]
        mass = INSIDE.response.section.areal_mass * panel.length * panel.width  # type: ignore[union-attr]
        self.assertAlmostEqual(weight(mesh_of(INSIDE)) / mass, 1.0, places=9)

    def test_what_cannot_be_written_is_told(self) -> None:
        for brief, name in (
            ("Wing of the survey drone", ""),
            ("Wing rib of the survey drone", ""),
        ):
            with self.subTest(brief), self.assertRaisesRegex(OmakaseError, "(cannot|can) be written"):
                mesh_of(candidate(brief, name))
        with self.assertRaises(MemberError):
            span_shells(candidate("Wing rib of the survey drone").response, 8)  # type: ignore[arg-type]


DISH = candidate("Oval hatch of the drone", "Twill on 4 mm foam, dished")


class Curved(unittest.TestCase):
    def test_stress_is_turned_into_the_surface(self) -> None:
        """A push straight along the surface of an arch is that along y wherever it is printed, and at its own place."""
        result = candidate("Rear fairing of the tricycle", "Sandwich, arched")
        response = result.response
        assert isinstance(response, PanelResponse)
        curving = curving_of(response.panel)
        at = np.array([[0.2, 0.05], [0.5, 0.25], [0.7, 0.45]])
        frames = curving.frames(at)
        stress = 7e6 * np.einsum("ni,nj->nij", frames[:, 1], frames[:, 1])
        printed = np.column_stack([
            curving.points(at) - 0.004 * frames[:, 2],
            *(stress[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))),
        ])  # fmt: skip
        places, found = on_surface(response, printed)
        np.testing.assert_allclose(places, curving.points(at)[:, :2], atol=1e-9)
        np.testing.assert_allclose(found, np.tile([0.0, 7e6], (3, 1)), atol=1.0)

    def test_every_element_has_the_directions_of_its_place(self) -> None:
        mesh, deck = mesh_of(DISH), deck_of(DISH, "here")
        response = DISH.response
        assert isinstance(response, PanelResponse)
        middles = np.concatenate([mesh.nodes[group.elements[:, :8]].mean(axis=1) for group in mesh.groups])
        normals = curving_of(response.panel)
        normals = normals.frames(normals.nearest(middles))[:, 2]
        known: list[int] = []
        for name, rows in re.findall(r"\*DISTRIBUTION, NAME=(\w+)\n,.*\n((?:[^*].*\n)+)", deck):
            self.assertIn(f"SYSTEM=RECTANGULAR\n{name}\n", deck)
            for row in rows.strip().splitlines():
                number, *values = (float(part) for part in row.split(","))
                first, second = np.array(values).reshape(2, 3)
                known.append(int(number))
                np.testing.assert_allclose([first @ second, first @ first, second @ second], [0, 1, 1], atol=1e-7)
                np.testing.assert_allclose(np.cross(first, second), normals[int(number) - 1], atol=5e-3)
        self.assertEqual(sorted(known), list(range(1, mesh.elements + 1)))

    @unittest.skipUnless(solver.installed(), "the solver ccx is not installed on this machine")
    def test_a_round_panel_on_a_bed_and_a_dish_agree(self) -> None:
        brief = next(own for own in PROJECT.briefs if own.name == "Oval hatch of the drone")
        held = dict.fromkeys(("x0", "x1", "y0", "y1"), "elastic")
        supports = replace(brief.member.supports, **held, spring=1e5, bed=1e6)  # type: ignore[union-attr]
        sprung = replace(brief, member=replace(brief.member, supports=supports), candidates=brief.candidates[1:2])
        sprung = replace(sprung, baseline="")
        for result, within in ((evaluate_brief(PROJECT, sprung, EVALUATOR).results[0], 0.005), (DISH, 0.03)):
            printed = solve(deck_of(result, "here"))
            lines = (*compare(result, None, readings(mesh_of(result), printed)), *stress_lines(result, None, printed))
            self.assertGreaterEqual(len(lines), 5)
            for line in lines:
                with self.subTest(result.candidate.name, line=line_texts(line, PROJECT.units)):
                    self.assertLess(abs(line.difference), within)


NAMES = ("Hinge plates", "Rim and hinge plates", "Light cloth, built-up rim")


class Zones(unittest.TestCase):
    """Panels whose layers run over parts of them, and edges that cannot spread."""

    def lids(self) -> list[CandidateResult]:
        return [candidate("Lid of the battery box", name) for name in NAMES]

    def test_they_weigh_and_are_loaded_as_the_program_says(self) -> None:
        for result in (*self.lids(), self.with_opening()):
            response = result.response
            assert isinstance(response, PanelResponse)
            assert response.patchwork is not None
            with self.subTest(result.candidate.name):
                mesh = mesh_of(result)
                self.assertAlmostEqual(weight(mesh) / response.mass, 1.0, places=9)
                self.assertEqual(len(np.unique(mesh.nodes.round(9), axis=0)), len(mesh.nodes))
                area = float(response.patchwork.areas.sum())
                for case, loading in zip((own.case for own in response.cases), mesh.cases, strict=True):
                    down = sum(case.pressures) * area + sum(patch.force for patch in case.patches)
                    self.assertAlmostEqual(float(-loading.forces[:, 2].sum()), down, delta=1e-6 * max(1.0, abs(down)))

    def with_opening(self) -> CandidateResult:
        brief = next(own for own in PROJECT.briefs if own.name == "Lid of the battery box")
        cases = tuple(own for own in brief.load_cases if own.name == "Air at speed")
        own = next(own for own in brief.candidates if own.name == NAMES[0])
        cut = Zone("z9", "window", 0.2, 0.3, 0.15, 0.25, opening=True)
        cut_out = replace(own, zones=(*own.zones, cut))
        brief = replace(brief, load_cases=cases, candidates=(cut_out,), baseline="")
        return evaluate_brief(PROJECT, brief, EVALUATOR).results[0]

    def test_every_layer_is_where_the_program_has_it(self) -> None:
        """The lowest and the highest place of each material, and how much of it there is, by the stacks."""
        for result in self.lids():
            response, mesh = result.response, mesh_of(result)
            assert isinstance(response, PanelResponse)
            assert response.patchwork is not None
            found: dict[str, float] = {}
            for group in mesh.groups:
                for own in group.elements:
                    p = mesh.nodes[own]
                    volume = abs(np.linalg.det(np.array([p[1] - p[0], p[3] - p[0], p[4] - p[0]])))
                    found[group.layers[0].material.id] = found.get(group.layers[0].material.id, 0.0) + volume
            wanted: dict[str, float] = {}
            for stack, area in zip(response.patchwork.stacks, response.patchwork.areas, strict=True):
                for layer in stack.layers:
                    wanted[layer.material.id] = wanted.get(layer.material.id, 0.0) + layer.thickness * float(area)
            self.assertEqual(set(found), set(wanted))
            for name, volume in wanted.items():
                with self.subTest(result.candidate.name, material=name):
                    self.assertAlmostEqual(found[name] / volume, 1.0, places=9)

    def test_sums_let_it_move_as_a_rigid_body(self) -> None:
        """What ties a face to a rim without core neither stretches nor bends."""
        brief = next(own for own in PROJECT.briefs if own.name == "Lid of the battery box")
        own = next(own for own in brief.candidates if own.name == NAMES[1])
        rim = next(zone.id for zone in own.zones if zone.rim)
        layers = tuple(
            replace(layer, zone=rim, outside=True) if layer.role == "core" else layer
            for layer in own.layers
            if layer.role == "core" or not layer.zone
        )
        lip = replace(brief, candidates=(replace(own, layers=layers),), baseline="")
        mesh = mesh_of(evaluate_brief(PROJECT, lip, EVALUATOR).results[0])
        self.assertTrue(mesh.sums)
        turn = np.cross(np.array([0.2, -0.5, 0.9]), mesh.nodes) + np.array([1.0, 2.0, 3.0])
        for nodes, axes, weights in mesh.sums:
            if (axes < 2).all():
                self.assertAlmostEqual(float(turn[nodes, axes] @ weights), 0.0, places=12)

    def test_edges_that_cannot_spread_turn_freely(self) -> None:
        """A turn about the middle plane of the edge is free, a movement across it is not; where the panel is pulled at
        its edges it is held by nodes of its own, which that load case lets go."""
        mesh = mesh_of(candidate("Rear fairing of the tricycle", "Sandwich, flat"))
        edge = [own for own in mesh.sums if (own[1][:2] == 1).all() and len(own[0]) == 3]
        self.assertTrue(edge)
        assert mesh.held_loose is not None
        for nodes, axes, weights in edge:
            *ends, own = nodes
            self.assertAlmostEqual(float(mesh.nodes[ends, 2] @ weights[:2]), 0.0, places=12)
            self.assertAlmostEqual(abs(float(weights[:2].sum() / weights[2])), 1.0, places=12)
            self.assertTrue(mesh.held[own, axes[2]])
            self.assertFalse(mesh.held_loose[own, axes[2]])

    @unittest.skipUnless(solver.installed(), "the solver ccx is not installed on this machine")
    def test_they_agree_on_the_coarse_mesh(self) -> None:
        result = candidate("Lid of the battery box", "Hinge plates")
        printed = solve(deck_of(result, "here"))
        lines = (*compare(result, None, readings(mesh_of(result), printed)), *stress_lines(result, None, printed))
        self.assertGreaterEqual(len(lines), 10)
        for line in lines:
            with self.subTest(line=line_texts(line, PROJECT.units)):
                # stress beside the plates under the hinges is still 3 % from the finer mesh's
                self.assertLess(abs(line.difference), 0.03 if "Face stress" in line.what else 0.005)


class Decks(unittest.TestCase):
    def read(self, deck: str) -> meshio.Mesh:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deck.inp"
            path.write_text(deck)
            return meshio.read(path)

    def test_a_mesh_library_reads_both(self) -> None:
        for result, kind in ((FLOOR, "hexahedron20"), (SPAR, "quad8")):
            with self.subTest(kind):
                mesh, found = mesh_of(result), self.read(deck_of(result, "here"))
                np.testing.assert_allclose(found.points, mesh.nodes, atol=1e-8)
                self.assertEqual({cells.type for cells in found.cells}, {kind})
                cells = np.concatenate([cells.data for cells in found.cells])
                np.testing.assert_array_equal(cells, np.concatenate([group.elements for group in mesh.groups]))
                self.assertEqual(len(found.point_sets["NREAD"]), len(np.unique(mesh.columns)))

    def test_every_card_has_its_numbers(self) -> None:
        deck = deck_of(SPAR, "here")
        stack_lines = re.findall(r"\*SHELL SECTION, ELSET=(\w+), COMPOSITE\n((?:[^*].*\n)+)", deck)
        self.assertEqual({name for name, _ in stack_lines}, set(re.findall(r"TYPE=S8R, ELSET=(\w+)", deck)))
        materials = set(re.findall(r"\*MATERIAL, NAME=(\w+)", deck))
        orientations = set(re.findall(r"\*ORIENTATION, NAME=(\w+)", deck))
        for _, layers in stack_lines:
            for line in layers.strip().splitlines():
                thickness, _, material, orientation = (part.strip() for part in line.split(","))
                self.assertGreater(float(thickness), 0.0)
                self.assertIn(material, materials)
                self.assertIn(orientation, orientations)
        self.assertEqual(deck.count("*STATIC"), len(mesh_of(SPAR).cases))
        self.assertEqual(deck.count("\n*STEP"), deck.count("*END STEP"))
        for constants in re.findall(r"ENGINEERING CONSTANTS\n(.+)\n(.+)\n", deck):
            E1, E2, E3, nu12, nu13, nu23, *G = (float(own) for line in constants for own in line.split(","))
            compliance = np.array([[1 / E1, -nu12 / E1, -nu13 / E1], [-nu12 / E1, 1 / E2, -nu23 / E2],
                                   [-nu13 / E1, -nu23 / E2, 1 / E3]])  # fmt: skip
            self.assertGreater(np.linalg.eigvalsh(compliance).min(), 0.0)
            self.assertGreater(min(G), 0.0)

    def test_a_braid_has_its_own_moduli_where_the_tube_tapers(self) -> None:
        """It is one material by name, and another one at each diameter."""
        braided = candidate("Shaft of a sculling oar", "UD between braids")
        response = braided.response
        assert isinstance(response, TubeResponse)
        deck = deck_of(braided, "here")
        stated = dict(re.findall(r"\*MATERIAL, NAME=(\w+)\n.*\n([^,]+),", deck))
        found = set()
        for _, layers in re.findall(r"\*SHELL SECTION, ELSET=(\w+), COMPOSITE\n((?:[^*].*\n)+)", deck):
            found.add(tuple(float(stated[line.split(",")[2].strip()]) for line in layers.strip().splitlines()))
        stacks = [own.stack for own in response.walls.stretches]
        self.assertGreater(len({stack.layers[0].material.value("E1") for stack in stacks}), 3)
        wanted = [[layer.material.value("E1") for layer in stack.layers[::-1]] for stack in stacks]
        np.testing.assert_allclose(sorted(found), sorted(wanted), rtol=1e-7)

    def test_names_cannot_become_cards(self) -> None:
        brief = next(own for own in PROJECT.briefs if own.name == "Tricycle footwell floor")
        cases = tuple(replace(case, name=HOSTILE) for case in brief.load_cases)
        named = tuple(replace(own, name=HOSTILE) for own in brief.candidates[:1])
        result = evaluate_brief(PROJECT, replace(brief, load_cases=cases, candidates=named), EVALUATOR).results[0]
        deck = deck_of(result, HOSTILE)
        self.assertNotRegex(deck, r"(?m)^\*INCLUDE")
        self.assertEqual(deck.count("\n*STEP"), deck_of(FLOOR, "here").count("\n*STEP"))


PRINTED = """
 displacements (vx,vy,vz) for set NREAD and time  0.1000000E+01

         1 -1.000000E-03  2.000000E-04 -3.000000E-03
        12  0.000000E+00  0.000000E+00 -4.500000E-03

 stresses (elem, integ.pnt.,sxx,syy,szz,sxy,sxz,syz) for set EREAD and time  0.1000000E+01

         1   1  1.000000E+06  2.000000E+06  0.000000E+00  0.000000E+00  0.000000E+00  0.000000E+00

 global coordinates (elem, integ.pnt.,x,y,z) for set EREAD and time  0.1000000E+01

         1   1  1.000000E-01  2.000000E-01  3.000000E-01

     E I G E N V A L U E   O U T P U T

 MODE NO    EIGENVALUE                       FREQUENCY
                                     REAL PART            IMAGINARY PART
                           (RAD/TIME)      (CYCLES/TIME     (RAD/TIME)

      1   0.3947842E+05   0.1986918E+03   0.3162278E+02   0.0000000E+00

     P A R T I C I P A T I O N   F A C T O R S

      1   0.1   0.2   0.3   0.4

     B U C K L I N G   F A C T O R   O U T P U T

 MODE NO       BUCKLING
                FACTOR

      1   0.2500000E+01
"""


class Solver(unittest.TestCase):
    def stand_in(self, folder: str, script: str) -> None:
        path = Path(folder) / "ccx"
        path.write_text(f"#!/bin/sh\n{script}\n")
        path.chmod(path.stat().st_mode | stat.S_IEXEC)

    def test_printed_tables_are_read(self) -> None:
        found = read_printed(PRINTED)
        np.testing.assert_allclose(found.displacements[0][12], (0.0, 0.0, -4.5e-3))
        self.assertEqual((found.frequencies, found.buckling), ((31.62278,), (2.5,)))
        np.testing.assert_allclose(found.stresses[0], [[0.1, 0.2, 0.3, 1e6, 2e6, 0.0, 0.0, 0.0, 0.0]])

    def test_vibrations_in_the_plane_are_left_out(self) -> None:
        mesh = mesh_of(FLOOR)
        numbers = [int(node) + 1 for node in np.unique(mesh.columns)]
        still = tuple({number: np.zeros(3) for number in numbers} for _ in mesh.cases)
        moves = (np.array([0.0, 0.1, 1.0]), np.array([1.0, 0.2, 0.5]), np.array([0.0, 0.0, -1.0]))
        modes = tuple(dict.fromkeys(numbers, own) for own in moves)
        found = readings(mesh, Printed((*still, *modes), (), (80.0, 90.0, 100.0), ()))
        self.assertEqual(
            {key: found[key] for key in found if "freq" in key}, {"frequency 1": 80.0, "frequency 2": 100.0}
        )

    def test_what_is_kept_counts_for_that_state_only(self) -> None:
        """It stands any number type, is written and read again, follows names and limits, and no change of the rest."""
        brief = next(own for own in PROJECT.briefs if own.name == "Tricycle footwell floor")
        own, materials = FLOOR.candidate, materials_of(PROJECT)
        lines = (
            Line("w", "deflection", np.float64(1e-3), 1.01e-3, np.float64(1e-4)),
            Line("f", "frequency", 9.0, 9.0, np.inf),
        )
        project = keep(PROJECT, brief, own, materials, lines, "2026-10-12").apply(PROJECT)
        project = from_bytes(to_bytes(project), "again")
        found = lines_of(kept(project, brief, own, materials))
        self.assertEqual([line.mesh for line in found], [1e-4, None])
        renamed = replace(brief, name="x", limits=replace(brief.limits, mass=1.0)), replace(own, name="y")
        self.assertTrue(kept(project, *renamed, materials))
        thicker = replace(own, layers=(replace(own.layers[0], angle=7.0), *own.layers[1:]))
        self.assertIsNone(kept(project, brief, thicker, materials))
        self.assertIsNotNone(of_candidate(project, brief.id, own.id))
        moved = replace(brief, load_cases=brief.load_cases[1:])
        self.assertIsNone(kept(project, moved, own, materials))
        other = {**materials, "twill200": replace(materials["twill200"], id="twill200", note="another")}
        self.assertIsNone(kept(project, brief, own, other))
        gone = replace(project, briefs=project.briefs[1:])
        again = keep(gone, gone.briefs[0], gone.briefs[0].candidates[0], materials, lines, "2026-10-13").apply(gone)
        self.assertEqual([opinion.brief for opinion in again.opinions], [gone.briefs[0].id])
        self.assertEqual(drop(project, brief, own).apply(project).opinions, ())

    def test_the_demo_keeps_one_of_its_present_state(self) -> None:
        brief = next(own for own in PROJECT.briefs if own.name == "Tricycle footwell floor")
        found = lines_of(kept(PROJECT, brief, FLOOR.candidate, materials_of(PROJECT)))
        self.assertEqual(len(found), 12)
        response = FLOOR.response
        assert isinstance(response, PanelResponse)
        said = {f"Deflection, {own.name}": own.value for own in response.measures["deflection"]}
        for line in found:
            self.assertTrue(line.agrees)
            if line.what in said:
                self.assertAlmostEqual(line.program / said[line.what], 1.0, places=6)

    def test_without_the_solver_the_way_to_it_is_told(self) -> None:
        with mock.patch.dict("os.environ", {"PATH": "/nowhere"}), self.assertRaisesRegex(OmakaseError, "apt-get"):
            second_opinion(FLOOR, "here")

    def test_it_can_be_stopped_and_its_errors_are_told(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict("os.environ", {"PATH": f"{folder}:/bin:/usr/bin"}),
        ):
            self.stand_in(folder, "exec sleep 60")
            start, heard = time.monotonic(), []
            with self.assertRaisesRegex(OmakaseError, "stopped"):
                solve("x", heard.append, lambda: len(heard) > 2)
            self.assertLess(time.monotonic() - start, 30.0)
            self.stand_in(folder, "echo '*ERROR reading the deck'; exit 1")
            with self.assertRaisesRegex(OmakaseError, "ERROR reading the deck"):
                solve("x")
            self.stand_in(folder, "echo ' *ERROR: too many cutbacks'; exit 201")
            with self.assertRaisesRegex(OmakaseError, "no equilibrium"):
                solve("x")

    def test_differences_are_judged_by_the_mesh_and_two_hundredths(self) -> None:
        self.assertTrue(Line("w", "deflection", 1.0, 1.029, 0.01).agrees)
        self.assertFalse(Line("w", "deflection", 1.0, 1.031, 0.01).agrees)
        self.assertFalse(Line("w", "deflection", 1.0, 0.97, None).agrees)
        coarse = Line("λ", "ratio", 1.0, 0.5, -0.6)
        self.assertTrue(coarse.coarse and not coarse.agrees)
        self.assertEqual(line_texts(coarse, "si")[3:], ("−50.0%", "−60.0%", "mesh too coarse"))

    @unittest.skipUnless(solver.installed(), "the solver ccx is not installed on this machine")
    def test_a_panel_and_a_spar_agree_on_the_coarse_mesh(self) -> None:
        plank = candidate("Seat plank of the tricycle", "Sandwich, three above")
        for result in (FLOOR, SHEET, PULLED, INSIDE, SPAR, candidate("Shaft of a sculling oar"), FILLED, plank):
            mesh = mesh_of(result)
            printed = solve(deck_of(result, "here"))
            lines = (*compare(result, None, readings(mesh, printed)), *stress_lines(result, None, printed))
            self.assertGreaterEqual(len(lines), 4)
            for line in lines:
                with self.subTest(result.candidate.name, line=line_texts(line, PROJECT.units)):
                    self.assertTrue(line.agrees)

    @unittest.skipUnless(solver.installed(), "the solver ccx is not installed on this machine")
    def test_panels_with_ribs_agree_within_three_hundredths(self) -> None:
        """Buckling on the coarse mesh, which the finer one lowers by 6 %; beside the end of a hat on a free edge bricks
        buckle a quarter earlier, which a remark says."""
        for name, early in (("Thin sandwich, two blades", 0.03), ("Thin sandwich on a hat rib", 0.3)):
            result = candidate("Bulkhead behind the seat", name)
            mesh = mesh_of(result)
            lines = compare(result, None, readings(mesh, solve(deck_of(result, "here"))))
            self.assertEqual(len(lines), 6)
            for line in lines:
                with self.subTest(name, line=line.what):
                    self.assertLess(abs(line.difference), early if line.what.startswith("Buckling") else 0.03)


class Compared(unittest.TestCase):
    def test_no_twist_is_not_compared(self) -> None:
        """Rounding leaves some 1e-15 degrees, which differ by anything."""
        brief = next(own for own in PROJECT.briefs if own.name == "Wing spar of the survey drone")
        result = evaluate_brief(PROJECT, replace(brief, load_cases=brief.load_cases[:1]), EVALUATOR).results[0]
        key = brief.load_cases[0].id
        fine = {f"twist {key}": 1e-16, f"deflection {key}": 0.2}
        self.assertEqual([line.what.split(",")[0] for line in compare(result, None, fine)], ["Deflection"])


if __name__ == "__main__":
    unittest.main()
