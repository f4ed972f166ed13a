"""What holds and loads a straight member along its span: supports, loads, load cases, masses it carries.

The span runs along x from 0 to its length; z points up, and a positive force pushes down, onto face A.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from typing import Literal

import msgspec

from omakase.core.errors import MemberError, both_units

Held = Literal["clamped", "simple"]
MIN_LENGTH, MAX_LENGTH = 0.01, 50.0
MAX_LOADS = 24
SLACK = 1e-9


class Support(msgspec.Struct, frozen=True):
    """A support at ``x`` m that holds the deflection, or everything if it clamps.

    ``along`` : length in m over which it touches, 0 for a knife edge.
    """

    x: float
    held: Held = "simple"
    along: float = 0.0


class PointLoad(msgspec.Struct, frozen=True):
    """Force in N, positive down, at ``x`` m, spread evenly over ``along`` m of the span and ``across`` m of its width.

    ``across`` 0 means the whole width.  ``offset`` : m to the right of the reference line, about which it turns.
    """

    force: float
    x: float
    along: float = 0.0
    across: float = 0.0
    offset: float = 0.0


class LineLoad(msgspec.Struct, frozen=True):
    """N/m, positive down, running evenly from ``start`` at ``low`` m to ``end`` at ``high`` m; ``offset`` as there."""

    start: float
    end: float
    low: float
    high: float
    offset: float = 0.0


class InPieces(msgspec.Struct, frozen=True):
    """What runs along the span in pieces side by side, each straight, in order."""

    pieces: tuple[LineLoad, ...]

    @property
    def low(self) -> float:
        return self.pieces[0].low

    @property
    def high(self) -> float:
        return self.pieces[-1].high


class Distribution(InPieces, frozen=True):
    """N/m along the span that is no straight line."""


class Couples(InPieces, frozen=True):
    """N m/m along the span that turn as a ``Moment`` does, or ``about`` the span as a ``Torque``."""

    about: Literal["width", "span"] = "width"


class Moment(msgspec.Struct, frozen=True):
    """A moment in N m about the width's axis at ``x`` m; a positive one turns face A toward the far end."""

    moment: float
    x: float


class AxialForce(msgspec.Struct, frozen=True):
    """Force in N along the span at ``x`` m, positive toward the far end."""

    force: float
    x: float


class Torque(msgspec.Struct, frozen=True):
    """Moment in N m about the span at ``x`` m, positive by the right-hand rule along x."""

    torque: float
    x: float


class SideForce(msgspec.Struct, frozen=True):
    """Force in N edgewise at ``x`` m, positive toward the back, ``arm`` m below the middle plane: drag on an axle.

    Only a leg takes it.
    """

    force: float
    x: float
    arm: float = 0.0


class Drop(msgspec.Struct, frozen=True):
    """A mass in kg that falls ``height`` m onto the member at ``x`` m, touching as a ``PointLoad`` does."""

    mass: float
    height: float
    x: float
    along: float = 0.0
    across: float = 0.0


class CarriedMass(msgspec.Struct, frozen=True):
    """A mass in kg fixed to the member at ``x`` m: it counts as own weight and in vibration."""

    mass: float
    x: float


SpanLoad = PointLoad | LineLoad | Distribution | Couples | Moment | AxialForce | Torque | Drop | SideForce


class SpanCase(msgspec.Struct, frozen=True):
    """A named sum of limit loads.  ``gravity`` : own weight and carried masses in multiples of g, positive down.

    Load cases are distinguished by ``id``, or by name where none is given.
    """

    name: str
    loads: tuple[SpanLoad, ...] = ()
    gravity: float = 0.0
    id: str = ""

    @property
    def key(self) -> str:
        """What tells it from others of the same brief."""
        return self.id or self.name

    def of(self, kind: type) -> tuple:
        """Its loads of one kind."""
        return tuple(load for load in self.loads if isinstance(load, kind))

    def check_on(self, length: float) -> None:
        """Raises MemberError when a load is not finite, lies outside the span, or there are too many."""
        if not math.isfinite(self.gravity):
            raise MemberError(f"load case '{self.name}': the multiple of g is not a finite number")
        if len(self.loads) > MAX_LOADS:
            raise MemberError(f"load case '{self.name}' has more than {MAX_LOADS} loads")
        for load in self.loads:
            for problem in load_problems(load, length):
                raise MemberError(f"load case '{self.name}': {problem}")


def load_problems(load: SpanLoad, length: float) -> Iterator[str]:
    """What is wrong with one load on a span of ``length`` m, in words."""
    if isinstance(load, InPieces):
        for piece in load.pieces:
            yield from load_problems(piece, length)
        return
    values = msgspec.structs.asdict(load)
    bad = [name for name, value in values.items() if not math.isfinite(value)]
    if bad:
        yield f"{bad[0]} is not a finite number"
        return
    slack = SLACK * length
    if isinstance(load, LineLoad):
        if not load.low < load.high:
            yield "a load spread along the span must end further out than it begins"
        low, high = load.low, load.high
    else:
        along = load.along if isinstance(load, PointLoad | Drop) else 0.0
        low, high = load.x - along / 2.0, load.x + along / 2.0
    if low < -slack or high > length + slack:
        yield (
            f"a load reaches from x = {both_units(low)} to {both_units(high)}, beyond the member of "
            f"{both_units(length)}"
        )
    if isinstance(load, PointLoad | Drop) and (load.along < 0.0 or load.across < 0.0):
        yield "the size of what presses must not be negative"
    if isinstance(load, Drop) and (load.mass <= 0.0 or load.height < 0.0):
        yield "what falls needs a positive mass and a height that is not negative"


class Spanned(msgspec.Struct, frozen=True):
    """Length in m, supports and carried masses of a member.  Raises MemberError when it is not held or outside 10 mm to
    50 m, when a support or mass lies outside it, or when two supports stand at one place."""

    length: float
    supports: tuple[Support, ...]
    masses: tuple[CarriedMass, ...] = ()

    def __post_init__(self) -> None:
        if not MIN_LENGTH <= self.length <= MAX_LENGTH:
            raise MemberError(f"a length of {both_units(self.length)} is outside 10 mm to 50 m (0.4 in to 164 ft)")
        for message in span_problems(self):
            raise MemberError(message)


def span_problems(span: Spanned) -> Iterator[str]:
    """What is wrong with the supports and masses of a span, in words."""
    slack = SLACK * span.length
    places = sorted(support.x for support in span.supports)
    for support in span.supports:
        if not -slack <= support.x <= span.length + slack:
            yield f"a support at x = {both_units(support.x)} lies beyond the member of {both_units(span.length)}"
        if not 0.0 <= support.along <= span.length:
            yield f"a support {both_units(support.along)} long does not fit on the member of {both_units(span.length)}"
    if any(b - a < 1e-4 * span.length for a, b in itertools.pairwise(places)):
        yield "two supports are at the same place"
    if not span.supports:
        yield "nothing holds the member: clamp it, or support it at two places"
    elif len(span.supports) == 1 and span.supports[0].held != "clamped":
        yield "one support lets it turn: clamp it, or add a second support"
    for mass in span.masses:
        if not (math.isfinite(mass.mass) and mass.mass >= 0.0):
            yield "a carried mass must not be negative"
        if not -slack <= mass.x <= span.length + slack:
            yield f"a mass at x = {both_units(mass.x)} lies beyond the member of {both_units(span.length)}"
