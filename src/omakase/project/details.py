"""Records of details: where loads enter a member, what takes them there, and what they are."""

from __future__ import annotations

from typing import Literal

from omakase.project.layers import LayerRecord
from omakase.project.spans import Record

Taken = Literal["typed", "support", "load"]


class DetailLoad(Record, frozen=True):
    """Forces at a point at limit level, N: ``pull`` off face A, negative pressing on it, ``along`` x and ``across`` in
    the plane; ``moment`` N m that tilts."""

    name: str = "load"
    pull: float = 0.0
    along: float = 0.0
    across: float = 0.0
    moment: float = 0.0


class FastenerDetail(Record, frozen=True, tag_field="kind", tag="fastener"):
    """``count`` bolts or pins, ``pitch`` m apart in a row at ``row_angle`` degrees, the first at (``x``, ``y``) m.

    ``wall`` : of the member, empty where it has only one; ``axis`` : whether the bolts go through it from above or from
    the side, of a member with a span.  ``taken`` : whether the ``loads`` are typed, or are those of the support or of
    the loads at its place, under each load case.  ``layers`` : the layup there, empty for the member's own.

    ``edge`` : m from the middle of the hole to the free edge, null for that of the member.  ``seat`` : what the head
    lies on, a round ``washer`` m across or a plate.  ``sleeve``, ``plug``, ``plate`` : short names of materials, of a
    hard sleeve, of what is round the bolt in place of the core, and of the part that is fastened on; empty for none.
    """

    id: str
    name: str
    x: float = 0.0
    y: float = 0.0
    wall: str = ""
    axis: Literal["above", "side"] = "above"
    taken: Taken = "typed"
    loads: tuple[DetailLoad, ...] = (DetailLoad(),)
    layers: tuple[LayerRecord, ...] = ()
    what: Literal["bolt", "pin"] = "bolt"
    diameter: float = 0.006
    count: int = 1
    pitch: float = 0.04
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


Detail = FastenerDetail
MATERIAL_FIELDS = ("sleeve", "plug", "plate")


def named_materials(detail: Detail) -> set[str]:
    """Short names of the materials that a detail speaks of."""
    names = {layer.material for layer in detail.layers}
    return names | {name for field in MATERIAL_FIELDS if (name := getattr(detail, field, ""))}
