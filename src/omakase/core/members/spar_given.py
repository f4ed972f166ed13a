"""What is given of a spar: its section along the span, and what holds it."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.members.span_loads import Spanned
from omakase.core.members.strip import WidthLaw
from omakase.core.sections.aerofoils import half_thickness
from omakase.core.sections.drawn import DrawnOutline
from omakase.core.sections.outlines import OutlineName, OutlineSizes, outline_walls

THICKEST_AT = 0.3  # of the chord, of a 4-digit aerofoil


class SparShape(msgspec.Struct, frozen=True):
    """Outline and sizes of a section over its outside, m; see ``OutlineSizes``.

    ``height`` None : from the aerofoil, whose ``chord`` and thickness ``ratio`` are given, ``at`` a share of its chord;
    of a nose at its ``width``; of a ``drawn`` outline in its own proportions.
    """

    outline: OutlineName
    width: WidthLaw
    height: WidthLaw | None
    radius: float = 0.0
    crown: float = 0.0
    foot: float = 0.0
    cap: float = 0.0
    chord: WidthLaw | None = None
    ratio: float = 0.12
    drawn: DrawnOutline | None = None
    at: float = THICKEST_AT

    @property
    def walls(self) -> tuple[str, ...]:
        """Names of its walls.  Raises MemberError where it is to be drawn and has no points."""
        return outline_walls(self.outline, self.drawn, self.cap)

    def sizes(self, x: np.ndarray) -> OutlineSizes:
        """Sizes at places along, (places,)."""
        width = self.width(x)
        chord = None if self.chord is None else self.chord(x)
        if self.height is not None:
            height = self.height(x)
        elif self.drawn is not None:
            height = self.drawn.aspect * width
        elif chord is not None:
            share = np.clip(width / chord, 0.0, THICKEST_AT) if self.outline == "nose" else np.full_like(x, self.at)
            if not 0.0 < self.at < 1.0:
                raise MemberError("a spar stands between 0 and 1 of the chord")
            height = 2.0 * half_thickness(share, self.ratio) * chord
        else:
            raise MemberError("a spar needs a height, or a chord of the aerofoil that it fills")
        cap = self.cap if self.drawn is None else self.cap / self.width.first
        return OutlineSizes(height, width, self.radius, self.crown, self.foot, cap, chord, self.ratio, self.drawn)

    def knots(self, length: float) -> tuple[float, ...]:
        """Where a law along the span has a kink, m."""
        laws = [law for law in (self.width, self.height, self.chord) if law is not None]
        return tuple(sorted({x for law in laws for x, _ in law.points if 0.0 < x < length}))


class Spar(msgspec.Struct, frozen=True):
    """Span, shape of the section, and the pitch of the ribs that hold its walls, m, 0 for none.

    ``bond`` : width in m over which a cap is bonded to each web, 0 where all is moulded in one; ``bond_strength`` Pa.
    """

    span: Spanned
    shape: SparShape
    rib_pitch: float = 0.0
    bond: float = 0.0
    bond_strength: float = 0.0
