"""Records of details: where loads enter a member, what takes them there, and what they are."""

from typing import Literal

from omakase.project.layers import LayerRecord
from omakase.project.spans import Record

Taken = Literal["typed", "support", "load"]
Preparation = Literal["abraded", "peel_abraded", "peel_ply", "moulded"]
Surroundings = Literal["dry", "warm", "hot_wet"]
Face = Literal["face_a", "face_b"]


class DetailLoad(Record, frozen=True):
    """Forces at a point at limit level, N: ``pull`` off face A, negative pressing on it, ``along`` x and ``across`` in
    the plane; ``moment`` N m that tilts."""

    name: str = "load"
    pull: float = 0.0
    along: float = 0.0
    across: float = 0.0
    moment: float = 0.0


class SeamLoad(Record, frozen=True):
    """Forces along a seam at limit level, N/m: ``pull`` across it in the plane of the sheets, ``flow`` along it,
    ``opening`` that pulls the sheets apart at one edge of the bond."""

    name: str = "load"
    pull: float = 0.0
    flow: float = 0.0
    opening: float = 0.0


class Placed(Record, frozen=True):
    """What every detail has: its place at (``x``, ``y``) m on the ``wall`` of the member, empty where that has only
    one; whether its loads are typed or ``taken`` from it; the ``layers`` there, empty for the member's own."""

    id: str
    name: str
    x: float = 0.0
    y: float = 0.0
    wall: str = ""
    taken: Taken = "typed"
    layers: tuple[LayerRecord, ...] = ()


class AtPoint(Placed, frozen=True):
    """A detail that takes forces at a point: those of the support or of the loads there, where they are not typed.

    ``axis`` : whether it goes through its wall from above or from the side, of a member with a span.  ``count`` of them
    in a row, ``pitch`` m apart.
    """

    axis: Literal["above", "side"] = "above"
    count: int = 1
    pitch: float = 0.04
    loads: tuple[DetailLoad, ...] = (DetailLoad(),)


class AlongSeam(Placed, frozen=True):
    """A detail that takes forces per length: those of a panel's edge or of a spar's web, where they are not typed.

    ``angle`` : direction across it, of the pull, degrees from x.
    """

    angle: float = 0.0
    loads: tuple[SeamLoad, ...] = (SeamLoad(),)


class FastenerDetail(AtPoint, frozen=True, tag_field="kind", tag="fastener"):
    """``count`` bolts or pins, ``pitch`` m apart in a row at ``row_angle`` degrees, the first at (``x``, ``y``) m.

    ``edge`` : m from the middle of the hole to the free edge, null for that of the member.  ``seat`` : what the head
    lies on, a round ``washer`` m across or a plate.  ``sleeve``, ``plug``, ``plate`` : short names of materials, of a
    hard sleeve, of what is round the bolt in place of the core, and of the part that is fastened on; empty for none.
    """

    what: Literal["bolt", "pin"] = "bolt"
    diameter: float = 0.006
    row_angle: float = 0.0
    grade: Literal["4.6", "5.8", "8.8", "10.9", "12.9", "A2-70", "A4-80", "titanium", "aluminium"] = "8.8"
    torque: float | None = 4.0
    preload: float | None = None
    lubrication: Literal["dry", "oiled", "greased", "locked"] = "dry"
    seat: Literal["washer", "plate"] = "washer"
    washer: float = 0.018
    seat_length: float = 0.04
    seat_width: float = 0.03
    countersink: float = 0.0
    edge: float | None = None
    sleeve: str = ""
    sleeve_outside: float = 0.01
    sleeve_short: float = 0.0
    plug: str = ""
    plug_diameter: float = 0.03
    plate: str = ""
    plate_thickness: float = 0.003


class BondDetail(AlongSeam, frozen=True, tag_field="kind", tag="bond"):
    """A glued seam through (``x``, ``y``) m, ``overlap`` m wide, its bond line ``gap`` m thick.

    ``layers`` : of the sheet above, empty for the member's own, of a sandwich the face that is glued (``side``);
    ``other`` : of the sheet below, empty for one like it.
    """

    other: tuple[LayerRecord, ...] = ()
    side: Face = "face_b"
    form: Literal["lap", "lip", "cap", "stringer", "scarf", "step"] = "lap"
    overlap: float = 0.02
    gap: float = 0.5e-3
    steps: int = 4
    adhesive: str = "g-paste"
    bends: bool = True
    laminate_first: bool = False
    preparation: Preparation = "abraded"
    surroundings: Surroundings = "dry"


class InsertDetail(AtPoint, frozen=True, tag_field="kind", tag="insert"):
    """An insert at (``x``, ``y``) m: potted from face A to a ``depth`` or through, a glued bush, a metal plate laid in
    under face A, a plug of something solid for the core.

    ``diameter`` : of the insert, or of the screw in a plate or plug; ``potting`` : of the hole that is filled.
    ``filler``, ``adhesive`` : short names of what it is potted with or made of, and glued with.  ``tested`` : N,
    pull-out load of a test, null without one, and ``tested_by`` whom or what it is from.
    """

    what: Literal["potted", "through", "bush", "plate", "plug"] = "through"
    diameter: float = 0.01
    potting: float = 0.02
    depth: float = 0.008
    length: float = 0.04
    width: float = 0.03
    thickness: float = 0.002
    filler: str = "potting650"
    adhesive: str = "g-paste"
    preparation: Preparation = "abraded"
    surroundings: Surroundings = "dry"
    tested: float | None = None
    tested_by: str = ""


class EdgeDetail(AlongSeam, frozen=True, tag_field="kind", tag="edge"):
    """The edge of a sandwich at (``x``, ``y``) m: how it is closed, or run out to a solid flange.

    ``slope`` : degrees; ``flat`` : the face that stays even.  ``width`` : m, of the flange, the potting or strip, or by
    which plies laid round it overlap.  ``flange``, ``wrap``, ``tongue`` : layers; a flange without any is both faces
    together, no ``tongue`` without any.  ``filler`` : short name.
    """

    closing: Literal["run_out", "potted", "wrap", "strip", "tape", "open"] = "run_out"
    slope: float = 30.0
    width: float = 0.02
    flat: Face = "face_a"
    flange: tuple[LayerRecord, ...] = ()
    wrap: tuple[LayerRecord, ...] = ()
    tongue: tuple[LayerRecord, ...] = ()
    filler: str = "potting650"


class DoublerDetail(AlongSeam, frozen=True, tag_field="kind", tag="doubler"):
    """Layers laid on at (``x``, ``y``) m over ``length`` m, ending in ``steps`` of ``run`` m each, or scarfed.

    ``other`` : its layers, empty for those of face A again.  ``adhesive`` : short name of the glue, empty where its
    plies are cured together with those below.  ``covered`` : a ply runs over its ends.
    """

    other: tuple[LayerRecord, ...] = ()
    length: float = 0.1
    steps: int = 3
    run: float = 0.01
    tapered: bool = False
    covered: bool = True
    adhesive: str = ""
    gap: float = 0.2e-3


class ImpactDetail(AlongSeam, frozen=True, tag_field="kind", tag="impact"):
    """A face at (``x``, ``y``) m and what strikes it: it is rated, with reasons, and keeps nothing from passing."""

    loads: tuple[SeamLoad, ...] = ()
    side: Face = "face_a"
    threat: Literal["stones", "tool", "heel"] = "stones"


Detail = FastenerDetail | BondDetail | InsertDetail | EdgeDetail | DoublerDetail | ImpactDetail
MATERIAL_FIELDS = ("sleeve", "plug", "plate", "adhesive", "filler")
LAYER_FIELDS = ("layers", "other", "flange", "wrap", "tongue")


def named_materials(detail: Detail) -> set[str]:
    """Short names of the materials that a detail speaks of."""
    names = {layer.material for field in LAYER_FIELDS for layer in getattr(detail, field, ())}
    return names | {name for field in MATERIAL_FIELDS if (name := getattr(detail, field, ""))}
