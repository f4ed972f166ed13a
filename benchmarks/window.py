"""The real window on a project, offscreen, with settings of its own."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any


def open_window(project: Any, synchronous: bool = False) -> tuple[Any, Any]:
    """(application, window at the design size) on a project; imports Qt when called, not before."""
    from PyQt6.QtCore import QSettings

    from omakase.project.document import Document
    from omakase.ui.window.application import make_application, make_window
    from omakase.ui.window.memory import settle_memory

    settings = QSettings(str(Path(tempfile.mkdtemp()) / "w.ini"), QSettings.Format.IniFormat)
    application = make_application(settings)
    window = make_window(Document(project), settings, synchronous)
    window.resize(1280, 800)
    window.show()
    application.processEvents()
    settle_memory()  # as the program does some seconds after its start
    return application, window


def close_window(window: Any) -> None:
    """Closes it without asking what should become of the edits."""
    window._closing = True
    window.close()
