"""A test curve and what is read off it: the peak, the modulus line, toe, yield, work, unloading loops."""

from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import SpecimenError

Quantity = Literal["force", "travel", "deflection", "strain", "cross_strain", "time"]
DIMENSIONS: dict[Quantity, str] = {
    "force": "force", "travel": "length", "deflection": "length", "strain": "strain", "cross_strain": "strain",
    "time": "seconds",
}  # fmt: skip
MEANINGS: dict[Quantity, str] = {
    "force": "force",
    "travel": "crosshead travel",
    "deflection": "deflection by a gauge at the specimen",
    "strain": "strain along",
    "cross_strain": "strain across",
    "time": "time",
}
FEWEST = 5  # points of a modulus line
LOOP = 0.08  # of the peak force that must be given back before it counts as unloading
TOE_REACHES = 0.98  # of the slope higher up: below that the specimen was still seating in the standard's region
USUAL = (0.2, 0.5)  # of the peak force: the modulus line where no standard states a region


class Curve:
    """Columns of one test, in the order they were read; force and what goes with it are turned to grow upward.

    ``columns`` : quantity to (n,) array in SI; "force" in N must be there.  Raises SpecimenError for fewer than two
    rows, unequal lengths, values that are not finite, or a force that is zero throughout.
    """

    def __init__(self, columns: dict[Quantity, np.ndarray]) -> None:
        if "force" not in columns:
            raise SpecimenError("a curve needs a column of force")
        self.columns = {name: np.asarray(values, dtype=float) for name, values in columns.items()}
        lengths = {len(values) for values in self.columns.values()}
        if len(lengths) != 1 or lengths.pop() < 2:
            raise SpecimenError("the columns of a curve must be equally long, with two rows or more")
        if not all(np.all(np.isfinite(values)) for values in self.columns.values()):
            raise SpecimenError("a curve holds values that are not numbers")
        force = self.columns["force"]
        if not np.any(force):
            raise SpecimenError("the force is zero throughout")
        if -force.min() > force.max():  # compression logged as negative; a tie stays as it is, also when it is rounded
            self.columns["force"] = force = -force
        at = int(np.argmax(force))
        for name in ("travel", "deflection", "strain"):
            values = self.columns.get(name)
            if values is not None and values[at] < values[0]:
                self.columns[name] = -values
                if name == "strain" and "cross_strain" in self.columns:
                    self.columns["cross_strain"] = -self.columns["cross_strain"]

    def __len__(self) -> int:
        return len(self.force)

    @property
    def force(self) -> np.ndarray:
        return self.columns["force"]

    @cached_property
    def peak(self) -> int:
        """Index of the largest force."""
        return int(np.argmax(self.force))

    @property
    def broke(self) -> bool:
        """Whether the force fell by a third after its peak: the specimen failed rather than that the test was ended."""
        return bool(np.min(self.force[self.peak :]) < 0.67 * self.force[self.peak])

    def loops(self, axis: np.ndarray) -> int:
        """How often the specimen was unloaded before the peak: force given back while the travel went back too."""
        force, count, high = self.force[: self.peak + 1], 0, 0
        limit = LOOP * self.force[self.peak]
        while high < self.peak:
            top = np.maximum.accumulate(force[high:])
            fallen = np.nonzero(top - force[high:] > limit)[0]
            if not len(fallen):
                break
            low = high + int(fallen[0])
            crest = high + int(np.argmax(force[high : low + 1]))
            back = np.nonzero(force[low:] >= force[crest])[0]
            end = low + int(back[0]) if len(back) else self.peak
            valley = low + int(np.argmin(force[low : end + 1]))
            count += bool(axis[valley] < axis[crest])
            high = max(end, low + 1)
        return count

    def first_loading(self, axis: np.ndarray) -> np.ndarray:
        """Mask of the rows up to the peak in which the load grew: what lies on an unloading loop is left out."""
        mask = np.zeros(len(self), dtype=bool)
        head = slice(0, self.peak + 1)
        if self.loops(axis):
            mask[head] = self.force[head] >= np.maximum.accumulate(self.force[head]) - LOOP * self.force[self.peak] / 4
        else:
            mask[head] = True
        return mask


class Line(msgspec.Struct, frozen=True):
    """A straight part of a curve: force = slope (x − toe).  ``start``, ``end`` bound x; ``bend`` is the largest
    departure from the line inside, as a share of the force there at the end, smoothed over a tenth of the region."""

    slope: float
    toe: float
    start: float
    end: float
    points: int
    bend: float
    note: str = ""


def straight(x: np.ndarray, force: np.ndarray) -> tuple[float, float] | None:
    """(slope, toe) of the least-squares line of force on x; None where nothing moves or the force does not grow."""
    spread = x - x.mean()
    width = float(spread @ spread)
    slope = float(spread @ force) / width if width > 0.0 else 0.0
    return (slope, float(x.mean() - force.mean() / slope)) if slope > 0.0 else None


def fit_line(curve: Curve, x: np.ndarray, region: tuple[float, float]) -> Line:
    """Least squares of force on x over ``region`` of x, first loading only.  Raises SpecimenError."""
    start, end = sorted(region)
    mask = curve.first_loading(x) & (x >= start) & (x <= end)
    points = int(np.count_nonzero(mask))
    if points < FEWEST:
        raise SpecimenError(f"only {points} points lie in the region chosen for the modulus: widen it")
    xs, forces = x[mask], curve.force[mask]
    line = straight(xs, forces)
    if line is None:
        if np.ptp(xs) == 0.0:
            raise SpecimenError("nothing moved in the region chosen for the modulus")
        raise SpecimenError("the force does not grow in the region chosen for the modulus")
    slope, toe = line
    off = forces - slope * (xs - toe)
    window = max(1, points // 10)
    smooth = np.convolve(off, np.ones(window) / window, "valid")
    reach = max(float(forces.max()), 1e-300)
    return Line(slope, toe, start, end, points, float(np.max(np.abs(smooth))) / reach)


def region_by_force(curve: Curve, x: np.ndarray, low: float, high: float) -> tuple[float, float]:
    """x between two shares of the peak force on the way up.  Raises SpecimenError where there are too few points."""
    mask = curve.first_loading(x)
    force, xs = curve.force[mask], x[mask]
    top = curve.force[curve.peak]
    first = np.nonzero(force >= high * top)[0]
    end = int(first[0]) if len(first) else len(force) - 1
    before = np.nonzero(force[: end + 1] <= low * top)[0]
    start = int(before[-1]) if len(before) else 0
    if end - start < FEWEST:
        raise SpecimenError("too few points on the way up for a modulus")
    return float(xs[start]), float(xs[end])


def modulus_line(
    curve: Curve, x: np.ndarray, window: tuple[float, float] | None, chosen: tuple[float, float] | None = None
) -> Line:
    """The line that a modulus is read from.

    ``chosen`` : region of x that a person dragged.  Else ``window``, the range of x that the standard states, counted
    from the toe, if the specimen reached twice its end; else between 20 and 50 % of the peak force (common practice, no
    source).  The toe is where that line meets zero force, as in ASTM D790 annex A1.
    """
    if chosen is not None:
        return fit_line(curve, x, chosen)
    line = fit_line(curve, x, region_by_force(curve, x, *USUAL))
    if window is None:
        return line
    low, high = window
    if x[curve.peak] - line.toe < 2.0 * high:
        return line
    standard = line
    for _ in range(2):  # the toe moves the window a little
        standard = fit_line(curve, x, (standard.toe + low, standard.toe + high))
    if standard.slope < TOE_REACHES * line.slope:
        return msgspec.structs.replace(line, note="the toe reaches into the standard's region: read higher up instead")
    return standard


def offset_point(curve: Curve, x: np.ndarray, line: Line, offset: float) -> tuple[float, float] | None:
    """(x, force) where the curve meets the line moved on by ``offset``; None if it does not before its peak."""
    mask = curve.first_loading(x)
    xs, forces = x[mask], curve.force[mask]
    moved = line.slope * (xs - line.toe - offset)
    below = np.nonzero((forces <= moved) & (xs > line.end))[0]
    if not len(below) or below[0] == 0:
        return None
    i = int(below[0])
    a, b = forces[i - 1] - moved[i - 1], moved[i] - forces[i]
    share = a / (a + b) if a + b > 0.0 else 1.0
    return float(xs[i - 1] + share * (xs[i] - xs[i - 1])), float(forces[i - 1] + share * (forces[i] - forces[i - 1]))


def work(curve: Curve, x: np.ndarray, toe: float = 0.0) -> float:
    """∫ F dx up to the peak force, from the toe on; N times the unit of x."""
    end = curve.peak + 1
    xs, forces = x[:end], curve.force[:end]
    return float(np.trapezoid(np.where(xs >= toe, forces, 0.0), xs))


def thinned(curve: Curve, rows: int) -> Curve:
    """The curve with about ``rows`` rows: means of blocks of neighbouring rows, which keep straight parts where they
    are and lessen noise; the peak and both ends stay as they were read."""
    n = len(curve)
    if n <= rows:
        return curve
    keep = sorted({0, curve.peak, n - 1})
    edges = np.unique(
        np.concatenate([np.linspace(0, n, max(2, rows - 2 * len(keep))).astype(int), keep, np.add(keep, 1)])
    )
    edges = edges[(edges >= 0) & (edges <= n)]
    counts = np.diff(edges)
    columns = {name: np.add.reduceat(values, edges[:-1]) / counts for name, values in curve.columns.items()}
    return Curve(columns)
