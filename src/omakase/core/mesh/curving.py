"""Where the middle surface of a panel is in space, and which way it faces: flat, arched along x or y, a round dish."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from omakase.core.members.panel_given import Arc, Panel

STEPS = 6  # toward the place of the surface that a point is nearest to


class Curving(msgspec.Struct, frozen=True):
    """The middle surface: circular arcs along both sides of a rectangle, added up; a paraboloid over a round plan.

    Places ``at`` (n, 2) are those of ``Panel.surface``: along the arcs of a rectangle, in the plan of a round panel,
    from its corner.  x, y and z are those of the plan, z toward face A, its edges at z = 0.

    ``dish`` : how far the middle of a round panel lies above its rim, m.
    """

    x: Arc
    y: Arc
    dish: float = 0.0
    round: bool = False

    @property
    def flat(self) -> bool:
        return self.dish == self.x.rise == self.y.rise == 0.0

    def points(self, at: np.ndarray) -> np.ndarray:
        """(n, 3) m."""
        if self.round:
            off = 2.0 * at / (self.x.chord, self.y.chord) - 1.0
            return np.column_stack([at, self.dish * (1.0 - (off**2).sum(axis=1))])
        x, y = at.T
        return np.column_stack([self.x.on_chord(x), self.y.on_chord(y), _height(self.x, x) + _height(self.y, y)])

    def tangents(self, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Derivatives of ``points`` along both coordinates, (n, 3) each."""
        none, one = np.zeros(len(at)), np.ones(len(at))
        if self.round:
            off = 2.0 * at / (self.x.chord, self.y.chord) - 1.0
            slopes = -4.0 * self.dish * off / (self.x.chord, self.y.chord)
            return np.column_stack([one, none, slopes[:, 0]]), np.column_stack([none, one, slopes[:, 1]])
        x, y = (_tilt(arc, at[:, axis]) for axis, arc in enumerate((self.x, self.y)))
        return np.column_stack([np.cos(x), none, -np.sin(x)]), np.column_stack([none, np.cos(y), -np.sin(y)])

    def pushed(self, at: np.ndarray) -> np.ndarray:
        """What a pressure of 1 pushes with per area of the coordinates, (n, 3), away from face B."""
        return np.cross(*self.tangents(at))

    def frames(self, at: np.ndarray) -> np.ndarray:
        """Unit vectors along x, across it in the surface, and away from it toward face A: (n, 3, 3), one a row."""
        first, _ = self.tangents(at)
        first /= np.linalg.norm(first, axis=1)[:, None]
        normal = self.pushed(at)
        normal /= np.linalg.norm(normal, axis=1)[:, None]
        return np.stack([first, np.cross(normal, first), normal], axis=1)

    def nearest(self, points: np.ndarray) -> np.ndarray:
        """The places that (n, 3) points lie above or below, (n, 2)."""
        at = points[:, :2].copy()
        for _ in range(0 if self.flat else STEPS):
            off = points - self.points(at)
            along, across = self.tangents(at)
            # the step in both tangents that leaves nothing of the way along them
            a, b, c = (along**2).sum(axis=1), (along * across).sum(axis=1), (across**2).sum(axis=1)
            p, q = (off * along).sum(axis=1), (off * across).sum(axis=1)
            at += np.column_stack([c * p - b * q, a * q - b * p]) / (a * c - b**2)[:, None]
        return at


def curving_of(panel: Panel) -> Curving:
    """How a panel is curved."""
    surface = panel.surface
    return Curving(surface.x, surface.y, surface.dish, surface.round)


def _tilt(arc: Arc, along: np.ndarray) -> np.ndarray:
    """By how much the arc falls, rad: negative before its middle where that lies above the ends."""
    return (along - arc.length / 2.0) * arc.curvature


def _height(arc: Arc, along: np.ndarray) -> np.ndarray:
    """Height above the ends, m."""
    k = arc.curvature
    if k == 0.0:
        return np.zeros(len(along))
    return np.asarray((np.cos(_tilt(arc, along)) - math.cos(arc.length / 2.0 * k)) / k)
