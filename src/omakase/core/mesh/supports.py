"""Supports of a mesh of bricks as a solver takes them: displacements that are zero, and sums of them that are.

A direction that is no axis is held by the sum of its parts.  Each sum has one displacement that follows from the
others, which comes first and is first in no other sum.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec
import numpy as np

from omakase.core.mesh.mesh import Tie

PLACES = np.array([0.125, 0.375, 0.625, 0.875])  # of the half length, and of the width
SLIGHTLY = 0.01  # of the size: by so much the lowest and the highest node over each other are drawn apart
NOTHING = 1e-9  # of a unit vector: parts smaller than this are none
When = Literal["always", "held", "loose"]
Key = tuple[int, int]  # node, axis
RIGID = 1e-6  # of the largest: a movement held by less than this is free


class Resolved(msgspec.Struct, frozen=True, eq=False):
    """``nodes`` : with those that stand for released sums and springs at the end.  ``held``, ``loose`` : (n, 3) which
    displacements are zero, with the supports and without those that are released.  ``sums`` : of both.
    """

    nodes: np.ndarray
    held: np.ndarray
    loose: np.ndarray
    sums: tuple[Tie, ...]
    springs: tuple[tuple[int, int, float], ...]


class Supports:
    """What holds the nodes (n, 3) of a mesh, gathered piece by piece.

    ``when`` : "always", or "held" for supports that some load cases release, or "loose" for what holds under these
    only.
    """

    def __init__(self, nodes: np.ndarray, on_it: np.ndarray | tuple[()] = ()) -> None:
        """``on_it`` : nodes (m, 3) of what is bonded to it, numbered after its own."""
        self._body = nodes
        self.nodes = np.concatenate([nodes, np.reshape(on_it, (-1, 3))])
        self._held: dict[When, dict[int, list[np.ndarray]]] = {"always": {}, "held": {}, "loose": {}}
        self._known: set[tuple[object, ...]] = set()
        self._springs: list[tuple[np.ndarray, np.ndarray, float]] = []
        self._sums: dict[When, list[tuple[np.ndarray, np.ndarray]]] = {"always": [], "held": [], "loose": []}

    def hold(self, nodes: Iterable[int], directions: np.ndarray, when: When = "always") -> None:
        """Keeps nodes from moving along unit vectors, (3,) of all or (n, 3) of each."""
        own = list(nodes)
        for node, direction in zip(own, np.broadcast_to(directions, (len(own), 3)), strict=True):
            self._held[when].setdefault(int(node), []).append(direction)

    def tie(self, nodes: np.ndarray, directions: np.ndarray, when: When = "always") -> None:
        """Keeps Σ direction · displacement of nodes (k,) at zero, ``directions`` (k, 3); the same one only once."""
        key = tuple(nodes.tolist()), tuple(np.abs(directions).round(6).ravel().tolist())  # a corner is on two edges
        if key not in self._known:
            self._known.add(key)
            self._sums[when].append((nodes, directions))

    def spring(self, nodes: np.ndarray, directions: np.ndarray, stiffness: float) -> None:
        """A spring, N/m, at Σ direction · displacement of nodes (k,), ``directions`` (k, 3)."""
        self._springs.append((nodes, directions, stiffness))

    def holds(self, node: int, direction: np.ndarray) -> bool:
        """Whether a node is kept from moving along a direction by itself."""
        rows = [row for held in self._held.values() for row in held.get(int(node), [])]
        return bool(rows) and _rank(np.array([*rows, direction])) == _rank(np.array(rows))

    def keep_from_sliding(self, under: tuple[When, ...], when: When) -> None:
        """Holds what nothing of ``under`` does of the movements of a rigid body along x and y and about z.

        Where nothing is "loose" it is the mean of some places all over it, which bends nothing and leaves vibrations
        as they are.
        """
        middle = (self._body.max(axis=0) + self._body.min(axis=0)) / 2.0
        at = (self._body - middle) / float(np.abs(self._body - middle).max())
        rows = [_rigid(at[node]).T @ own for name in under for node, held in self._held[name].items() for own in held]
        rows += [_moved(at[nodes], directions) for name in under for nodes, directions in self._sums[name]]
        found = np.array(rows).reshape(-1, 6)
        if when == "loose":
            nodes = [int(np.argmin(np.abs(at - place).sum(axis=1))) for place in ((0.0, 0.0, 0.0), (0.5, 0.0, 0.0))]
            wanted = [(nodes[:1], np.eye(3)[:1]), (nodes[:1], np.eye(3)[1:2]), (nodes[1:], np.eye(3)[1:2])]
        else:
            left, right = (_spread(at, sign) for sign in (-1.0, 1.0))
            every = [(left + right, 0), (left, 1), (right, 1)]  # no displacement in two of them
            wanted = [(own, np.tile(np.eye(3)[axis], (len(own), 1)) / len(own)) for own, axis in every]
        for own, directions in wanted:
            more = np.vstack([found, _moved(at[own], directions)])
            if _rank(more) > _rank(found):
                found = more
                if when == "loose":
                    self.hold(own, directions[0], when)
                else:
                    self.tie(np.array(own), directions, when)

    def resolved(self) -> Resolved:
        """All of it by displacements that are zero and sums of them."""
        held, loose = np.zeros((len(self.nodes), 3), bool), np.zeros((len(self.nodes), 3), bool)
        ties = Eliminated()
        released: list[tuple[np.ndarray, np.ndarray]] = []
        tied: set[int] = set()  # nodes that a sum of their own displacements holds always
        for when, gathered in self._held.items():
            for node, own in gathered.items():
                for row, pivot in _reduced(np.array(own)):
                    if np.count_nonzero(np.abs(row) > NOTHING) == 1 and node not in tied:
                        held[node, pivot] |= when != "loose"
                        loose[node, pivot] |= when != "held"
                    elif when == "always":
                        tied.add(node)
                        ties.add(_terms(np.array([node]), row[None], held), held)
                    else:
                        released.append((np.array([node]), row[None]))
        for nodes, directions in self._sums["always"]:
            terms = ties.reduced(_terms(nodes, directions, held & loose))
            if len(terms) == 1:
                (only,) = terms
                held[only] = loose[only] = True
            else:
                ties.add(terms, held | loose)
        extra: list[np.ndarray] = []
        springs: list[tuple[int, int, float]] = []
        summed = [(*own, 0.0) for own in (*released, *self._sums["held"])] + self._springs
        for nodes, directions, stiffness in summed:
            aside = len(self.nodes) + len(extra), 0
            terms = ties.reduced(_terms(nodes, directions, held & loose))
            if _free(terms, held | loose):
                # what a spring acts on follows from the panel, what a support releases leads it
                ties.add({**terms, aside: -1.0}, held | loose, aside if stiffness else None)
                extra.append(self.nodes[nodes[0]])
                springs += [(*aside, stiffness)] if stiffness else []
        # of such a node only the first displacement stands for a sum; the others are held, since nothing else would
        more, free = np.ones((len(extra), 3), bool), np.tile([False, True, True], (len(extra), 1))
        sprung = [number - len(self.nodes) for number, _, _ in springs]
        more[sprung] = free[sprung]
        return Resolved(
            np.concatenate([self.nodes, np.array(extra).reshape(-1, 3)]), np.concatenate([held, more]),
            np.concatenate([loose, free]), ties.listed(), tuple(springs),
        )  # fmt: skip


class Eliminated:
    """Sums of displacements that are zero, in an order in which each has a displacement of its own that no later one
    has: a solver can take these out one after the other, and never finds that one is left with nothing."""

    def __init__(self) -> None:
        self._following: dict[Key, dict[Key, float]] = {}  # a displacement by those that lead it

    def reduced(self, terms: dict[Key, float]) -> dict[Key, float]:
        """A sum by displacements that follow from no others; empty where other sums make it zero."""
        left = dict(terms)
        largest = max(map(abs, left.values()), default=0.0)
        while following := [key for key in left if key in self._following]:
            for key in following:
                share = left.pop(key)
                for other, weight in self._following[key].items():
                    left[other] = left.get(other, 0.0) + share * weight
        return {key: value for key, value in left.items() if abs(value) > NOTHING * largest}

    def add(self, terms: dict[Key, float], held: np.ndarray, first: Key | None = None) -> None:
        """Adds a sum that is ``reduced``; ``first`` : the displacement that follows, else the one with the largest
        weight that is not ``held``."""
        if first is None:
            free = _free(terms, held)
            if not free:
                return  # other supports hold what it does
            first = max(free, key=lambda key: abs(terms[key]))
        weight = terms[first]
        self._following[first] = {key: -value / weight for key, value in terms.items() if key != first}

    def listed(self) -> tuple[Tie, ...]:
        """Each with the displacement that follows in front."""
        found = []
        for first, leading in self._following.items():
            keys = np.array([first, *leading])
            weights = np.array([1.0, *(-value for value in leading.values())])
            found.append((keys[:, 0], keys[:, 1], weights))
        return tuple(found)


def _free(terms: dict[Key, float], held: np.ndarray) -> list[Key]:
    """Displacements of bricks that are not ``held``."""
    return [key for key in terms if key[0] < len(held) and not held[key]]


def _terms(nodes: np.ndarray, directions: np.ndarray, held: np.ndarray) -> dict[Key, float]:
    """Weights of all parts that can move."""
    found: dict[Key, float] = {}
    for node, own in zip(nodes.tolist(), directions, strict=True):
        for axis in range(3):
            if abs(own[axis]) > NOTHING and not held[node, axis]:
                found[node, axis] = found.get((node, axis), 0.0) + float(own[axis])
    return found


def _spread(at: np.ndarray, sign: float) -> list[int]:
    """Lowest and highest nodes near places spread evenly over the half of a body that lies toward ``sign`` x."""
    low, high = at[:, :2].min(axis=0), at[:, :2].max(axis=0)
    levels = at[:, 2].min(), at[:, 2].max()
    found = set()
    for x in PLACES:
        for y in PLACES:
            place = (low + high) / 2.0 + (sign * x * (high[0] - low[0]) / 2.0, (y - 0.5) * (high[1] - low[1]))
            off = ((at[:, :2] - place) ** 2).sum(axis=1)
            found |= {int(np.argmin(off + SLIGHTLY * (at[:, 2] - level) ** 2)) for level in levels}
    return sorted(found)


def _rank(rows: np.ndarray) -> int:
    return int(np.linalg.matrix_rank(rows, RIGID)) if len(rows) else 0


def _rigid(at: np.ndarray) -> np.ndarray:
    """Displacement (3,) at a place by the six movements of a rigid body: (3, 6)."""
    x, y, z = at
    return np.array([
        [1.0, 0.0, 0.0, 0.0, z, -y],
        [0.0, 1.0, 0.0, -z, 0.0, x],
        [0.0, 0.0, 1.0, y, -x, 0.0],
    ])  # fmt: skip


def _moved(at: np.ndarray, directions: np.ndarray) -> np.ndarray:
    """Σ direction · displacement of places by the six movements of a rigid body: (6,)."""
    return np.einsum("kir,ki->r", np.array([_rigid(own) for own in at]), directions)


def _reduced(rows: np.ndarray) -> list[tuple[np.ndarray, int]]:
    """The same directions as rows of which each is 1 at an axis of its own, where the others are 0, with that axis."""
    left = rows.copy()
    found: list[tuple[np.ndarray, int]] = []
    for _ in range(3):
        if not len(left) or np.abs(left).max() < RIGID:
            break
        i, pivot = (int(own) for own in np.unravel_index(int(np.abs(left).argmax()), left.shape))
        row = left[i] / left[i, pivot]
        left = np.delete(left, i, axis=0)
        left = left - np.outer(left[:, pivot], row)
        found = [(own - own[pivot] * row, axis) for own, axis in found] + [(row, pivot)]
    return found
