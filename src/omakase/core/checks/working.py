"""Checks worked out: formulas as they are printed, the numbers put in, and what they give.

A check's file may register how its result is worked out by hand.  A step's value is computed from the very text that
is printed, so that a formula and its number cannot disagree; what does not come to the check's own value is left out.
"""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Iterable, Mapping
from typing import Any

import msgspec

from omakase.core.checks.result import CheckResult, Context, DetailContext

NOISE = 1e-9
AGREES = 1e-6  # relative difference between a check's value and that of its last step


class Term(msgspec.Struct, frozen=True):
    """A number put in: SI units of ``dimension``."""

    symbol: str
    meaning: str
    value: float
    dimension: str


class Step(msgspec.Struct, frozen=True):
    """``symbol`` = ``formula`` = ``value``, with the numbers that were not put in by a step before."""

    symbol: str
    meaning: str
    formula: str
    terms: tuple[Term, ...]
    value: float
    dimension: str


_BINARY: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}  # fmt: skip
_FUNCTIONS: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt, "abs": abs, "max": max, "min": min,
    "sin": lambda angle: math.sin(math.radians(angle)), "cos": lambda angle: math.cos(math.radians(angle)),
}  # fmt: skip


def evaluate_formula(formula: str, values: Mapping[str, float]) -> float:
    """A printed formula with numbers put in: + − * / ^, brackets, sqrt, abs, max, min, sin and cos of degrees.

    Raises ValueError for anything else.
    """

    def value_of(node: ast.AST) -> float:
        match node:
            case ast.Expression(body=body):
                return value_of(body)
            case ast.Constant(value=int() | float() as number):
                return float(number)
            case ast.Name(id=name) if name in values:
                return values[name]
            case ast.UnaryOp(op=ast.USub(), operand=inner):
                return -value_of(inner)
            case ast.BinOp(left=left, op=sign, right=right) if type(sign) in _BINARY:
                return _BINARY[type(sign)](value_of(left), value_of(right))
            case ast.Call(func=ast.Name(id=name), args=parts, keywords=[]) if name in _FUNCTIONS:
                return _FUNCTIONS[name](*(value_of(part) for part in parts))
        raise ValueError(f"'{formula}' cannot be worked out: {ast.dump(node)}")

    try:
        return value_of(ast.parse(formula.replace("^", "**").replace("−", "-"), mode="eval"))
    except (SyntaxError, ZeroDivisionError, OverflowError) as error:
        raise ValueError(f"'{formula}' cannot be worked out: {error}") from error


def without_noise(values: Iterable[float]) -> list[float]:
    """Values with those set to zero that are rounding beside the largest."""
    listed = [float(value) for value in values]
    most = max((abs(value) for value in listed), default=0.0)
    return [value if abs(value) > NOISE * most else 0.0 for value in listed]


class Sheet:
    """Collects the steps of one check."""

    def __init__(self) -> None:
        self._values: dict[str, float] = {}
        self._waiting: list[Term] = []
        self.steps: list[Step] = []
        self.closed = False  # whether the steps end with the reserve factor, which no ratio gives

    def given(self, symbol: str, value: float, dimension: str, meaning: str) -> None:
        """A number that is put in."""
        self._values[symbol] = float(value)
        self._waiting.append(Term(symbol, meaning, float(value), dimension))

    def step(self, symbol: str, formula: str, dimension: str, meaning: str) -> float:
        """A formula over what was given and worked out before; its value."""
        value = evaluate_formula(formula, self._values)
        self.steps.append(Step(symbol, meaning, formula, tuple(self._waiting), value, dimension))
        self._waiting = []
        self._values[symbol] = value
        return value

    def adopt(self, other: Sheet) -> None:
        """Takes over all that another sheet has."""
        self._values, self._waiting, self.steps, self.closed = other._values, other._waiting, other.steps, other.closed

    def give_level(self, context: Context | DetailContext) -> None:
        """j, by which limit loads become ultimate ones."""
        self.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")


Worker = Callable[[Any, CheckResult, Sheet], None]
_workers: dict[str, Worker] = {}


def worked(check: str) -> Callable[[Worker], Worker]:
    """Decorator of how a check's value is worked out: from its context and one result, onto a sheet.

    One of the steps must come to the result's ``value``, the last one where the sheet is not closed.
    """

    def decorate(worker: Worker) -> Worker:
        _workers[check] = worker
        return worker

    return decorate


def is_worked(check: str) -> bool:
    """Whether a check tells how it is worked out, beyond its allowable over its value."""
    return check in _workers


def working(context: Context | DetailContext | None, result: CheckResult) -> tuple[Step, ...]:
    """How a result is worked out, ending with its reserve factor; only that where the check does not tell more."""
    worker = _workers.get(result.check)
    if worker is not None and context is not None and result.value > 0.0:
        sheet = Sheet()
        worker(context, result, sheet)
        if any(math.isclose(step.value, result.value, rel_tol=AGREES) for step in sheet.steps):
            return (*sheet.steps, *(() if sheet.closed else _reserve(result, sheet)))
    sheet = Sheet()
    return tuple(_reserve(result, sheet))


def _reserve(result: CheckResult, sheet: Sheet) -> list[Step]:
    """The reserve factor from the check's value and what it is compared with."""
    if not math.isfinite(result.reserve_factor) or not math.isfinite(result.allowable) or result.value <= 0.0:
        return []
    before = len(sheet.steps)
    symbol = sheet.steps[-1].symbol if before else "value"
    if not before:
        sheet.given("value", result.value, result.dimension, "what acts")
    sheet.given("allowed", result.allowable, result.dimension, "what may act")
    ways = (f"allowed / {symbol}", f"{symbol} / allowed")
    for formula in ways:
        trial = Sheet()
        trial._values = dict(sheet._values)
        if math.isclose(trial.step("RF", formula, "ratio", ""), result.reserve_factor, rel_tol=AGREES):
            sheet.step("RF", formula, "ratio", f"reserve factor, required {result.required:g}")
            return sheet.steps[before:]
    sheet.given(
        "RF", result.reserve_factor, "ratio", f"reserve factor by the method above, required {result.required:g}"
    )
    sheet.step("share", f"{result.required:g} / RF", "ratio", "of its limit that the worst place uses")
    return sheet.steps[before:]
