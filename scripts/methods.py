"""Writes docs/methods.md and docs/glossary.md from the words in the program: python -m scripts.methods."""

from __future__ import annotations

from pathlib import Path

from omakase.evaluate.help.methods import methods_text
from omakase.evaluate.help.terms import glossary_text

DOCS = Path(__file__).parents[1] / "docs"

if __name__ == "__main__":
    (DOCS / "methods.md").write_text(methods_text(), "utf-8")
    (DOCS / "glossary.md").write_text(glossary_text(), "utf-8")
