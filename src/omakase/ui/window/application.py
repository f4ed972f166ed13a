"""Starts the window: fonts, looks, the project to show, and what happens when something goes wrong inside."""

from __future__ import annotations

import logging
import sys
import threading
import traceback
from pathlib import Path
from types import TracebackType

import platformdirs
from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QApplication

from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.model import new_project
from omakase.ui.kit.theme import DARK, LIGHT, apply_theme, load_fonts, set_base_size
from omakase.ui.window.main_menu import make_actions
from omakase.ui.window.main_window import MainWindow
from omakase.ui.window.memory import give_back, keep_large_blocks_apart, settle_memory
from omakase.units import UnitSystem

log = logging.getLogger("omakase")
DEFAULT_SIZE = 9.5

SWITCH_SECONDS = 0.001  # Python threads: the window does not wait long for its turn behind a search


def error_log() -> Path:
    """Where internal errors are written down."""
    return Path(platformdirs.user_state_dir("omakase", appauthor=False)) / "errors.log"


def preferences() -> QSettings:
    """Theme, text size and pane sizes of this user."""
    folder = Path(platformdirs.user_config_dir("omakase", appauthor=False))
    return QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)


def make_application(settings: QSettings) -> QApplication:
    """The Qt application with the shipped fonts and the user's theme and text size."""
    sys.setswitchinterval(SWITCH_SECONDS)
    existing = QApplication.instance()
    # the style goes the way of the command line: setting it would make Qt's own first
    styled = [*sys.argv[:1], "-style", "Fusion"]
    application = existing if isinstance(existing, QApplication) else QApplication(styled)
    application.setApplicationName("Omakase")
    application.setFont(QFont(load_fonts()))
    set_base_size(float(settings.value("text_size", DEFAULT_SIZE)))
    apply_theme(application, DARK if settings.value("theme") == "dark" else LIGHT)
    return application


def last_units(settings: QSettings) -> UnitSystem:
    """The units that a new project begins with: those chosen last."""
    return "inch_pound" if settings.value("units") == "inch_pound" else "si"


def make_window(document: Document, settings: QSettings, synchronous: bool = False) -> MainWindow:
    """The main window on a document."""
    keep_large_blocks_apart()
    theme = DARK if settings.value("theme") == "dark" else LIGHT
    window = MainWindow(document, theme, settings, make_actions, synchronous)
    session, looked_at = window.session, document.project.briefs[0].id if document.project.briefs else ""

    def rested() -> None:
        nonlocal looked_at
        give_back(everything=session.brief_id != looked_at)  # results of the one before are garbage of some age
        looked_at = session.brief_id

    session.rested.connect(rested)
    return window


def keep_work_on_errors(window: MainWindow) -> None:
    """Qt ends the program on an exception in a slot: log it, keep the work, tell, and go on instead."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        text = "".join(traceback.format_exception(kind, error, trace))
        log.error(text)
        sys.stderr.write(text)
        path = error_log()

        def tell() -> None:
            window.notice.say(
                f"Something went wrong inside the program ({kind.__name__}: {str(error)[:300]}). Your work is kept; "
                f"details are in {path}. Save under another name, and undo the last step if the trouble stays."
            )

        def write_down() -> None:
            path.parent.mkdir(parents=True, exist_ok=True)
            with path.open("a", encoding="utf-8", errors="replace") as file:
                file.write(text + "\n")

        # each on its own: what fails in one must not keep the others from being done, and nothing may be raised from
        # here, since it would end the program
        for act in (tell, window.files.autosave, write_down):
            try:
                act()
            except Exception:
                log.exception("the error could not be handled")

    sys.excepthook = hook


def _import_slow_parts() -> None:
    from omakase.units.parse import registry

    registry()


def run(file: Path | None, demo: bool) -> int:
    """Opens the window and runs until it is closed; returns the exit status."""
    settings = preferences()
    application = make_application(settings)
    document = Document(demo_project() if demo else new_project(last_units(settings)))
    window = make_window(document, settings)
    keep_work_on_errors(window)
    window.show()
    window.keep_on_screen()
    if file is not None:
        window.files.open_path(file)
    QTimer.singleShot(0, window.files.offer_recovery)
    # what the first typed unit and the first frequency need takes a second to import: after the first paint
    QTimer.singleShot(300, lambda: threading.Thread(target=_import_slow_parts, daemon=True).start())
    QTimer.singleShot(2500, settle_memory)
    return application.exec()
