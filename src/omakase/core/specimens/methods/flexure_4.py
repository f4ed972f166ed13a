"""Bending on four points, a solid bar."""

from __future__ import annotations

from omakase.core.specimens.methods.bending import bar_method

METHOD = bar_method(
    "flexure_4", "Bending on four points", "ASTM D7264 procedure B, load span half the span", load_share=0.5
)
