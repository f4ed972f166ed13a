"""The registry of checks.  A new failure mode is one file with a decorated function, named in CHECK_MODULES."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from functools import cache, lru_cache

import msgspec

from omakase.core.checks.result import Check, CheckResult, Context
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES

CHECK_MODULES = (
    "face_failure",
    "interlaminar_shear",
    "core_shear",
    "wrinkling",
    "dimpling",
    "crimping",
    "core_crushing",
    "flatwise_tension",
    "indentation",
    "dent",
    "limits",
)


class Registration(msgspec.Struct, frozen=True):
    """A check's identity, what it is in one sentence, the published basis and the range of validity.

    ``strengths`` : properties of the layer that governs which a test could show, named in a remark where one has.
    """

    name: str
    summary: str
    basis: str
    validity: str
    run: Check
    strengths: tuple[str, ...] = ()


_registered: dict[str, Registration] = {}


def register(
    name: str, summary: str, basis: str, validity: str, strengths: tuple[str, ...] = ()
) -> Callable[[Check], Check]:
    """Decorator that puts a check on the list."""

    def decorate(check: Check) -> Check:
        _registered[name] = Registration(name, summary, basis, validity, check, strengths)
        return check

    return decorate


def all_checks() -> dict[str, Registration]:
    """Every registered check by name, in the order of CHECK_MODULES."""
    _import_checks()
    # registered as imported, which may have been in another order
    order = {f"omakase.core.checks.{module}": place for place, module in enumerate(CHECK_MODULES)}
    return dict(sorted(_registered.items(), key=lambda item: order[item[1].run.__module__]))


@cache
def _import_checks() -> None:
    for module in CHECK_MODULES:
        importlib.import_module(f"omakase.core.checks.{module}")


def run_all(context: Context) -> list[CheckResult]:
    """All results of all checks, worst first by reserve factor over what is required.

    Factors that test series have shown are taken in here, for every check alike, and each result names its tests and
    the conditions by which its strength was reduced.
    """
    tested = any(_is_tested(layer.material) or layer.material.conditions for layer in context.stack.layers)
    results = []
    for registration in all_checks().values():
        found = registration.run(context)
        results += [_with_tests(context.stack, registration, result) for result in found] if tested else found
    return sorted(results, key=lambda result: result.reserve_factor / result.required)


@lru_cache(maxsize=1024)
def _is_tested(material: Material) -> bool:
    """Whether a test has a say in anything about a material."""
    return bool(material.tests) or any(sourced.source == "tested" for sourced in material.properties.values())


def _with_tests(stack: Stack, registration: Registration, result: CheckResult) -> CheckResult:
    """A result with the knock-downs of the stack's materials for its check; its tests and conditions are named."""
    factor, told = 1.0, []
    materials = {layer.material.id: layer.material for layer in stack.layers}
    for material in materials.values():
        for knock_down in material.knock_downs:
            if knock_down.check == result.check:
                factor *= knock_down.factor
                told.append(f"× {knock_down.factor:.3g} from test series '{knock_down.name}'")
    if result.place.layer is not None:
        own = stack.layers[result.place.layer].material
        told += own.conditions if registration.strengths else ()
        for key in registration.strengths:
            sourced = own.properties.get(key)
            if sourced is not None and sourced.source == "tested" and sourced.note:
                told.append(f"{PROPERTIES[key].symbol} of {own.id} is tested: {sourced.note}")
    if not told:
        return result
    return msgspec.structs.replace(
        result, allowable=result.allowable * factor, reserve_factor=result.reserve_factor * factor,
        remarks=(*result.remarks, *told),
    )  # fmt: skip
