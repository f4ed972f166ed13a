"""Which cloth?  For a wanted stiffness of a laminate, how many layers of each cloth at hand reach it, and at what
price."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import msgspec

from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.core.materials.material import Material
from omakase.project import edits
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import Brief, Candidate, LayerRecord, new_id

PATTERNS: dict[str, tuple[float, ...]] = {
    "0": (0.0,), "0/90": (0.0, 90.0), "±45": (45.0, -45.0), "0/±45/90": (0.0, 45.0, -45.0, 90.0),
}  # fmt: skip
WOVEN_PATTERNS = {"0": PATTERNS["0"], "±45": (45.0,), "0/45": (0.0, 45.0)}
MOST = 60  # layers


class Wanted(msgspec.Struct, frozen=True):
    """What to reach; zero where it does not matter.

    ``stretch_x``, ``stretch_y`` : N/m of width, E t; ``bend_x``, ``bend_y`` : N m, E t³/12; ``mass`` : kg/m² at most.
    """

    stretch_x: float = 0.0
    stretch_y: float = 0.0
    bend_x: float = 0.0
    bend_y: float = 0.0
    mass: float = math.inf


class Option(msgspec.Struct, frozen=True):
    """A laminate of one cloth that reaches what is wanted; SI units, per m² where it says mass or cost."""

    material: Material
    pattern: str
    angles: tuple[float, ...]
    thickness: float
    mass: float
    resin: float
    cost: float | None
    drape: float | None
    reached: Wanted

    @property
    def layers(self) -> tuple[LayerRecord, ...]:
        """As records for a candidate."""
        return tuple(LayerRecord(self.material.id, angle) for angle in self.angles)


def reached_by(stack: Stack) -> Wanted:
    """What a stack has: bending free while it is stretched, and stretching free while it is bent."""
    constants, h = LaminateConstants(stack), stack.thickness
    plane, bent = constants.in_plane, constants.bending
    mass = sum(stack.areal_mass().values())
    return Wanted(plane.Ex * h, plane.Ey * h, bent.Ex * h**3 / 12.0, bent.Ey * h**3 / 12.0, mass)


def face_of(stack: Stack) -> Stack:
    """Face A of a sandwich, the whole of any other stack: what the question is about."""
    return stack if stack.core is None else Stack(stack.layers[: stack.core.start])


def options(wanted: Wanted, materials: Mapping[str, Material]) -> Iterator[Option | None]:
    """The fewest layers of each cloth in each pattern that reach what is wanted; None for one that cannot.

    One item per cloth and pattern, so that a caller can stop between them.  Layers are laid in the order of the
    pattern, mirrored about the middle, and judged by the laminate theory; nothing simpler decides.
    """
    for material in materials.values():
        if material.kind != "ply":
            continue
        for pattern, angles in (WOVEN_PATTERNS if material.is_woven else PATTERNS).items():
            yield _fewest(wanted, material, pattern, angles)


def _angles(pattern: tuple[float, ...], count: int) -> tuple[float, ...]:
    """The pattern over and over, mirrored about the middle; an odd one has its middle layer alone."""
    half = [pattern[i % len(pattern)] for i in range((count + 1) // 2)]
    return tuple(half + half[::-1][count % 2 :])


def _stack(material: Material, angles: tuple[float, ...]) -> Stack:
    return Stack(tuple(make_layer(material, angle) for angle in angles))


def _reaches(has: Wanted, wanted: Wanted) -> bool:
    enough = 1.0 - 1e-9
    return (
        has.stretch_x >= wanted.stretch_x * enough
        and has.stretch_y >= wanted.stretch_y * enough
        and has.bend_x >= wanted.bend_x * enough
        and has.bend_y >= wanted.bend_y * enough
    )


def _fewest(wanted: Wanted, material: Material, pattern: str, angles: tuple[float, ...]) -> Option | None:
    one = sum(ply_masses(material))
    most = MOST if math.isinf(wanted.mass) else min(MOST, int(wanted.mass / one * (1.0 + 1e-9)))
    # a first guess from one round of the pattern, then step by step: an uneven round may fall back
    rounds = len(angles) * 2
    first = reached_by(_stack(material, _angles(angles, rounds)))
    guess = rounds * max(
        1.0 / rounds,
        wanted.stretch_x / first.stretch_x,
        wanted.stretch_y / first.stretch_y,
        math.cbrt(wanted.bend_x / first.bend_x),
        math.cbrt(wanted.bend_y / first.bend_y),
    )
    if guess > 3.0 * MOST:
        return None
    for count in range(max(1, int(guess) - len(angles) - 1), most + 1):
        laid = _angles(angles, count)
        if set(laid) != set(angles):
            continue  # too few layers to hold the whole pattern
        has = reached_by(_stack(material, laid))
        if _reaches(has, wanted):
            return _option(material, pattern, laid, has)
    return None


def _option(material: Material, pattern: str, laid: tuple[float, ...], has: Wanted) -> Option:
    properties, count = material.properties, len(laid)
    cost = properties["price"].value * count if "price" in properties else None
    drape = properties["drape"].value if "drape" in properties else None
    resin = ply_masses(material)[1] * count
    return Option(material, pattern, laid, count * ply_thickness(material), has.mass, resin, cost, drape, has)


def as_candidate(option: Option, brief: Brief, base: Candidate) -> tuple[ArrangeCandidates, str]:
    """Command that puts the option into the line-up beside ``base``, as its face A or its whole, and its id."""
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    cores = [i for i, layer in enumerate(base.layers) if layer.role == "core"]
    rest = base.layers[cores[0] :] if cores else ()
    name = f"{len(option.angles)} {option.material.id} {option.pattern}"
    new = replace(base, id=identity, name=name, layers=(*option.layers, *rest), origin=f"which cloth, for {base.name}",
                  accepted=())  # fmt: skip
    return edits.insert_candidate(brief, new, base.id, f"take {name}"), identity
