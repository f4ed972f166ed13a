"""The mesh of a candidate, as fine as asked for."""

from __future__ import annotations

from omakase.core.errors import OmakaseError
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_regions import heights_of
from omakase.core.members.spar import SparResponse
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse
from omakase.core.mesh.mesh import Mesh
from omakase.core.mesh.panel_bricks import panel_bricks
from omakase.core.mesh.span_shells import span_shells
from omakase.core.mesh.strip_bricks import strip_bricks
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.second.stresses import worst_stations
from omakase.project.spans import PanelForm

BRICKS, STRIP, SHELLS = 16, 24, 40  # along the longest side, of the coarse mesh
FINER = 1.5  # of the mesh whose change is stated as the error


def mesh_of(result: CandidateResult, finer: bool = False) -> Mesh:
    """Bricks of a panel, with its zones, openings and ribs, bricks of a strip, shells of other members with a span.

    Raises OmakaseError where there is no such mesh.
    """
    response, stack = result.response, result.stack
    more = FINER if finer else 1.0
    if isinstance(response, PanelResponse) and stack is not None:
        patches = response.patchwork
        cases = tuple(own.case for own in response.cases)
        large = frozenset(own.case.key for own in response.cases if own.beyond is not None and own.beyond.large)
        form = result.candidate.form
        flush = form.flush if isinstance(form, PanelForm) else "face_b"
        heights = () if patches is None else heights_of(patches, flush)
        ribs = tuple(own.beam for own in response.ribs)
        return panel_bricks(response.panel, stack, cases, round(BRICKS * more), large, patches, heights, ribs)
    if type(response) is StripResponse:
        return strip_bricks(response, round(STRIP * more), worst_stations(response))
    if isinstance(response, SparResponse | StripResponse | TubeResponse):
        return span_shells(response, round(SHELLS * more), worst_stations(response))
    raise OmakaseError(result.error or "this member cannot be written for a finite-element solver")
