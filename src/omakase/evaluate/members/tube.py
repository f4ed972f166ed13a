"""The round tube as a kind of member."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import Accuracy
from omakase.core.members.tube import ORDER, TubeResponse
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.flat import Layers, flat_runs
from omakase.evaluate.members.sentence import Choice, Number, Sentence, Words
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import edits, span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.spans import TubeForm, TubeMember
from omakase.units import UnitSystem


class TubeKind(spans.SpanKind):
    """A straight round tube of one wall."""

    name, title = "tube", "round tube"
    member, form = TubeMember, TubeForm
    loads = (*spans.SPAN_LOADS, spans.TORQUE)
    limits = ("deflection", "rotation", "twist", "frequency_minimum", "frequency_band", "mass", "thickness", "diameter")
    opening, noun = "A round tube", "tube"

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = span_translate.tube(brief, candidate, materials)
        wall = span_translate.wall(candidate, member.span.length, materials, brief.surroundings, member.diameter)
        cases = tuple(span_translate.span_case(case) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        return stack, TubeResponse(member, wall, cases, ORDER, accuracy.cells)

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer at the inside, with its overlap; what a thick wall adds outside is left out."""
        form = candidate.form
        if not isinstance(form, TubeForm):
            return (0.0,) * len(candidate.layers)
        law = span_translate.law(form.diameter)
        runs = edits.runs(candidate, spans.long_member(brief).length)
        return tuple(
            np.pi * law.area(low, high) + form.overlap * (high - low) if high > low else 0.0 for low, high in runs
        )

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        form = candidate.form
        assert isinstance(form, TubeForm)
        law, length = span_translate.law(form.diameter), spans.long_member(brief).length
        return flat_runs(candidate, length, law, np.pi, form.overlap)

    # --- sentences ------------------------------------------------------------------------------------------

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        return spans.load_sentence(brief, case, load, False)

    def form_sentence(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, TubeForm):
            return ()
        length = spans.long_member(brief).length
        cores = sorted(name for name, material in materials.items() if material.kind == "core")
        filled = (("", "nothing", ""), *((name, name, name) for name in cores))
        return (
            Words("Inside diameter"),
            *spans.stations_sentence(("form", "diameter"), form.diameter, "Inside diameter", length),
            Words("; wraps overlap by"),
            Number(("form", "overlap"), "length", "Overlap of each wrap, 0 for sleeves", "overlap", "not_negative"),
            Words("; filled with"),
            Choice(("form", "filling"), "What the tube is filled with", "filling", filled),
            Words("."),
            *spans.zones_sentence(candidate, length),
        )

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        winding = winding_angle(candidate)
        if winding is not None:
            yield Parameter("winding", "winding angle ±", "angle", winding, 5.0, 85.0, _put_winding)
        yield span_sizing.length_parameter("tube", brief)
        if isinstance(candidate.form, TubeForm):
            yield from span_sizing.scaled_sizes("diameter", "inside diameter", candidate.form.diameter)

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """A wider or narrower tube, and other winding angles."""
        form = candidate.form
        if not isinstance(form, TubeForm) or not form.diameter:
            return
        yield span_sizing.size_lever(candidate, "diameter", "inside diameter", "tube", 0.04, units, passes)
        yield from span_sizing.zone_levers(brief, candidate, units, passes)
        winding = winding_angle(candidate)
        if winding is not None and not passes:
            turned = [angle for angle in range(10, 81, 5) if abs(angle - winding) > 1.0]
            yield Lever("winding", "another winding angle", tuple(
                Option(f"wound at ±{angle}°", wound(candidate, float(angle))) for angle in turned))  # fmt: skip


def winding_angle(candidate: Candidate) -> float | None:
    """The angle of the first ply that is wound, neither along nor around; None without one."""
    wound_at = (abs(layer.angle) for layer in candidate.layers if layer.role == "ply" and layer.thickness is None)
    return next((angle for angle in wound_at if 0.0 < angle < 90.0), None)


def wound(candidate: Candidate, angle: float) -> Candidate:
    """All plies that are wound at another angle, each to its own side."""
    layers = tuple(
        replace(layer, angle=angle if layer.angle > 0.0 else -angle)
        if layer.role == "ply" and layer.thickness is None and 0.0 < abs(layer.angle) < 90.0 else layer
        for layer in candidate.layers
    )  # fmt: skip
    return replace(candidate, layers=layers)


def _put_winding(state: State, value: float) -> State:
    brief, candidate, materials = state
    return brief, wound(candidate, round(value, 3)), materials


KIND = TubeKind()
