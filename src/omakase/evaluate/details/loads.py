"""Loads of a detail: as typed, or those of the support or the loads at its place, load case by load case."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from omakase.core.details.detail import DetailError, PointCase
from omakase.core.members.field import Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_held import Reaction
from omakase.core.members.span import SpanAnswers
from omakase.evaluate.details.seams import seam_cases
from omakase.project.detail_translate import REACH, Cases, typed_cases
from omakase.project.details import AlongSeam, AtPoint, Detail
from omakase.project.model import Brief, LoadCase
from omakase.project.panels import PatchLoad
from omakase.project.spans import AxialLoad, ForceLoad, MomentLoad, SideLoad, TorqueLoad

ROUNDING = 1e-6  # N or N m, below which a reaction is what rounding left


def cases_of(brief: Brief, detail: Detail, response: Response) -> Cases | None:
    """The cases of a detail; None where a quick response does not tell its reactions.

    Raises DetailError where there is no support or load at its place.
    """
    if detail.taken == "typed":
        return typed_cases(detail)
    if isinstance(detail, AlongSeam):
        return seam_cases(brief, detail, response)
    if detail.taken == "load":
        return tuple(_of_loads(brief, detail))
    if isinstance(response, PanelResponse):
        return _of_panel(detail, response)
    if isinstance(response, SpanAnswers):
        return tuple(_of_span(detail, response))
    raise DetailError("taken", "the reactions of supports are not computed for this kind of member: type the load")


# --- from supports ----------------------------------------------------------------------------------------------


def _of_panel(detail: AtPoint, response: PanelResponse) -> tuple[PointCase, ...] | None:
    cases = []
    for case in response.cases:
        if not case.reactions:
            return None
        support = _nearest(detail, response, case.reactions)
        if support is None:
            raise DetailError("taken", f"no bolt, line or held edge within {REACH * 1e3:g} mm of it")
        pull, shear = support.force, support.shear
        if support.most is not None:  # of a line the largest force per length, over the pitch
            pull = support.most * detail.pitch * detail.count
        cases.append(PointCase(case.case.name, case.case.key, pull, shear, either_way=shear != 0.0))
    return tuple(cases)


def _nearest(detail: AtPoint, response: PanelResponse, reactions: tuple[Reaction, ...]) -> Reaction | None:
    """The support at a detail: a bolt before what is held along a line or an edge there."""
    panel = response.panel
    half = panel.length / 2.0, panel.width / 2.0
    out = math.hypot(detail.x / half[0] - 1.0, detail.y / half[1] - 1.0)
    away = {
        "left end": detail.x, "right end": panel.length - detail.x, "near side": detail.y,
        "far side": panel.width - detail.y, "edge": abs(1.0 - out) * min(half),  # of a round panel
    }  # fmt: skip
    found = []
    for own in reactions:
        if own.kind == "bolt":
            distance = math.hypot(own.x - detail.x, own.y - detail.y)
        elif own.kind == "edge":
            distance = abs(away[own.name])
        else:
            distance = abs(own.x - detail.x if "across" in own.name else own.y - detail.y)
        if distance <= REACH:
            found.append((own.kind != "bolt", distance, own))
    return min(found, key=lambda entry: entry[:2])[2] if found else None


def _of_span(detail: AtPoint, response: SpanAnswers) -> Iterator[PointCase]:
    supports = response.supports
    k = min(range(len(supports)), key=lambda i: abs(supports[i].x - detail.x), default=None)
    if k is None or abs(supports[k].x - detail.x) > max(REACH, supports[k].along):
        raise DetailError("taken", f"no support within {REACH * 1e3:g} mm of it")
    for result in response.results:
        up, bending, along, torque = (float(value) for value in result.reactions[k])
        yield _on_axis(detail, result.case.name, result.case.key, up, 0.0, along, bending, torque)


def _on_axis(
    detail: AtPoint, name: str, key: str, up: float, aside: float, along: float, bending: float, torque: float
) -> PointCase:
    """Forces on a member as a bolt from above or from the side takes them."""
    up, aside, along, bending, torque = (
        0.0 if abs(own) < ROUNDING else own for own in (up, aside, along, bending, torque)
    )  # fmt: skip
    if detail.axis == "side":
        return PointCase(name, key, aside, along, up, abs(torque), bending)
    return PointCase(name, key, up, along, aside, math.hypot(bending, torque))


# --- from loads -------------------------------------------------------------------------------------------------


def _of_loads(brief: Brief, detail: AtPoint) -> Iterator[PointCase]:
    found = [(case, [load for load in case.loads if _acts_at(load, detail)]) for case in brief.load_cases]
    if not any(loads for _, loads in found):
        raise DetailError("taken", f"no load acts within {REACH * 1e3:g} mm of it")
    for case, loads in found:
        if loads:
            yield _sum(case, loads, detail)


def _acts_at(load: object, detail: AtPoint) -> bool:
    if isinstance(load, PatchLoad):
        return (
            abs(load.x - detail.x) <= load.along_x / 2.0 + REACH
            and abs(load.y - detail.y) <= load.along_y / 2.0 + REACH
        )
    if isinstance(load, ForceLoad):
        return abs(load.x - detail.x) <= load.along / 2.0 + REACH
    if isinstance(load, AxialLoad | MomentLoad | TorqueLoad | SideLoad):
        return abs(load.x - detail.x) <= REACH
    return False


def _sum(case: LoadCase, loads: Sequence[object], detail: AtPoint) -> PointCase:
    up = aside = along = bending = torque = 0.0
    for load in loads:
        if isinstance(load, PatchLoad):
            up -= load.force
        elif isinstance(load, ForceLoad):
            up -= load.force
            torque += load.force * load.offset
        elif isinstance(load, AxialLoad):
            along += load.force
        elif isinstance(load, MomentLoad):
            bending += load.moment
        elif isinstance(load, TorqueLoad):
            torque += load.torque
        elif isinstance(load, SideLoad):
            aside += load.force
    sizes = [case.factor * own for own in (up, aside, along, bending, torque)]
    return _on_axis(detail, case.name, case.id, *sizes)
