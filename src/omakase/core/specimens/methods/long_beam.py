"""Facing strength of a long sandwich beam."""

from __future__ import annotations

from omakase.core.specimens.method import Size
from omakase.core.specimens.methods.sandwich_beam import beam_method

METHOD = beam_method(
    "long_beam", "Facings, long beam", "ASTM D7249", "face",
    (
        Size("span", "support span", "length", 0.5),
        Size("load_span", "load span, 0 for one roller", "length", 0.1, True),
    ),
    "Thin faces; a face fails between the load rollers.",
    "σ = P (S − L)/(2 t (d + c) b); the core shear reached is shown beside it.",
)  # fmt: skip
