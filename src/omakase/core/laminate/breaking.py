"""The order in which a laminate breaks: its layers fail one by one, and the load moves to those that hold."""

from __future__ import annotations

from typing import Literal

import msgspec
import numpy as np

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import abd, layer_halves
from omakase.core.rotation import strain_rotation, transformed_stiffness

Mode = Literal["along 1", "along 2", "in shear"]
Loading = Literal["stretch_x", "stretch_y", "bend_x", "bend_y"]
LOADINGS: dict[Loading, str] = {
    "stretch_x": "stretched along x", "stretch_y": "stretched along y", "bend_x": "bent along x",
    "bend_y": "bent along y",
}  # fmt: skip
REST = 1e-4  # of the stiffness that a broken direction keeps, so that the laminate stays solvable
TOGETHER = 1.0 + 1e-6  # layers whose strains differ by no more break at once
MAX_EVENTS = 400
MODES: tuple[Mode, ...] = ("along 1", "along 2", "in shear")


class Event(msgspec.Struct, frozen=True):
    """Layers fail.  ``strain`` : along the load, of the surface when bent; ``before``, ``after`` : load there.

    ``layers`` : (index, mode) of all that break at this strain at once.  The load is N/m, or N m/m when bent.
    """

    layers: tuple[tuple[int, Mode], ...]
    strain: float
    before: float
    after: float


class Breaking(msgspec.Struct, frozen=True):
    """Events in order, the largest load on the way, and the layers whose fibres all hold right after it."""

    loading: Loading
    stiffness: float
    events: tuple[Event, ...]
    strongest: float
    holding: tuple[int, ...]

    @property
    def first(self) -> float:
        """Load at which the first layer fails."""
        return self.events[0].before if self.events else np.inf

    @property
    def residual(self) -> float:
        """Largest load that is still carried after the strongest, as a share of it: what holds the pieces together."""
        loads = [event.before for event in self.events]
        after = loads[loads.index(self.strongest) + 1 :] if loads else []
        return max(after, default=0.0) / self.strongest if self.strongest else 0.0

    def curve(self) -> tuple[np.ndarray, np.ndarray]:
        """(strain, load) corner points of the walk."""
        strain, load = [0.0], [0.0]
        for event in self.events:
            strain += [event.strain, event.strain]
            load += [event.before, event.after]
        return np.array(strain), np.array(load)


class _Layer:
    """A layer as it is being broken."""

    def __init__(self, layer: Layer) -> None:
        self.layer = layer
        self.broken: set[Mode] = set()
        m = layer.material
        E1, E2, G12 = (m.value(key) for key in ("E1", "E2", "G12"))
        self.limits: dict[tuple[Mode, bool], float] = {
            ("along 1", True): m.value("Xt") / E1, ("along 1", False): m.value("Xc") / E1,
            ("along 2", True): m.value("Yt") / E2, ("along 2", False): m.value("Yc") / E2,
            ("in shear", True): m.value("S12") / G12, ("in shear", False): m.value("S12") / G12,
        }  # fmt: skip
        self.T = strain_rotation(layer.angle)

    def halves(self) -> tuple[np.ndarray, np.ndarray]:
        """Stiffness in panel axes of the upper and the lower half, which differ for a satin only, Pa."""
        upper, lower = (
            transformed_stiffness(self._without_broken(Q), self.layer.angle) for Q in layer_halves(self.layer)
        )
        return upper, lower

    def _without_broken(self, Q: np.ndarray) -> np.ndarray:
        """Q of a layer that carries no stress in its broken directions, a trace apart."""
        gone = {2} if self.broken else set()
        gone |= {k for k, mode in enumerate(("along 1", "along 2")) if mode in self.broken}
        left = Q
        for k in gone:  # the strain there adjusts itself until the stress is nothing
            left = left - np.outer(left[:, k], left[k, :]) / left[k, k] if left[k, k] > 0.0 else left
        return left + REST * Q if gone else Q

    @property
    def holds(self) -> bool:
        """Whether all its fibres hold: those along 1, and of a cloth those along 2."""
        return "along 1" not in self.broken and not (self.layer.material.is_woven and "along 2" in self.broken)


def breaking_order(stack: Stack, loading: Loading) -> Breaking:
    """Progressive failure of a plate of one stack under one growing strain (held flat) or curvature; the loads across
    are zero.

    Ply discount: at the strain of its material a layer loses its stiffness in that direction and in shear (a fibre
    failure or a crack of the resin), or in shear alone; then the load falls to what the rest carries at that strain,
    which may break more at once.  Maximum strain by layer; Jones (1999), section 4.5.  Cores and layers not counted on
    are left out; linear to failure, no instability, no peeling between layers, no stress from cure.  Bending is that of
    a plate without core shear.
    """
    axis, bent = {"stretch_x": (0, False), "stretch_y": (1, False), "bend_x": (0, True), "bend_y": (1, True)}[loading]
    counted = [i for i, layer in enumerate(stack.layers) if layer.structural and layer.role == "ply"]
    layers = {i: _Layer(stack.layers[i]) for i in counted}
    row = axis + (3 if bent else 0)
    outer = stack.thickness / 2.0 if bent else 1.0
    events: list[Event] = []
    control, initial, strongest = 0.0, 0.0, 0.0
    holding = tuple(counted)
    while len(events) < MAX_EVENTS:
        whole = _abd(stack, layers)
        compliance = np.zeros((6, 6))
        free = slice(0, 6 if bent else 3)
        compliance[free, free] = np.linalg.inv(whole[free, free])
        unit = compliance[:, row] / compliance[row, row]  # strains and curvatures per unit of the one that grows
        stiffness = 1.0 / compliance[row, row]
        initial = initial or stiffness
        if events:
            events[-1] = msgspec.structs.replace(events[-1], after=stiffness * control)
        if stiffness < 10.0 * REST * initial:
            break
        steps = _next(stack, layers, unit, control)
        if steps is None:
            break
        control, broken = steps
        load = stiffness * control
        events.append(Event(broken, control * outer, load, load))
        for index, mode in broken:
            layers[index].broken.add(mode)
        if load > strongest:
            strongest, holding = load, tuple(i for i, layer in layers.items() if layer.holds)
    return Breaking(loading, initial, tuple(events), strongest, holding)


def _abd(stack: Stack, layers: dict[int, _Layer]) -> np.ndarray:
    """[[A, B], [B, D]] of the layers as broken as they are, (6, 6)."""
    Q: list[np.ndarray] = []
    top, bottom = [], []
    for i, layer in layers.items():
        middle = (stack.z_top[i] + stack.z_bottom[i]) / 2.0
        Q += layer.halves()
        top += [stack.z_top[i], middle]
        bottom += [middle, stack.z_bottom[i]]
    A, B, D = abd(np.array(Q), np.array(top), np.array(bottom))
    return np.block([[A, B], [B, D]])


def _next(
    stack: Stack, layers: dict[int, _Layer], unit: np.ndarray, control: float
) -> tuple[float, tuple[tuple[int, Mode], ...]] | None:
    """(control value, layers and modes) of the next failure, not before ``control``; the most overloaded first."""
    failures: dict[tuple[int, Mode], float] = {}
    for i, layer in layers.items():
        for z in (stack.z_top[i], stack.z_bottom[i]):
            strain = layer.T @ (unit[:3] + float(z) * unit[3:])
            for mode, value in zip(MODES, strain, strict=True):
                if mode in layer.broken or abs(value) < 1e-12:
                    continue
                at = layer.limits[mode, bool(value > 0.0)] / abs(float(value))
                failures[i, mode] = min(at, failures.get((i, mode), np.inf))
    if not failures:
        return None
    first = min(failures.values())
    together = tuple(key for key, at in failures.items() if at <= first * TOGETHER)
    return max(first, control), together
