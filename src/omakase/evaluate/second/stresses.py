"""Stress in the outer layers by the program, at the places where a solver prints its own: along x and y of the
member."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.face_failure import surface_rows
from omakase.core.members.field import WallCase, WallField
from omakase.core.members.panel import PanelResponse
from omakase.core.members.spar import SparResponse
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse
from omakase.core.mesh.curving import curving_of

GAUSS = 3.0**-0.5
BORDER = 0.1  # of the shorter side, beside edges: a corner of a solid has no largest stress there
ROOT = 0.1  # of the span, beside supports: a shell that is clamped has stress of its own there


def _layer_stress(field: WallField, case: WallCase, layer: int) -> np.ndarray:
    """|σ_x| and |σ_y| at limit load in a layer, the larger at its two points of integration: (2, x, y)."""
    rows = surface_rows(field.section, [layer], lambda _angle: field.section.Q[layer])
    surfaces = (rows @ np.moveaxis(case.strains, -1, 0).reshape(11, -1)[0:9]).reshape(2, 3, *case.strains.shape[:2])
    middle, half = surfaces.mean(axis=0), (surfaces[0] - surfaces[1]) / 2.0 * GAUSS
    return np.maximum(np.abs(middle + half), np.abs(middle - half))[:2]


def _most(response: PanelResponse) -> WallField:
    """The stack that most of the panel is made of."""
    return response.fields[0 if response.patchwork is None else response.patchwork.base]


def surface_stress(response: PanelResponse, k: int) -> np.ndarray:
    """|σ_x| and |σ_y| of a load case in the outermost layers of most of the panel, the larger, Pa: (2, x, y)."""
    field = _most(response)
    last = len(field.stack.layers) - 1
    return np.asarray(np.maximum(*(_layer_stress(field, field.cases[k], layer) for layer in (0, last))))


def panel_stress(response: PanelResponse, k: int, points: np.ndarray) -> np.ndarray:
    """|σ_x| and |σ_y| of a load case in the outermost layers of most of the panel, the larger of both, at (n, 2) places
    x, y: (n, 2) Pa."""
    from scipy.interpolate import griddata  # a third of a second at start-up, so not before it is needed

    stress = surface_stress(response, k)
    case = _most(response).cases[k]
    places = [case.place(i, j) for i, j in np.ndindex(stress.shape[1:])]
    x, y = (np.array([getattr(own, axis) for own in places]) for axis in "xy")
    known, values = np.stack([x, y], axis=1), stress.reshape(2, -1).T
    found = griddata(known, values, points)
    outside = np.isnan(found).any(axis=1)
    if outside.any():
        found[outside] = griddata(known, values, points[outside], "nearest")
    return found


def on_surface(response: PanelResponse, printed: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Places x, y of the plan, (n, 2) m, and σ_x and σ_y in the surface there, (n, 2) Pa, of what a solver printed."""
    points, own = printed[:, :3], printed[:, 3:]
    curving = curving_of(response.panel)
    if curving.flat:
        return points[:, :2], own[:, :2]
    at = curving.nearest(points)
    frames = curving.frames(at)
    stress = own[:, [[0, 3, 4], [3, 1, 5], [4, 5, 2]]]
    turned = np.einsum("nai,nij,naj->na", frames[:, :2], stress, frames[:, :2])
    return curving.points(at)[:, :2], turned


def interior(response: PanelResponse, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Which places lie away from the edges, from bolts, ribs, openings, and from zones other than most of the panel."""
    panel, patches = response.panel, response.patchwork
    border = BORDER * min(panel.length, panel.width)
    if panel.outline == "round":
        clear = np.hypot(2.0 * x / panel.length - 1.0, 2.0 * y / panel.width - 1.0) < 1.0 - 2.0 * BORDER
    else:
        clear = (x > border) & (x < panel.length - border) & (y > border) & (y < panel.width - border)
    for bolt in panel.held.bolts:
        clear &= np.hypot(x - bolt.x, y - bolt.y) > border + bolt.washer
    for own in response.ribs:
        rib = own.beam.rib
        along, across = (x, y) if rib.along_x else (y, x)
        wide = max(abs(end[0]) for piece in own.beam.pieces for end in (piece.start, piece.end))
        beside = np.abs(across - rib.place) < wide + border
        clear &= ~(beside & (along > rib.low - border) & (along < rib.high + border))
    if patches is None:
        return clear
    steps = (-border, 0.0, border)
    for dx, dy in ((dx, dy) for dx in steps for dy in steps):
        i, j = (
            np.clip(np.searchsorted(lines, at) - 1, 0, len(lines) - 2)
            for lines, at in ((patches.x, x + dx), (patches.y, y + dy))
        )
        clear &= patches.which[i, j] == patches.base
    return clear


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
