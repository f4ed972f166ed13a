"""The registry of reduction methods.  A new one is one file in ``methods``, named in METHOD_MODULES."""

from __future__ import annotations

import importlib
from functools import lru_cache

from omakase.core.specimens.method import Method

METHOD_MODULES = (
    "tension",
    "compression",
    "flexure_3",
    "flexure_4",
    "short_beam",
    "curved_beam",
    "in_plane_shear",
    "lap_shear",
    "core_shear_plate",
    "core_shear_beam",
    "long_beam",
    "two_spans",
    "flatwise_tension",
    "flatwise_compression",
    "edgewise",
    "peel",
    "insert_pull_out",
    "cantilever",
    "proof_load",
)


@lru_cache(maxsize=1)
def all_methods() -> dict[str, Method]:
    """Every method by name, in the order of METHOD_MODULES."""
    modules = (importlib.import_module(f"omakase.core.specimens.methods.{name}") for name in METHOD_MODULES)
    return {module.METHOD.name: module.METHOD for module in modules}
