"""Loads of a glued seam from its member: of a panel's edge, of a rib on it, of the end of a spar's web."""

from __future__ import annotations

import math

import numpy as np

from omakase.core.details.detail import DetailError, LineCase
from omakase.core.members.field import Place, Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_ribs import RIB, RibAnswer
from omakase.core.members.spar import SparResponse
from omakase.project.detail_translate import REACH
from omakase.project.details import AlongSeam
from omakase.project.model import Brief
from omakase.project.panels import EdgeLoad, PanelMember


def seam_cases(brief: Brief, detail: AlongSeam, response: Response) -> tuple[LineCase, ...] | None:
    """The cases of a seam; None where a quick response does not tell them.  Raises DetailError."""
    if isinstance(response, PanelResponse) and detail.wall == RIB:
        return _of_rib(detail, response)
    if isinstance(response, PanelResponse) and isinstance(brief.member, PanelMember):
        return _of_edge(brief, detail, response)
    if isinstance(response, SparResponse):
        return _of_web(detail, response)
    raise DetailError("taken", "the force on a seam is not computed for this kind of member: type the load")


def _of_edge(brief: Brief, detail: AlongSeam, response: PanelResponse) -> tuple[LineCase, ...] | None:
    """What goes through the nearest edge: forces in the plane, and the largest reaction across it."""
    member = brief.member
    assert isinstance(member, PanelMember)
    away = {
        "left end": detail.x, "right end": member.length - detail.x, "near side": detail.y,
        "far side": member.width - detail.y,
    }  # fmt: skip
    name = min(away, key=lambda own: away[own])
    if away[name] > REACH:
        raise DetailError("taken", f"no edge within {REACH * 1e3:g} mm of it")
    cases = []
    for record, case in zip(brief.load_cases, response.cases, strict=True):
        reaction = next((own for own in case.reactions if own.name in (name, "edge")), None)
        if reaction is None and not all(isinstance(load, EdgeLoad) for load in record.loads):
            return None  # what acts across the panel goes through its edge, and is not known
        pull = flow = 0.0
        for load in record.loads:
            if isinstance(load, EdgeLoad):
                pull += record.factor * (load.ends if "end" in name else load.sides)
                flow += record.factor * load.shear
        opening = abs(reaction.most) if reaction is not None and reaction.most is not None else 0.0
        cases.append(LineCase(record.name, record.id, pull, flow, opening))
    return tuple(cases)


def _of_rib(detail: AlongSeam, response: PanelResponse) -> tuple[LineCase, ...]:
    """The shear flow under a rib at the place nearest to the detail."""
    found: list[tuple[float, RibAnswer, int]] = []
    for rib in response.ribs:
        if rib.beam.rib.formed or not rib.cases:
            continue
        i, _ = rib.cases[0].nearest(Place(detail.x, detail.y))
        place = rib.cases[0].place(i, 0)
        found.append((math.hypot((place.x or 0.0) - detail.x, (place.y or 0.0) - detail.y), rib, i))
    near = [entry for entry in found if entry[0] <= REACH]
    if not near:
        raise DetailError("taken", f"no rib that is bonded on within {REACH * 1e3:g} mm of it")
    _, nearest, i = min(near, key=lambda entry: entry[0])
    return tuple(LineCase(case.case.name, case.case.key, 0.0, float(case.flow[i])) for case in nearest.cases)


def _of_web(detail: AlongSeam, response: SparResponse) -> tuple[LineCase, ...]:
    """The shear flow at the end of the web: of its own wall, or the largest of all webs for a cap."""
    webs = [chain for chain in response.webs if chain.wall == detail.wall] or list(response.webs)
    if not webs:
        raise DetailError("taken", "there is no web here")
    k = int(np.argmin(np.abs(response.x - detail.x)))
    cases = []
    for index, result in enumerate(response.results):
        most = max(float(response.flow_at_ends(chain, index)[k]) for chain in webs)
        cases.append(LineCase(result.case.name, result.case.key, 0.0, most))
    return tuple(cases)
