"""Bending on three points, a solid bar."""

from __future__ import annotations

from omakase.core.specimens.methods.bending import bar_method

METHOD = bar_method("flexure_3", "Bending on three points", "ASTM D790, D7264 procedure A", load_share=0.0)
