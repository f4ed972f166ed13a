"""Buckling of the walls of a spar: each as a plate or a curved panel held by its neighbours, and all together."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.checks.limits import ratio
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.walls_together import buckling_of_section
from omakase.core.errors import both_units
from omakase.core.members.field import Place
from omakase.core.members.spar import SparResponse
from omakase.core.members.spar_parts import Chain, sampled_across
from omakase.core.plates.section import PlateSection
from omakase.core.sections.curved_walls import CurvedWall, curved_wall
from omakase.core.sections.long_plates import long_plate

CURVED = np.radians(45.0)  # a wall that turns by more is a shell
FLAT = 0.5  # of its width: one with so long a straight piece is a plate with rounded ends
ROOT = 0.45  # of the largest compression of a flange that counts as even, by finite strips of Z sections
ACROSS = 40  # places across a flange for what acts there
IN_LINE = np.cos(np.radians(35.0))  # of the angle between two walls, from which one goes on as the other
WEAKER = 0.5  # of a wall's bending stiffness across: what has less does not hold its edge as a corner does
RUNS_ON = (
    "an edge runs on into a thinner wall, which holds it less than is taken here: by finite strips narrow caps on thin "
    "skins buckle at a quarter of this, though after the skin; look at what the thinner wall holds"
)
PLACES = 5  # along, at which a curved wall is looked at


@register(
    "wall_buckling", "A cap, flange or web of a spar buckles as a plate",
    "Long orthotropic plates in compression, bending and shear (Kollár and Springer 2003; Seydel 1933); edges of "
    "compressed walls are held by their neighbours, less as those come near to buckling: R_c + R_b² + "
    "R_s² = 1; a curved skin by the part of it that buckles first as a curved panel (Donnell), knocked down after NASA "
    "SP-8007; the whole section by finite strips where walls buckle together earlier (Cheung 1976)",
    "Walls long against their width; ribs shorten a flange's waves and help other walls, which is not counted; in "
    "bending and shear edges turn freely. Walls together: compression along only.",
    per="member",
)  # fmt: skip
def wall_buckling(context: Context) -> list[CheckResult]:
    """One result per load case and wall: the worst place along the span."""
    response = context.response
    if not isinstance(response, SparResponse):
        return []
    worst: dict[tuple[str, str], CheckResult] = {}
    for chain, per_case in zip(response.chains, chain_factors(response), strict=True):
        if chain.wall in response.held_walls:
            continue
        looked_at = response.walls_together or response.together_before
        remarks = (RUNS_ON,) if not looked_at and _runs_on(response, chain) else ()
        for case, (result, factor) in enumerate(zip(response.results, per_case, strict=True)):
            k = int(np.argmin(factor))
            least = float(factor[k]) / context.settings.ultimate_factor
            kept = worst.get((result.case.key, chain.wall))
            if kept is None or least < kept.reserve_factor:
                worst[result.case.key, chain.wall] = ratio(
                    context, "wall_buckling", f"Buckling of the {chain.wall}", result.case, least,
                    Place(float(response.x[k]), wall=chain.wall), _method(response, chain, case), remarks,
                    wall=chain.wall,
                )  # fmt: skip
    return list(worst.values())


def _runs_on(response: SparResponse, chain: Chain) -> bool:
    """Whether a wall goes on straight into a weaker one."""
    lines, own = response.sections.lines, _stiff_across(response, chain.wall)
    ends = ((chain.pieces[0], 0), (chain.pieces[-1], 1))
    for piece, end in ends:
        beside = [int(k) for k in np.nonzero((lines.pieces == lines.pieces[piece, end]).any(axis=1))[0] if k != piece]
        names = [response.walls[lines.walls[k]].name for k in beside]
        if len(beside) == 1 and names[0] != chain.wall:
            straight = abs(float(lines.tangents[0, piece] @ lines.tangents[0, beside[0]])) > IN_LINE
            if straight and _stiff_across(response, names[0]) < WEAKER * own:
                return True
    return False


def _stiff_across(response: SparResponse, name: str) -> float:
    """Bending stiffness across a wall at its first place, N m."""
    return next(long_plate(plate).D22 for _, at, plate in response.wall_at(name) if len(at))


def _method(response: SparResponse, chain: Chain, case: int) -> str:
    whole = earlier_together(response, case, chain)
    if whole is not None:
        return f"finite strips, walls together in half waves of {both_units(round(whole.wave, 3))}"
    if is_curved(chain):
        return "the part of the curved skin that buckles first, knocked down after NASA SP-8007"
    if chain.free:
        return "long orthotropic plate with one edge free, the other held by the web"
    return "long orthotropic plate, edges held by the next walls where in compression"


def chain_factors(response: SparResponse) -> list[list[np.ndarray]]:
    """For each chain and load case the factor on limit loads at which it buckles, at every place along; kept."""
    if "chain_factors" not in response.derived:
        panels = [_Panel(response, chain) for chain in response.chains]
        springs = [_springs(response, panel, panels) for panel in panels]
        loads = [
            [panel.pressed(spring) if spring.any() else panel.loose for spring in own]
            for panel, own in zip(panels, springs, strict=True)
        ]
        alone = [
            [panel.factors(case, pressed) for case, pressed in enumerate(own)]
            for panel, own in zip(panels, loads, strict=True)
        ]
        together = [
            _all_earlier(response, case, panels, loads, alone)
            if response.walls_together
            else response.together_before.get(result.case.key, {})
            for case, result in enumerate(response.results)
        ]
        for case, found in enumerate(together):
            for i, own in found.items():
                alone[i][case] = panels[i].factors(case, loads[i][case], own.share)
        response.derived |= {"chain_springs": springs, "chain_factors": alone, "together": together}
    return response.derived["chain_factors"]


class EarlierTogether(msgspec.Struct, frozen=True):
    """Where a wall buckles with others before it does alone, in half waves ``wave`` m long.

    ``strips`` : the factor of the whole section without shear, at the place looked at; ``knocked`` : what of it is left
    of a curved wall; ``alone`` : the factor of this wall there, without shear too.
    """

    wave: float
    strips: float
    knocked: float
    alone: float

    @property
    def share(self) -> float:
        """What is left of the loads along at which the wall buckles alone."""
        return self.strips * self.knocked / self.alone


def earlier_together(response: SparResponse, case: int, chain: Chain) -> EarlierTogether | None:
    """How a wall buckles with others under a load case, where that is earlier; as kept with ``chain_factors``."""
    chain_factors(response)
    found: dict[int, EarlierTogether] = response.derived["together"][case]
    return found.get(response.chains.index(chain))


def together_by_case(response: SparResponse) -> dict[str, dict[int, EarlierTogether]]:
    """What an answer that does not look at walls together can take over from one that has, for a section of the same
    chains: by the key of the load case and the number of the chain."""
    chain_factors(response)
    return {own.case.key: found for own, found in zip(response.results, response.derived["together"], strict=True)}


def _all_earlier(
    response: SparResponse, case: int, panels: list[_Panel], loads: list[list[np.ndarray]],
    alone: list[list[np.ndarray]],
) -> dict[int, EarlierTogether]:  # fmt: skip
    """Looks at the section where its walls are nearest to buckling alone; by the number of the chain.  The loads along
    at which that wall buckles fall everywhere by the same share."""
    loose = [own[case] for own, panel in zip(alone, panels, strict=True) if panel.chain.wall not in response.held_walls]
    least = np.min(loose, axis=0) if loose else np.array([np.inf])
    k = int(np.argmin(least))
    found = {}
    for whole in buckling_of_section(response, case, k) if np.isfinite(least[k]) else ():
        panel = panels[whole.chain]
        knocked = governing_part(response, panel.chain, case, k).knocked if is_curved(panel.chain) else 1.0
        straight = float(panel.factors(case, loads[whole.chain][case], sheared=False)[k])
        earlier = EarlierTogether(whole.wave, whole.factor, knocked, straight)
        if earlier.share < 1.0:
            found[whole.chain] = earlier
    return found


def chain_springs(response: SparResponse) -> list[list[np.ndarray]]:
    """For each chain and load case the spring that holds its edges against turning, N m/m per rad, at every place; as
    kept with ``chain_factors``."""
    chain_factors(response)
    return response.derived["chain_springs"]


def wall_severity(response: SparResponse, case: int) -> np.ndarray:
    """1 over the least factor of all walls under one load case, at every place along: (places,)."""
    chains = zip(response.chains, chain_factors(response), strict=True)
    loose = [1.0 / own[case] for chain, own in chains if chain.wall not in response.held_walls]
    return np.max(loose, axis=0, initial=0.0) if loose else np.zeros(len(response.x))


def is_curved(chain: Chain) -> bool:
    """Whether a wall between two edges is a shell, not a plate with rounded ends."""
    return chain.turning > CURVED and chain.longest < FLAT and not chain.free


class _Panel:
    """A chain as a plate at every place along: loads at which it buckles and what acts, N/m, (places,).

    ``loose`` : loads along at which it buckles with edges that turn freely, of a curved one in shares of what acts;
    ``simple`` : its factors under each load case then.  ``spring`` : with which it holds the edge of another wall, its
    own other edge turning freely, N m/m per rad.
    """

    def __init__(self, response: SparResponse, chain: Chain) -> None:
        self.chain = chain
        self.wide = wide = response.width(chain)
        self._bay = response.member.rib_pitch
        self.laws = [(at, plate, long_plate(plate)) for _, at, plate in response.wall_at(chain.wall)]
        self.spring, self._sheared, self._bent = np.empty((3, len(wide)))
        for at, _, law in self.laws:
            self.spring[at] = 1.0 / (wide[at] / (3.0 * law.D22) + 1.0 / (wide[at] * law.shear))
        forces = [response.line_forces(chain, case) for case in range(len(response.forces))]
        self._across = [np.abs(N[..., 1]).mean(axis=1) for N in forces]
        along = [-N[..., 0] for N in forces]
        self._straight, self._half = self._shell(response, along) if is_curved(chain) else self._flat(response, along)
        self.loose = self.pressed(np.zeros(len(wide)))
        self.simple = [self.factors(case, self.loose) for case in range(len(response.forces))]

    def _shell(self, response: SparResponse, along: list[np.ndarray]) -> tuple[list[np.ndarray], list[np.ndarray]]:
        """Compression in shares of that at which a part buckles, and no bending."""
        shells = [_Shell(response, self.chain, at, plate) for at, plate, _ in self.laws if len(at)]
        straight = [np.empty(len(self.wide)) for _ in along]
        for shell in shells:
            self._sheared[shell.at], self._bent[shell.at] = shell.sheared, 1.0
            for case, own in enumerate(along):
                straight[case][shell.at] = shell.shares(own[shell.at], response.pulled[case]).max(axis=1)
        return straight, [np.zeros(len(self.wide)) for _ in along]

    def _flat(self, response: SparResponse, along: list[np.ndarray]) -> tuple[list[np.ndarray], list[np.ndarray]]:
        """Even compression and half the difference of both edges, N/m; of a flange the even one that does the same."""
        for at, _, law in self.laws:
            self._bent[at], self._sheared[at] = law.bending(self.wide[at]), law.in_shear(self.wide[at])
        if self.chain.free:
            return [on_flange(response, self.chain, own) for own in along], [np.zeros(len(self.wide)) for _ in along]
        mean = [np.maximum((own[:, 0] + own[:, -1]) / 2.0, 0.0) for own in along]
        return mean, [(own[:, 0] - own[:, -1]) / 2.0 for own in along]

    @property
    def can_hold(self) -> bool:
        """Whether it holds the edge of the next wall: not a flange, which turns with it, nor a bent skin."""
        return not self.chain.free and not is_curved(self.chain)

    def pressed(self, spring: np.ndarray) -> np.ndarray:
        """Load along at which it buckles with edges held by a spring, N/m; 1 of a curved wall, whose parts differ."""
        factors = np.ones(len(self.wide))
        if is_curved(self.chain):
            return factors
        for at, _, law in self.laws:
            if self.chain.free:
                factors[at] = law.flange(self.wide[at], self._bay, spring[at])
            else:
                factors[at] = law.compression(self.wide[at], spring[at])
        return factors

    def factors(self, case: int, pressed: np.ndarray, share: float = 1.0, sheared: bool = True) -> np.ndarray:
        """Factor on the loads of a case where it buckles under compression alone at ``pressed``; ``share`` : what is
        left of that and of the load in bending."""
        square = (self._half[case] / (self._bent * share)) ** 2
        if sheared and not self.chain.free:  # shear dies out toward a free edge
            square = square + (self._across[case] / self._sheared) ** 2
        return _together(self._straight[case] / (pressed * share), square)


def on_flange(response: SparResponse, chain: Chain, along: np.ndarray) -> np.ndarray:
    """Even compression that buckles a flange as what is there ``along`` its samples (places, samples) does, N/m.

    Its mean by the square of the way from the held edge, as a flange deflects that turns freely there, or by the fourth
    power, as a clamped one about does, the larger; at least ``ROOT`` of what is largest anywhere, since one pulled at
    its free edge buckles beside the held one, late.
    """
    lines = response.sections.lines
    samples = sampled_across(lines.lengths[0, list(chain.pieces)])
    samples = samples / samples[-1]
    at = (np.arange(ACROSS) + 0.5) / ACROSS
    hats = np.array([np.interp(at, samples, own) for own in np.eye(len(samples))])  # straight between the samples
    begins_free = np.bincount(lines.pieces.ravel())[lines.pieces[chain.pieces[0], 0]] == 1
    way = 1.0 - at if begins_free else at
    means = [along @ (hats @ (way**power / (way**power).sum())) for power in (2, 4)]
    return np.maximum(np.maximum(*means), ROOT * np.maximum(along.max(axis=1), 0.0))


def _together(straight: np.ndarray, square: np.ndarray) -> np.ndarray:
    """λ with λ a + λ² b = 1 for what grows with the load, ``straight``, and with its ``square``."""
    with np.errstate(divide="ignore"):
        return 2.0 / (straight + np.sqrt(straight**2 + 4.0 * square))


class _Shell:
    """A curved chain in one stretch of even layup: its parts at a few places along, and between them in proportion.

    ``at`` : the sampled places in it; ``sheared`` (places at,) N/m at which it buckles in shear.
    """

    def __init__(self, response: SparResponse, chain: Chain, at: np.ndarray, plate: PlateSection) -> None:
        self.at = at
        lines, length = response.sections.lines, response.member.rib_pitch or response.member.span.length
        every = response.gathered(lines.nodes[:, lines.through(chain.pieces)])[at]
        even = bool((np.ptp(every, axis=0) < 1e-9).all())
        picked = np.unique(np.round(np.linspace(0, len(at) - 1, 1 if even else PLACES)).astype(int))
        corners = every[picked]
        self.walls = [curved_wall(own.tobytes()) for own in corners]
        x = response.x[at]
        self.nearest = np.abs(x[:, None] - x[picked]).argmin(axis=1)
        self.picked, self.plate = at[picked], plate
        self._hats = np.array([np.interp(x, x[picked], own) for own in np.eye(len(picked))]).T  # (places, picked)
        self._loads: dict[str, np.ndarray] = {}
        self.sheared = self._hats @ np.array([wall.sheared(plate, length).min() for wall in self.walls])

    def shares(self, along: np.ndarray, pulled: np.ndarray) -> np.ndarray:
        """The share of its buckling load that compression ``along`` the samples (places at, samples) is in each part:
        (places at, parts); ``pulled`` : where the section is pulled somewhere, at all places of the member."""
        weights = np.array([wall.weights for wall in self.walls])[self.nearest]
        mean = (weights @ along[:, 1:-1, None])[..., 0]  # the middles of the pieces
        here = pulled[self.at]
        if here.all():
            return np.maximum(mean, 0.0) / self._pressed("bending")
        return np.maximum(mean, 0.0) / np.where(here[:, None], self._pressed("bending"), self._pressed("axial"))

    def _pressed(self, loading: str) -> np.ndarray:
        """Loads at which the parts buckle, (places at, parts); kept."""
        if loading not in self._loads:
            of_each = np.array([wall.pressed(self.plate, loading)[0] for wall in self.walls])
            self._loads[loading] = self._hats @ of_each
        return self._loads[loading]


def _springs(response: SparResponse, panel: _Panel, panels: list[_Panel]) -> list[np.ndarray]:
    """Springs at the edges of a wall under each load case, from the walls beside it, each the less the nearer it is to
    buckling itself: (places,), the softer edge's.

    A wall of bending stiffness D, transverse shear S and height h holds an edge by 1/(h/(3 D) + 1/(h S)), its other
    edge turning freely, times one less the share of its own buckling load (as Bleich 1952, chapter 9, from memory,
    takes plates that hold each other).
    """
    lines, chain = response.sections.lines, panel.chain
    if is_curved(chain):
        return [np.zeros(len(simple)) for simple in panel.simple]

    ends = {other.chain: lines.through(other.chain.pieces)[:: len(other.chain.pieces)] for other in panels}
    sides = [
        [other for other in panels if other is not panel and other.can_hold and node in ends[other.chain]]
        for node in ends[chain]
    ]
    found = []
    for case, simple in enumerate(panel.simple):
        springs = []
        for beside in sides:
            if beside or not chain.free:
                springs.append(np.zeros(len(simple)))
            for neighbour in beside:
                with np.errstate(divide="ignore", invalid="ignore"):
                    spent = np.where(np.isfinite(neighbour.simple[case]), simple / neighbour.simple[case], 0.0)
                springs[-1] += neighbour.spring * np.clip(1.0 - spent, 0.0, 1.0)
        found.append(np.min(springs, axis=0) if springs else np.zeros(len(simple)))
    return found


class Part(msgspec.Struct, frozen=True, eq=False):
    """The part of a curved wall that is nearest to buckling at one place: number ``index`` of a ``wall``, which stands
    there where ``exact``, else nearby; ``acting`` compression and that at which it buckles, ``pressed``, N/m; the shear
    flow at which the wall buckles, ``sheared``; the ``loading`` that its knock-down is for, and what of the load of a
    perfect one is left, ``knocked``."""

    wall: CurvedWall
    index: int
    exact: bool
    acting: float
    pressed: float
    sheared: float
    loading: str
    knocked: float


def governing_part(response: SparResponse, chain: Chain, case: int, k: int) -> Part:
    """Of a curved chain under a load case at sampled place ``k``."""
    at, plate = next((at, plate) for _, at, plate in response.wall_at(chain.wall) if k in at)
    shell = _Shell(response, chain, at, plate)
    along = -response.line_forces(chain, case)[..., 0]
    here = int(np.nonzero(at == k)[0][0])
    shares, pulled = shell.shares(along[at], response.pulled[case])[here], bool(response.pulled[case][k])
    index = int(shares.argmax())
    wall = shell.walls[shell.nearest[here]]
    acting = float(wall.weights[index] @ along[k, 1:-1])
    pressed = acting / float(shares[index]) if shares[index] > 0.0 else float("inf")
    exact = len(shell.picked) == 1 or k in shell.picked
    loading = "bending" if pulled else "axial"
    knocked = float(wall.pressed(plate, loading)[0][index] / wall.pressed(plate)[0][index])
    return Part(wall, index, exact, acting, pressed, float(shell.sheared[here]), loading, knocked)
