"""What a menu is chosen from: the choices, and all combinations that they and the rules allow."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.findings.finding import is_metallic
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.pricing import laying_hours, part_hours, part_price, piece_price, price_per_area, way_of
from omakase.core.screen import Batch, Screen
from omakase.evaluate.members.registry import kind_of
from omakase.project import edits, translate
from omakase.project.model import Brief, Candidate, LayerRecord

Matter = Literal["mass", "cost", "thickness", "hours"]
MATTERS: tuple[Matter, ...] = ("mass", "cost", "thickness", "hours")
MOST = 3_000_000  # combinations; above it as many are drawn at random
CHUNK = 2048
SEED = 20260101


class MenuChoices(msgspec.Struct, frozen=True):
    """What may be used and what must hold.

    ``skins`` : short names of plies; ``angles`` in degrees; plies per face from ``fewest`` to ``most``; ``unequal``
    faces allowed, otherwise face B mirrors face A.  ``cores`` by short name with ``thicknesses`` in m, or as sold
    between the least and the largest of these when ``sold``.  ``balanced`` : as many plies at +θ as at −θ in each face;
    ``outside_45`` : the outermost ply at ±45°; ``isolation`` : no carbon next to a metal core; at most ``materials``
    different materials.  ``matters`` : what the trade-off is between, first the first.

    Of members with several walls: unidirectional ``skins`` are for caps, of ``fewest`` to ``most`` plies, others for
    webs at the ``angles``, bare or on a core; ``base`` : id of the candidate whose outline and sizes are kept.
    """

    skins: tuple[str, ...]
    cores: tuple[str, ...]
    angles: tuple[float, ...] = (0.0, 45.0, 90.0)
    fewest: int = 1
    most: int = 2
    unequal: bool = True
    thicknesses: tuple[float, ...] = (0.005, 0.01, 0.015, 0.02)
    sold: bool = True
    balanced: bool = False
    outside_45: bool = False
    isolation: bool = True
    materials: int = 4
    matters: tuple[Matter, ...] = ("mass", "cost")
    base: str = ""


def choices_of(brief: Brief, materials: Mapping[str, Material]) -> MenuChoices:
    """Choices to begin with: the cloths and cores of the brief's candidates, and thicknesses around theirs."""
    layers = [layer for candidate in brief.candidates for layer in candidate.layers if layer.material in materials]
    plies = [layer.material for layer in layers if layer.role == "ply" and materials[layer.material].kind == "ply"]
    cores = [layer for layer in layers if layer.role == "core" and materials[layer.material].kind == "core"]
    sizes = [layer.thickness or 0.01 for layer in cores] or [0.01]
    low, high = 0.5 * min(sizes), 1.5 * max(sizes)
    steps = tuple(round(low + (high - low) * k / 5.0, 4) for k in range(6))
    if kind_of(brief).can_be_drawn:
        low, high = min(sizes), max(sizes)
        steps, skins = (low, (low + high) / 2.0, high), tuple(dict.fromkeys(plies))[:4] or ("ud300", "twill200")
        return MenuChoices(skins, tuple(dict.fromkeys(layer.material for layer in cores))[:2] or ("pvc80",),
                           fewest=1, most=4, thicknesses=steps)  # fmt: skip
    return MenuChoices(
        tuple(dict.fromkeys(plies))[:4] or ("twill200",),
        tuple(dict.fromkeys(layer.material for layer in cores))[:4] or ("pvc80",),
        thicknesses=steps,
    )


WIDER_SKINS = ("twill200", "ud200", "spread100", "satin300")
WIDER_CORES = ("pvc60", "pvc80", "pvc130", "hc48", "balsa150")
WIDER_PLIES, WIDER_RANGE = 3, (0.003, 0.030)


def widened(choices: MenuChoices, materials: Mapping[str, Material]) -> tuple[MenuChoices, str]:
    """(choices, in words) that allow what a designer would try next: one ply a face, more plies, usual cloths and
    cores, thinner and thicker ones; faces alike, so that all of them can still be checked."""
    skins = tuple(dict.fromkeys((*choices.skins, *(name for name in WIDER_SKINS if name in materials))))[:5]
    cores = tuple(dict.fromkeys((*choices.cores, *(name for name in WIDER_CORES if name in materials))))[:7]
    low, high = min((*choices.thicknesses, WIDER_RANGE[0])), max((*choices.thicknesses, WIDER_RANGE[1]))
    steps = choices.thicknesses if choices.sold else tuple(round(low + (high - low) * k / 7.0, 4) for k in range(8))
    sizes = tuple(sorted({low, *steps, high}))
    angles = tuple(dict.fromkeys((*choices.angles, 0.0, 45.0)))
    most = max(choices.most, WIDER_PLIES)
    wider = msgspec.structs.replace(
        choices, skins=skins, cores=cores, angles=angles, fewest=1, most=most, unequal=False, thicknesses=sizes
    )
    remark = (
        f"Nothing passes with what was allowed. Checked as well: {', '.join(skins)} on {', '.join(cores)}, 1 to {most} "
        f"plies a face, equal faces, cores of {low * 1e3:.3g} to {high * 1e3:.3g} mm."
    )
    return wider, remark


class Space:
    """All combinations of the choices as four arrays of indices, with what is known of them exactly."""

    def __init__(self, brief: Brief, choices: MenuChoices, materials: Mapping[str, Material]) -> None:
        unknown = [name for name in (*choices.skins, *choices.cores) if name not in materials]
        if unknown:
            raise OmakaseError(f"no material is named '{unknown[0]}'")
        if not choices.skins or not choices.cores or not choices.angles:
            raise OmakaseError("choose at least one skin, one angle and one core")
        self.choices, self.materials = choices, materials
        self.excluded: dict[str, int] = {}
        faced = frozenset(m.id for m in materials.values() if m.has_face)
        layers = self._plies()
        sequences = [
            sequence
            for count in range(choices.fewest, choices.most + 1)
            for sequence in itertools.product(layers, repeat=count)
        ]
        self.count_faces = len(sequences)
        kept = [sequence for sequence in sequences if self._face_allowed(sequence)]
        if not kept:
            raise OmakaseError("no face is left by the rules: allow more angles or plies")
        self.top = [tuple(sequence) for sequence in kept]
        self.bottom = [tuple(edits.mirrored(sequence, faced)) for sequence in kept]
        self.cores, self.sizes = self._cores()
        if not len(self.cores):
            raise OmakaseError("no core is sold in a thickness between the least and the largest wanted")
        pairs = self.count_faces**2 if choices.unequal else self.count_faces
        self.total = pairs * len(self.cores)
        allowed = len(kept) ** 2 if choices.unequal else len(kept)
        self.count("rules for a face", self.total - allowed * len(self.cores))
        self.allowed = allowed * len(self.cores)
        self.kinds = [frozenset(layer.material for layer in face) for face in self.top]
        self.names = sorted({layer.material for face in self.top for layer in face})
        self.enumerated = self.allowed <= MOST
        self.area = translate.panel(brief).area  # m²
        self._prices = np.array([self._price(face) for face in self.top])
        self._hours = np.array([
            sum(laying_hours(self.materials[la.material], self.area) for la in face) for face in self.top
        ])  # fmt: skip
        # every core here is bought by thickness, so that its price grows with it; laying it costs the same for each
        cores = [self.materials[name] for name in self.choices.cores]
        self._core_laid = np.array([price_per_area(own, 0.0) or 0.0 for own in cores])
        self._core_prices = np.array([price_per_area(own, 1.0) or 0.0 for own in cores]) - self._core_laid
        self._core_piece = np.array([piece_price(own) for own in cores])
        way = way_of(self.materials[name] for name in self.choices.skins)
        self._part, self._part_hours = part_price(way, self.area), part_hours(way)
        self._core_hours = np.array([laying_hours(own, self.area, True) for own in cores])

    def count(self, reason: str, number: int) -> None:
        if number:
            self.excluded[reason] = self.excluded.get(reason, 0) + int(number)

    def _plies(self) -> list[LayerRecord]:
        """Different plies: of a cloth alike both ways, 90° is 0° over again, and −45° is 45°."""
        plies: dict[tuple[str, float], LayerRecord] = {}
        for name in self.choices.skins:
            material = self.materials[name]
            alike = (
                material.kind == "ply"
                and math.isclose(material.value("E1"), material.value("E2"))
                and not material.has_face
            )
            for angle in self.choices.angles:
                key = angle % 90.0 if alike else edits.step_angle(angle, 0.0)
                plies.setdefault((name, key), LayerRecord(name, edits.step_angle(angle, 0.0)))
        return list(plies.values())

    def _face_allowed(self, face: Sequence[LayerRecord]) -> bool:
        if self.choices.outside_45 and abs(face[0].angle) != 45.0:
            return False
        if len({layer.material for layer in face}) > self.choices.materials - 1:
            return False
        return not self.choices.balanced or self._balanced(face)

    def _balanced(self, face: Sequence[LayerRecord]) -> bool:
        """As much at +θ as at −θ of each cloth; a cloth alike both ways is balanced at 0, 45 and 90°."""
        sums: dict[tuple[str, float], int] = {}
        for layer in face:
            material = self.materials[layer.material]
            free = (0.0, 45.0, 90.0) if material.kind == "ply" and material.is_woven else (0.0, 90.0)
            if abs(layer.angle) not in free:
                key = layer.material, abs(layer.angle)
                sums[key] = sums.get(key, 0) + (1 if layer.angle > 0.0 else -1)
        return not any(sums.values())

    def _cores(self) -> tuple[np.ndarray, np.ndarray]:
        """(index of the core, thickness) of each core in each thickness."""
        cores: list[int] = []
        sizes: list[float] = []
        low, high = min(self.choices.thicknesses), max(self.choices.thicknesses)
        for i, name in enumerate(self.choices.cores):
            sold = self.materials[name].sold
            wanted = self.choices.thicknesses
            if self.choices.sold and sold:
                wanted = tuple(t for t in sold if low * (1.0 - 1e-9) <= t <= high * (1.0 + 1e-9))
            cores += [i] * len(wanted)
            sizes += wanted
        return np.array(cores, dtype=int), np.array(sizes)

    def _price(self, face: Sequence[LayerRecord]) -> float:
        """Price of a face; what states no price counts nothing."""
        plies = [self.materials[la.material] for la in face]
        return sum((price_per_area(own, 0.0) or 0.0) * self.area + piece_price(own) for own in plies)

    def batches(self) -> Iterator[Batch]:
        """The combinations that the rules allow, chunk by chunk."""
        faces, cores = len(self.top), len(self.cores)
        if self.enumerated:
            numbers: Iterator[np.ndarray] = (
                np.arange(start, min(start + CHUNK, self.allowed)) for start in range(0, self.allowed, CHUNK)
            )
        else:
            rng = np.random.default_rng(SEED)
            numbers = (rng.integers(0, self.allowed, CHUNK) for _ in range(0, MOST, CHUNK))
        for number in numbers:
            pair, core = np.divmod(number, cores)
            a, b = np.divmod(pair, faces) if self.choices.unequal else (pair, pair)
            batch = Batch(a, b, self.cores[core], self.sizes[core])
            yield batch.take(np.flatnonzero(self._joined_allowed(batch)))

    def _joined_allowed(self, batch: Batch) -> np.ndarray:
        """What holds for both faces and the core together: few materials, and carbon kept from metal."""
        member = np.array([[name in kinds for name in self.names] for kinds in self.kinds])
        count = (member[batch.face_a] | member[batch.face_b]).sum(axis=1) + 1
        few = count <= self.choices.materials
        self.count("too many materials", int((~few).sum()))
        if not self.choices.isolation:
            return few
        carbon = np.array([self.materials[face[-1].material].family == "carbon" for face in self.top])
        metal = np.array([is_metallic(self.materials[name]) for name in self.choices.cores])
        bare = metal[batch.core] & (carbon[batch.face_a] | carbon[batch.face_b])
        self.count("carbon on a metal core", int((bare & few).sum()))
        return few & ~bare

    def candidate(self, a: int, b: int, core: int, thickness: float) -> Candidate:
        """One combination as a candidate of its own."""
        core_choice = self.choices.cores[core]
        layers = (*self.top[a], LayerRecord(core_choice, 0.0, round(float(thickness), 9), "core"), *self.bottom[b])
        return Candidate("menu", "menu", layers=layers)

    def span(self) -> list[Stack]:
        """Layups that span what may come: thin and thick, softest and stiffest core, one direction and the other."""
        order = np.lexsort((self.sizes,))
        cores = [int(order[0]), int(order[-1]), int(order[len(order) // 2])]
        soft = int(np.argmin([self.materials[name].value("G13") for name in self.choices.cores]))
        stiff = int(np.argmax([self.materials[name].value("G13") for name in self.choices.cores]))
        cores += [int(np.flatnonzero(self.cores == which)[0]) for which in (soft, stiff)]
        count = len(self.top)
        faces = [0, count - 1, count // 2, count // 3, 2 * count // 3, count // 5, 4 * count // 5]
        combinations = []
        for k in range(12):
            a = faces[k % len(faces)]
            b = faces[(2 * k + 1) % len(faces)] if self.choices.unequal else a
            core = cores[k % len(cores)]
            combinations.append(self.candidate(a, b, int(self.cores[core]), float(self.sizes[core])))
        stacks = [translate.stack(layers, self.materials) for layers in combinations]
        return [stack for stack in stacks if stack.core is not None]

    def value(self, matter: Matter, screen: Screen, batch: Batch) -> np.ndarray:
        """What matters, of each combination, exactly."""
        area = self.area
        if matter == "mass":
            return screen.areal_mass(batch) * area
        if matter == "cost":
            faces = self._prices[batch.face_a] + self._prices[batch.face_b]
            core = (self._core_prices[batch.core] * batch.thickness + self._core_laid[batch.core]) * area
            return faces + core + self._core_piece[batch.core] + self._part
        if matter == "thickness":
            return screen.total_thickness(batch)
        layers = self._hours[batch.face_a] + self._hours[batch.face_b] + self._core_hours[batch.core]
        return layers + self._part_hours
