"""From the document's records to the core's value objects, which check themselves when made."""

from __future__ import annotations

from collections.abc import Mapping

from omakase.core.checks.result import Limits, Settings
from omakase.core.errors import LayupError, PanelError
from omakase.core.findings.finding import Surroundings
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.materials.conditions import in_service
from omakase.core.materials.material import Material
from omakase.core.members.panel import LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from omakase.project import edits, model
from omakase.project.spans import SparMember, StripMember, TubeMember

AT_ROOM = model.Surroundings()


def panel(brief: model.Brief) -> Panel:
    """The core's panel.  Raises PanelError, also for a brief of another kind of member."""
    member = brief.member
    if not isinstance(member, model.PanelMember):
        raise PanelError("this works for flat panels only")
    supports = member.supports
    return Panel(member.length, member.width, Edges(supports.x0, supports.x1, supports.y0, supports.y1))


def load_case(case: model.LoadCase) -> LoadCase:
    """The core's load case of a panel.  Raises PanelError for a load of another kind of member."""
    case = edits.acting(case)
    if not all(isinstance(load, model.PressureLoad | model.PatchLoad | model.OwnWeight) for load in case.loads):
        raise PanelError(f"load case '{case.name or case.id}': a panel takes pressures, patches and its own weight")
    return LoadCase(
        case.name or case.id,
        tuple(load.pressure for load in case.loads if isinstance(load, model.PressureLoad)),
        tuple(
            PatchLoad(load.force, load.x, load.y, load.along_x, load.along_y)
            for load in case.loads
            if isinstance(load, model.PatchLoad)
        ),
        sum(load.g for load in case.loads if isinstance(load, model.OwnWeight)),
        case.id,
    )


def layer(record: model.LayerRecord, materials: Mapping[str, Material], where: model.Surroundings = AT_ROOM) -> Layer:
    """The core's layer, with the strengths its material has ``where`` it works.  Raises LayupError."""
    if record.material not in materials:
        raise LayupError(f"no material is named '{record.material}'")
    material = in_service(materials[record.material], record.thickness, where.temperature, where.wet)
    return make_layer(material, record.angle, record.thickness, record.role, record.structural, record.turned)


def stack(candidate: model.Candidate, materials: Mapping[str, Material], where: model.Surroundings = AT_ROOM) -> Stack:
    """The core's stack ``where`` it works.  Raises LayupError naming the layer, counted from the top."""
    layers = []
    for i, record in enumerate(candidate.layers):
        try:
            layers.append(layer(record, materials, where))
        except LayupError as error:
            raise LayupError(f"layer {i + 1}: {error}") from None
    return Stack(tuple(layers))


def limits(brief: model.Brief) -> Limits:
    """The core's limits."""
    stated = brief.limits
    return Limits(
        stated.deflection, stated.frequency_minimum, stated.frequency_band, stated.reserve_factor, stated.mass,
        stated.thickness, stated.rotation, stated.twist, stated.diameter,
    )  # fmt: skip


def surroundings(brief: model.Brief) -> Surroundings:
    """Where the part works, for the findings."""
    stated, member = brief.surroundings, brief.member
    if isinstance(member, model.PanelMember):
        edges = member.supports
        open_edge = "free" in (edges.x0, edges.x1, edges.y0, edges.y1)
    else:
        open_edge = isinstance(member, StripMember)  # its long sides
    return Surroundings(stated.temperature, stated.wet, stated.aerial, open_edge, stated.radius, stated.twisted,
                        isinstance(member, TubeMember | SparMember))  # fmt: skip


def settings(brief: model.Brief) -> Settings:
    """The core's way of judging strength."""
    rules = brief.judgement
    return Settings(rules.factor_of_safety, rules.special_factor, rules.criterion, rules.wrinkling)
