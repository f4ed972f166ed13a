"""Core shear of a short sandwich beam."""

from __future__ import annotations

from omakase.core.specimens.method import Size
from omakase.core.specimens.methods.sandwich_beam import beam_method

METHOD = beam_method(
    "core_shear_beam", "Core shear, short beam", "ASTM C393", "core",
    (
        Size("span", "support span", "length", 0.15),
        Size("load_span", "load span, 0 for one roller", "length", 0.0, True),
    ),
    "Thin faces; the core fails first.",
    "τ = P/((d + c) b), d the total thickness; the facing stress reached is shown beside it.",
)  # fmt: skip
