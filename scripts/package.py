"""Makes the wheel and the source archive: python -m scripts.package [folder].  ./run package does the set-up."""

from __future__ import annotations

import os
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]


def build(folder: Path) -> tuple[Path, Path]:
    """(wheel, source archive) in a folder, made with the tools of this environment; no network."""
    from setuptools import build_meta

    folder = folder.absolute()
    folder.mkdir(parents=True, exist_ok=True)
    before = Path.cwd()
    os.chdir(ROOT)
    try:
        return folder / build_meta.build_wheel(str(folder)), folder / build_meta.build_sdist(str(folder))
    finally:
        os.chdir(before)


if __name__ == "__main__":
    for path in build(Path(sys.argv[1] if len(sys.argv) > 1 else "dist")):
        print(path)
