"""Files that ship with the program."""

from __future__ import annotations

from pathlib import Path

HERE = Path(__file__).parent


def shipped(name: str) -> Path:
    """The path of a file or folder by its place in the package, such as "data/fonts"."""
    return HERE / name
