"""A first look at many sandwich panels at once: Rayleigh–Ritz in a few shapes, all layups side by side.

It only rejects.  The work of a load in few shapes is never more, and a frequency never lower, than on the whole grid,
so a panel that is too soft here really is too soft; fewer places are looked at than in the checks.  Values that are not
bounds (deflection at a point instead of under the load, strains) get a margin: see ``MARGINS``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.checks.compression import Compression, bending_along, shear_along, turned_bending
from omakase.core.checks.result import Limits, Settings
from omakase.core.checks.wrinkling import (
    HONEYCOMB,
    SOLID_CORE,
    wrinkling_stress_honeycomb,
    wrinkling_stress_solid,
)
from omakase.core.laminate.failure import metal_allowable, strain_limits
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import layer_shear_stiffness, layer_stiffness, material_stiffness, slices
from omakase.core.laminate.strength import shear_ratios
from omakase.core.materials.material import Material
from omakase.core.members.panel import footprints
from omakase.core.members.panel_beyond import THIN, sags_at_least
from omakase.core.members.panel_given import FULL, LoadCase, Panel
from omakase.core.members.panel_grid import assembler, grid_key
from omakase.core.plates.basis import gauss
from omakase.core.plates.grid import FIELDS
from omakase.core.plates.lines import corner_reach
from omakase.core.plates.loads import STANDARD_GRAVITY, PatchLoad, Pressure
from omakase.core.plates.reduced import ReducedPlate
from omakase.core.plates.samples import Samples
from omakase.core.plates.section import PlateSection
from omakase.core.plates.shear_places import in_corners
from omakase.core.plates.solver import PlateModel
from omakase.core.rotation import strain_rotation

SHAPES = 14
COARSE = msgspec.structs.replace(FULL, layers=False)  # layers at edges of one section are none of another's
PLACES = 6  # per load case and kind of strain
STRETCHING = 0.8 * THIN  # of the sheet thickness: well before a panel is solved as one that stretches
# what a share of the limit is multiplied by before it may reject: 2,000 random cases against the full evaluator leave
# none rejected that passes, with half of each margin to spare (see the tests and `./run bench screen`)
MARGINS = {"deflection": 1.02, "frequency": 1.02, "core_shear": 2.5, "face_failure": 1.35, "wrinkling": 1.5}
RULES = ("mass", "thickness", *MARGINS)  # the order in which they are asked


class Faces:
    """Face layups as arrays; ``layers`` of each from face A down.

    A, B, D : (n, 3, 3) about its own middle; thickness, areal_mass : (n,); index : (n, rows, 3) such that the largest
    product with a strain is the maximum strain criterion's index, of a metal no more than von Mises's.
    """

    def __init__(self, faces: Sequence[tuple[Layer, ...]], factor_of_safety: float = 1.5) -> None:
        A, B, D, thickness, mass = [], [], [], [], []
        limits = [
            np.concatenate([_failure_rows(layer, factor_of_safety) for layer in face if layer.structural])
            for face in faces
        ]
        self.index = np.zeros((len(faces), max((len(limit) for limit in limits), default=1), 3))
        for row, (face, limit) in enumerate(zip(faces, limits, strict=True)):
            self.index[row, : len(limit)] = limit
            stack = Stack(face)
            a, b, d = slices(stack).abd()
            A.append(a)
            B.append(b)
            D.append(d)
            thickness.append(stack.thickness)
            mass.append(sum(stack.areal_mass().values()))
        self.A, self.B, self.D = np.array(A), np.array(B), np.array(D)
        self.thickness, self.areal_mass = np.array(thickness), np.array(mass)
        self.bending = self.D - self.B @ np.linalg.solve(self.A, self.B)


class Cores:
    """Cores as arrays, (n,) or (n, ...): stiffness in the plane and in shear, strengths, density and uptake."""

    def __init__(self, cores: Sequence[Material], angles: Sequence[float]) -> None:
        layers = [Layer(core, angle, 0.01, "core", True, False) for core, angle in zip(cores, angles, strict=True)]
        self.Q = np.array([layer_stiffness(layer) for layer in layers])
        self.G = np.array([layer_shear_stiffness(layer) for layer in layers])
        self.E3 = np.array([core.value("E3") for core in cores])
        self.density = np.array([core.value("density") for core in cores])
        self.uptake = np.array(
            [core.value("resin_uptake") if "resin_uptake" in core.properties else 0.0 for core in cores]
        )
        self.honeycomb = np.array([core.family == "honeycomb" for core in cores])
        ratios = []
        for layer in layers:
            ratios.append(shear_ratios(layer))
        self.ratios = np.array(ratios)


def _failure_rows(layer: Layer, factor_of_safety: float) -> np.ndarray:
    """Rows (m, 3) of which no product with a strain is more than the index that the check of the faces has.

    By maximum strain the index itself; of a metal the bounds √3/2 |σ| and √3 |τ| of the von Mises stress.
    """
    material, turn = layer.material, strain_rotation(layer.angle)
    if not material.is_metal:
        return strain_limits(material) @ turn
    share = np.array([[math.sqrt(0.75)], [math.sqrt(0.75)], [math.sqrt(3.0)]])
    rows = share * (material_stiffness(material) @ turn) / metal_allowable(material, factor_of_safety)[0]
    return np.concatenate([rows, -rows])


class Batch(msgspec.Struct, frozen=True, eq=False):
    """Panels to look at: indices into faces (A and B, as two ``Faces``) and cores, and the thickness of the core."""

    face_a: np.ndarray
    face_b: np.ndarray
    core: np.ndarray
    thickness: np.ndarray

    def __len__(self) -> int:
        return len(self.core)

    def take(self, rows: np.ndarray) -> Batch:
        """Some of them."""
        return Batch(self.face_a[rows], self.face_b[rows], self.core[rows], self.thickness[rows])


class Screen:
    """A panel's load cases and limits, and the shapes in which layups are looked at.

    ``stacks`` : sandwiches that span what will come: their solutions and first two modes are what the shapes are made
    from.  Raises LayupError, PanelError or SolverError.
    """

    def __init__(
        self,
        panel: Panel,
        cases: tuple[LoadCase, ...],
        limits: Limits,
        settings: Settings,
        stacks: Sequence[Stack],
        faces: tuple[Faces, Faces],
        cores: Cores,
    ) -> None:
        self.panel, self.cases, self.limits, self.settings = panel, cases, limits, settings
        self.faces, self.cores = faces, cores
        sections = [PlateSection(stack) for stack in stacks]
        key = msgspec.structs.replace(grid_key(panel.surface, sections[0], None, COARSE), fields=FIELDS)
        assembled = assembler(key)
        patches: list[PatchLoad | Pressure] = [Pressure(1.0), *footprints(cases)]
        systems = []
        for section in sections:
            model = PlateModel(section, assembled)
            vectors = np.stack([model.load_vector([patch]) for patch in patches], axis=1)
            systems.append(model.factor.solve(vectors))
            systems.append(np.stack([mode.vector for mode in model.frequencies(2, 1e-5)[1]], axis=1))
        self._plate = plate = ReducedPlate(assembled, sections[0], np.concatenate(systems, axis=1), most=SHAPES)
        self._loads = plate.vectors.T @ vectors  # (r, loads)
        self._place = {patch: i for i, patch in enumerate(patches)}
        samples = Samples(
            assembled.grid, np.array(gauss(8)[0])
        )  # inside the cells: peaks at corners are none of its own
        self._strains = plate.strains(samples, 0, 0).reshape(plate.size, -1, 11)
        # what happens in corners may be left out by the checks
        size, reach = (panel.length, panel.width), 2.0 * corner_reach(panel.length, panel.width)
        self._inside = ~in_corners(samples.x, samples.y, size, np.ones((2, 2), dtype=bool), reach).ravel()
        self._deflections = plate.deflections(samples)
        self._mode = self._first_mode(sections[0])
        self._points = [self._choose_places(case, sections) for case in cases]

    # --- making it ------------------------------------------------------------------------------------------

    def _solve(self, section: PlateSection) -> np.ndarray:
        return np.linalg.solve(self._plate.stiffness(section), self._loads)

    def _shares(self, case: LoadCase, unit: np.ndarray, areal_mass: np.ndarray) -> np.ndarray:
        """Shapes' shares under a load case: (..., r) from (..., r, loads) under unit loads."""
        pressure = sum(case.pressures) + areal_mass * STANDARD_GRAVITY * case.gravity
        result = unit[..., 0] * np.asarray(pressure)[..., None]
        for patch in case.patches:
            result = result + patch.force * unit[..., self._place[msgspec.structs.replace(patch, force=1.0)]]
        return result

    def _first_mode(self, section: PlateSection) -> np.ndarray:
        K, M = self._plate.stiffness(section), self._plate.mass(section.areal_mass, section.rotary_inertia)
        inverse = np.linalg.inv(np.linalg.cholesky(K))
        return inverse.T @ np.linalg.eigh(inverse @ M @ inverse.T)[1][:, -1]

    def _choose_places(self, case: LoadCase, sections: Sequence[PlateSection]) -> tuple[np.ndarray, np.ndarray]:
        """(places of deflection, places of strain): where the sections that span the range are worst."""
        sag: dict[int, None] = {}
        strain: dict[int, None] = {}
        for section in sections:
            shares = self._shares(case, self._solve(section), np.array(section.areal_mass))
            w = shares @ self._deflections
            sag[int(np.argmax(np.abs(w)))] = None
            s = np.einsum("r,rpk->pk", shares, self._strains)
            s = np.where(self._inside[:, None], s, 0.0)
            shear = np.hypot(s[:, 9], s[:, 10])
            strain.update(dict.fromkeys(int(i) for i in np.argsort(-shear)[:2]))
            for face in section.faces:
                face_strain = s[:, 0:3] + face.z_middle * s[:, 3:6]
                for measure in (
                    face_strain[:, 0],
                    -face_strain[:, 0],
                    face_strain[:, 1],
                    -face_strain[:, 1],
                    np.abs(face_strain[:, 2]),
                ):
                    strain[int(np.argmax(measure))] = None
        return np.array(list(sag)[:PLACES]), np.array(list(strain)[: 4 * PLACES])

    # --- using it -------------------------------------------------------------------------------------------

    def areal_mass(self, batch: Batch) -> np.ndarray:
        """Areal mass of each panel, kg/m², exact."""
        core = self.cores.density[batch.core] * batch.thickness + 2.0 * self.cores.uptake[batch.core]
        return self.faces[0].areal_mass[batch.face_a] + self.faces[1].areal_mass[batch.face_b] + core

    def total_thickness(self, batch: Batch) -> np.ndarray:
        """Thickness of each panel, m, exact."""
        return self.faces[0].thickness[batch.face_a] + self.faces[1].thickness[batch.face_b] + batch.thickness

    def look(self, batch: Batch) -> tuple[np.ndarray, np.ndarray]:
        """(share, rule) of each panel: the least share of a limit with its margin, and the index in ``RULES`` of the
        first limit that is certainly missed, −1 where there is none.  A share of 1 is at the limit."""
        count = len(batch)
        rule = np.full(count, -1)
        share = np.full(count, np.inf)
        areal, thick = self.areal_mass(batch), self.total_thickness(batch)
        exact = 1.0 + 1e-9
        if self.limits.mass is not None:
            self._note(share, rule, 0, self.limits.mass / (areal * self.panel.length * self.panel.width), exact)
        if self.limits.thickness is not None:
            self._note(share, rule, 1, self.limits.thickness / thick, exact)
        rows = np.flatnonzero(rule < 0)
        if len(rows):
            self._look_stiffness(batch.take(rows), areal[rows], rows, share, rule)
        return share, rule

    @staticmethod
    def _note(share: np.ndarray, rule: np.ndarray, which: int, values: np.ndarray, margin: float) -> None:
        np.minimum(share, values, out=share)
        rule[(rule < 0) & (values * margin < 1.0)] = which

    def _look_stiffness(
        self, batch: Batch, areal: np.ndarray, rows: np.ndarray, share: np.ndarray, rule: np.ndarray
    ) -> None:
        own_share, own_rule = np.full(len(rows), np.inf), np.full(len(rows), -1)
        membrane, shear, z = self._sections(batch)
        stiffness = self._plate.stiffnesses(membrane, shear)
        unit = np.linalg.solve(stiffness, np.broadcast_to(self._loads, (len(rows), *self._loads.shape)))
        states = [self._shares(case, unit, areal) for case in self.cases]
        far = np.zeros(len(rows), bool)  # those that stretch: what a linear plate says of their strength rejects none
        diagonal = np.diagonal(membrane, axis1=1, axis2=2)
        sheet = np.sqrt(12.0 * diagonal[:, 3:5].max(axis=1) / diagonal[:, :2].max(axis=1))
        for state, (places, _) in zip(states, self._points, strict=True):
            sag = np.abs(state @ self._deflections[:, places]).max(axis=1)
            stretched = sag > STRETCHING * sheet
            far |= stretched
            if self.limits.deflection is not None:
                sag = np.where(stretched, sags_at_least(sag, sheet, self.panel.in_plane), sag)
                reserve = np.divide(self.limits.deflection, sag, out=np.full(len(rows), np.inf), where=sag > 0.0)
                self._note(own_share, own_rule, 2, reserve, MARGINS["deflection"])
        if self.limits.frequency_minimum is not None:
            reserve = self._frequency(stiffness, areal) / self.limits.frequency_minimum
            self._note(own_share, own_rule, 3, reserve, MARGINS["frequency"])
        left = np.flatnonzero((own_rule < 0) & ~far)
        if len(left):
            s, r = own_share[left], own_rule[left]
            self._look_strength(batch.take(left), [state[left] for state in states], z[left], s, r)
            own_share[left], own_rule[left] = s, r
        share[rows] = np.minimum(share[rows], own_share)
        rule[rows] = own_rule

    def _sections(self, batch: Batch) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(membrane (n, 9, 9), shear (n, 2, 2), heights of the face middles (n, 2)), as ``PlateSection`` has them."""
        top, bottom = self.faces
        ta, tb, h = top.thickness[batch.face_a], bottom.thickness[batch.face_b], batch.thickness
        total = ta + tb + h
        z = np.stack([(total - ta) / 2.0, (tb - total) / 2.0], axis=1)
        membrane = np.zeros((len(batch), 3, 3, 3, 3))  # (panel, block row, row, block column, column)
        for side, faces, index in ((0, top, batch.face_a), (1, bottom, batch.face_b)):
            A, B, D = faces.A[index], faces.B[index], faces.D[index]
            height = z[:, side, None, None]
            membrane[:, 0, :, 0] += A
            membrane[:, 0, :, 1] += height * A
            membrane[:, 1, :, 1] += height**2 * A
            membrane[:, 0, :, 2] += B
            membrane[:, 1, :, 2] += height * B
            membrane[:, 2, :, 2] += D
        upper = np.stack([np.ones_like(h), z[:, 0], -ta / 2.0], axis=1)
        lower = np.stack([np.ones_like(h), z[:, 1], tb / 2.0], axis=1)
        cross = upper[:, :, None] * lower[:, None, :]
        weights = (upper[:, :, None] * upper[:, None, :] + lower[:, :, None] * lower[:, None, :]) / 3.0
        weights = (weights + (cross + cross.transpose(0, 2, 1)) / 6.0) * h[:, None, None]
        Q = self.cores.Q[batch.core]
        for i in range(3):
            for j in range(i, 3):
                membrane[:, i, :, j] += weights[:, i, j, None, None] * Q
        membrane[:, 1, :, 0] = membrane[:, 0, :, 1]
        membrane[:, 2, :, 0] = membrane[:, 0, :, 2].transpose(0, 2, 1)
        membrane[:, 2, :, 1] = membrane[:, 1, :, 2].transpose(0, 2, 1)
        distance = z[:, 0] - z[:, 1]
        shear = self.cores.G[batch.core] * (distance**2 / h)[:, None, None]
        return membrane.reshape(-1, 9, 9), shear, z

    def _frequency(self, stiffness: np.ndarray, areal: np.ndarray) -> np.ndarray:
        """Rayleigh's quotient after two steps of inverse iteration: never below the first frequency, Hz."""
        start = self._plate.mass(1.0, 0.0) @ self._mode
        shape = np.linalg.solve(stiffness, np.broadcast_to(start, (len(areal), len(start)))[..., None])[..., 0]
        start = shape @ self._plate.mass(1.0, 0.0)
        shape = np.linalg.solve(stiffness, start[..., None])[..., 0]
        work = np.einsum("ni,ni->n", shape, start)  # xᵀ K x of the last step
        mass = np.einsum("ni,ij,nj->n", shape, self._plate.mass(1.0, 0.0), shape, optimize=True) * areal
        return np.sqrt(work / mass) / (2.0 * np.pi)

    def _look_strength(
        self, batch: Batch, states: list[np.ndarray], z: np.ndarray, share: np.ndarray, rule: np.ndarray
    ) -> None:
        """Core shear, maximum strain at the faces' middles and wrinkling at some places, each with its margin."""
        factor = self.settings.ultimate_factor * self.limits.reserve_factor
        top, bottom = self.faces
        distance = (z[:, 0] - z[:, 1]) / batch.thickness
        core_ratio = self.cores.ratios[batch.core] @ self.cores.G[batch.core] * distance[:, None, None]
        for state, (_, places) in zip(states, self._points, strict=True):
            strains = np.einsum("nr,rpk->nkp", state, self._strains[:, places], optimize=True)
            index = np.sqrt(np.sum((core_ratio @ strains[:, 9:11]) ** 2, axis=1)).max(axis=1)
            self._note(share, rule, 4, 1.0 / (np.maximum(index, 1e-12) * factor), MARGINS["core_shear"])
            for side, faces, which in ((0, top, batch.face_a), (1, bottom, batch.face_b)):
                strain = strains[:, 0:3] + z[:, side, None, None] * strains[:, 3:6]
                if self.settings.criterion == "maximum_strain":
                    index = (faces.index[which] @ strain).reshape(len(batch), -1).max(axis=1)
                    self._note(share, rule, 5, 1.0 / (np.maximum(index, 1e-12) * factor), MARGINS["face_failure"])
                force = faces.A[which] @ strain + faces.B[which] @ strains[:, 6:9]
                ratio = self._wrinkling(batch, faces, which, force)
                self._note(share, rule, 6, 1.0 / (np.maximum(ratio, 1e-12) * factor), MARGINS["wrinkling"])

    def _wrinkling(self, batch: Batch, faces: Faces, which: np.ndarray, force: np.ndarray) -> np.ndarray:
        """Largest principal compression over the wrinkling stress in its direction, without the second one: (n,)."""
        compression = Compression(np.moveaxis(force, 1, 0))
        axis = compression.axis()  # (2, n, places)
        thickness = faces.thickness[which][:, None]
        E_face = 12.0 / thickness**3 * bending_along(_entries(turned_bending(faces.bending[which])), axis)
        E_core, G = self.cores.E3[batch.core][:, None], shear_along(_entries(self.cores.G[batch.core]), axis)
        rule = self.settings.wrinkling
        solid = wrinkling_stress_solid(E_face, E_core, G, SOLID_CORE[rule])
        comb = wrinkling_stress_honeycomb(E_face, E_core, thickness, batch.thickness[:, None], HONEYCOMB[rule])
        stress = np.where(self.cores.honeycomb[batch.core][:, None], comb, solid)
        return (compression.first / thickness / stress).max(axis=1)


def _entries(matrices: np.ndarray) -> np.ndarray:
    """Matrices (n, rows, columns) as rows and columns of arrays (n, 1)."""
    return np.moveaxis(matrices, 0, -1)[..., None]
