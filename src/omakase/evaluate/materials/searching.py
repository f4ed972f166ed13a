"""What a material is found by."""

from __future__ import annotations

from omakase.core.materials.cloth import ARCHITECTURE_NAMES
from omakase.core.materials.material import Material


def search_text(material: Material) -> str:
    """All that a word typed may be found in."""
    build = material.build
    words = [material.id, material.name, material.kind, material.family, material.note]
    if build is not None:
        words += [ARCHITECTURE_NAMES[build.architecture], build.fibre, "hybrid" if build.second_fibre else ""]
    return " ".join(words).lower()
