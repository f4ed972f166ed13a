"""Stress in the outer layers by the program, where a solver prints its own: along x and y of the member."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.face_failure import surface_rows
from omakase.core.members.field import WallCase, WallField
from omakase.core.members.panel import PanelResponse
from omakase.core.members.spar import SparResponse
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse

GAUSS = 3.0**-0.5
BORDER = 0.1  # of the shorter side, beside edges: a corner of a solid has no largest stress there
ROOT = 0.1  # of the span, beside supports: a shell that is clamped has stress of its own there


def _layer_stress(field: WallField, case: WallCase, layer: int) -> np.ndarray:
    """|σ_x| and |σ_y| at limit load in a layer, the larger at its two points of integration: (2, x, y)."""
    rows = surface_rows(field.section, [layer], lambda _angle: field.section.Q[layer])
    surfaces = (rows @ np.moveaxis(case.strains, -1, 0).reshape(11, -1)[0:9]).reshape(2, 3, *case.strains.shape[:2])
    middle, half = surfaces.mean(axis=0), (surfaces[0] - surfaces[1]) / 2.0 * GAUSS
    return np.maximum(np.abs(middle + half), np.abs(middle - half))[:2]


def panel_stress(response: PanelResponse, k: int) -> np.ndarray:
    """Largest |σ_x| and |σ_y| of a load case in the outermost layers, away from the edges: (2,) Pa."""
    field = response.fields[0]
    case, last = field.cases[k], len(field.stack.layers) - 1
    panel = response.panel
    along, across = interior(panel.length, panel.width, case.x, case.y)
    stress = np.maximum(*(_layer_stress(field, case, layer) for layer in (0, last)))
    return stress[:, along][:, :, across].max(axis=(1, 2), initial=0.0)


def interior(length: float, width: float, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Which x and y lie away from the edges."""
    border = BORDER * min(length, width)
    return (x > border) & (x < length - border), (y > border) & (y < width - border)


def stations(fields: tuple[WallField, ...], k: int) -> tuple[np.ndarray, np.ndarray]:
    """Stations of a member with a span, m, and the largest |σ_x| of any wall and layer there, Pa."""
    x: list[np.ndarray] = []
    largest: list[np.ndarray] = []
    for field in fields:
        case = field.cases[k]
        layers = [_layer_stress(field, case, i)[0] for i, own in enumerate(field.stack.layers) if own.role != "core"]
        x.append(case.x)
        largest.append(np.max(layers, axis=0).max(axis=1))
    places = np.unique(np.concatenate(x))
    return places, np.array([
        max(float(values[own == place].max()) for own, values in zip(x, largest, strict=True) if (own == place).any())
        for place in places
    ])  # fmt: skip


def worst_stations(response: SparResponse | StripResponse | TubeResponse) -> tuple[float, ...]:
    """Where along the span each load case has its largest stress, away from what holds the member, m."""
    span, found = response.model.span, []
    for k in range(len(response.results)):
        x, stress = stations(response.fields, k)
        free = np.abs(x[:, None] - np.array([own.x for own in span.supports])).min(axis=1) > ROOT * span.length
        if free.any() and stress[free].max() > 0.0:
            found.append(float(x[free][np.argmax(stress[free])]))
    return tuple(found)
