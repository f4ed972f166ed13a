"""A leg or leaf: a solid laminate that tapers, bent flatwise by what stands on it and edgewise by drag, and twisted.

Flatwise it is a strip (see ``strip``).  Edgewise it is a beam of the width's depth, in torsion a flat bar; both are
solved apart from the flatwise one and added, which is exact for layups that do not couple these.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np

from omakase.core.members.field import Measured, Place
from omakase.core.members.span import MODES, SpanModel, SpanResult
from omakase.core.members.span_loads import PointLoad, SideForce, SpanCase, Torque
from omakase.core.members.span_mesh import Kinematics, Term
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripActing, StripCase, StripResponse
from omakase.core.plates.section import PlateSection
from omakase.core.sections.profile import StripSection

ACROSS = np.array([-0.5, 0.0, 0.5])  # of the width: both edges and the middle
EDGE_LOSS = 0.63  # of a flat bar's torsion constant, per thickness over width
COUPLED = 0.05  # share of bending and twist that are coupled, from which it is reported
LARGE = 0.1  # of the length: deflection from which the true one is worked out too
BEND_POINTS = 400

EDGEWISE = Kinematics(
    (("w", False), ("phi", False), ("theta", False)),
    ((Term("phi", 1),), (Term("phi", 0), Term("w", 1)), (Term("theta", 1),)),
    (Term("w", 0), Term("phi", 0), Term("theta", 0)),
    (("w", 0), ("phi", 0), ("theta", 0)),
    (("w", 0), ("theta", 0)),
    (),
    Term("phi", 0),
)


def torsion_stiffness(section: PlateSection, width: np.ndarray) -> np.ndarray:
    """GJ in N m² of a flat bar of a laminate, (places,) for widths in m.

    4 b / d66 (laminate theory, free of all other moments), less 0.63 t/b √(G_xy/G_xz) of it for the edges (Timoshenko
    and Goodier for isotropic bars, Lekhnitskii's factor for orthotropic ones; from memory, checked against
    Saint-Venant's series).  Validity: wider than twice the thickness.
    """
    thickness = section.stack.thickness
    tie = np.zeros((9, 6))
    tie[:6, :6] = np.eye(6)
    tie[6:, 3:] = np.eye(3)
    flexible = np.linalg.inv(tie.T @ section.membrane @ tie)
    ratio = float(section.membrane[2, 2]) / float(section.shear[0, 0]) * 5.0 / 6.0
    lost = np.minimum(EDGE_LOSS * thickness / width * np.sqrt(ratio), 0.5)
    return np.asarray(4.0 * width / flexible[5, 5] * (1.0 - lost))


class LegCase(StripCase):
    """One load case on one stretch: what bends it flatwise, edgewise and twists it, at both edges and the middle."""

    def __init__(self, acting: StripActing, section: StripSection, result: SpanResult, at: np.ndarray, x: np.ndarray,
                 widths: np.ndarray, edge: np.ndarray) -> None:  # fmt: skip
        """``edge`` : (x, 3) strains of the edgewise and twisting answer at the same samples."""
        super().__init__(acting, section, result, at, x, widths)
        self.y = ACROSS
        self.left_out = np.zeros((len(x), len(ACROSS)), bool)
        self._edge = edge

    @cached_property
    def strains(self) -> np.ndarray:
        """(x, edges and middle, 11) generalised strains of the wall."""
        strains = np.repeat(self._flatwise(), len(ACROSS), axis=1)
        stretch = -self._edge[:, 0, None] * ACROSS * self.widths[:, None]
        strains[..., :9] += stretch[..., None] * self._section.wall.recover[:, 0]
        twist = -2.0 * self._edge[:, 2, None]
        strains[..., 5] += twist
        strains[..., 8] += twist
        return strains

    def place(self, i: int, j: int) -> Place:
        return Place(float(self.x[i]), float(ACROSS[j] * self.widths[i]))

    def nearest(self, place: Place) -> tuple[int, int]:
        i = 0 if place.x is None else int(np.argmin(np.abs(self.x - place.x)))
        across = 0.0 if place.y is None else place.y
        return i, int(np.argmin(np.abs(ACROSS * self.widths[i] - across)))

    def ply_shear(self, section: PlateSection) -> np.ndarray | None:
        """The flatwise shear force of the diagram over the width."""
        shear = np.zeros((len(self.x), len(ACROSS), 2))
        shear[..., 0] = (self._result.diagrams.shear[self._at] / self.widths)[:, None]
        return shear


class LegResponse(StripResponse):
    """Everything the checks need of one leg."""

    slender = True  # its twist is that of loads across it

    @cached_property
    def edgewise(self) -> tuple[SpanModel, tuple[SpanResult, ...]]:
        """The edgewise and twisting answers, at the same samples as the flatwise ones."""
        along = [part.stretch for part in self.parts]
        plates = [part.plate for part in self.parts]
        of_one = np.array([
            [part.section.wall.stiffness[0, 0] / 12.0, 5.0 / 6.0 * part.plate.membrane[2, 2]] for part in self.parts
        ])  # fmt: skip
        areal = np.array([plate.areal_mass for plate in plates])

        def stiffness(x: np.ndarray) -> np.ndarray:
            width, which = self.member.width(x), stretch_at(along, x)
            matrices = np.zeros((len(x), 3, 3))
            matrices[:, 0, 0] = of_one[which, 0] * width**3
            matrices[:, 1, 1] = of_one[which, 1] * width
            for k, plate in enumerate(plates):
                at = which == k
                matrices[at, 2, 2] = torsion_stiffness(plate, width[at])
            return matrices

        def inertia(x: np.ndarray) -> np.ndarray:
            width, which = self.member.width(x), stretch_at(along, x)
            line = areal[which] * width
            return np.stack([line, line * width**2 / 12.0, line * width**2 / 12.0], axis=1)

        nodes = self.model.nodes
        cases = [_sideways(case) for case in self.model.cases]
        model = SpanModel(self.member.span, EDGEWISE, stiffness, inertia, cases, nodes[1:-1].tolist())
        return model, model.results()

    def _case(self, k: int, section: StripSection, at: np.ndarray) -> LegCase:
        model, results = self.edgewise
        there = at
        if len(model.x) != len(self.x):
            there = np.array([int(np.argmin(np.abs(model.x - x))) for x in self.x[at]])
        edge = results[k].strains[there]
        return LegCase(self.acting[k], section, self.results[k], at, self.x[at], self.widths[at], edge)

    def remarks(self) -> tuple[str, ...]:
        notes = [note for note in super().remarks() if "narrow strip" not in note]
        for part in self.parts:
            D = part.plate.membrane[3:6, 3:6]
            share = max(abs(D[0, 2]) / np.sqrt(D[0, 0] * D[2, 2]), abs(D[1, 2]) / np.sqrt(D[1, 1] * D[2, 2]))
            if share > COUPLED:
                notes.append("its layup twists as it bends: drag and twist are added as if it did not")
                break
        if any(np.any(self.member.width(self.x) < 2.0 * part.plate.stack.thickness) for part in self.parts):
            notes.append("it is narrower than twice its thickness: its twist is a first estimate")
        return tuple(notes)

    def _measures(self) -> dict[str, tuple[Measured, ...]]:
        measures = dict(super()._measures())
        model, results = self.edgewise
        self.frequencies = tuple(sorted((*self.frequencies, *model.frequencies()))[:MODES]) if self.frequencies else ()
        deflections, twists = [], []
        for flat, edge, before in zip(self.results, results, measures["deflection"], strict=True):
            w = flat.displacements["w"]
            v = np.interp(self.x, model.x, edge.displacements["w"])
            moved = np.hypot(w, v)
            k = int(np.argmax(moved))
            remarks = [note for note in before.remarks if "tenth of the bay" not in note]
            remarks.append(f"it stores {self.energy(flat, edge):.3g} J at this deflection")
            remarks += self._far(flat)
            deflections.append(
                Measured(float(moved[k]), before.name, before.case, float(self.x[k]), None, tuple(remarks))
            )  # fmt: skip
            theta = np.abs(edge.displacements["theta"])
            k = int(np.argmax(theta))
            twists.append(Measured(float(np.degrees(theta[k])), before.name, before.case, float(model.x[k])))
        return {**measures, "deflection": tuple(deflections), "twist": tuple(twists)}

    def energy(self, flat: SpanResult, edge: SpanResult) -> float:
        """Strain energy in J at limit load: half of stiffness times strain squared, along the span."""
        density = self.model.energy_density(flat)
        other = self.edgewise[0].energy_density(edge)
        return float(np.trapezoid(density, self.x) + np.trapezoid(other, self.edgewise[0].x)) / 2.0

    def _far(self, result: SpanResult) -> list[str]:
        """The true deflection of a leg clamped at its root that bends far, beside that of the theory."""
        w, length = result.displacements["w"], self.member.span.length
        most = float(np.abs(w).max())
        if most <= LARGE * length:
            return []
        supports = self.member.span.supports
        if len(supports) != 1 or supports[0].x > 1e-6 * length:
            return ["deflection is more than a tenth of the length: small-deflection theory is off by then"]
        true = bent_far(self.x, self.bending(self.x), result)
        return [
            f"it bends far: counted on the bent shape it sags {1e3 * true:.4g} mm, {true / most - 1.0:+.0%}; stresses "
            "change by about as much".replace("-", "−")
        ]

    def bending(self, x: np.ndarray) -> np.ndarray:
        """Flatwise EI in N m² along the span, (places,)."""
        of_one = np.array([part.section.bending(1.0) for part in self.parts])
        which = stretch_at([part.stretch for part in self.parts], x)
        return np.asarray(of_one[which] * self.member.width(x))


def _sideways(case: SpanCase) -> SpanCase:
    """What acts edgewise and twists: drag pushes at its arm below the middle plane."""
    loads: list[PointLoad | Torque] = []
    for load in case.loads:
        if isinstance(load, SideForce):
            loads.append(PointLoad(load.force, load.x))
            if load.arm:
                loads.append(Torque(load.force * load.arm, load.x))
        elif isinstance(load, Torque):
            loads.append(load)
    return SpanCase(case.name, tuple(loads), 0.0, case.id)


def bent_far(x: np.ndarray, bending: np.ndarray, result: SpanResult) -> float:
    """Largest deflection in m of a beam clamped at x = 0 under loads that keep their direction, in equilibrium in its
    bent shape: the elastica with a stiffness that changes along it (Bisshopp and Drucker 1945 for an even one),
    iterated.

    ``bending`` : EI at the samples ``x``; the loads are those of the diagram.
    """
    s = np.linspace(0.0, float(x[-1]), BEND_POINTS)
    unique = np.unique(x, return_index=True)[1]
    EI = np.interp(s, x[unique], bending[unique])
    shear = np.interp(s, x[unique], result.diagrams.shear[unique])
    # points of force between samples of the shear force, along the beam; what is left acts at the tip
    force = -np.diff(shear, append=0.0)
    across, theta = s.copy(), np.zeros_like(s)
    step = s[1] - s[0]
    for _ in range(200):
        # moment at each place of all forces further out, whose arms are shorter on the bent beam
        total = np.cumsum(force[::-1])[::-1]
        first = np.cumsum((force * across)[::-1])[::-1]
        moment = first - total * across
        new = np.concatenate([[0.0], np.cumsum((moment / EI)[1:] + (moment / EI)[:-1]) * step / 2.0])
        change = float(np.abs(new - theta).max())
        theta = 0.5 * (theta + new)
        cosine = np.cos(theta)
        across = np.concatenate([[0.0], np.cumsum(cosine[1:] + cosine[:-1]) * step / 2.0])
        if change < 1e-7:
            break
    sine = np.sin(theta)
    down = np.concatenate([[0.0], np.cumsum(sine[1:] + sine[:-1]) * step / 2.0])
    return float(np.abs(down).max())
