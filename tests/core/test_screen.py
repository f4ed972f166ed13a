"""The screen against the plate section that it copies, and against the full evaluator: it never rejects too much."""

from __future__ import annotations

import unittest

import msgspec
import numpy as np

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.screen import RULES, Batch, Cores, Faces, Screen
from omakase.project.library import shipped_materials

LIB = shipped_materials()
SKINS = ("twill200", "ud200", "spread100", "aramid170", "gsatin300")
CORES = ("pvc60", "pvc130", "hc48", "balsa150", "pmi71")
ANGLES = (0.0, 45.0, 90.0)
BRIEFS, EACH = 6, 24  # `./run bench sizing` draws 2,000


def faces() -> list[tuple[Layer, ...]]:
    plies = [make_layer(LIB[name], angle) for name in SKINS for angle in ANGLES]
    return [(ply,) for ply in plies] + [(one, two) for one in plies[::2] for two in plies[1::3]]


ALL = faces()


def stack(batch: Batch, row: int) -> Stack:
    core = make_layer(LIB[CORES[batch.core[row]]], 0.0, float(batch.thickness[row]), "core")
    return Stack((*ALL[batch.face_a[row]], core, *ALL[batch.face_b[row]]))


def draw(rng: np.random.Generator, count: int) -> Batch:
    n = len(ALL)
    sizes = rng.choice([0.004, 0.006, 0.01, 0.015, 0.025], count)
    return Batch(rng.integers(0, n, count), rng.integers(0, n, count), rng.integers(0, len(CORES), count), sizes)


def random_case(rng: np.random.Generator) -> tuple[Panel, tuple[LoadCase, ...]]:
    length, width = float(rng.uniform(0.4, 1.2)), float(rng.uniform(0.3, 0.8))
    edges = Edges(*(str(rng.choice(["simple", "clamped", "resting"])) for _ in range(4)))  # type: ignore[arg-type]
    pressed = LoadCase("pressed", (float(rng.uniform(300.0, 3000.0)),), (), 2.0)
    patch = PatchLoad(float(rng.uniform(200.0, 900.0)), 0.4 * length, 0.55 * width, 0.12, 0.1)
    return Panel(length, width, edges), (pressed, LoadCase("foot", (), (patch,)))


def spanning(rng: np.random.Generator) -> list[Stack]:
    batch = draw(rng, 8)
    return [stack(batch, row) for row in range(8)]


def make_screen(rng: np.random.Generator, limits: Limits, settings: Settings) -> Screen:
    panel, cases = random_case(rng)
    cores = Cores([LIB[name] for name in CORES], [0.0] * len(CORES))
    return Screen(panel, cases, limits, settings, spanning(rng), (Faces(ALL), Faces(ALL)), cores)


def false_rejections(briefs: int, each: int) -> tuple[int, int, list[str]]:
    """(rejected, left, rejected though the full evaluator accepts) of so many random panels and sandwiches on each."""
    settings = Settings(1.5)
    rejected, left, wrong = 0, 0, []
    for seed in range(briefs):
        rng = np.random.default_rng(100 + seed)
        screen = make_screen(rng, Limits(1.0, 1.0), settings)
        batch = draw(rng, each)
        middle = respond(screen.panel, stack(batch, 0), screen.cases)
        sag = max(case.largest_deflection[0] for case in middle.cases)
        screen.limits = Limits(sag * float(rng.uniform(0.7, 1.4)), middle.frequencies[0] * 0.8, None, 1.0)
        share, rule = screen.look(batch)
        left += int((rule < 0).sum())
        for row in np.flatnonzero(rule >= 0):
            rejected += 1
            layup = stack(batch, int(row))
            response = respond(screen.panel, layup, screen.cases)
            if all(check.passes for check in run_all(response, settings, screen.limits)):
                wrong.append(f"panel {seed}, sandwich {row}: {RULES[rule[row]]} {share[row]:.3f}")
    return rejected, left, wrong


class ScreenTests(unittest.TestCase):
    def test_its_sections_are_those_of_the_plate_solver(self) -> None:
        rng = np.random.default_rng(1)
        screen = make_screen(rng, Limits(), Settings())
        batch = draw(rng, 40)
        membrane, shear, z = screen._sections(batch)
        for row in range(40):
            section = PlateSection(stack(batch, row))
            scale = np.sqrt(np.outer(np.diag(section.membrane), np.diag(section.membrane)))
            np.testing.assert_allclose(membrane[row] / scale, section.membrane / scale, atol=1e-10)
            np.testing.assert_allclose(shear[row], section.shear, rtol=1e-10)
            np.testing.assert_allclose(z[row], [face.z_middle for face in section.faces], rtol=1e-10)
            self.assertAlmostEqual(screen.areal_mass(batch)[row], section.areal_mass, places=10)
            self.assertAlmostEqual(screen.total_thickness(batch)[row], section.stack.thickness, places=12)

    def test_it_never_rejects_what_the_full_evaluator_accepts(self) -> None:
        """Random sandwiches on random panels whose limits cut through the middle of them."""
        rejected, left, wrong = false_rejections(BRIEFS, EACH)
        self.assertEqual(wrong, [])
        self.assertGreater(rejected, BRIEFS * EACH // 8)
        self.assertGreater(left, BRIEFS * EACH // 8)

    def test_mass_and_thickness_are_exact(self) -> None:
        rng = np.random.default_rng(7)
        screen = make_screen(rng, Limits(), Settings())
        batch = draw(rng, 50)
        area = screen.panel.length * screen.panel.width
        edge = float(np.sort(screen.areal_mass(batch))[25]) * area
        screen.limits = msgspec.structs.replace(screen.limits, mass=edge)
        _, rule = screen.look(batch)
        heavy = screen.areal_mass(batch) * area > edge * (1.0 + 1e-6)
        np.testing.assert_array_equal(rule == 0, heavy)


if __name__ == "__main__":
    unittest.main()
