"""What fills a round tube, as bricks inside the wall that share its nodes.

The wall's nodes lie in its middle, so that the bricks reach further out than the filling does: they are softer and
lighter for it, by the fourth power and the square of the inner over the middle radius, which leaves the filling's share
of bending, twisting and weight as it is.  (Bricks of the true radius tied to the wall would be sheared by every turn of
a section: their rim would move along the tube as the wall's middle does, which is further out.)
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.laminate.stack import make_layer
from omakase.core.materials.material import Material
from omakase.core.mesh.altered import scaled
from omakase.core.mesh.disc import disc
from omakase.core.mesh.mesh import Group, bricks_between

RINGS = 1  # of bricks around the square in the middle of a section
ALIKE = 0.01  # steps of the inner over the middle radius, within which bricks are of one group
ELASTIC = ("E1", "E2", "E3", "G12", "G13", "G23")
X, Y, Z = np.eye(3)


class Filling(msgspec.Struct, frozen=True, eq=False):
    """``nodes`` : (n, 3) m beyond those of the wall; ``held`` : (n, 3) which of their displacements are zero."""

    nodes: np.ndarray
    held: np.ndarray
    groups: tuple[Group, ...]


def filling_of(
    material: Material, inside: np.ndarray, wall: np.ndarray, nodes: np.ndarray, ends: Sequence[int]
) -> Filling:  # fmt: skip
    """A filling bonded all along to the ``wall`` : its nodes at half steps along the span, (half steps, points) from
    the top toward y, −1 where there is none, of which ``nodes`` (n, 3) are the places.

    ``inside`` : inner radius at the half steps, m; ``ends`` : clamped half steps.
    """
    around = wall.shape[1]
    unit, quads, rim = disc(around // 8, RINGS)
    angle = np.arctan2(unit[rim, 0], unit[rim, 1])  # from the top toward y
    interior = np.setdiff1d(np.arange(len(unit)), rim)
    middles = np.zeros(len(unit), bool)
    middles[quads[:, 4:]] = True
    radii = np.linalg.norm(nodes[wall[:, 0], 1:], axis=1)
    ids = np.full((len(wall), len(unit)), -1)
    ids[:, interior] = 0
    ids[1::2, middles] = -1
    own = ids == 0
    ids[own] = len(nodes) + np.arange(int(own.sum()))
    ids[:, rim] = wall[:, np.round(angle * around / (2.0 * np.pi)).astype(int) % around]
    steps, places = np.nonzero(own)
    more = np.column_stack([nodes[wall[steps, 0], 0], radii[steps, None] * unit[places]])
    held = np.isin(steps, ends)[:, None] & np.ones(3, bool)

    lies = (X, Y) if "E1" in material.properties else (Y, Z)  # what it is counted on with lies along the tube
    shares = np.round(inside[1::2] / radii[1::2] / ALIKE).astype(int) * ALIKE
    groups = []
    for number, share in enumerate(np.unique(shares), 1):
        cells = 2 * np.nonzero(shares == share)[0]
        low, between, high = (ids[cells + step][:, quads] for step in range(3))
        factor = float(share) ** 4
        softer = scaled(material, ELASTIC, factor, f"{factor:.2f} of its moduli")
        layer = make_layer(softer, 0.0, 2.0 * float(inside.max()))
        groups.append(Group(f"F{number}", bricks_between(low, between[..., :4], high).reshape(-1, 20), (layer,),
                            (material.value("density") * float(share) ** 2,), *lies))  # fmt: skip
    return Filling(more, held, tuple(groups))
