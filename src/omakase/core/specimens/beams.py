"""Beams in bending, solid and sandwich: what their slopes mean, and the share that shear has in them.

A beam on two supports, span S, loaded by two rollers a load span L apart (L = 0: one roller in the middle).  With D the
bending stiffness of the whole width (N m²) and U its shear stiffness (N):

- deflection in the middle: P (2S³ − 3SL² + L³)/(96 D) + P (S − L)/(4U), as ASTM D7250 has it;
- deflection under the rollers, which is what the crosshead travels: with a = (S − L)/2,
  P a² (3S − 4a)/(12 D) + P a/(2U) (beam theory; equal to the first for L = 0).
"""

from __future__ import annotations

KAPPA = 5.0 / 6.0  # of a solid rectangle


def bending_per_force(span: float, load_span: float, at_rollers: bool) -> float:
    """Deflection times D per force, m³."""
    if at_rollers:
        arm = (span - load_span) / 2.0
        return arm**2 * (3.0 * span - 4.0 * arm) / 12.0
    return (2.0 * span**3 - 3.0 * span * load_span**2 + load_span**3) / 96.0


def shear_per_force(span: float, load_span: float) -> float:
    """Deflection times U per force, m; the same in the middle and under the rollers."""
    return (span - load_span) / 4.0


def moment_per_force(span: float, load_span: float) -> float:
    """Largest bending moment per force, m."""
    return (span - load_span) / 4.0


def stiffness(D: float, U: float, span: float, load_span: float, at_rollers: bool) -> float:
    """Force over deflection, N/m."""
    return 1.0 / (bending_per_force(span, load_span, at_rollers) / D + shear_per_force(span, load_span) / U)


def bending_from_slope(slope: float, U: float, span: float, load_span: float, at_rollers: bool) -> tuple[float, float]:
    """(D, share of shear in the deflection) from force over deflection; U = 0 leaves the shear in.

    A share of 1 or more says that shear alone would give more than was measured; D is then not positive.
    """
    shear = shear_per_force(span, load_span) / U * slope if U > 0.0 else 0.0
    rest = 1.0 - shear
    return (bending_per_force(span, load_span, at_rollers) * slope / rest if rest > 0.0 else 0.0), shear


def explaining_compliance(apparent: float, known: float) -> float:
    """Compliance of machine and fixture in m/N that makes a specimen of stiffness ``known`` look like ``apparent``."""
    return 1.0 / apparent - 1.0 / known
