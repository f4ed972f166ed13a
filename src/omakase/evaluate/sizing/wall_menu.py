"""The menu of members with several walls: caps of so many plies that end here or there, times webs.

Outline and sizes are those of one candidate, the base.  Combinations are judged by the full evaluator from the lightest
on, then in the order of the other quantities that matter; one that is worse in all of them than one that passes is not
judged.  Masses before judging are estimates within 2 %, so a combination is dropped only if it is worse by more than
that.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.core.materials.material import Material
from omakase.core.materials.pricing import laying_hours, part_hours, part_price, piece_price, price_per_area, way_of
from omakase.core.sections.outlines import mid_lines
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.spar import role_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.sizing.combinations import MATTERS, MenuChoices
from omakase.evaluate.sizing.menu_state import HEAVIER, Menu, State, reason, served, waves
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits, span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, LayerRecord
from omakase.project.quickline import laminate_code
from omakase.project.spans import Zone

MOST_COMBINATIONS = 20_000
ENDS = (1.0, 0.7, 0.5, 0.3)  # shares of the span at which cap plies may end
STAGGER = 0.02  # of the span, by which plies that would end together are apart
WEB_PLIES = (1, 2)  # on each face of a web
ALONG = 3.0  # E1 over E2 from which a ply counts as unidirectional
NEAR = 0.02  # estimates of mass are no further off than this: what is worse by more is beaten
PROBE = 1e-4  # m, of thickness by which the change of areas is measured
ROBUST, PER_TASK = 12, 4


class WallSpace:
    """All combinations of caps and webs on the base of a brief.

    Raises OmakaseError where the base has no caps or webs, where no unidirectional ply is allowed, or for too many.
    """

    def __init__(self, brief: Brief, choices: MenuChoices, materials: Mapping[str, Material]) -> None:
        self.brief, self.choices, self.materials = brief, choices, dict(materials)
        self.length = float(getattr(brief.member, "length", 0.0))
        self.base = _base(brief, choices.base)
        walls = kind_of(brief).walls(self.base)
        self.cap_walls = tuple(wall for wall in walls if role_of(wall) in ("top", "bottom"))
        self.web_walls = tuple(wall for wall in walls if role_of(wall) == "web")
        if not self.cap_walls or not self.web_walls:
            raise OmakaseError(f"the menu needs caps and webs; the section of {self.base.name} has none")
        along = [name for name in choices.skins if self._is_along(name)]
        if not along:
            raise OmakaseError("no unidirectional ply is allowed for the caps: add one to the skins")
        self.caps = [(name, ends) for name in along for ends in self._steps()]
        self.webs = self._webs([name for name in choices.skins if not self._is_along(name)])
        self.total = len(self.caps) * len(self.webs)
        if self.total > MOST_COMBINATIONS:
            raise OmakaseError(
                f"{self.total:,} combinations are more than the {MOST_COMBINATIONS:,} that are searched: allow fewer "
                "plies, cloths or cores"
            )
        self._measure()

    def _is_along(self, name: str) -> bool:
        material = self.materials[name]
        return material.kind == "ply" and not material.is_woven and material.value("E1") > ALONG * material.value("E2")

    def _steps(self) -> list[tuple[float, ...]]:
        """Where each of the cap plies ends, m: the first all along, the others no further than the one before."""
        steps = []
        for count in range(self.choices.fewest, self.choices.most + 1):
            for shares in itertools.combinations_with_replacement(ENDS, count - 1):
                ends = [1.0]
                for share in sorted(shares, reverse=True):
                    together = share < 1.0 and share >= ends[-1]
                    ends.append(ends[-1] - STAGGER if together else share)
                if ends[-1] > 0.0:
                    steps.append(tuple(round(end * self.length, 4) for end in ends))
        return list(dict.fromkeys(steps))

    def _webs(self, cloths: Sequence[str]) -> list[tuple[LayerRecord, ...]]:
        """Layups of a web: plies of one cloth at one angle, solid or on a core."""
        layers = edits.of_wall(self.base, self.web_walls[0]).layers
        cloths = cloths or tuple(dict.fromkeys(layer.material for layer in layers if layer.role == "ply"))
        cores: list[LayerRecord | None] = [None]
        low, high = min(self.choices.thicknesses), max(self.choices.thicknesses)
        for name in self.choices.cores:
            sold = self.materials[name].sold if self.choices.sold else ()
            sizes = [t for t in sold if low * (1 - 1e-9) <= t <= high * (1 + 1e-9)] or self.choices.thicknesses
            cores += [LayerRecord(name, 0.0, float(size), "core") for size in sizes]
        choices: dict[tuple[LayerRecord, ...], None] = {}
        for name, plies, core in itertools.product(cloths, WEB_PLIES, cores):
            angles = {angle % 90.0 if self.materials[name].is_woven else angle for angle in self.choices.angles}
            for angle in sorted(angles):
                face = (LayerRecord(name, edits.step_angle(angle, 0.0)),) * plies
                choices[(*face, core, *face) if core is not None else face * 2] = None
        return list(choices)

    # --- one combination --------------------------------------------------------------------------------------

    def candidate(self, row: int) -> Candidate:
        """A combination as a candidate of the base's form."""
        cap, web = divmod(row, len(self.webs))
        name, ends = self.caps[cap]
        short = [end for end in dict.fromkeys(ends) if end < self.length * (1.0 - 1e-9)]
        zones = {end: Zone(f"m{i + 1}", f"caps to {round(end, 3):g} m", 0.0, end) for i, end in enumerate(short)}
        plies = tuple(LayerRecord(name, 0.0, zone=zones[end].id if end in zones else "") for end in ends)
        shares = ", ".join(f"{end / self.length:.0%}" for end in ends)
        note = f"caps of {name} to {shares} of the span; webs {laminate_code(self.webs[web], materials=True)}"
        new = replace(self.base, id="menu", name="menu", origin="", accepted=(), note=note, zones=tuple(zones.values()))
        kept = tuple(replace(layer, zone="", shared="", mirrored=False) for layer in new.layers)
        new, walls = replace(new, layers=kept), kind_of(self.brief).walls(self.base)
        for wall in self.cap_walls:
            outer, inner = self._cover(wall)
            new = edits.with_wall(new, wall, replace(new, layers=(*outer, *plies, *inner)), walls)
        for wall in self.web_walls:
            new = edits.with_wall(new, wall, replace(new, layers=self.webs[web]), walls)
        return new

    def _cover(self, wall: str) -> tuple[tuple[LayerRecord, ...], tuple[LayerRecord, ...]]:
        """The base's layers of a cap outside and inside of its unidirectional plies."""
        layers = tuple(replace(la, zone="", shared="", mirrored=False) for la in edits.of_wall(self.base, wall).layers)
        along = [
            i for i, la in enumerate(layers) if la.role == "ply" and la.angle == 0.0 and self._is_along(la.material)
        ]
        first, last = (along[0], along[-1]) if along else (len(layers) // 2, len(layers) // 2 - 1)
        return layers[:first], layers[last + 1 :]

    # --- what matters -----------------------------------------------------------------------------------------

    def _measure(self) -> None:
        """Mass, price, height and hours of each combination before it is judged: ``values`` (total, 4).

        Areas of walls are those at no thickness, and how they change with the thickness of each wall, both of which
        outlines have exactly where their walls are straight.
        """
        walls = kind_of(self.brief).walls(self.base)
        self._bare = self._areas(dict.fromkeys(walls, 0.0))
        change = {
            wall: {
                name: (area - self._bare[name]) / PROBE
                for name, area in self._areas(dict.fromkeys(walls, 0.0) | {wall: PROBE}).items()
            }
            for wall in walls
        }
        rest = [wall for wall in walls if wall not in (*self.cap_walls, *self.web_walls)]
        way = way_of(self.materials[layer.material] for layer in self.base.layers)
        part = np.array([0.0, part_price(way, sum(self._bare.values())), part_hours(way)])
        plain = sum((self._cost(edits.of_wall(self.base, wall).layers, wall) for wall in rest), part)
        covers = {wall: self._cover(wall) for wall in self.cap_walls}
        for wall, (outer, inner) in covers.items():
            plain = plain + self._cost((*outer, *inner), wall)
        cover = self._wall_values(sum(covers[self.cap_walls[0]], ()))
        caps, webs = [], []
        for name, ends in self.caps:
            areal, thick = self._wall_values((LayerRecord(name, 0.0),))
            share = sum(ends) / self.length
            cost = sum((self._cost((LayerRecord(name, 0.0),), wall, end / self.length) for wall in self.cap_walls
                       for end in ends), np.zeros(3))  # fmt: skip
            caps.append((*cost, cover[0] + areal * share, cover[1] + thick * share))
        for web in self.webs:
            cost = sum((self._cost(web, wall) for wall in self.web_walls), np.zeros(3))
            webs.append((*cost, *self._wall_values(web)))
        cap, web_ = np.array(caps)[:, None], np.array(webs)[None]

        def slope(of: Sequence[str], by: Sequence[str]) -> float:
            return sum(change[wall][name] for wall in by for name in of)

        values = plain + cap[..., :3] + web_[..., :3]
        for cost, names in ((cap, self.cap_walls), (web_, self.web_walls)):
            grown = slope(names, self.cap_walls) * cap[..., 4] + slope(names, self.web_walls) * web_[..., 4]
            values[..., 0] += cost[..., 3] * grown
        values = values.reshape(-1, 3)
        self.values = np.stack([values[:, 0], values[:, 1], np.ones(len(values)), values[:, 2]], axis=1)

    def _areas(self, thickness: dict[str, float]) -> dict[str, float]:
        """m² of the middle of each wall, all of a ``thickness`` in m."""
        shape = span_translate.spar(self.brief, self.base).shape
        x = np.array([0.0, *shape.knots(self.length), self.length])
        lines = mid_lines(shape.outline, shape.sizes(x), thickness)
        return {
            wall: float(np.trapezoid(lines.lengths[:, lines.walls == i].sum(axis=1), x))
            for i, wall in enumerate(thickness)
        }

    def _wall_values(self, layers: Sequence[LayerRecord]) -> tuple[float, float]:
        """kg/m² and thickness in m of layers, cores with what they soak up between two faces."""
        areal = thick = 0.0
        for layer in layers:
            made = translate.layer(layer, self.materials, self.brief.surroundings)
            material = made.material
            thick += made.thickness
            if material.kind == "ply":
                areal += sum(ply_masses(material)) * made.thickness / ply_thickness(material)
                continue
            areal += made.thickness * material.value("density")
            if layer.role == "core" and "resin_uptake" in material.properties:
                areal += 2.0 * material.value("resin_uptake")
        return areal, thick

    def _cost(self, layers: Sequence[LayerRecord], wall: str, share: float = 1.0) -> np.ndarray:
        """(kg, price, hours) of layers over a ``share`` of the span from its root, on a wall without thickness."""
        area = self._bare[wall] * share if share == 1.0 else self._area_to(wall, share)
        price = sum((price_per_area(self.materials[la.material], la.thickness or 0.0) or 0.0) * area
                    + piece_price(self.materials[la.material]) for la in layers)  # fmt: skip
        hours = sum(laying_hours(self.materials[la.material], area) for la in layers)
        return np.array([self._wall_values(layers)[0] * area, price, hours])

    def _area_to(self, wall: str, share: float) -> float:
        """m² of a wall without thickness from the root to a share of the span."""
        end = share * self.length
        probe = replace(self.base, layers=(LayerRecord("", wall=wall, zone="a"),), zones=(Zone("a", "a", 0.0, end),))
        return kind_of(self.brief).layer_areas(self.brief, probe)[0]


def _base(brief: Brief, wanted: str) -> Candidate:
    """The candidate whose outline and sizes are kept: the one wanted, else the first that is not the baseline."""
    base = next((c for c in brief.candidates if c.id == wanted and c.layers), None)
    base = base or next((c for c in brief.candidates if c.id != brief.baseline and c.layers), None)
    if base is None:
        raise OmakaseError("the menu needs a candidate whose outline and sizes it may keep: make one first")
    return base


class WallMenu:
    """One search over a ``WallSpace``."""

    def __init__(
        self, brief: Brief, choices: MenuChoices, materials: Mapping[str, Material], evaluator: Evaluator,
        cancelled: Callable[[], bool],
    ) -> None:  # fmt: skip
        self.brief, self.choices, self.materials = brief, choices, dict(materials)
        self._evaluator, self._cancelled = evaluator, cancelled

    def run(self, workers: Workers | None) -> Iterator[Menu]:
        """The menu as it grows; complete at the end unless cancelled."""
        space = WallSpace(self.brief, self.choices, self.materials)
        excluded: dict[str, int] = {}
        menu = Menu(space.total, looked=space.total, left=space.total)
        yield menu
        columns = [MATTERS.index(matter) for matter in self.choices.matters]
        state = State(space.values[:, columns].copy(), space.values.copy(), NEAR, ("thinnest",))
        limit = self.brief.limits.mass
        if limit is not None:
            heavy = space.values[:, 0] > limit * (1.0 + NEAR)
            state.open &= ~heavy
            if heavy.any():
                excluded["mass"] = int(heavy.sum())
            menu = msgspec.structs.replace(menu, left=int((~heavy).sum()), excluded=dict(excluded))
        for rows in waves(state):
            if self._cancelled():
                return
            self._judge(space, state, rows, workers, excluded)
            yield self._menu(space, state, menu, excluded, False)
        if self._cancelled():
            return
        if state.passing:  # the most robust among those not much heavier than the lightest
            lightest = min(state.best[row, 0] for row in state.passing)
            near = np.flatnonzero((state.best[:, 0] <= HEAVIER * lightest) & ~state.judged)
            order = near[np.argsort(-state.best[near, 0], kind="stable")][:ROBUST]
            self._judge(space, state, order.tolist(), workers, excluded)
        yield self._menu(space, state, menu, excluded, True)

    def _judge(
        self, space: WallSpace, state: State, rows: Sequence[int], workers: Workers | None, excluded: dict[str, int]
    ) -> None:
        candidates = [space.candidate(row) for row in rows]
        common = self.brief, self.materials
        if workers is None:
            outcomes = _judge_some(self._evaluator, common, candidates)
        else:
            tasks = [candidates[i : i + PER_TASK] for i in range(0, len(candidates), PER_TASK)]
            results = dict(workers.run(_judge_some, common, tasks, self._cancelled))
            if len(results) < len(tasks):
                return
            outcomes = [judged for i in range(len(tasks)) for judged in results[i]]
        mass = self.choices.matters.index("mass") if "mass" in self.choices.matters else -1
        for row, judged in zip(rows, outcomes, strict=True):
            if not judged.error:
                state.best[row, 0] = judged.mass
                if mass >= 0:
                    state.values[row, mass] = judged.mass
            if not judged.passes:
                key = f"judged: {reason(judged)}"
                excluded[key] = excluded.get(key, 0) + 1
            state.note(row, judged)

    def _menu(self, space: WallSpace, state: State, menu: Menu, excluded: dict[str, int], done: bool) -> Menu:
        note = (
            f"On the outline and sizes of {space.base.name}: caps of {self.choices.fewest} to {self.choices.most} "
            f"unidirectional plies that end at {len(ENDS)} places, {len(space.webs)} webs."
        )
        return msgspec.structs.replace(served(menu, state, space.candidate, excluded, done), note=note)


def _judge_some(
    evaluator: Evaluator, common: tuple[Brief, dict[str, Material]], candidates: list[Candidate]
) -> list[Outcome]:
    brief, materials = common
    return [outcome(brief, evaluator.evaluate(brief, candidate, materials), materials) for candidate in candidates]
