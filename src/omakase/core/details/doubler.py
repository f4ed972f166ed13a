"""A doubler: layers laid or glued on that take over load along their length; its steps, and where plies end."""

from __future__ import annotations

import math
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.details.adhesive_layer import Glue, end_capacity, moved_bars
from omakase.core.details.detail import DetailError, LineCase, Site, stiffness_along
from omakase.core.errors import both_units
from omakase.core.laminate.stack import Stack

NODES = 601
ENOUGH = 0.95  # of its full share of the load that a doubler is to take in its middle
SLOPE, TOGETHER = 10.0, 0.5e-3  # length over height of a step; m of plies that may end together (common practice)


class Doubler(msgspec.Struct, frozen=True, eq=False, dict=True):
    """``layers`` on the site's laminate over ``length`` m, ending at both ends in ``steps`` steps of ``run`` m each.

    ``glue`` : what holds it, of plies cured together their resin.  ``angle`` : direction of the load, degrees from x
    toward y.  ``covered`` : a ply runs over the steps.  ``tapered`` : scarfed, in place of steps.
    """

    key: str
    name: str
    site: Site
    cases: tuple[LineCase, ...]
    layers: Stack
    length: float
    glue: Glue
    glue_name: str
    steps: int = 1
    run: float = 0.005
    angle: float = 0.0
    covered: bool = True
    tapered: bool = False

    def check(self) -> None:
        """Raises DetailError for sizes that cannot be."""
        for fails, field, message in (
            (
                not 1e-3 <= self.length <= 10.0,
                "length",
                f"a length of {both_units(self.length)} is outside 1 mm to 10 m",
            ),
            (self.steps < 1, "steps", "at least one step"),
            (self.run <= 0.0, "run", "a step has a length"),
            (self.ends >= self.length / 2.0, "run", "its stepped ends meet in the middle: make it longer"),
        ):  # fmt: skip
            if fails:
                raise DetailError(field, message)

    @property
    def ends(self) -> float:
        """Length of one end from the first ply to the last, m: a single step has none."""
        return self.run * self.steps if self.tapered else self.run * (self.steps - 1)

    @cached_property
    def base(self) -> float:
        """N/m of what it lies on: of a sandwich the face that it is on, face A."""
        stack = self.site.stack
        own = stack if stack.core is None else Stack(stack.layers[: stack.core.start])
        return stiffness_along(own, self.angle)

    @cached_property
    def full(self) -> float:
        """N/m of all of it."""
        return stiffness_along(self.layers, self.angle)

    @property
    def share(self) -> float:
        """Share of the load that it takes at most: by stiffness."""
        return self.full / (self.full + self.base)

    def thickness_at(self, x: np.ndarray) -> np.ndarray:
        """Share of its thickness at places along it."""
        inward = np.minimum(x, self.length - x)
        if self.ends <= 0.0:
            return np.ones_like(x)
        if self.tapered:
            return np.clip(inward / self.ends, 0.0, 1.0)
        return np.minimum(np.floor(inward / self.run + 1e-9) + 1.0, self.steps) / self.steps

    @cached_property
    def answer(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Places m, shear stress of the glue per N/m 1/m, and its share of the load, from end to end.

        Two bars with springs between (shear lag, Volkersen 1938): the sheet is pulled at both ends, the doubler free.
        """
        x = np.linspace(0.0, self.length, NODES)
        middles = (x[:-1] + x[1:]) / 2.0
        spring = self.glue.G / self.glue.gap
        sheet, own = np.full(NODES - 1, self.base), self.full * self.thickness_at(middles)
        force = np.zeros((NODES, 2))
        force[0, 0], force[-1, 0] = -1.0, 1.0
        still = 2 * (NODES // 2)  # the sheet's middle does not move
        moved = moved_bars(sheet, own, self.length, spring, force, still)
        sheared = spring * (moved[:, 1] - moved[:, 0])
        taken = np.concatenate([[0.0], own * np.diff(moved[:, 1]) / (x[1] - x[0])])
        return x, sheared, taken

    @property
    def peak(self) -> float:
        """Largest shear stress of the glue per N/m, 1/m."""
        return float(np.abs(self.answer[1]).max())

    @property
    def reached(self) -> float:
        """Share of its full share that it takes in the middle."""
        return float(self.answer[2][NODES // 2]) / self.share

    @property
    def capacity(self) -> float:
        """N/m at which its glue fails at an end: elastic, or of one step with a glue that yields."""
        elastic = self.glue.shear_strength / self.peak
        if self.ends <= 0.0 and self.length >= self.needed_length():
            return max(elastic, end_capacity(self.glue, self.base, self.full))
        return elastic

    def needed_length(self) -> float:
        """Length at which it takes 95 % of its full share in the middle, with one step: 2 arcosh(20)/λ."""
        rate = math.sqrt(self.glue.G / self.glue.gap * (1.0 / self.base + 1.0 / self.full))
        return 2.0 * math.acosh(1.0 / (1.0 - ENOUGH)) / rate + 2.0 * self.ends

    @property
    def step_height(self) -> float:
        """m that end together at a step."""
        return self.layers.thickness / self.steps

    @property
    def slope(self) -> float:
        """Length over height of its ends; infinite where a single step has neither."""
        if self.tapered:
            return self.ends / self.layers.thickness
        return self.run / self.step_height if self.steps > 1 else 0.0
