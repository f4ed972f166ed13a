"""What a reduction method is given and what it returns."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import SpecimenError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.specimens.curve import Curve, Line, modulus_line, straight, work

Sizes = Mapping[str, float]


class Size(msgspec.Struct, frozen=True):
    """One measure of a specimen or rig: its key, words, dimension, a value to begin with, and whether it may be 0."""

    key: str
    label: str
    dimension: str
    usual: float
    optional: bool = False


class SizeRule(msgspec.Struct, frozen=True):
    """A standard's bound on one size, in m, or on its ratio to another where ``over`` names one."""

    size: str
    over: str
    least: float
    most: float
    source: str

    def broken(self, sizes: Sizes) -> str:
        """What is wrong with the sizes, or nothing; sizes that are not known break no rule."""
        value, per = sizes.get(self.size, 0.0), sizes.get(self.over, 0.0) if self.over else 1.0
        if value <= 0.0 or per <= 0.0 or self.least * (1.0 - 1e-6) <= value / per <= self.most * (1.0 + 1e-6):
            return ""
        name = self.size.replace("_", " ")
        low = value / per < self.least
        bound = self.least if low else self.most
        word = "at least" if low else "at most"
        if self.over:
            other = self.over.replace("_", " ")
            return f"{name}/{other} of {value / per:.3g}: {self.source} asks for {word} {bound:.3g}"
        return f"a {name} of {both_units(value)}: {self.source} asks for {word} {both_units(bound)}"


WIDTH = Size("width", "width", "length", 0.025)
THICKNESS = Size("thickness", "thickness", "length", 0.002)
SPAN = Size("span", "support span", "length", 0.1)


class Data(msgspec.Struct, frozen=True, eq=False):
    """What a test gave: a curve, or the loads of steps, or one value.

    ``held`` : largest force that was held, N; ``failed`` : force at which it failed, equal to ``held`` for a curve,
    the next step's for a step test, None if it did not fail.  ``readings`` : (m, 2) of force and deflection.
    """

    held: float
    failed: float | None
    curve: Curve | None = None
    readings: np.ndarray | None = None

    @property
    def end(self) -> float:
        """The force that a formula is shown with: that of the failure, or the largest that was held."""
        return self.failed if self.failed is not None else self.held


class Options(msgspec.Struct, frozen=True):
    """How to reduce.  ``region`` : of the curve's x axis, SI, dragged by a person; ``toe`` : take the toe off.

    ``compliance`` : m/N of machine and fixture, taken off crosshead travel.  ``shear_modulus`` : Pa, through the
    thickness of a solid beam, whose shear share is then taken off.  ``offset`` : strain of the yield line.
    """

    region: tuple[float, float] | None = None
    toe: bool = True
    compliance: float = 0.0
    shear_modulus: float = 0.0
    offset: float = 0.002


class Result(msgspec.Struct, frozen=True):
    """One number of a specimen.  ``lower`` and ``upper`` differ for an interval; an upper of infinity means at least.

    ``formula`` with the numbers put in, ``source`` the published basis.
    """

    key: str
    title: str
    dimension: str
    lower: float
    upper: float
    formula: str
    source: str
    remarks: tuple[str, ...] = ()

    @property
    def value(self) -> float:
        """The number, or the lower end of what is known."""
        return self.lower

    @property
    def exact(self) -> bool:
        return self.lower == self.upper


class Reduction(msgspec.Struct, frozen=True):
    """All numbers of a specimen, the line its modulus was read from, and what to know about them."""

    results: tuple[Result, ...]
    line: Line | None = None
    axis: str = ""
    remarks: tuple[str, ...] = ()

    def get(self, key: str) -> Result | None:
        return next((result for result in self.results if result.key == key), None)


class Prediction(msgspec.Struct, frozen=True):
    """What a specimen of a stack should show: force at each failure, N, its stiffness, and the numbers it gives.

    ``forces`` : failure in words to force; ``stiffness`` : N/m of force over travel at the specimen, 0 if unknown;
    ``strain`` : strain at the gauge per N; ``values`` : result key to value.  ``checks`` : failure in words to the
    check of the program that speaks of it.
    """

    forces: dict[str, float]
    stiffness: float
    values: dict[str, float]
    strain: float = 0.0
    cross_strain: float = 0.0
    remarks: tuple[str, ...] = ()

    @property
    def mode(self) -> str:
        """The failure that comes first."""
        return min(self.forces, key=self.forces.__getitem__, default="")

    @property
    def force(self) -> float:
        return min(self.forces.values(), default=np.inf)


Reduce = Callable[[Data, Sizes, Options], Reduction]
Predict = Callable[[Stack, Sizes], Prediction]
Place = Literal["gauge", "face", "core", "bond", "edge", "grip", "tab", "roller"]
BOUND_PLACES: dict[str, str] = {
    "grip": "it failed at the grip",
    "tab": "it failed at the tab",
    "roller": "it failed under a roller",
}


Shape = Literal["", "bar", "short bar", "two spans", "sandwich beam", "block"]
Reads = Literal["along", "any", "at 45", "faces"]


class Method(msgspec.Struct, frozen=True):
    """A way to test.  ``becomes`` : result key to the properties of a material it can stand for, of a ``layer``.

    ``wanted`` : the failure in words that the test is for, as ``predict`` names it; ``check`` : the program's check
    that a strength from it speaks of.  ``accepted`` : places of failure that show what the test is for, any but grip,
    tab and roller where it is empty; ``rules`` : what the standard says of the sizes.

    ``shape`` : of the specimen, from which a plan works out its sizes; ``solid_only`` : it reads a sandwich wrong;
    ``gripped`` : a specimen may fail at the grip.  ``reads`` : which properties a strength is: those along the
    specimens, any way they lie, of plies at ±45°, or of a whole face, which is a ply's only where it is all of it.
    """

    name: str
    title: str
    basis: str
    validity: str
    sizes: tuple[Size, ...]
    reduce: Reduce
    predict: Predict | None = None
    becomes: tuple[tuple[str, tuple[str, ...]], ...] = ()
    layer: Literal["ply", "core", ""] = ""
    wanted: str = ""
    check: str = ""
    main: str = "strength"
    accepted: tuple[Place, ...] = ()
    rules: tuple[SizeRule, ...] = ()
    shape: Shape = ""
    solid_only: bool = False
    gripped: bool = False
    reads: Reads = "along"

    def size_remarks(self, sizes: Sizes) -> tuple[str, ...]:
        """Which of its rules the sizes of a specimen break, in words."""
        return tuple(remark for rule in self.rules if (remark := rule.broken(sizes)))


def positive(sizes: Sizes, *keys: str) -> tuple[float, ...]:
    """Sizes that must be there.  Raises SpecimenError naming the one that is not."""
    for key in keys:
        value = sizes.get(key, 0.0)
        if not (np.isfinite(value) and value > 0.0):
            raise SpecimenError(f"the {key.replace('_', ' ')} of the specimen is not known")
    return tuple(sizes[key] for key in keys)


def failure(data: Data, key: str, title: str, dimension: str, per_force: float, formula: str, source: str) -> Result:
    """The force at failure times a factor: a value, an interval of steps, or "at least"."""
    upper = np.inf if data.failed is None else data.failed * per_force
    return Result(key, title, dimension, data.held * per_force, upper, formula, source)


def single(key: str, title: str, dimension: str, value: float, formula: str, source: str, *remarks: str) -> Result:
    """A result that is one number."""
    return Result(key, title, dimension, value, value, formula, source, tuple(remarks))


def newtons(force: float) -> str:
    return f"{force:.4g} N"


def mm(length: float) -> str:
    return f"{length * 1e3:.4g} mm"


def travel_of(data: Data, options: Options) -> tuple[np.ndarray | None, str, tuple[str, ...]]:
    """(x, which axis, remarks): the gauge at the specimen, else crosshead travel less the machine's own deflection."""
    curve = data.curve
    if curve is None:
        return None, "", ()
    if "deflection" in curve.columns:
        return curve.columns["deflection"], "deflection", ()
    if "travel" not in curve.columns:
        return None, "", ()
    travel = curve.columns["travel"] - options.compliance * curve.force
    if options.compliance > 0.0:
        share = options.compliance * curve.force[curve.peak] / max(float(curve.columns["travel"][curve.peak]), 1e-12)
        remark = f"compliance of {options.compliance * 1e9:.3g} µm/kN taken off, {share:.0%} of the travel at the peak"
        return travel, "travel", (remark,)
    return travel, "travel", ("from crosshead travel, compliance not taken off: the modulus reads low",)


def stiffness_line(
    data: Data, options: Options, per_x: float, window: tuple[float, float] | None
) -> tuple[Line | None, np.ndarray | None, str, tuple[str, ...]]:
    """(line of force over x, x, axis, remarks); ``window`` : strains of the standard's region, strain = per_x · x.

    Without a curve the readings of a step test are used, a line through all of them.
    """
    x, axis, remarks = travel_of(data, options)
    if data.curve is not None and x is not None:
        xs = None if window is None else (window[0] / per_x, window[1] / per_x)
        line = modulus_line(data.curve, x, xs, options.region)
        return line, x, axis, remarks + line_remarks(line, options)
    through = line_of_readings(data)
    return through, None, "deflection" if through else "", ()


def line_remarks(line: Line, options: Options) -> tuple[str, ...]:
    remarks = [line.note] if line.note else []
    if line.bend > 0.03:
        remarks.append(f"the region is not straight: it departs by up to {line.bend:.0%} from its line")
    if options.region is not None:
        remarks.append("region chosen by hand")
    return tuple(remarks)


def line_of_readings(data: Data) -> Line | None:
    """A least-squares line through the deflections that were read at the steps; None below two of them."""
    if data.readings is None or len(data.readings) < 2:
        return None
    force, x = data.readings[:, 0], data.readings[:, 1]
    line = straight(x, force)
    if line is None:
        return None
    slope, toe = line
    off = float(np.max(np.abs(force - slope * (x - toe)))) / max(float(force.max()), 1e-300)
    return Line(slope, toe, float(x.min()), float(x.max()), len(x), off)


def work_result(data: Data, x: np.ndarray | None, toe: float) -> tuple[Result, ...]:
    """Work to failure, J, where there is a curve of force over travel."""
    if data.curve is None or x is None:
        return ()
    value = work(data.curve, x, toe)
    upper = value if data.failed is not None else np.inf
    return (Result("work", "Work to failure", "energy", value, upper, "∫ F dx up to the peak", "definition"),)
