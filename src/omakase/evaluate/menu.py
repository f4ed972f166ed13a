"""The menu: every sandwich that a few choices allow, looked at, and the best trade-offs among those that pass.

Combinations are enumerated, or drawn at random where there are too many.  The rules and the screen reject; what is
left is judged by the full evaluator in the order of what matters, and whatever a verified one beats in everything that
matters need not be judged any more.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, Literal

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.reduced_panel import ReducedPanel
from omakase.core.screen import RULES, Batch, Cores, Faces, Screen
from omakase.evaluate.engine import Evaluator, live
from omakase.evaluate.outcome import Outcome, outcome
from omakase.evaluate.workers import Workers
from omakase.project import edits, translate
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import Brief, Candidate, LayerRecord, new_id

Matter = Literal["mass", "cost", "thickness", "hours"]
MATTERS: tuple[Matter, ...] = ("mass", "cost", "thickness", "hours")
MOST = 3_000_000  # combinations; above it as many are drawn at random
CHUNK = 2048
FEW = 8 * CHUNK  # combinations that are sooner looked at here than by worker processes
SEED = 20260101
WAVE = 12  # tasks handed to the workers at a time, of so many candidates each
PER_TASK = 6
DOUBT = 0.08  # quick shares this near below 1 are judged in full
LEAST_BAD = 8  # judged in full when nothing passes
ROBUST = 24  # judged in full for the most robust
HEAVIER = 1.25  # times the lightest that a most robust one may weigh
# time to cut, wet and lay one layer, and to fit and bed a core; assumed, common practice, no source
HOURS_PER_LAYER, HOURS_PER_AREA, CORE_LAYERS = 0.15, 0.4, 2.0  # h, h/m², layers that a core takes as long as
CARBON, METAL_CORES = ("carbon",), ("alhc",)


class MenuChoices(msgspec.Struct, frozen=True):
    """What may be used and what must hold.

    ``skins`` : short names of plies; ``angles`` in degrees; plies per face from ``fewest`` to ``most``; ``unequal``
    faces allowed, otherwise face B mirrors face A.  ``cores`` by short name with ``thicknesses`` in m, or as sold
    between the least and the largest of these when ``sold``.  ``balanced`` : as many plies at +θ as at −θ in each face;
    ``outside_45`` : the outermost ply at ±45°; ``isolation`` : no carbon next to a metal core; at most ``materials``
    different materials.  ``matters`` : what the trade-off is between, first the first.
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


def choices_of(brief: Brief, materials: Mapping[str, Material]) -> MenuChoices:
    """Choices to begin with: the cloths and cores of the brief's candidates, and thicknesses around theirs."""
    layers = [layer for candidate in brief.candidates for layer in candidate.layers if layer.material in materials]
    plies = [layer.material for layer in layers if layer.role == "ply" and materials[layer.material].kind == "ply"]
    cores = [layer for layer in layers if layer.role == "core" and materials[layer.material].kind == "core"]
    sizes = [layer.thickness or 0.01 for layer in cores] or [0.01]
    low, high = 0.5 * min(sizes), 1.5 * max(sizes)
    steps = tuple(round(low + (high - low) * k / 5.0, 4) for k in range(6))
    return MenuChoices(
        tuple(dict.fromkeys(plies))[:4] or ("twill200",),
        tuple(dict.fromkeys(layer.material for layer in cores))[:4] or ("pvc80",),
        thicknesses=steps,
    )


class Dish(msgspec.Struct, frozen=True):
    """One verified combination: ``values`` of what matters in order; ``titles`` : what it is the best in."""

    candidate: Candidate
    outcome: Outcome
    values: tuple[float, ...]
    titles: tuple[str, ...] = ()


class Menu(msgspec.Struct, frozen=True):
    """The state of a search.

    ``dishes`` : verified ones that no other verified one beats in everything that matters, and the titled ones.
    ``excluded`` : how many combinations each reason has put out.  ``enumerated`` : all combinations were looked at;
    ``complete`` : every one was rejected for certain, judged, or beaten.  ``least_bad`` : when nothing passes.
    """

    total: int
    looked: int = 0
    left: int = 0
    judged: int = 0
    open: int = 0
    enumerated: bool = True
    complete: bool = False
    excluded: dict[str, int] = {}
    dishes: tuple[Dish, ...] = ()
    least_bad: tuple[Dish, ...] = ()
    points: tuple[tuple[float, float, bool], ...] = ()

    @property
    def proof(self) -> str:
        """What the menu can be trusted for, in words."""
        if not self.complete:
            return f"not finished: {self.open} combinations are still open"
        if not self.enumerated:
            return f"sampled: {self.looked:,} of {self.total:,} combinations were looked at; there may be better ones"
        return f"enumerated: all {self.total:,} combinations were looked at, none that is better was left out"


def as_candidate(dish: Dish, brief: Brief, after: str) -> tuple[ArrangeCandidates, str]:
    """(command, id) that puts a dish into the line-up beside the candidate ``after``, its origin noted."""
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    title = f"{dish.titles[0]} of the menu" if dish.titles else "of the menu"
    new = replace(dish.candidate, id=identity, name=title.capitalize(), origin=f"menu: {', '.join(dish.titles)}")
    return edits.insert_candidate(brief, new, after, f"add {title}"), identity


class _Space:
    """All combinations of the choices as four arrays of indices, with what is known of them exactly."""

    def __init__(self, brief: Brief, choices: MenuChoices, materials: Mapping[str, Material]) -> None:
        unknown = [name for name in (*choices.skins, *choices.cores) if name not in materials]
        if unknown:
            raise OmakaseError(f"no material is called '{unknown[0]}'")
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
        self._prices = np.array([self._price(face) for face in self.top]) * brief.member.length * brief.member.width

    def count(self, reason: str, number: int) -> None:
        if number:
            self.excluded[reason] = self.excluded.get(reason, 0) + int(number)

    def _plies(self) -> list[LayerRecord]:
        """Different plies: of a cloth alike both ways, 90° is 0° over again, and −45° is 45°."""
        found: dict[tuple[str, float], LayerRecord] = {}
        for name in self.choices.skins:
            own = self.materials[name]
            alike = own.kind == "ply" and math.isclose(own.value("E1"), own.value("E2")) and not own.has_face
            for angle in self.choices.angles:
                key = angle % 90.0 if alike else edits.step_angle(angle, 0.0)
                found.setdefault((name, key), LayerRecord(name, edits.step_angle(angle, 0.0)))
        return list(found.values())

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
            own = self.materials[layer.material]
            free = (0.0, 45.0, 90.0) if own.kind == "ply" and own.is_woven else (0.0, 90.0)
            if abs(layer.angle) not in free:
                key = layer.material, abs(layer.angle)
                sums[key] = sums.get(key, 0) + (1 if layer.angle > 0.0 else -1)
        return not any(sums.values())

    def _cores(self) -> tuple[np.ndarray, np.ndarray]:
        """(index of the core, thickness) of each core in each thickness."""
        own: list[int] = []
        sizes: list[float] = []
        low, high = min(self.choices.thicknesses), max(self.choices.thicknesses)
        for i, name in enumerate(self.choices.cores):
            sold = self.materials[name].sold
            wanted = self.choices.thicknesses
            if self.choices.sold and sold:
                wanted = tuple(t for t in sold if low * (1.0 - 1e-9) <= t <= high * (1.0 + 1e-9))
            own += [i] * len(wanted)
            sizes += wanted
        return np.array(own, dtype=int), np.array(sizes)

    def _price(self, face: Sequence[LayerRecord]) -> float:
        return sum(
            self.materials[layer.material].value("price")
            for layer in face
            if "price" in self.materials[layer.material].properties
        )

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
        carbon = np.array([self.materials[face[-1].material].family in CARBON for face in self.top])
        metal = np.array([name.startswith(METAL_CORES) for name in self.choices.cores])
        bare = metal[batch.core] & (carbon[batch.face_a] | carbon[batch.face_b])
        self.count("carbon on a metal core", int((bare & few).sum()))
        return few & ~bare

    def candidate(self, a: int, b: int, core: int, thickness: float) -> Candidate:
        """One combination as a candidate of its own."""
        own = self.choices.cores[core]
        layers = (*self.top[a], LayerRecord(own, 0.0, round(float(thickness), 9), "core"), *self.bottom[b])
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
        stacks = [translate.stack(own, self.materials) for own in combinations]
        return [stack for stack in stacks if stack.core is not None]

    def value(self, matter: Matter, screen: Screen, batch: Batch) -> np.ndarray:
        """What matters, of each combination, exactly."""
        area = screen.panel.length * screen.panel.width
        if matter == "mass":
            return screen.areal_mass(batch) * area
        if matter == "cost":
            return self._prices[batch.face_a] + self._prices[batch.face_b]
        if matter == "thickness":
            return screen.total_thickness(batch)
        count = np.array([len(face) for face in self.top])
        layers = count[batch.face_a] + count[batch.face_b] + CORE_LAYERS
        return layers * (HOURS_PER_LAYER + HOURS_PER_AREA * area)


class MenuSearch:
    """One search.  ``cancelled`` is asked at every step; the menu so far stays what it is."""

    def __init__(
        self,
        brief: Brief,
        choices: MenuChoices,
        materials: Mapping[str, Material],
        evaluator: Evaluator,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> None:
        self.brief, self.choices, self.materials = brief, choices, materials
        self._evaluator, self._cancelled = evaluator, cancelled

    def run(self, workers: Workers | None = None) -> Iterator[Menu]:
        """The menu as it grows; the last one is complete unless cancelled.  Raises OmakaseError."""
        space = _Space(self.brief, self.choices, self.materials)
        materials = dict(self.materials)
        if workers is None:
            screen, shapes = (_build(self._evaluator, (self.brief, space, materials), what) for what in (True, False))
        else:  # there, so that the window keeps this process to itself
            built = dict(workers.run(_build, (self.brief, space, materials), [True, False], self._cancelled))
            if len(built) < 2:
                return
            screen, shapes = built[0], built[1]
        menu = Menu(space.total, enumerated=space.enumerated)
        yield menu
        kept: list[Batch] = []
        shares: list[np.ndarray] = []
        looked = 0
        for k, (batch, (share, rule)) in enumerate(self._look(space, screen, workers)):
            if self._cancelled():
                return
            for which, number in zip(*np.unique(rule[rule >= 0], return_counts=True), strict=True):
                space.count(RULES[int(which)].replace("_", " "), int(number))
            left = np.flatnonzero(rule < 0)
            kept.append(batch.take(left))
            shares.append(share[left])
            looked += len(batch)
            if k % 16 == 15:
                yield msgspec.structs.replace(menu, looked=looked, excluded=dict(space.excluded))
        if self._cancelled():
            return
        every = _joined(kept)
        share = np.concatenate(shares) if shares else np.zeros(0)
        menu = msgspec.structs.replace(menu, looked=looked, left=len(every), excluded=dict(space.excluded))
        yield menu
        if not len(every):
            yield from self._nothing(space, screen, menu)
            return
        judge = _Judge(self, space, shapes, workers)
        try:
            yield from self._judge(space, screen, every, share, menu, judge)
        finally:
            judge.close()

    def _look(
        self, space: _Space, screen: Screen, workers: Workers | None
    ) -> Iterator[tuple[Batch, tuple[np.ndarray, np.ndarray]]]:
        """Each chunk of the combinations with what the screen says of it, in order."""
        if workers is None or space.allowed < FEW:
            for batch in space.batches():
                yield batch, screen.look(batch)
            return
        batches = space.batches()
        with workers.session(screen) as session:
            while chunk := list(itertools.islice(batches, 4 * workers.count)):
                found = dict(session.run(_look_at, chunk, self._cancelled))
                if len(found) < len(chunk):
                    return  # cancelled
                for i, batch in enumerate(chunk):
                    yield batch, found[i]

    # --- parts of a search ----------------------------------------------------------------------------------

    def _judge(
        self, space: _Space, screen: Screen, every: Batch, share: np.ndarray, menu: Menu, judge: _Judge
    ) -> Iterator[Menu]:
        values = np.stack([space.value(matter, screen, every) for matter in self.choices.matters], axis=1)
        best = np.stack([space.value(matter, screen, every) for matter in MATTERS], axis=1)
        state = _State(values, best)
        for rows in _waves(state):
            if self._cancelled():
                return
            for row, found in judge.all(rows, every):
                state.note(row, found)
                if not found.passes:
                    space.count(f"judged: {_reason(found)}", 1)
            yield self._menu(space, every, state, menu, False)
            if self._cancelled():
                return
        # the most robust among those not much heavier than the lightest
        if state.passing:
            lightest = min(best[row, 0] for row in state.passing)
            near = np.flatnonzero((best[:, 0] <= HEAVIER * lightest) & ~state.judged)
            near = near[np.argsort(-share[near], kind="stable")][:ROBUST]
            for row, found in judge.all(near.tolist(), every):
                state.note(row, found)
            yield self._menu(space, every, state, menu, True)
        else:
            yield self._menu(space, every, state, menu, True)

    def _menu(self, space: _Space, every: Batch, state: _State, menu: Menu, done: bool) -> Menu:
        dishes = []
        titles = state.titles()
        for row in sorted(set(state.front()) | set(titles), key=lambda row: tuple(state.values[row])):
            candidate = _candidate(space, every, row)
            dishes.append(
                Dish(candidate, state.outcomes[row], tuple(map(float, state.values[row])), tuple(titles.get(row, ())))
            )
        nearest = sorted(state.outcomes.items(), key=lambda item: (-item[1].share, item[0]))[:LEAST_BAD]
        least_bad = [Dish(_candidate(space, every, row), own, ()) for row, own in nearest if not state.passing]
        second = 1 if state.values.shape[1] > 1 else 0
        points = tuple(
            (float(state.values[row, 0]), float(state.values[row, second]), own.passes)
            for row, own in sorted(state.outcomes.items())
        )
        return msgspec.structs.replace(
            menu, judged=len(state.outcomes), open=0 if done else int(state.open.sum()), complete=done,
            excluded=dict(space.excluded), dishes=tuple(dishes), least_bad=tuple(least_bad), points=points,
        )  # fmt: skip

    def _nothing(self, space: _Space, screen: Screen, menu: Menu) -> Iterator[Menu]:
        """The screen leaves nothing: those that come nearest by it, judged in full, with what blocks them."""
        nearest: list[tuple[float, int, Candidate]] = []
        for k, batch in enumerate(space.batches()):
            if self._cancelled():
                return
            share, _ = screen.look(batch)
            for row in np.argsort(-share)[:LEAST_BAD]:
                nearest.append((float(-share[row]), k, _candidate(space, batch, int(row))))
        nearest.sort(key=lambda item: item[:2])
        dishes = []
        for _, _, candidate in nearest[:LEAST_BAD]:
            result = self._evaluator.evaluate(self.brief, candidate, self.materials)
            dishes.append(Dish(candidate, outcome(self.brief, result, self.materials), ()))
        dishes.sort(key=lambda dish: -dish.outcome.share)
        yield msgspec.structs.replace(menu, complete=True, open=0, least_bad=tuple(dishes))


class _State:
    """What is known of the combinations that the screen left: ``open`` ones are neither judged nor beaten."""

    def __init__(self, values: np.ndarray, best: np.ndarray) -> None:
        self.values, self.best = values, best
        self.open = np.ones(len(values), dtype=bool)
        self.judged = np.zeros(len(values), dtype=bool)
        self.outcomes: dict[int, Outcome] = {}
        self.passing: list[int] = []

    def note(self, row: int, found: Outcome) -> None:
        """Takes the judgement of one; what it beats or equals in everything that matters is no longer open."""
        self.judged[row] = True
        self.open[row] = False
        self.outcomes[row] = found
        if found.passes:
            self.passing.append(row)
            self.open &= ~np.all(self.values >= self.values[row] * (1.0 - 1e-9), axis=1)

    def front(self) -> list[int]:
        """Passing ones that no other passing one beats."""
        found = []
        for row in self.passing:
            own = self.values[row]
            beaten = any(
                np.all(self.values[other] <= own * (1.0 + 1e-9)) and np.any(self.values[other] < own * (1.0 - 1e-9))
                for other in self.passing
            )
            twin = any(np.allclose(self.values[other], own, rtol=1e-9) and other < row for other in self.passing)
            if not beaten and not twin:
                found.append(row)
        return found

    def titles(self) -> dict[int, list[str]]:
        """What verified ones are the best in: lightest, cheapest, thinnest, simplest, most robust."""
        found: dict[int, list[str]] = {}
        if not self.passing:
            return found
        lightest = min(self.best[row, 0] for row in self.passing)
        for column, title in enumerate(("lightest", "cheapest cloth", "thinnest", "simplest")):
            row = min(self.passing, key=lambda row: (self.best[row, column], self.best[row, 0], row))
            found.setdefault(row, []).append(title)
        near = [row for row in self.passing if self.best[row, 0] <= HEAVIER * lightest]
        row = max(near, key=lambda row: (self.outcomes[row].share, -row))
        found.setdefault(row, []).append("most robust")
        return found


def _waves(state: _State) -> Iterator[list[int]]:
    """Open combinations to judge next: the best in each thing that matters in turn, as many as the workers take."""
    orders = [np.argsort(column, kind="stable") for column in state.values.T]
    at = [0] * len(orders)
    size = WAVE
    while state.open.any():
        wave: dict[int, None] = {}
        while len(wave) < size:
            before = len(wave)
            for which, order in enumerate(orders):
                while at[which] < len(order) and not state.open[order[at[which]]]:
                    at[which] += 1
                place = at[which]
                while place < len(order) and (not state.open[order[place]] or int(order[place]) in wave):
                    place += 1
                if place < len(order):
                    wave[int(order[place])] = None
            if len(wave) == before:
                break
        yield list(wave)
        size = min(2 * size, WAVE * PER_TASK)


class _Judge:
    """Judges combinations: quickly, and in full what may pass; on worker processes if there are any."""

    def __init__(self, search: MenuSearch, space: _Space, shapes: ReducedPanel, workers: Workers | None) -> None:
        self._space, self.workers = space, workers
        self._common = (search.brief, dict(search.materials), shapes)
        self._evaluator, self._cancelled = search._evaluator, search._cancelled
        self._session = workers.session(self._common) if workers is not None else None

    def close(self) -> None:
        """Lets go of what the workers share."""
        if self._session is not None:
            self._session.close()

    def all(self, rows: Sequence[int], every: Batch) -> list[tuple[int, Outcome]]:
        """(row, outcome) in the order asked, so that the same search gives the same result."""
        candidates = [_candidate(self._space, every, row) for row in rows]
        if self._session is None:
            found = _judge_some(self._evaluator, self._common, candidates)
            return list(zip(rows, found, strict=True))
        tasks = [candidates[i : i + PER_TASK] for i in range(0, len(candidates), PER_TASK)]
        results = dict(self._session.run(_judge_some, tasks, self._cancelled))
        return [(rows[PER_TASK * i + k], own) for i in sorted(results) for k, own in enumerate(results[i])]


def _build(_evaluator: Evaluator, common: tuple[Brief, _Space, dict[str, Material]], first: bool) -> Any:
    """The screen, or the shapes for quick answers, of a space of combinations."""
    brief, space, materials = common
    panel, span = translate.panel(brief), space.span()
    cases = tuple(translate.load_case(case) for case in brief.load_cases)
    if not first:
        shapes = ReducedPanel(panel, cases, span, live(brief), 2)
        shapes.respond(span[0], cases)
        return shapes
    top, bottom = (
        Faces([tuple(translate.layer(layer, materials) for layer in face) for face in faces])
        for faces in (space.top, space.bottom)
    )
    cores = Cores([materials[name] for name in space.choices.cores], [0.0] * len(space.choices.cores))
    return Screen(panel, cases, translate.limits(brief), translate.settings(brief), span[:8], (top, bottom), cores)


def _look_at(_evaluator: Evaluator, screen: Screen, batch: Batch) -> tuple[np.ndarray, np.ndarray]:
    return screen.look(batch)


def _judge_some(evaluator: Evaluator, common: tuple, candidates: list[Candidate]) -> list[Outcome]:
    brief, materials, shapes = common
    found = []
    for candidate in candidates:
        if not evaluator.prepared(brief, candidate):
            evaluator.take_shapes(brief, candidate, shapes)
        own = outcome(brief, evaluator.quick(brief, candidate, materials), materials)
        if own.share >= 1.0 - DOUBT:
            own = outcome(brief, evaluator.evaluate(brief, candidate, materials), materials)
        found.append(own)
    return found


def _candidate(space: _Space, every: Batch, row: int) -> Candidate:
    return space.candidate(
        int(every.face_a[row]), int(every.face_b[row]), int(every.core[row]), float(every.thickness[row])
    )


def _joined(batches: list[Batch]) -> Batch:
    if not batches:
        empty = np.zeros(0, dtype=int)
        return Batch(empty, empty, empty, np.zeros(0))
    names = ("face_a", "face_b", "core", "thickness")
    return Batch(*(np.concatenate([getattr(batch, name) for batch in batches]) for name in names))


def _reason(found: Outcome) -> str:
    """The check that a judged one fails, without numbers."""
    if found.error:
        return "cannot be evaluated"
    words = [word for word in found.governs.split(",")[0].split(" ") if not word.replace(".", "").isdigit()]
    return " ".join(words).lower()
