"""The layers of a stack as bricks on each other."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.mesh.altered import as_written
from omakase.core.mesh.mesh import SAME

CORE_PARTS = 2  # bricks through the thickness of a core


class Piece(msgspec.Struct, frozen=True, eq=False):
    """One stack of a panel: heights between its layers from the lowest up, and (number, layer) between them."""

    levels: np.ndarray
    layers: tuple[tuple[int, Layer], ...]
    densities: tuple[float, ...]

    def layer_at(self, z: float) -> int | None:
        """Which of its layers lies at a height; None above and below them."""
        k = int(np.searchsorted(self.levels, z)) - 1
        return k if 0 <= k < len(self.layers) else None


def piece_of(stack: Stack, height: float, merged: bool = True) -> Piece:
    """A stack whose middle lies at ``height`` m; a core is several bricks, and like plies that lie on each other are
    one where they are ``merged``."""
    levels: list[float] = [float(stack.z_bottom[-1])]
    layers: list[tuple[int, Layer]] = []
    for number in range(len(stack.layers) - 1, -1, -1):
        layer, top = as_written(stack.layers[number]), float(stack.z_top[number])
        before = layers[-1][1] if layers else None
        if (
            merged
            and layer.role == "ply"
            and before is not None
            and before.material is layer.material
            and (before.angle == layer.angle and before.role == "ply")
        ):
            levels[-1] = top
            continue
        parts = CORE_PARTS if layer.role == "core" else 1
        low = levels[-1]
        for part in range(1, parts + 1):
            levels.append(low + (top - low) * part / parts)
            layers.append((number, layer))
    densities = stack.layer_densities()
    return Piece(np.array(levels) + height, tuple(layers), tuple(float(densities[number]) for number, _ in layers))


def levels_of(pieces: Sequence[Piece]) -> np.ndarray:
    """All heights at which a layer of any of them begins or ends, m."""
    every = np.sort(np.concatenate([piece.levels for piece in pieces]))
    return np.asarray(every[np.concatenate([[True], np.diff(every) > SAME])])
