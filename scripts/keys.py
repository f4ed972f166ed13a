"""Writes the table of keys into the README: python -m scripts.keys."""

from __future__ import annotations

import os
from pathlib import Path

README = Path(__file__).parents[1] / "README.md"
BEGIN, END = "<!-- keys -->\n", "<!-- end of keys -->\n"


def with_keys(text: str, rows: list[tuple[str, str]]) -> str:
    """The README's text with its table of keys made anew, two commands a line."""
    lines = ["| Keys | What they do | Keys | What they do |", "|---|---|---|---|"]
    half = (len(rows) + 1) // 2
    for k in range(half):
        left, right = rows[k], rows[half + k] if half + k < len(rows) else ("", "")
        cells = [f"`{keys}`" if keys else "" for keys in (left[0], right[0])]
        lines.append(f"| {cells[0]} | {left[1]} | {cells[1]} | {right[1]} |")
    start, end = text.index(BEGIN) + len(BEGIN), text.index(END)
    return text[:start] + "\n".join(lines) + "\n" + text[end:]


def main() -> None:
    """Opens the window without a screen to ask it for its commands."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtCore import QSettings

    from omakase.project.document import Document
    from omakase.project.model import new_project
    from omakase.ui.window.application import make_application, make_window
    from omakase.ui.window.help_view import keys_of

    settings = QSettings("/nonexistent/window.ini", QSettings.Format.IniFormat)
    application = make_application(settings)
    window = make_window(Document(new_project()), settings, synchronous=True)
    README.write_text(with_keys(README.read_text("utf-8"), keys_of(window.commands)), "utf-8")
    window.close()
    application.processEvents()


if __name__ == "__main__":
    main()
