"""Records of members with a span: how they are held, what loads them, and the forms a strip and a tube may have."""

from typing import Literal

import msgspec


class Record(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A record of a project file: immutable, and unknown fields are refused.

    Files with records do without ``from __future__ import annotations``: each annotation would be read as a text again
    when the first project is opened, a tenth of a start.
    """


class SpanSupport(Record, frozen=True):
    """A support at ``x`` m that holds the deflection, or clamps; ``along`` : how long it is, m, 0 for a knife edge."""

    x: float
    held: Literal["clamped", "simple"] = "simple"
    along: float = 0.0


class Carried(Record, frozen=True):
    """A mass in kg fixed to the member at ``x`` m."""

    what: str
    mass: float
    x: float


class Station(Record, frozen=True):
    """A size in m at ``x`` m along the span; straight between stations."""

    x: float
    size: float


class StripMember(Record, frozen=True, tag_field="kind", tag="strip"):
    """A straight strip: what is given of it.  Its width and shape are a candidate's form."""

    length: float = 0.6
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0), SpanSupport(0.6))
    carried: tuple[Carried, ...] = ()


class TubeMember(Record, frozen=True, tag_field="kind", tag="tube"):
    """A straight round tube: what is given of it.  Its diameter is a candidate's form."""

    length: float = 1.0
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0, "clamped"),)
    carried: tuple[Carried, ...] = ()


class SparMember(Record, frozen=True, tag_field="kind", tag="spar"):
    """A spar: what is given of it.  Its section is a candidate's form.

    ``chord`` : of the wing along the span, m, by which loads may be shared out and which a section may fill;
    ``ratio`` : thickness of its symmetric aerofoil over the chord.  ``rib_pitch`` : m between ribs that hold its
    walls, 0 for none.
    """

    length: float = 1.5
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0, "clamped"),)
    carried: tuple[Carried, ...] = ()
    chord: tuple[Station, ...] = ()
    ratio: float = 0.12
    rib_pitch: float = 0.0


class LegMember(Record, frozen=True, tag_field="kind", tag="leg"):
    """A leg or leaf: what is given of it.  Its width is a candidate's form, its thickness that of its layers."""

    length: float = 0.5
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0, "clamped", 0.06),)
    carried: tuple[Carried, ...] = ()


class BracketMember(Record, frozen=True, tag_field="kind", tag="bracket"):
    """A bent laminate, held at the end of its first ``arm`` and loaded at the end of the second, ``reach`` m from the
    bend; ``angle`` : by which it turns, degrees."""

    arm: float = 0.06
    reach: float = 0.05
    angle: float = 90.0


class ForceLoad(Record, frozen=True, tag_field="kind", tag="force"):
    """Force in N at ``x`` m, positive pushing on face A, over ``along`` × ``across`` m; 0 across is the whole width.

    ``offset`` : m behind the reference line of a spar, toward its trailing edge.
    """

    force: float
    x: float
    along: float = 0.0
    across: float = 0.0
    what: str = "force"
    offset: float = 0.0


class SpreadLoad(Record, frozen=True, tag_field="kind", tag="spread"):
    """N/m from ``start`` at ``low`` m to ``end`` at ``high`` m, positive on face A; ``offset`` as of a force."""

    start: float
    end: float
    low: float
    high: float
    offset: float = 0.0


class LiftLoad(Record, frozen=True, tag_field="kind", tag="lift"):
    """``total`` N of lift, positive up, from ``low`` to ``high`` m, where the tip is; ``offset`` as of a force.

    Shared out evenly, as a quarter of an ellipse that is largest at ``low``, as the chord, or as the mean of the chord
    and the ellipse.
    """

    total: float
    low: float
    high: float
    shape: Literal["even", "elliptic", "chord", "mean"] = "elliptic"
    offset: float = 0.0


class LoadStation(Record, frozen=True):
    """N/m at ``x`` m along the span."""

    x: float
    load: float


class TableLoad(Record, frozen=True, tag_field="kind", tag="table"):
    """N/m at stations along the span, straight between them, positive up; ``offset`` as of a force."""

    stations: tuple[LoadStation, ...]
    offset: float = 0.0


class MomentLoad(Record, frozen=True, tag_field="kind", tag="moment"):
    """Bending moment in N m at ``x`` m, positive turning face A toward the far end."""

    moment: float
    x: float


class AxialLoad(Record, frozen=True, tag_field="kind", tag="axial"):
    """Force in N along the member at ``x`` m, positive toward the far end."""

    force: float
    x: float


class TorqueLoad(Record, frozen=True, tag_field="kind", tag="torque"):
    """Torque in N m at ``x`` m."""

    torque: float
    x: float


class DropLoad(Record, frozen=True, tag_field="kind", tag="drop"):
    """A mass in kg that falls ``height`` m onto the member at ``x`` m."""

    mass: float
    height: float
    x: float
    along: float = 0.0
    across: float = 0.0
    what: str = "mass"


class SideLoad(Record, frozen=True, tag_field="kind", tag="side"):
    """Force in N edgewise on a leg at ``x`` m, positive toward its back, ``arm`` m below it: drag on a wheel's axle."""

    force: float
    x: float
    arm: float = 0.0
    what: str = "drag"


class TipLoad(Record, frozen=True, tag_field="kind", tag="tip"):
    """At the end of a bracket: ``opening`` N square to its arm, positive opening the bend, ``pull`` N along it away
    from the bend, ``moment`` N m, positive opening."""

    opening: float = 0.0
    pull: float = 0.0
    moment: float = 0.0
    what: str = "bolt"


SpanLoads = (
    ForceLoad | SpreadLoad | MomentLoad | AxialLoad | TorqueLoad | DropLoad | LiftLoad | TableLoad | SideLoad | TipLoad
)


class RibRecord(Record, frozen=True):
    """A rib bonded to a panel, along its length or across it at ``place`` m, from ``low`` to ``high`` m, null for the
    whole panel; sizes in m.

    ``outline`` : a strip of ``width``; a blade of ``height`` with a foot of ``foot`` to either side; a tee, whose blade
    has a flange of ``width``; a hat, ``width`` between its feet and ``crown`` on top, laid over the core ``filling``; a
    triangle or an arc over ``width``.  ``formed`` : the sheet itself is formed into such a bead.
    """

    along: bool
    place: float
    low: float = 0.0
    high: float | None = None
    outline: Literal["strip", "blade", "tee", "hat", "triangle", "half_round"] = "hat"
    height: float = 0.02
    width: float = 0.03
    crown: float = 0.015
    foot: float = 0.015
    face: Literal["face_a", "face_b"] = "face_b"
    filling: str = ""
    formed: bool = False

    @property
    def is_bead(self) -> bool:
        """Whether it has no layers of its own."""
        return self.formed and self.outline in ("triangle", "half_round")


class PanelForm(Record, frozen=True, tag_field="kind", tag="panel"):
    """How far the middle of a panel lies above its ends and sides, m, toward face A; a flat panel has no rise.

    ``flush`` : the surface that is even where zones make it thicker or thinner.  ``ribs`` : all of the
    layers of the wall "rib".
    """

    rise_along: float = 0.0
    rise_across: float = 0.0
    flush: Literal["face_a", "middle", "face_b"] = "face_b"
    ribs: tuple[RibRecord, ...] = ()


class StripForm(Record, frozen=True, tag_field="kind", tag="strip"):
    """Width of the cloth along the span, and the section: flat, a shallow arc of some rise, or a hat.

    ``rise`` of the arc or height of the hat, ``crown`` and ``flange`` the widths of a hat's top and feet, m, where the
    span begins; they scale with the width.
    """

    width: tuple[Station, ...] = (Station(0.0, 0.05),)
    section: Literal["flat", "arched", "hat"] = "flat"
    rise: float = 0.0
    crown: float = 0.0
    flange: float = 0.0


class LegForm(Record, frozen=True, tag_field="kind", tag="leg"):
    """Width of a leg along its length, m."""

    width: tuple[Station, ...] = (Station(0.0, 0.05),)


class BracketForm(Record, frozen=True, tag_field="kind", tag="bracket"):
    """Inside radius and width of a bracket, m."""

    radius: float = 0.006
    width: float = 0.04


class TubeForm(Record, frozen=True, tag_field="kind", tag="tube"):
    """Inside diameter along the span (a mandrel's), overlap of each wrap, and the core left inside by its short name.

    ``overlap`` 0 : sleeves and windings, which have none.
    """

    diameter: tuple[Station, ...] = (Station(0.0, 0.03),)
    overlap: float = 0.0
    filling: str = ""


class OutlinePoint(Record, frozen=True):
    """A point of a drawn outline, to the right and up, in any unit: the form's sizes give it its scale."""

    y: float
    z: float


class SparForm(Record, frozen=True, tag_field="kind", tag="spar"):
    """The section of a spar: its outline, and sizes over the outside along the span, m.

    ``height`` : where it is empty, and of a nose, it follows from the aerofoil of the brief, ``at`` a share of its
    chord; of a drawn outline from its proportions.  ``width`` : of each flange, of the caps of an I, over all of a box,
    between the feet of a hat, from the nose to the web.  ``radius`` : outside, of corners.  ``crown``, ``foot`` : of a
    hat.  ``cap`` : width of the caps of a nose or a drawn outline.  ``bond`` : width over which a cap is bonded to each
    web, or a flange to a skin, 0 where all is moulded in one; ``bond_strength`` : of that bond in shear, Pa.
    ``points`` : of a drawn outline, closed from the last to the first; ``webs`` : where webs stand in it, as shares of
    its width.  ``profile`` : number of the 4-digit aerofoil that a drawn outline is, such as 2412, in place of points.
    """

    outline: Literal["channel", "z", "i", "box", "two_cells", "hat", "nose", "drawn"] = "channel"
    height: tuple[Station, ...] = (Station(0.0, 0.06),)
    width: tuple[Station, ...] = (Station(0.0, 0.03),)
    radius: float = 0.0
    crown: float = 0.02
    foot: float = 0.015
    cap: float = 0.02
    bond: float = 0.0
    bond_strength: float = 10e6
    at: float = 0.3
    points: tuple[OutlinePoint, ...] = ()
    webs: tuple[float, ...] = ()
    profile: str = ""


class Zone(Record, frozen=True):
    """A stretch of the member from ``low`` to ``high`` m along its span, with a name that layers refer to.

    Of a panel: from ``low`` to ``high`` along its length and from ``near`` to ``far`` across its width, all of it where
    these are null; or, with ``rim``, all that lies within so many m of an edge.  ``opening`` : nothing is there.
    """

    id: str
    name: str
    low: float
    high: float
    near: float | None = None
    far: float | None = None
    rim: float | None = None
    opening: bool = False
