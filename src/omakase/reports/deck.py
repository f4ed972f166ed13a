"""A finite-element deck as text: the keyword format that CalculiX and other general solvers read, with comments.

Names in a deck are numbers given here; names of people's projects stand in comments only, on one line each.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from omakase.core.materials.material import Material
from omakase.core.mesh.altered import with_thickness
from omakase.core.mesh.mesh import Group, Loading, Mesh
from omakase.core.progress import working_on

MODES = 6
NU_THROUGH = 0.3  # Poisson's ratio across fibres through the thickness; assumed
SMALL_FORCE = 1e-12  # of the largest, left out
ELEMENT = {"brick": "C3D20R", "shell": "S8R"}
PER_LINE = 15
INCREMENTS = "0.25, 1., 1e-6, 1."  # of a load under which displacements are large: first, all, least, most
AT_THE_END = ", FREQUENCY=1000"  # of a step's increments the last one is printed


def deck_text(mesh: Mesh, title: str, about: str, buckling: str = "") -> str:
    """The deck.  ``buckling`` : key of the load case whose lowest factors are asked for; none where empty."""
    lines = [
        *_head(mesh, title, about),
        *_nodes(mesh),
        *_elements(mesh),
        *_make_up(mesh),
        *_springs(mesh),
        *_supports(mesh),
    ]
    for case in mesh.cases:
        working_on(case.name)
        lines += _static(mesh, case)
    lines += ["** Natural vibration", "*STEP", "*FREQUENCY", f"{MODES}", *_held_in(mesh, False), "*END STEP"]
    for case in mesh.cases:
        if case.key == buckling:
            lines += [f"** Buckling under: {_plain(case.name)}", "*STEP", "*BUCKLE", "3, 0.01",
                      *_held_in(mesh, case.loose), *_loads(case, new=True), "*END STEP"]  # fmt: skip
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    return " ".join(text.split())[:100]


def _head(mesh: Mesh, title: str, about: str) -> Iterator[str]:
    yield f"** {_plain(title)}"
    yield f"** {_plain(about)}"
    shapes = {group.shape for group in mesh.groups}
    kinds = " and ".join(sorted(ELEMENT[shape] for shape in shapes))
    yield f"** {mesh.elements} {kinds} elements, {len(mesh.nodes)} nodes; units: m, N, kg, s, Pa"
    yield "** x along the member, z toward face A of a panel or up; sizing aid only, a licensed engineer decides"
    if "shell" in shapes:
        yield "** Walls lie on their mid-lines; forces at each station are what the section forces change by there;"
        yield "** carried masses are spread over the shells on both sides of their station."
        if "brick" in shapes:
            yield "** What fills the tube shares the nodes of the wall's middle: its moduli and density are less."


def _nodes(mesh: Mesh) -> Iterator[str]:
    yield "*NODE, NSET=NALL"
    for number, (x, y, z) in enumerate(mesh.nodes, 1):
        yield f"{number}, {x:.9g}, {y:.9g}, {z:.9g}"


def _elements(mesh: Mesh) -> Iterator[str]:
    number = 0
    for group in mesh.groups:
        yield f"*ELEMENT, TYPE={ELEMENT[group.shape]}, ELSET=E{group.name}"
        for own in group.elements:
            number += 1
            listed = [number, *(own + 1)]
            for start in range(0, len(listed), PER_LINE):
                part = listed[start : start + PER_LINE]
                yield ", ".join(map(str, part)) + ("," if start + PER_LINE < len(listed) else "")
    yield "*ELSET, ELSET=EALL"
    for group in mesh.groups:
        yield f"E{group.name}"
    yield "*NSET, NSET=NREAD"
    yield from _listed(np.union1d(mesh.columns, np.array(mesh.tips, int)) + 1)
    if len(mesh.watched):
        yield "*ELSET, ELSET=EREAD"
        yield from _listed(mesh.watched + 1)


def _listed(numbers: np.ndarray) -> Iterator[str]:
    for start in range(0, len(numbers), PER_LINE):
        yield ", ".join(map(str, numbers[start : start + PER_LINE])) + ","


def engineering_constants(material: Material) -> tuple[float, ...]:
    """E1, E2, E3, ν12, ν13, ν23, G12, G13, G23: what is not known of the third direction is that of the second."""
    known = with_thickness(material)
    E1, E2, E3, nu12, G12, G13, G23 = (known[key].value for key in ("E1", "E2", "E3", "nu12", "G12", "G13", "G23"))
    # contractions through the thickness of cores and woven plies small enough for a stiffness that is positive
    nu13 = min(nu12 if material.kind == "ply" else 0.0, 0.5 * (E1 / E3) ** 0.5)
    nu23 = min(NU_THROUGH if material.kind == "ply" else 0.0, 0.5 * (E2 / E3) ** 0.5)
    if material.is_metal:
        nu13 = nu23 = nu12
    return E1, E2, E3, nu12, nu13, nu23, G12, G13, G23


def _make_up(mesh: Mesh) -> Iterator[str]:
    numbers: dict[tuple[Material, float], int] = {}
    for group in mesh.groups:
        for layer, density in zip(group.layers, group.densities, strict=True):
            key = layer.material, density  # a braid has other moduli where the tube tapers
            if key in numbers:
                continue
            numbers[key] = len(numbers) + 1
            yield f"** {_plain(layer.material.id)}: {_plain(layer.material.name)}"
            yield f"*MATERIAL, NAME=MAT{numbers[key]}"
            yield "*ELASTIC, TYPE=ENGINEERING CONSTANTS"
            values = [f"{value:.8g}" for value in engineering_constants(layer.material)]
            yield ", ".join(values[:8])
            yield values[8]
            yield "*DENSITY"
            yield f"{density:.8g}"
    first_number = 1
    for group in mesh.groups:
        yield from _section(mesh, group, numbers, first_number)
        first_number += len(group.elements)


def _listed_values(values: np.ndarray) -> str:
    return ", ".join(f"{value:.9g}" for value in np.ravel(values))


def _section(
    mesh: Mesh, group: Group, numbers: dict[tuple[Material, float], int], first_number: int
) -> Iterator[str]:  # fmt: skip
    angles = sorted({layer.angle for layer in group.layers})
    names = {angle: f"O{group.name}_{k}" for k, angle in enumerate(angles, 1)}
    for angle, name in names.items():
        c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        turn = np.array([[c, s], [-s, c]])
        if group.frames is not None:
            yield f"*DISTRIBUTION, NAME=D{name}"
            yield ", " + _listed_values(np.eye(3)[:2])
            for number, frame in enumerate(group.frames, first_number):
                yield f"{number}, " + _listed_values(turn @ frame)
        yield f"*ORIENTATION, NAME={name}, SYSTEM=RECTANGULAR"
        yield f"D{name}" if group.frames is not None else _listed_values(turn @ [group.along, group.across])
    if group.shape == "brick":
        (layer,), (density,) = group.layers, group.densities
        number = numbers[layer.material, density]
        yield f"*SOLID SECTION, ELSET=E{group.name}, MATERIAL=MAT{number}, ORIENTATION={names[layer.angle]}"
        return
    yield f"*SHELL SECTION, ELSET=E{group.name}, COMPOSITE"
    for layer, density in zip(group.layers, group.densities, strict=True):
        yield f"{layer.thickness:.9g}, , MAT{numbers[layer.material, density]}, {names[layer.angle]}"


def _springs(mesh: Mesh) -> Iterator[str]:
    """Springs of one stiffness are one set."""
    if not mesh.springs:
        return
    yield "** Springs of elastic edges and beds, at nodes that stand for the mean deflection through the thickness"
    alike: dict[tuple[int, str], list[int]] = {}
    for node, axis, stiffness in mesh.springs:
        alike.setdefault((axis, f"{stiffness:.8e}"), []).append(node)  # a number without a point is not read
    number = mesh.elements
    for k, ((axis, value), nodes) in enumerate(alike.items(), 1):
        yield f"*ELEMENT, TYPE=SPRING1, ELSET=ES{k}"
        for node in nodes:
            number += 1
            yield f"{number}, {node + 1}"
        yield f"*SPRING, ELSET=ES{k}"
        yield f"{axis + 1}"
        yield value


def _supports(mesh: Mesh) -> Iterator[str]:
    if mesh.held_loose is None:
        yield from _boundary(mesh.held)
    if mesh.sums:
        yield "** Displacements whose weighted sum is zero: sections held in the mean, edges that move but do not turn,"
        yield "** directions that are no axis"
    for nodes, axes, weights in mesh.sums:
        yield "*EQUATION"
        yield str(len(nodes))
        every = zip(nodes, axes, weights, strict=True)
        terms = [f"{node + 1}, {axis + 1}, {weight:.9g}" for node, axis, weight in every]
        for start in range(0, len(terms), 4):
            yield ", ".join(terms[start : start + 4])


def _boundary(held: np.ndarray, new: bool = False) -> Iterator[str]:
    yield "*BOUNDARY, OP=NEW" if new else "*BOUNDARY"
    for node, axis in np.argwhere(held):
        yield f"{node + 1}, {axis + 1}, {axis + 1}"


def _held_in(mesh: Mesh, loose: bool) -> Iterator[str]:
    """The supports of one step, where these are not those of every step."""
    if mesh.held_loose is not None:
        yield from _boundary(mesh.held_loose if loose else mesh.held, new=True)


def _loads(case: Loading, new: bool) -> Iterator[str]:
    largest = float(np.abs(case.forces).max())
    yield "*CLOAD, OP=NEW" if new else "*CLOAD"
    for node, axis in np.argwhere(np.abs(case.forces) > SMALL_FORCE * largest):
        yield f"{node + 1}, {axis + 1}, {case.forces[node, axis]:.9g}"
    yield "*DLOAD, OP=NEW" if new else "*DLOAD"
    if case.gravity:
        yield f"EALL, GRAV, {case.gravity:.9g}, 0., 0., -1."


def _static(mesh: Mesh, case: Loading) -> Iterator[str]:
    yield f"** Load case: {_plain(case.name)}"
    yield "*STEP, NLGEOM=YES, INC=200" if case.large else "*STEP, NLGEOM=NO"
    yield "*STATIC"
    if case.large:
        yield INCREMENTS
    yield from _held_in(mesh, case.loose)
    yield from _loads(case, new=case is not mesh.cases[0])
    yield f"*NODE PRINT, NSET=NREAD{AT_THE_END}"
    yield "U"
    if len(mesh.watched):
        yield f"*EL PRINT, ELSET=EREAD, GLOBAL=YES{AT_THE_END}"
        yield "S, COORD"
    yield "*END STEP"
