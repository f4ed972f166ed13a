"""From fibre and resin to a ply: elastic constants, expansion and strengths of a unidirectional layer.

Fibres are transversely isotropic, resins isotropic; no voids.  The rules, and who gives them:

* E1, ν12, X: rule of mixtures (Jones 1999, section 3.2).
* E2, G12, G23, and the strengths that the resin limits: Chamis, Simplified Composite Micromechanics Equations for
  Hygral, Thermal and Mechanical Properties, NASA TM-83320 (1983), or Halpin and Tsai's equations for the moduli.
* Expansion: Schapery, Journal of Composite Materials 2 (1968) 380.
* What a shop's ply reaches of this: shares by family of fibre, set so that the plies made here come out as typical
  coupons of hand layup under vacuum do (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import MaterialError
from omakase.core.materials.material import Material

Rule = Literal["chamis", "halpin_tsai"]
RULE_NAMES: dict[Rule, str] = {"chamis": "Chamis", "halpin_tsai": "Halpin–Tsai"}
TRANSVERSE_XI, SHEAR_XI = 2.0, 1.0  # Halpin and Tsai's reinforcement measures: round fibres in a square array; shear
CROSSWISE_POISSON = 0.3  # of a fibre across itself, where only the shear modulus across depends on it (assumed)
# shares of the fibre's own strength that a shop's ply reaches, pulled and pressed (common practice, no source)
FIBRE_SHARES: dict[str, tuple[float, float]] = {"carbon": (0.80, 0.65), "glass": (0.69, 0.85), "aramid": (0.75, 1.0)}
USUAL_SHARES = (0.75, 0.75)
# share of the resin's strength that the bond to the fibre passes on, by family (common practice, no source)
INTERFACE: dict[str, float] = {
    "carbon": 1.0, "glass": 0.92, "basalt": 0.9, "aramid": 0.7, "flax": 0.6, "polyester": 0.6, "polypropylene": 0.35,
}  # fmt: skip
USUAL_INTERFACE = 0.8
ACROSS_PULLED, ACROSS_PRESSED = 0.7, 1.6  # of Chamis's strength across: flaws when pulled, shear bands when pressed


class Lamina(msgspec.Struct, frozen=True):
    """A unidirectional layer: moduli and strengths in Pa, expansions in 1/K."""

    E1: float
    E2: float
    G12: float
    G23: float
    nu12: float
    alpha1: float
    alpha2: float
    Xt: float
    Xc: float
    Yt: float
    Yc: float
    S12: float


def halpin_tsai(fibre: float, matrix: float, volume_fraction: float, xi: float) -> float:
    """Modulus of a ply, Pa: M = M_m (1 + ξ η V_f)/(1 − η V_f), η = (M_f/M_m − 1)/(M_f/M_m + ξ).

    Halpin and Kardos, Polymer Engineering and Science 16 (1976) 344; as in Jones (1999), section 3.4.
    """
    eta = (fibre / matrix - 1.0) / (fibre / matrix + xi)
    return matrix * (1.0 + xi * eta * volume_fraction) / (1.0 - eta * volume_fraction)


def chamis(fibre: float, matrix: float, volume_fraction: float) -> float:
    """Modulus of a ply, Pa: M_m/(1 − √V_f (1 − M_m/M_f)).  Chamis, NASA TM-83320 (1983)."""
    return matrix / (1.0 - np.sqrt(volume_fraction) * (1.0 - matrix / fibre))


def _resin_limited(strength: float, fibre: float, matrix: float, volume_fraction: float) -> float:
    """Strength of a ply that its resin limits, Pa: S_m (1 − (√V_f − V_f)(1 − M_m/M_f)), never above S_m.

    Chamis, as above; a fibre softer than its resin takes no load off it.
    """
    return strength * min(1.0, 1.0 - (np.sqrt(volume_fraction) - volume_fraction) * (1.0 - matrix / fibre))


def lamina(fibre: Material, resin: Material, volume_fraction: float, rule: Rule = "chamis") -> Lamina:
    """A unidirectional layer of a fibre in a resin.

    Range: ``volume_fraction`` from 0.05 to 0.8, beyond which fibres cannot be packed; strengths are estimates for
    comparing, to be replaced by tests.  Raises MaterialError outside the range or for a missing property.
    """
    if not 0.05 <= volume_fraction <= 0.8:
        raise MaterialError(f"a fibre volume fraction of {volume_fraction:.3f} is outside 0.05 to 0.8")
    V, W = volume_fraction, 1.0 - volume_fraction
    Ef, Ef2, Gf, nuf = (fibre.value(key) for key in ("E1", "E2", "G12", "nu12"))
    Em, num = resin.value("E1"), resin.value("nu12")
    Gm, Gf23 = Em / (2.0 * (1.0 + num)), Ef2 / (2.0 * (1.0 + CROSSWISE_POISSON))
    E1, nu12 = V * Ef + W * Em, V * nuf + W * num

    def mixed(f: float, m: float, xi: float) -> float:
        return chamis(f, m, V) if rule == "chamis" else halpin_tsai(f, m, V, xi)

    pulled, pressed = FIBRE_SHARES.get(fibre.family, USUAL_SHARES)
    bond = INTERFACE.get(fibre.family, USUAL_INTERFACE)
    af1, af2, am = fibre.value("alpha1"), fibre.value("alpha2"), resin.value("alpha1")
    alpha1 = (V * Ef * af1 + W * Em * am) / E1
    return Lamina(
        E1=E1,
        E2=mixed(Ef2, Em, TRANSVERSE_XI),
        G12=mixed(Gf, Gm, SHEAR_XI),
        G23=mixed(Gf23, Gm, SHEAR_XI),
        nu12=nu12,
        alpha1=alpha1,
        alpha2=V * (af2 + nuf * af1) + W * (1.0 + num) * am - nu12 * alpha1,
        Xt=pulled * fibre.value("Xt") * E1 / Ef,
        Xc=pressed * fibre.value("Xc") * E1 / Ef,
        Yt=ACROSS_PULLED * bond * _resin_limited(resin.value("Xt"), Ef2, Em, V),
        Yc=ACROSS_PRESSED * bond * _resin_limited(resin.value("Xc"), Ef2, Em, V),
        S12=bond * resin.value("S12"),  # which is what its plies reach in shear
    )


def side_by_side(layers: Sequence[Lamina], shares: Sequence[float]) -> Lamina:
    """One layer of tows of two fibres beside each other, with ``shares`` of its volume that sum to one.

    Along the tows they share the strain, across and in shear the stress; the strength is the load at which the first of
    them fails; what the other could still carry alone is not counted.
    """
    parts = [(layer, share) for layer, share in zip(layers, shares, strict=True) if share > 0.0]
    if len(parts) == 1:
        return parts[0][0]

    def parallel(key: str) -> float:
        return sum(share * float(getattr(layer, key)) for layer, share in parts)

    def series(key: str) -> float:
        return 1.0 / sum(share / float(getattr(layer, key)) for layer, share in parts)

    E1 = parallel("E1")
    limits = {key: E1 * min(getattr(layer, key) / layer.E1 for layer, _ in parts) for key in ("Xt", "Xc")}
    return Lamina(
        E1=E1,
        E2=series("E2"),
        G12=series("G12"),
        G23=series("G23"),
        nu12=parallel("nu12"),
        alpha1=sum(share * layer.E1 * layer.alpha1 for layer, share in parts) / E1,
        alpha2=parallel("alpha2"),
        **limits,
        **{key: min(getattr(layer, key) for layer, _ in parts) for key in ("Yt", "Yc", "S12")},
    )
