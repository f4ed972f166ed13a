"""Omakase: a workbench for the designer of composite sandwich structures.

In a script or notebook: ``omakase.open(path)``, ``omakase.demo()`` and ``omakase.new()``, see ``omakase.notebook``.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from omakase.notebook import Workbook as Workbook

__version__ = "0.1.0"
__all__ = ["Workbook", "__version__", "demo", "new", "open"]

# names that are found in omakase.notebook when they are asked for: the window starts without it
_OFFERED = {"open": "open_project", "demo": "demo", "new": "new", "Workbook": "Workbook"}


def __getattr__(name: str) -> Any:
    if name not in _OFFERED:
        raise AttributeError(f"module 'omakase' has no attribute '{name}'")
    from omakase import notebook

    return getattr(notebook, _OFFERED[name])
