"""Records of a panel: its size, what holds it, and loads on it.  All values are SI."""

from typing import Literal

from omakase.project.spans import Record as _Record

HeldEdge = Literal["free", "resting", "simple", "clamped", "elastic"]


class BoltRow(_Record, frozen=True):
    """Bolts from (x, y) to (to_x, to_y) m, evenly, at most ``pitch`` m apart; a single one where both are the same.

    ``washer`` : m across.  ``in_plane`` : they also hold the panel in its plane.
    """

    x: float
    y: float
    to_x: float
    to_y: float
    pitch: float = 0.1
    washer: float = 0.02
    in_plane: bool = False


class BoltCircle(_Record, frozen=True):
    """``count`` bolts evenly round a round panel, ``inset`` m inside its edge; else as of a row."""

    count: int = 12
    inset: float = 0.015
    washer: float = 0.02
    in_plane: bool = False


class SupportLine(_Record, frozen=True):
    """A line of support that holds the deflection over the whole panel: across at x = ``place`` m, or along at y."""

    place: float
    along: bool = False


class Supports(_Record, frozen=True):
    """Support of each edge: x0 and x1 are the edges at the ends of the length, y0 and y1 of the width.

    ``in_plane`` : which supported edges cannot spread in the plane of the panel: those at the ends, the sides, or all.
    ``spring`` : N/m per metre of an elastic edge.  ``bolts`` and ``lines`` : what holds it beside its edges.  ``bed`` :
    N/m per m² of what it lies on, 0 for nothing.

    A round panel's edge is held all round as its x0; ``circle`` : the bolts round it.
    """

    x0: HeldEdge = "simple"
    x1: HeldEdge = "simple"
    y0: HeldEdge = "simple"
    y1: HeldEdge = "simple"
    in_plane: Literal["may_spread", "ends", "sides", "all"] = "may_spread"
    spring: float = 1e6
    bolts: tuple[BoltRow, ...] = ()
    lines: tuple[SupportLine, ...] = ()
    bed: float = 0.0
    circle: BoltCircle | None = None


class PanelMember(_Record, frozen=True, tag_field="kind", tag="panel"):
    """A panel, length along x, width along y, m: a rectangle, or with the ``outline`` "round" an oval of these axes."""

    length: float = 0.8
    width: float = 0.6
    supports: Supports = Supports()
    outline: Literal["rectangle", "round"] = "rectangle"


class PressureLoad(_Record, frozen=True, tag_field="kind", tag="pressure"):
    """Uniform pressure, Pa, positive pushing on face A."""

    pressure: float


class PatchLoad(_Record, frozen=True, tag_field="kind", tag="patch"):
    """Force in N over a rectangle centred at (x, y) m, positive pushing on face A."""

    force: float
    x: float
    y: float
    along_x: float
    along_y: float
    what: str = "foot"


class EdgeLoad(_Record, frozen=True, tag_field="kind", tag="edge"):
    """Forces per width in N/m along the edges of a panel, tension positive, each in balance with the opposite edge.

    ``ends`` pulls along the length, ``sides`` across; they run straight to ``ends_far`` at the far side and to
    ``sides_far`` at the right end where these are given.  ``shear`` acts along all four edges.
    """

    ends: float = 0.0
    sides: float = 0.0
    shear: float = 0.0
    ends_far: float | None = None
    sides_far: float | None = None


class OwnWeight(_Record, frozen=True, tag_field="kind", tag="own_weight"):
    """Own weight times ``g``, positive toward face B."""

    g: float
