"""Statistics of a series: scatter, outliers, basis values, values that are bounds, and the difference of two series.

Basis values are one-sided normal tolerance limits, x̄ − k s: with 95 % confidence, 90 % (B) or 99 % (A) of all
specimens are stronger.  k = t⁻¹(0.95; n − 1, z_p √n)/√n from the non-central t distribution (CMH-17-1G, section 8.3.5).
They need at least five specimens that failed properly.  A normal distribution is assumed; few values cannot prove it.

A value that is a bound is never averaged: "at least" and intervals enter a maximum-likelihood fit of the normal
distribution as what they are.  An interval narrower than 4 % of its middle, as a reading is that was written down with
few digits, counts with its middle: at scatters as usual that changes a deviation by less than the number of specimens
leaves it open (Sheppard's correction).

Batches are pooled where they agree: k-sample Anderson–Darling (Scholz and Stephens 1987) at 2.5 %, as CMH-17-1G,
section 8.3.2, has it.
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

FEWEST_NORMAL, NOT_NORMAL = 5, 0.05
ENOUGH = 5  # values from which basis values are given
SIGNIFICANCE = 0.05
NARROW = 0.04  # of its middle: an interval that counts as a value
BATCHES_DIFFER = 0.025  # significance of the test whether batches agree (CMH-17)
ROBUST_COUNT, ROBUST_BATCHES = 18, 3
CONFIDENCE = 0.95
MOST_STEPS, FINE = 5000, 1e-10  # of the search for the largest likelihood
CONTENT = {"B": 0.90, "A": 0.99}


class Observation(msgspec.Struct, frozen=True):
    """One specimen's value: exact, an interval, or at least ``lower``; ``name`` of the specimen, and its ``batch``."""

    name: str
    lower: float
    upper: float
    batch: str = ""

    @property
    def exact(self) -> bool:
        """Whether it is one value, or an interval so narrow that its middle serves as one."""
        wide = self.upper - self.lower
        return bool(np.isfinite(wide)) and wide <= NARROW * 0.5 * abs(self.lower + self.upper)

    @property
    def value(self) -> float:
        """The value, the middle of an interval, or the end that a bound has."""
        return 0.5 * (self.lower + self.upper) if np.isfinite(self.upper) else self.lower


class Outlier(msgspec.Struct, frozen=True):
    """Maximum normed residual of a series and its critical value; ``name`` of the specimen that has it."""

    name: str
    residual: float
    critical: float

    @property
    def found(self) -> bool:
        return self.residual > self.critical


class Summary(msgspec.Struct, frozen=True):
    """Statistics of a series.  Mean, deviation and basis values are None where there are too few exact values.

    ``bounded_mean``, ``bounded_deviation`` : of the fit that takes bounds and intervals as what they are.
    ``words`` : what to know about it.
    """

    observations: tuple[Observation, ...]
    n: int
    mean: float | None = None
    deviation: float | None = None
    minimum: float | None = None
    basis: dict[str, tuple[float, float]] = {}
    outlier: Outlier | None = None
    bounded_mean: float | None = None
    bounded_deviation: float | None = None
    words: tuple[str, ...] = ()

    @property
    def variation(self) -> float | None:
        """Coefficient of variation."""
        if self.deviation is None or not self.mean:
            return None
        return self.deviation / abs(self.mean)


class Difference(msgspec.Struct, frozen=True):
    """Difference of the means of two series, second less first, with its confidence interval."""

    value: float
    lower: float
    upper: float

    @property
    def tie(self) -> bool:
        """Whether no difference is shown."""
        return self.lower <= 0.0 <= self.upper


def tolerance_factor(n: int, content: float, confidence: float = CONFIDENCE) -> float:
    """k of a one-sided normal tolerance limit from ``n`` values."""
    from scipy import special  # not before it is needed: it takes time to load

    root = np.sqrt(n)
    return float(special.nctdtrit(n - 1, special.ndtri(content) * root, confidence) / root)


def critical_residual(n: int, significance: float = SIGNIFICANCE) -> float:
    """Critical value of the maximum normed residual, two-sided.  CMH-17-1G, section 8.3.3."""
    from scipy import special  # not before it is needed: it takes time to load

    t = float(special.stdtrit(n - 2, 1.0 - significance / (2.0 * n)))
    return float((n - 1) / np.sqrt(n) * np.sqrt(t * t / (n - 2 + t * t)))


def outlier(observations: Sequence[Observation]) -> Outlier | None:
    """The value furthest from the mean, in deviations; None below three exact values or without scatter."""
    exact = [seen for seen in observations if seen.exact]
    values = np.array([seen.value for seen in exact])
    if len(values) < 3 or values.std(ddof=1) == 0.0:
        return None
    residuals = np.abs(values - values.mean()) / values.std(ddof=1)
    at = int(np.argmax(residuals))
    return Outlier(exact[at].name, float(residuals[at]), critical_residual(len(values)))


def censored_fit(observations: Sequence[Observation]) -> tuple[float, float] | None:
    """(mean, deviation) of a normal distribution fitted to exact values, intervals and bounds by maximum likelihood.

    SciPy's fit of censored data.  None where fewer than two values have an upper end, or the fit does not converge.
    """
    ended = [seen for seen in observations if np.isfinite(seen.upper)]
    if len(ended) < 2 or len({seen.lower for seen in ended}) == 1:
        return None
    from scipy.optimize import fmin  # slow to import, and only needed here
    from scipy.stats import CensoredData, norm

    scale = float(np.mean([abs(seen.value) for seen in observations])) or 1.0
    data = CensoredData(
        uncensored=[seen.value / scale for seen in ended if seen.exact],
        right=[seen.lower / scale for seen in observations if not np.isfinite(seen.upper)],
        interval=[[seen.lower / scale, seen.upper / scale] for seen in ended if not seen.exact],
    )

    def fine(likelihood, start, args=(), disp=0):  # type: ignore[no-untyped-def]
        return fmin(
            likelihood, start, args=args, disp=disp, xtol=FINE, ftol=FINE, maxiter=MOST_STEPS, maxfun=MOST_STEPS
        )

    with np.errstate(all="ignore"):
        mean, deviation = (float(value) * scale for value in norm.fit(data, optimizer=fine))
    return (mean, deviation) if np.isfinite(mean) and 0.0 < deviation < 10.0 * abs(mean) else None


def normality(values: Sequence[float]) -> float | None:
    """Probability of a sample this far from normal if it were normal; None for fewer than five values or no scatter.

    Shapiro and Wilk, Biometrika 52 (1965) 591, as SciPy computes it.
    """
    if len(values) < FEWEST_NORMAL or np.ptp(values) <= 0.0:
        return None
    from scipy.stats import shapiro  # slow to import, and only needed here

    return float(shapiro(values).pvalue)


def summarise(observations: Sequence[Observation]) -> Summary:
    """Everything about one series."""
    observations = tuple(observations)
    exact = [seen.value for seen in observations if seen.exact]
    bounds = [seen for seen in observations if not seen.exact]
    n, words = len(exact), _words(observations)
    minimum = min((seen.lower for seen in observations if np.isfinite(seen.upper)), default=None)
    bounded_mean, bounded_deviation = (censored_fit(observations) if bounds else None) or (None, None)
    if n < 2:
        mean = exact[0] if exact else None
        return Summary(observations, n, mean, None, minimum, {}, None, bounded_mean, bounded_deviation, words)
    mean, deviation = float(np.mean(exact)), float(np.std(exact, ddof=1))
    basis = {}
    if n >= ENOUGH:
        for name, content in CONTENT.items():
            factor = tolerance_factor(n, content)
            basis[name] = (mean - factor * deviation, factor)
    if n >= ENOUGH:
        words = (*words, _basis_asks(observations))
        p = normality(exact)
        if p is not None and p < NOT_NORMAL:
            words = (
                f"The values do not look normal (Shapiro–Wilk p = {p:.2g}): the basis values do not hold.",
                *words,
            )
    strange = outlier(observations)
    if strange is not None and strange.found:
        words = (f"{strange.name} stands out from the others: look at its sizes, its data and how it failed.", *words)
    return Summary(observations, n, mean, deviation, minimum, basis, strange, bounded_mean, bounded_deviation, words)


def _words(observations: Sequence[Observation]) -> tuple[str, ...]:
    exact = [seen.value for seen in observations if seen.exact]
    at_least = [seen for seen in observations if np.isinf(seen.upper)]
    intervals = [seen for seen in observations if not seen.exact and np.isfinite(seen.upper)]
    words = []
    if not observations:
        return ("no specimen has a value yet",)
    if len(exact) < ENOUGH:
        word = {0: "No specimen has", 1: "One specimen has"}.get(len(exact), f"Only {len(exact)} specimens have")
        words.append(f"{word} a full value: look at the minimum, and do not use a basis value from them.")
    elif len(exact) < 10:
        words.append(f"With {len(exact)} values the A-basis is far below the mean and the scatter itself is uncertain.")
    if at_least:
        names = ", ".join(seen.name for seen in at_least[:4])
        words.append(f"{names} held at least what is shown: a bound, not averaged.")
        if exact and min(seen.lower for seen in at_least) < np.mean(exact):
            words.append("A bound below the mean says nothing about strength; the mean may be too high or too low.")
    if intervals:
        words.append(f"{len(intervals)} are intervals of a step test: held at the first, failed before the second.")
    read = [seen for seen in observations if seen.exact and seen.lower != seen.upper]
    if read:
        words.append(
            f"{len(read)} were read to a few digits: each counts with the middle of what the digits leave open."
        )
    batch_text = batch_words(observations)
    return (batch_text, *words) if batch_text else tuple(words)


def _basis_asks(observations: Sequence[Observation]) -> str:
    """What a B-basis for certification asks for, and what there is."""
    count = len({seen.batch for seen in observations if seen.exact and seen.batch})
    n = sum(seen.exact for seen in observations)
    there = f"{n} specimen{'s' if n != 1 else ''}"
    if count:
        there += f" of {count} batch{'es' if count != 1 else ''}"
    return (
        f"A B-basis for certification asks for at least {ROBUST_COUNT} specimens from {ROBUST_BATCHES} batches or more "
        f"(CMH-17, robust sampling), a normal distribution and batches that agree; here are {there}. Fewer serve for "
        "sizing."
    )


def batches(observations: Sequence[Observation]) -> dict[str, list[float]]:
    """Values of each batch that has two or more, by its name."""
    groups: dict[str, list[float]] = {}
    for seen in observations:
        if seen.exact and seen.batch:
            groups.setdefault(seen.batch, []).append(seen.value)
    return {name: values for name, values in groups.items() if len(values) > 1}


def batches_agree(observations: Sequence[Observation]) -> float | None:
    """Probability of batches this different if they were one population; None below two batches of two values.

    k-sample Anderson–Darling test by permutation, Scholz and Stephens, JASA 82 (1987) 918, as SciPy computes it.
    """
    groups = batches(observations)
    if len(groups) < 2 or np.ptp(np.concatenate(list(groups.values()))) == 0.0:
        return None
    from scipy.stats import PermutationMethod, anderson_ksamp  # slow to import, and only needed here

    method = PermutationMethod(n_resamples=999, rng=np.random.default_rng(1))
    return float(anderson_ksamp(list(groups.values()), variant="midrank", method=method).pvalue)


def batch_words(observations: Sequence[Observation]) -> str:
    """Whether the batches may be pooled, in words; nothing without two batches."""
    p = batches_agree(observations)
    if p is None:
        return ""
    if p >= BATCHES_DIFFER:
        return f"The batches agree (k-sample Anderson–Darling p = {p:.2g}): they are pooled."
    return (
        f"The batches differ (k-sample Anderson–Darling p = {p:.2g}): do not pool them. Find out why, and use no "
        "basis value of all together."
    )


def difference(first: Sequence[float], second: Sequence[float], confidence: float = CONFIDENCE) -> Difference | None:
    """Difference of means with its interval, unequal scatter allowed (Welch); None below two values in either."""
    if len(first) < 2 or len(second) < 2:
        return None
    value = float(np.mean(second) - np.mean(first))
    if np.ptp(first) == 0.0 and np.ptp(second) == 0.0:
        return Difference(value, value, value)
    from scipy.stats import ttest_ind  # slow to import, and only needed here

    interval = ttest_ind(second, first, equal_var=False).confidence_interval(confidence)
    return Difference(value, float(interval.low), float(interval.high))
