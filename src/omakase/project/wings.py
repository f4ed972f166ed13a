"""Records of ribs and lifting surfaces: what is given, what a candidate chooses, and the loads that only they take."""

from typing import Literal

from omakase.project.spans import Carried, LoadStation, OutlinePoint, Record, SpanSupport, Station


class RibMember(Record, frozen=True, tag_field="kind", tag="rib"):
    """A rib: what is given of it.  x runs along the chord from its front end to its rear one.

    ``supports`` : its spars.  ``depth`` : over its outside along x, m; where that is empty it follows from the
    ``profile`` of the number, at ``chord`` m, in which its front end lies ``ahead`` m behind the leading edge.
    ``cell`` : what takes torque: nothing, the nose in front of the first spar, or the box between two.  ``share`` : of
    the lift, that the front one of two spars takes.
    """

    length: float = 0.2
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0), SpanSupport(0.2))
    carried: tuple[Carried, ...] = ()
    depth: tuple[Station, ...] = ()
    profile: str = "0012"
    chord: float = 0.4
    ahead: float = 0.06
    cell: Literal["none", "nose", "box"] = "none"
    share: float = 0.5


class HoleRecord(Record, frozen=True):
    """A lightening hole, its middle at ``x`` m, half way up the web."""

    x: float
    diameter: float


class RibForm(Record, frozen=True, tag_field="kind", tag="rib"):
    """What a candidate chooses of a rib, m: its section, the ``width`` of its flanges or caps, the outside ``radius``
    of its corners, the ``pitch`` between ribs, its ``holes`` and the height of their turned ``lip``.

    ``bond`` : width over which each of its edges is bonded to the skin, 0 where that is not looked at; strengths of
    that bond in shear and tension, Pa.
    """

    outline: Literal["channel", "i"] = "channel"
    width: float = 0.015
    radius: float = 0.0
    pitch: float = 0.2
    holes: tuple[HoleRecord, ...] = ()
    lip: float = 0.0
    bond: float = 0.0
    bond_strength: float = 10e6
    bond_tension: float = 3e6


class AirLoad(Record, frozen=True, tag_field="kind", tag="air"):
    """Lift of ``lift`` N per metre of wing, positive up, over the rib from ``low`` to ``high`` m: evenly, or largest in
    front and falling straight to nothing."""

    lift: float
    low: float
    high: float
    shape: Literal["even", "falling"] = "even"


class AirTable(Record, frozen=True, tag_field="kind", tag="air_table"):
    """Lift per area at stations along the rib, Pa, straight between them, positive up."""

    stations: tuple[LoadStation, ...]


class SkinLoad(Record, frozen=True, tag_field="kind", tag="skin"):
    """What the skin carries along the wing between two ribs: ``pressed`` N/m in compression, ``shear`` N/m, in a box
    that the load bends to a ``radius`` of so many m; 0 where that is not counted."""

    pressed: float = 0.0
    shear: float = 0.0
    radius: float = 0.0


class SurfaceMember(Record, frozen=True, tag_field="kind", tag="surface"):
    """Half of a lifting surface, held at its root: what is given of it.

    ``length`` : from root to tip along its swept axis, m; ``sweep`` of that, degrees.  ``root``, ``tip`` : chords along
    the flow; a half-elliptic one has no tip; ``chord`` : of a planform by stations, whose x run along the axis.
    """

    length: float = 1.0
    supports: tuple[SpanSupport, ...] = (SpanSupport(0.0, "clamped"),)
    carried: tuple[Carried, ...] = ()
    planform: Literal["tapered", "half_elliptic", "stations"] = "tapered"
    root: float = 0.25
    tip: float = 0.15
    chord: tuple[Station, ...] = ()
    sweep: float = 0.0


class SurfaceForm(Record, frozen=True, tag_field="kind", tag="surface"):
    """What a candidate chooses of a lifting surface.

    ``profile`` : number of its 4-digit aerofoil, else its ``points`` from a file.  ``tip_ratio`` : thickness over chord
    at the tip over that at the root.  ``cut`` : share of the chord at which a profile's section ends, behind which is
    trailing edge or flap that carries nothing.  ``webs`` : where webs stand, as shares of the outline's width, none of
    a shell; ``cap`` : width of each cap at the root, m, 0 for none.  ``filling`` : short name of the core that fills
    it, empty where it is hollow.  ``bond``, ``bond_strength`` : of caps to webs, as of a spar.
    """

    profile: str = "0012"
    points: tuple[OutlinePoint, ...] = ()
    tip_ratio: float = 1.0
    cut: float = 0.95
    webs: tuple[float, ...] = (0.3,)
    cap: float = 0.0
    filling: str = ""
    bond: float = 0.0
    bond_strength: float = 10e6


class AirTorque(Record, frozen=True, tag_field="kind", tag="air_torque"):
    """Turning of the air about the quarter chord, ``coefficient`` × ``pressure`` × chord² per length, positive nose up;
    ``pressure`` : dynamic, Pa."""

    coefficient: float
    pressure: float


WingLoads = AirTorque | AirLoad | AirTable | SkinLoad
