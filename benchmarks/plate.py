"""One full-order plate solve (two patches, three load cases, six frequencies) against LAPACK and finite elements."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
import scipy.linalg
import scipy.sparse
import skfem
from scipy.sparse.linalg import eigsh, splu

from benchmarks.figures import Figure, seconds
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import PanelResponse, respond
from omakase.core.members.panel_given import LINEAR, Accuracy, LoadCase, Panel
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.project.library import shipped_materials

PANEL = Panel(0.62, 0.44)
PATCHES = (PatchLoad(1100.0, 0.2, 0.22, 0.24, 0.09), PatchLoad(650.0, 0.46, 0.08, 0.12, 0.09))
CASES = (LoadCase("feet", (), PATCHES), LoadCase("air", (1500.0,)), LoadCase("weight", (), (), 4.0))
FINER = Accuracy(16, 14, 12)


def _sandwich() -> Stack:
    library = shipped_materials()
    faces = [make_layer(library["twill200"], angle) for angle in (45.0, 0.0)]
    return Stack((*faces, make_layer(library["pvc80"], 0.0, 0.012), *faces[::-1]))


def _laminate() -> Stack:
    """Thick enough that quadratic shear-flexible finite elements do not lock; the same theory on both sides."""
    cloth = shipped_materials()["ud200"]
    plies = [Layer(cloth, angle, 1.5e-3) for angle in (0.0, 90.0, 45.0, -45.0)]
    return Stack((*plies, *plies[::-1]))


class FinitePlate:
    """First-order shear plate on quadratic quadrilaterals, lines of the mesh along the patches' edges."""

    def __init__(self, stack: Stack, cells: int) -> None:
        section = PlateSection(stack)
        D, S, mass = section.membrane[3:6, 3:6], section.shear, section.areal_mass
        rotary = section.rotary_inertia
        lines = []
        for size, bounds in ((PANEL.length, (0, 1)), (PANEL.width, (2, 3))):
            breaks = sorted({0.0, size, *(patch.bounds[i] for patch in PATCHES for i in bounds)})
            step = PANEL.length / cells
            lines.append(
                np.unique(
                    np.concatenate(
                        [np.linspace(a, b, 2 * max(1, round((b - a) / step / 2)) + 1) for a, b in pairwise(breaks)]
                    )
                )
            )
        mesh = skfem.MeshQuad.init_tensor(*lines).with_defaults()
        self.basis = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementQuad2(), 3), intorder=4)

        def strains(u):  # type: ignore[no-untyped-def]
            g = u.grad
            return (g[1, 0], g[2, 1], g[1, 1] + g[2, 0]), (u[1] + g[0, 0], u[2] + g[0, 1])

        @skfem.BilinearForm
        def energy(u, v, w):  # type: ignore[no-untyped-def]
            (a, s), (b, t) = strains(u), strains(v)
            bending = sum(D[i, j] * a[i] * b[j] for i in range(3) for j in range(3))
            return bending + sum(S[i, j] * s[i] * t[j] for i in range(2) for j in range(2))

        @skfem.BilinearForm
        def inertia(u, v, w):  # type: ignore[no-untyped-def]
            return mass * u[0] * v[0] + rotary * (u[1] * v[1] + u[2] * v[2])

        def inside(w, patch):  # type: ignore[no-untyped-def]
            x0, x1, y0, y1 = patch.bounds
            return (w.x[0] > x0) & (w.x[0] < x1) & (w.x[1] > y0) & (w.x[1] < y1)

        @skfem.LinearForm
        def feet(v, w):  # type: ignore[no-untyped-def]
            return sum(patch.pressure * inside(w, patch) for patch in PATCHES) * v[0]

        @skfem.LinearForm
        def even(v, w):  # type: ignore[no-untyped-def]
            return v[0]

        self.K, self.M = energy.assemble(self.basis), inertia.assemble(self.basis)
        even_load = even.assemble(self.basis)
        self.loads = np.stack([feet.assemble(self.basis), 1500.0 * even_load, 4 * 9.80665 * mass * even_load], axis=1)
        held = [self.basis.get_dofs(side).all(names) for side, names in (
            ("left", ["u^1", "u^3"]), ("right", ["u^1", "u^3"]), ("top", ["u^1", "u^2"]), ("bottom", ["u^1", "u^2"])
        )]  # fmt: skip
        self.free = np.setdiff1d(np.arange(self.basis.N), np.concatenate(held))

    def solve(self) -> tuple[float, float]:
        """(deflection of the first case under the middle of the first patch, first frequency)."""
        K = self.K[self.free][:, self.free].tocsc()
        M = self.M[self.free][:, self.free].tocsc()
        factor = splu(K)
        w = np.zeros((self.basis.N, self.loads.shape[1]))
        w[self.free] = factor.solve(self.loads[self.free])
        operator = scipy.sparse.linalg.LinearOperator(K.shape, matvec=factor.solve)
        values = eigsh(K, 6, M, sigma=0.0, OPinv=operator, return_eigenvectors=False)
        foot = PATCHES[0]
        places = self.basis.mesh.p
        node = int(np.argmin(np.hypot(places[0] - foot.x, places[1] - foot.y)))
        assert np.hypot(places[0, node] - foot.x, places[1, node] - foot.y) < 1e-9  # an even number of cells
        deflection = w[self.basis.nodal_dofs[0, node], 0]
        return abs(float(deflection)), float(np.sqrt(values.min()) / (2.0 * np.pi))


def _answer(response: PanelResponse) -> tuple[float, float]:
    case, foot = response.cases[0], PATCHES[0]
    at = np.array([foot.x]), np.array([foot.y])
    sag = sum(part.factor * float(part.solution.deflection_at(*at)[0, 0]) for part in case.parts)
    return abs(sag), response.frequencies[0]


def _error(answer: tuple[float, float], exact: tuple[float, float]) -> float:
    return max(abs(a / b - 1.0) for a, b in zip(answer, exact, strict=True))


def measure() -> Iterator[Figure]:
    """Ratios of times taken beside each other."""
    sandwich = _sandwich()
    response = respond(PANEL, sandwich, CASES)
    n = response.unknowns
    ours = seconds(lambda: respond(PANEL, sandwich, CASES))
    rng = np.random.default_rng(1)
    square = rng.standard_normal((n, n))
    matrix = square + square.T
    lapack = seconds(lambda: scipy.linalg.eigh(matrix), 3)
    yield Figure(f"full-order sandwich solve, {n} unknowns", ours * 1e3, "ms")
    yield Figure(f"LAPACK, all eigenvalues and vectors of {n} × {n}", lapack * 1e3, "ms")
    yield Figure("sandwich solve / LAPACK eigen solution", ours / lapack, "", 0.25)

    laminate = _laminate()
    exact = _answer(respond(PANEL, laminate, CASES, FINER))
    own_error = _error(_answer(respond(PANEL, laminate, CASES)), exact)
    own = seconds(lambda: respond(PANEL, laminate, CASES, LINEAR))
    yield Figure("full-order laminate solve", own * 1e3, "ms")
    yield Figure("its error in deflection and first frequency", own_error * 100.0, "%")
    for cells in (8, 16, 24, 32, 48, 64, 96):
        finite = FinitePlate(laminate, cells)
        error = _error(finite.solve(), exact)
        if error <= own_error or cells == 96:
            break
    elements = seconds(lambda: FinitePlate(laminate, cells).solve(), 3)
    yield Figure(f"finite elements of equal accuracy, {finite.basis.N} unknowns", elements * 1e3, "ms")
    yield Figure("their error", error * 100.0, "%")
    yield Figure("laminate solve / finite elements", own / elements, "", 0.1)
