"""A rib of a wing: a beam along the chord between its spars, under the air load of the bay that it serves.

Its web and caps are those of a spar's section; the skin holds it from twisting and moving aside.  A closed cell of skin
takes the torque of the load about the spars as a shear flow along the rib's edge (Bredt).  The bay of skin between two
ribs is a flat panel of its own.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.kept import released_with_it
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.members.field import Measured
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel import respond as respond_panel
from omakase.core.members.panel_given import LINEAR, Accuracy, LoadCase, Panel
from omakase.core.members.span import SpanResult
from omakase.core.members.span_loads import Couples, Distribution, LineLoad, PointLoad, SpanCase
from omakase.core.members.spar import ORDER, SparResponse
from omakase.core.members.spar_given import Spar
from omakase.core.members.stretches import Stretch
from omakase.core.plates.loads import EdgeLoad
from omakase.core.plates.section import PlateSection

DECOUPLED = (1, 3, 5)  # twist, bending and shear aside: strains that the skin holds back
PIECES = 6  # straight pieces of the shear flow along a cell, and one between any two kinks of the depth
LEAST_GAP = 2e-3  # m of web left between a hole and a cap, or between two holes


class Hole(msgspec.Struct, frozen=True):
    """A lightening hole of ``diameter`` m, its middle at ``x`` m and half way up the web."""

    x: float
    diameter: float


class RibCase(SpanCase, frozen=True):
    """A load case of a rib.  ``pressure`` : of the air on the skin between the spars, Pa, positive upward.

    ``pressed``, ``sheared`` : what the skin carries along the wing, N/m; ``bent`` : curvature of the bent box, 1/m, 0
    where it is not counted.
    """

    pressure: float = 0.0
    pressed: float = 0.0
    sheared: float = 0.0
    bent: float = 0.0


class Rib(msgspec.Struct, frozen=True):
    """``beam`` : its span along the chord and its section; ``pitch`` m between ribs; ``bay`` m of skin between spars.

    ``cell`` : from where to where along it a closed cell of skin takes torque, None for none; ``share`` : of the lift,
    that the front one of two spars takes.  ``lip`` : height of the turned edge of the holes, m, 0 for none.
    ``bond`` : width in m over which each edge is bonded to the skin, 0 where that is not looked at, with its strengths
    in shear and in tension, Pa.  Raises MemberError.
    """

    beam: Spar
    pitch: float
    bay: float
    cell: tuple[float, float] | None = None
    share: float = 0.5
    holes: tuple[Hole, ...] = ()
    lip: float = 0.0
    bond: float = 0.0
    bond_shear: float = 0.0
    bond_tension: float = 0.0

    def __post_init__(self) -> None:
        if not 0.01 <= self.pitch <= 10.0:
            raise MemberError(f"a rib pitch of {both_units(self.pitch)} is outside 10 mm to 10 m (0.4 in to 33 ft)")
        if not 0.0 <= self.share <= 1.0:
            raise MemberError("the front spar carries between none and all of the lift")
        if self.lip < 0.0 or self.bond < 0.0:
            raise MemberError("a lip and a bond have no negative size")
        last = 0.0
        for number, hole in enumerate(sorted(self.holes, key=lambda hole: hole.x), 1):
            deep = float(self.beam.shape.sizes(np.array([hole.x])).height[0])
            low, high = hole.x - hole.diameter / 2.0, hole.x + hole.diameter / 2.0
            if not hole.diameter > 0.0:
                raise MemberError(f"hole {number} needs a diameter")
            if low < last + LEAST_GAP or high > self.beam.span.length - LEAST_GAP:
                raise MemberError(f"hole {number} meets the one before it, or the end of the rib")
            if hole.diameter > deep - 2.0 * LEAST_GAP:
                raise MemberError(
                    f"hole {number} of {both_units(hole.diameter)} leaves nothing of a rib {both_units(deep)} deep"
                )
            last = high


class RibResponse(SparResponse):
    """Everything the checks need of one rib.

    ``flows_of`` : shear flow of the closed cell along the rib's edges under each load case, N/m, positive where the
    upper skin pushes the rib backward; ``skin_bay`` : what the skin between two ribs does, None without one.

    The rib is modelled as a straight beam at half its depth.  Not counted: the camber of its chord line, and the extra
    deflection from its holes.
    """

    def __init__(
        self, rib: Rib, walls: Mapping[str, tuple[Stretch, ...]], cases: Sequence[RibCase], skin: Stack | None = None,
        skin_rows: tuple[int, ...] = (), order: int = ORDER, parts: int = 1, accuracy: Accuracy = LINEAR,
        ultimate: float = 1.0,
    ) -> None:  # fmt: skip
        self.rib, self.flows_of = rib, [0.0] * len(cases)
        self.skin_bay = None if skin is None else _bay(rib, skin, cases, accuracy, ultimate)
        self.skin_mass = 0.0 if skin is None else 2.0 * rib.bay * PlateSection(skin).areal_mass  # kg/m of wing
        super().__init__(rib.beam, walls, cases, order, parts, stations=2)
        self.mass += self._holes_add()
        self.areal_mass = self.mass / self.area
        self.frequencies = () if self.skin_bay is None else self.skin_bay.frequencies
        if self.skin_bay is not None:
            self.fields += tuple(
                msgspec.structs.replace(field, name="skin", rows=field.rows or skin_rows)
                for field in self.skin_bay.fields
            )
        self.measures = self._rib_measures(self.measures)

    @property
    def held_walls(self) -> frozenset[str]:
        """Flanges and caps: they lie on the skin."""
        return frozenset(wall.name for wall in self.walls if wall.name != "web")

    def _frequencies(self) -> tuple[float, ...]:
        return ()  # the skin holds it: what vibrates is the bay

    def _tipping(self) -> tuple[Measured, ...]:
        return ()  # the skin holds it

    def _stiffness(self, x: np.ndarray) -> np.ndarray:
        whole = np.array(super()._stiffness(x))
        others = [i for i in range(6) if i not in DECOUPLED]
        for i in DECOUPLED:
            whole[:, i, others] = whole[:, others, i] = 0.0
        return whole

    def _solved_cases(self) -> tuple[SpanResult, ...]:
        """The results with the flow of the cell, which is found from the reactions without it."""
        first = self.model.results()
        if self.rib.cell is None or not first:
            return first
        unit, area = _unit_flow(self.rib, self.rib.cell)
        supports = self.rib.beam.span.supports
        cases = []
        for k, result in enumerate(first):
            if len(supports) == 1:
                torque = float(result.reactions[0, 1])
            else:
                (near, one), (far, two) = sorted(
                    (support.x, float(reaction[0]))
                    for support, reaction in zip(supports, result.reactions, strict=True)
                )
                torque = ((1.0 - self.rib.share) * (one + two) - two) * (far - near)
            self.flows_of[k] = torque / (2.0 * area)
            own = tuple(_times(load, self.flows_of[k]) for load in unit)
            cases.append(msgspec.structs.replace(result.case, loads=(*result.case.loads, *own)))
        return self.model.results(cases)

    def _holes_add(self) -> float:
        """kg that holes take away and their lips add."""
        added = 0.0
        for hole in self.rib.holes:
            areal = self.web_at(hole.x).areal_mass
            added += areal * np.pi * hole.diameter * (self.rib.lip - hole.diameter / 4.0)
        return float(added)

    def web_at(self, x: float) -> PlateSection:
        """The web's laminate at a place along."""
        return self.plate_at("web", int(np.argmin(np.abs(self.x - x))))

    @cached_property
    def depth(self) -> np.ndarray:
        """m between the middles of the caps at the sampled places, (places,)."""
        return self.width(self.webs[0])

    def _taken(self, case: int) -> str:
        """What the spars and the skin take from it, in words."""
        result = self.results[case]
        takes = [
            f"{abs(own[0]):.3g} N {'down' if own[0] < 0.0 else 'up'} at x = {both_units(support.x)}"
            + (f" and {abs(own[1]):.3g} N m" if abs(own[1]) > 1e-6 * abs(own[0]) else "")
            + f" ({abs(own[0]) / float(np.interp(support.x, self.x, self.depth)):.3g} N/m over its depth)"
            for support, own in zip(self.supports, result.reactions, strict=True)
        ]
        text = "spars hold the rib with " + ", ".join(takes)
        flow = self.flows_of[case]
        return f"{text}; its edges pass {abs(flow):.3g} N/m of shear to the skin" if flow else text

    def _rib_measures(self, beam: Mapping[str, tuple[Measured, ...]]) -> dict[str, tuple[Measured, ...]]:
        deflections = tuple(
            msgspec.structs.replace(own, remarks=(*own.remarks, self._taken(k)))
            for k, own in enumerate(beam["deflection"])
        )
        measures = {"deflection": deflections, "thickness": beam["thickness"]}
        measures["span_mass"] = (Measured(self.mass / self.rib.pitch + self.skin_mass),)
        if self.skin_bay is not None:
            bay = self.skin_bay.measures
            measures["bay_sag"] = bay["deflection"]
            if "buckling" in bay:
                measures["buckling"] = bay["buckling"]
        return measures


def _bay(rib: Rib, skin: Stack, cases: Sequence[RibCase], accuracy: Accuracy, ultimate: float) -> PanelResponse:
    """The skin between two ribs and two spars as a flat panel, x along the wing; its edges turn freely."""
    on_panel = tuple(
        LoadCase(
            case.name, (-case.pressure,) if case.pressure else (), (), case.gravity, case.key,
            EdgeLoad((-case.pressed, -case.pressed), (0.0, 0.0), case.sheared)
            if case.pressed or case.sheared else None,
        )
        for case in cases
    )  # fmt: skip
    return _bays.answer(Panel(rib.pitch, rib.bay), skin.layers, on_panel, accuracy, ultimate)


class _Bays:
    """Answers kept, since most edits of a rib leave its skin as it is; a coarse one is replaced by a finer one."""

    MOST = 32

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[object, ...], tuple[Accuracy, PanelResponse]] = OrderedDict()
        self._lock = threading.Lock()  # edits and workers ask

    def answer(
        self, panel: Panel, skin: tuple[Layer, ...], cases: tuple[LoadCase, ...], accuracy: Accuracy, ultimate: float
    ) -> PanelResponse:
        """As fine as asked for, or finer."""
        key = panel, skin, cases, ultimate
        with self._lock:
            kept = self._kept.get(key)
        if kept is not None and (kept[0] == accuracy or kept[0].patch_order > accuracy.patch_order):
            return kept[1]
        response = respond_panel(panel, Stack(skin), cases, accuracy, True, ultimate)
        with self._lock:
            self._kept[key] = accuracy, response
            self._kept.move_to_end(key)
            while len(self._kept) > self.MOST:
                self._kept.popitem(last=False)
        return response

    def release(self) -> None:
        """Forgets them."""
        with self._lock:
            self._kept.clear()


_bays = _Bays()
released_with_it(_bays.release)


def _unit_flow(rib: Rib, cell: tuple[float, float]) -> tuple[tuple[Couples | Distribution | PointLoad, ...], float]:
    """What 1 N/m of flow round the cell does to the rib, and the area inside, m²: along the edges couples of the depth
    and forces of its slope; at an end without a spar the force of the skin that closes it."""
    shape = rib.beam.shape
    knots = [x for x in shape.knots(rib.beam.span.length) if cell[0] < x < cell[1]]
    x = np.unique(np.concatenate([np.linspace(*cell, PIECES + 1), knots]))
    deep = shape.sizes(x).height
    pieces = tuple(
        LineLoad(float(d0), float(d1), float(a), float(b))
        for a, b, d0, d1 in zip(x[:-1], x[1:], deep[:-1], deep[1:], strict=True)
    )
    rising = tuple(
        LineLoad(-slope, -slope, piece.low, piece.high)
        for piece in pieces
        for slope in [(piece.end - piece.start) / (piece.high - piece.low)]
    )
    spars = [support.x for support in rib.beam.span.supports]
    ends = [(cell[0], -float(deep[0])), (cell[1], float(deep[-1]))]  # down: the front is pushed up, the rear down
    closing = tuple(PointLoad(force, place) for place, force in ends if min(abs(place - s) for s in spars) > 1e-9)
    area = float(np.trapezoid(deep, x))
    return (Couples(pieces), Distribution(rising), *closing), area


def _times(load: Couples | Distribution | PointLoad, factor: float) -> Couples | Distribution | PointLoad:
    if isinstance(load, PointLoad):
        return msgspec.structs.replace(load, force=load.force * factor)
    pieces = tuple(
        msgspec.structs.replace(piece, start=piece.start * factor, end=piece.end * factor) for piece in load.pieces
    )
    return msgspec.structs.replace(load, pieces=pieces)
