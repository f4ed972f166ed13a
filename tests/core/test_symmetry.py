"""Properties of the panel that hold for any layup: turning over, turning round, scaling, reciprocity."""

from __future__ import annotations

import unittest

import msgspec
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import QUICK, LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateSolution
from omakase.project.library import shipped_materials
from tests.support import sag

LIB = shipped_materials()
FACES = st.lists(
    st.tuples(st.sampled_from(["twill200", "ud200", "satin300"]), st.integers(-90, 90)), min_size=1, max_size=3
)
CORES = st.sampled_from([None, ("pvc80", 0.01), ("hc48", 0.0127), ("balsa150", 0.006)])
EDGES = st.sampled_from(
    [Edges(), Edges("clamped", "simple", "free", "resting"), Edges("clamped", "clamped", "clamped", "free")]
)
FEW = settings(deadline=None, max_examples=12)


def stack_of(top: list, core: tuple | None, bottom: list, ribbon: int = 0) -> Stack:
    layers: list[Layer] = [make_layer(LIB[name], float(angle)) for name, angle in top]
    if core is not None:
        layers.append(make_layer(LIB[core[0]], float(ribbon), core[1]))
    layers += [make_layer(LIB[name], float(angle)) for name, angle in bottom]
    return Stack(tuple(layers))


def reserves(panel: Panel, stack: Stack, case: LoadCase) -> dict[str, float]:
    checks = run_all(respond(panel, stack, (case,), QUICK), Settings(1.5), Limits(0.005, 30.0, None, 1.0))
    # an upward pressure counts as suction on face A, a downward one pulls nothing off
    return {check.check: check.reserve_factor for check in checks if check.check != "flatwise_tension"}


class Panels(unittest.TestCase):
    def close(self, first: dict[str, float], second: dict[str, float], tolerance: float = 2e-4) -> None:
        self.assertEqual(set(first), set(second))
        for name, value in first.items():
            if np.isfinite(value) or np.isfinite(second[name]):
                self.assertAlmostEqual(second[name] / value, 1.0, delta=tolerance, msg=name)

    @given(FACES, CORES, FACES, st.integers(0, 90), EDGES)
    @FEW
    def test_turned_over_with_its_load(self, top: list, core: tuple | None, bottom: list, ribbon: int, edges: Edges):
        """About the x axis: layers reversed, angles negated, y mirrored, the load from below."""
        stack = stack_of(top, core, bottom, ribbon)
        patch = PatchLoad(800.0, 0.2, 0.15, 0.1, 0.08)
        turned_patch = PatchLoad(-800.0, 0.2, 0.4 - 0.15, 0.1, 0.08)
        turned_edges = Edges(edges.x0, edges.x1, edges.y1, edges.y0)
        before = reserves(Panel(0.6, 0.4, edges), stack, LoadCase("a", (700.0,), (patch,)))
        after = reserves(Panel(0.6, 0.4, turned_edges), stack.flipped(), LoadCase("a", (-700.0,), (turned_patch,)))
        self.close(before, after)

    @given(FACES, CORES, FACES, EDGES)
    @FEW
    def test_turned_round_by_180_degrees(self, top: list, core: tuple | None, bottom: list, edges: Edges) -> None:
        stack = stack_of(top, core, bottom)
        patch = PatchLoad(800.0, 0.2, 0.15, 0.1, 0.08)
        turned = PatchLoad(800.0, 0.6 - 0.2, 0.4 - 0.15, 0.1, 0.08)
        turned_edges = Edges(edges.x1, edges.x0, edges.y1, edges.y0)
        before = reserves(Panel(0.6, 0.4, edges), stack, LoadCase("a", (), (patch,)))
        after = reserves(Panel(0.6, 0.4, turned_edges), stack, LoadCase("a", (), (turned,)))
        self.close(before, after)

    @given(FACES, CORES, st.floats(1.5, 4.0))
    @FEW
    def test_a_model_to_scale(self, face: list, core: tuple | None, scale: float) -> None:
        """All lengths × s under the same pressure: deflection × s, strains the same (dimensional analysis)."""
        stack = stack_of(face, core, face[::-1])
        larger = Stack(tuple(Layer(la.material, la.angle, la.thickness * scale, la.role) for la in stack.layers))
        case = (LoadCase("p", (500.0,)),)
        small = respond(Panel(0.5, 0.4), stack, case, QUICK, with_frequencies=False).cases[0]
        big = respond(Panel(0.5 * scale, 0.4 * scale), larger, case, QUICK, with_frequencies=False).cases[0]
        self.assertAlmostEqual(big.largest_deflection[0] / small.largest_deflection[0] / scale, 1.0, delta=1e-4)

    def test_quarter_turn_of_everything(self) -> None:
        stack = stack_of([("ud200", 20), ("twill200", 0)], ("hc48", 0.0127), [("ud200", -10)])
        turned = Stack(tuple(msgspec.structs.replace(la, angle=la.angle + 90.0) for la in stack.layers))
        patch, other = PatchLoad(500.0, 0.2, 0.1, 0.1, 0.05), PatchLoad(500.0, 0.4 - 0.1, 0.2, 0.05, 0.1)
        before = reserves(Panel(0.6, 0.4, Edges("clamped", "free", "simple", "simple")), stack,
                          LoadCase("a", (), (patch,)))  # fmt: skip
        after = reserves(Panel(0.4, 0.6, Edges("simple", "simple", "clamped", "free")), turned,
                         LoadCase("a", (), (other,)))  # fmt: skip
        self.close(before, after)

    def test_maxwell_reciprocity(self) -> None:
        """The work of one patch's load on the other's deflection is the same both ways (Maxwell 1864, Betti 1872)."""
        stack = stack_of([("ud200", 30)], ("pvc80", 0.01), [("twill200", 0), ("twill200", 45)])
        panel = Panel(0.6, 0.4, Edges("clamped", "simple", "free", "simple"))
        places = [(0.15, 0.1), (0.45, 0.3)]
        patches = [PatchLoad(100.0, x, y, 0.04, 0.04) for x, y in places]
        response = respond(
            panel, stack, tuple(LoadCase(str(i), (), (p,)) for i, p in enumerate(patches)), with_frequencies=False
        )

        points = ((-(0.6**0.5), 5 / 18), (0.0, 8 / 18), (0.6**0.5, 5 / 18))  # Gauss

        def mean(solution: PlateSolution, patch: PatchLoad) -> float:
            return sum(
                a * b * sag(solution, patch.x + s * patch.along_x / 2, patch.y + t * patch.along_y / 2)
                for s, a in points
                for t, b in points
            )

        forward, back = (mean(response.cases[i].parts[0].solution, patches[1 - i]) for i in (0, 1))
        # each side is solved on a grid of its own: they agree as well as the grids resolve a load far away
        self.assertAlmostEqual(forward / back, 1.0, delta=4e-3)

    @given(FACES, CORES, FACES)
    @FEW
    def test_stiffness_is_symmetric_and_positive(self, top: list, core: tuple | None, bottom: list) -> None:
        section = PlateSection(stack_of(top, core, bottom))
        np.testing.assert_allclose(section.membrane, section.membrane.T, rtol=1e-9, atol=1e-3)
        bending = section.membrane[np.ix_([0, 1, 2, 3, 4, 5], [0, 1, 2, 3, 4, 5])]
        scale = np.sqrt(np.outer(np.diag(bending), np.diag(bending)))
        self.assertGreater(np.linalg.eigvalsh(bending / scale).min(), 0.0)
        self.assertGreater(np.linalg.eigvalsh(section.shear).min(), 0.0)


if __name__ == "__main__":
    unittest.main()
