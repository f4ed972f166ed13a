"""The record of a layer."""

from typing import Literal

from omakase.project.spans import Record


class LayerRecord(Record, frozen=True):
    """One layer; ``thickness`` in m is null for a cloth whose thickness follows from its areal mass.

    ``turned`` : laid with its other side up, which tells for cloth with a face, a satin; its warp side is up otherwise.
    ``shared`` : name of the sub-stack it belongs to, see ``shared``; empty for a layer of its own.  ``mirrored`` : this
    instance of the sub-stack is its mirror image.  ``zone`` : id of the stretch it runs over; empty for the whole span.
    ``outside`` : of a panel, that it lies everywhere but in its zone.
    ``wall`` : name of the wall it belongs to; empty where the member has only one.
    """

    material: str
    angle: float = 0.0
    thickness: float | None = None
    role: Literal["ply", "core"] = "ply"
    structural: bool = True
    turned: bool = False
    shared: str = ""
    mirrored: bool = False
    zone: str = ""
    wall: str = ""
    outside: bool = False
