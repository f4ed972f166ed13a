"""The registry of checks.  A new failure mode is one file with a decorated function, named in CHECK_MODULES."""

from __future__ import annotations

import importlib
from collections import deque
from collections.abc import Callable, Iterable, Mapping
from functools import cache, lru_cache
from typing import Literal

import msgspec

from omakase.core.checks.result import Check, CheckResult, Context, DetailCheck, DetailContext, Limits, Settings
from omakase.core.details.detail import Detail
from omakase.core.kept import released_with_it
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.core.members.field import Response, WallField
from omakase.core.members.span import SpanAnswers

CHECK_MODULES = (
    "face_failure",
    "design_values",
    "interlaminar_shear",
    "core_shear",
    "wrinkling",
    "dimpling",
    "crimping",
    "core_crushing",
    "flatwise_tension",
    "indentation",
    "dent",
    "tube_walls",
    "strip_walls",
    "wall_buckling",
    "spar_walls",
    "rib_walls",
    "corners",
    "surface",
    "panel_ribs",
    "bend",
    "clamp_pressure",
    "fasteners",
    "bonds",
    "inserts",
    "edges",
    "doublers",
    "broken_detail",
    "breaking_load",
    "limits",
)


class Registration(msgspec.Struct, frozen=True):
    """A check's identity, what it is in one sentence, the published basis and the range of validity.

    ``strengths`` : properties of the layer that governs which a test could show, named in a remark where one has.
    ``per`` : run for each *wall*, or once for the *member*; a check of a *detail* for each detail of its class ``of``.
    """

    name: str
    summary: str
    basis: str
    validity: str
    run: Check | DetailCheck
    strengths: tuple[str, ...] = ()
    per: Literal["wall", "member", "detail"] = "wall"
    of: type | None = None


_registered: dict[str, Registration] = {}


def _put(registration: Registration) -> None:
    """Two checks of one name would be one check that is never made."""
    before = _registered.setdefault(registration.name, registration)
    if before.summary != registration.summary:
        raise ValueError(f"two checks are called '{registration.name}'")
    _registered[registration.name] = registration
    all_checks.cache_clear()


def register(
    name: str,
    summary: str,
    basis: str,
    validity: str,
    strengths: tuple[str, ...] = (),
    per: Literal["wall", "member"] = "wall",
) -> Callable[[Check], Check]:
    """Decorator that puts a check on the list."""

    def decorate(check: Check) -> Check:
        _put(Registration(name, summary, basis, validity, check, strengths, per))
        return check

    return decorate


def register_detail(
    of: type, name: str, summary: str, basis: str, validity: str, strengths: tuple[str, ...] = ()
) -> Callable[[DetailCheck], DetailCheck]:
    """Decorator that puts a check of a kind of detail on the list."""

    def decorate(check: DetailCheck) -> DetailCheck:
        _put(Registration(name, summary, basis, validity, check, strengths, "detail", of))
        return check

    return decorate


@cache
def all_checks() -> Mapping[str, Registration]:
    """Every registered check by name, in the order of CHECK_MODULES."""
    _import_checks()
    # registered as imported, which may have been in another order
    order = {f"omakase.core.checks.{module}": place for place, module in enumerate(CHECK_MODULES)}
    return dict(sorted(_registered.items(), key=lambda item: order[item[1].run.__module__]))


@cache
def checks_of(of: type) -> tuple[Registration, ...]:
    """The checks of a kind of detail."""
    return tuple(registration for registration in all_checks().values() if registration.of is of)


def run_details(details: Iterable[Detail], settings: Settings, limits: Limits) -> list[CheckResult]:
    """All results of all checks of details; factors that test series have shown are taken in as elsewhere."""
    results = []
    for detail in details:
        context = DetailContext(detail, settings, limits)
        for registration in checks_of(type(detail)):
            for result in registration.run(context):  # type: ignore[arg-type]
                stack = detail.site.stack
                results.append(_with_tests(stack, registration, result) if _has_tests(stack) else result)
    return results


def worst_first(results: Iterable[CheckResult]) -> list[CheckResult]:
    """Results by reserve factor over what is required."""
    return sorted(results, key=lambda result: result.reserve_factor / result.required)


@cache
def _import_checks() -> None:
    for module in CHECK_MODULES:
        importlib.import_module(f"omakase.core.checks.{module}")


KEPT = 8  # responses whose contexts are kept: those of a line-up, not those of a search
# what was asked of a response last, and the walls with what checks have worked out of them; a context holds its
# response, so nothing here is freed but by the bound
_contexts: deque[tuple[SpanAnswers, Settings, Limits, list[Context]]] = deque(maxlen=KEPT)
released_with_it(_contexts.clear)


def contexts_of(response: Response, settings: Settings, limits: Limits) -> list[Context]:
    """What the checks are given of each wall; of the last members with a span kept, since their diagrams ask again
    for what the checks have just worked out."""
    if isinstance(response, SpanAnswers):
        for kept, *asked, contexts in tuple(_contexts):
            if kept is response and asked == [settings, limits]:
                return contexts
    made = [Context(field, response, settings, limits) for field in response.fields]
    if isinstance(response, SpanAnswers):
        _contexts.append((response, settings, limits, made))
    return made


def run_all(response: Response, settings: Settings, limits: Limits) -> list[CheckResult]:
    """All results of all checks, worst first by reserve factor over what is required.

    Factors that test series have shown are taken in here, for every check alike, and each result names its tests and
    the conditions by which its strength was reduced.
    """
    case_remarks = response.case_remarks
    contexts = [(context, _has_tests(context.stack)) for context in contexts_of(response, settings, limits)]
    results: dict[tuple[str, ...], CheckResult] = {}
    for registration in all_checks().values():
        if registration.per == "detail":
            continue
        for context, tested in contexts if registration.per == "wall" else contexts[:1]:
            for result in registration.run(context):  # type: ignore[arg-type]
                if tested:
                    result = _with_tests(context.stack, registration, result)
                told = case_remarks.get(result.case_id, ()) if result.kind == "strength" else ()
                if told:
                    new = tuple(remark for remark in told if remark not in result.remarks)
                    result = msgspec.structs.replace(result, remarks=(*result.remarks, *new))
                if registration.per == "wall":  # what is judged once names layers of the whole wall itself
                    result = _in_whole_wall(result, context.field)
                key = result.key
                # stretches of one wall are one wall: the worst of them counts
                if key not in results or result.reserve_factor < results[key].reserve_factor:
                    results[key] = result
    return worst_first(results.values())


def _in_whole_wall(result: CheckResult, field: WallField) -> CheckResult:
    """The layer counted in the whole wall, where the stack is that of a stretch, and whose result it is."""
    if field.name:
        result = msgspec.structs.replace(result, wall=field.name)
    place, rows = result.place, field.rows
    if not rows or place.layer is None or rows[place.layer] == place.layer:
        return result
    return msgspec.structs.replace(result, place=msgspec.structs.replace(place, layer=rows[place.layer]))


def _has_tests(stack: Stack) -> bool:
    """Whether a test or a condition has a say in anything about a stack."""
    return any(_is_tested(layer.material) or layer.material.conditions for layer in stack.layers)


@lru_cache(maxsize=1024)
def _is_tested(material: Material) -> bool:
    """Whether a test has a say in anything about a material."""
    return bool(material.tests) or any(sourced.source == "tested" for sourced in material.properties.values())


def _with_tests(stack: Stack, registration: Registration, result: CheckResult) -> CheckResult:
    """A result with the knock-downs of the stack's materials for its check; its tests and conditions are named."""
    factor, sources = 1.0, []
    materials = {layer.material.id: layer.material for layer in stack.layers}
    for material in materials.values():
        for knock_down in material.knock_downs:
            if knock_down.check == result.check:
                factor *= knock_down.factor
                sources.append(f"× {knock_down.factor:.3g} from test series '{knock_down.name}'")
    if result.place.layer is not None:
        layer_material = stack.layers[result.place.layer].material
        sources += layer_material.conditions if registration.strengths else ()
        for key in registration.strengths:
            sourced = layer_material.properties.get(key)
            if sourced is not None and sourced.source == "tested" and sourced.note:
                sources.append(f"{PROPERTIES[key].symbol} of {layer_material.id} is tested: {sourced.note}")
    if not sources:
        return result
    return msgspec.structs.replace(
        result, allowable=result.allowable * factor, reserve_factor=result.reserve_factor * factor,
        remarks=(*result.remarks, *sources),
    )  # fmt: skip
