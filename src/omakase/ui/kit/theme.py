"""Colours, type scale and spacing, for light and dark; one accent colour, status never by colour alone."""

from __future__ import annotations

from functools import cache, lru_cache

import msgspec
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics, QGuiApplication, QPainter, QPalette, QPen
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QWidget

from omakase.evaluate.results.wording import LIKE
from omakase.shipped import shipped
from omakase.ui.kit.telling import TellingPainter

SPACE = 6  # px: the unit of all gaps
TYPE_SCALE = {"small": 0.88, "normal": 1.0, "large": 1.3}


class Theme(msgspec.Struct, frozen=True):
    """Colours as #rrggbb."""

    name: str
    paper: str
    panel: str
    raised: str
    ink: str
    quiet: str
    line: str
    accent: str
    accent_ink: str
    alarm: str
    good: str
    carbon: str
    glass: str
    aramid: str
    metal: str
    wood: str
    foam: str
    honeycomb: str
    low: str
    high: str


LIGHT = Theme(
    "light", paper="#f3f1ea", panel="#fbfaf6", raised="#ffffff", ink="#22262b", quiet="#686c70", line="#d3cfc3",
    accent="#17607a", accent_ink="#ffffff", alarm="#a02c1b", good="#2f6b3a", carbon="#3a4048", glass="#7fa596",
    aramid="#c9a13c", metal="#9aa4ae", wood="#b98d5d", foam="#e8dfc6", honeycomb="#dccb9b", low="#f7f4ea",
    high="#17607a",
)  # fmt: skip
DARK = Theme(
    "dark", paper="#1d2023", panel="#25292d", raised="#2e3338", ink="#e6e4dd", quiet="#a2a5a6", line="#42474c",
    accent="#6fb9d2", accent_ink="#12181b", alarm="#f08f7d", good="#9accA0", carbon="#8b95a1", glass="#7fa596",
    aramid="#c9a13c", metal="#7b8691", wood="#a67c4f", foam="#5a5545", honeycomb="#6b6245", low="#2a2e32",
    high="#6fb9d2",
)  # fmt: skip

FAMILY_COLOURS = ("carbon", "glass", "aramid", "metal", "wood", "foam", "honeycomb")


@lru_cache(maxsize=256)
def family_colour(theme: Theme, family: str) -> QColor:
    """Fill tone of a material family, or of the one it is most like; not to be changed by who gets it."""
    like = LIKE.get(family, family)
    return QColor(getattr(theme, like if like in FAMILY_COLOURS else "metal"))


TEXT_FONTS = ("RobotoCondensed-Regular.ttf", "RobotoCondensed-Bold.ttf")  # narrow; all digits are equally wide
SYMBOL_FONTS = ("DejaVuSansCondensed.ttf", "DejaVuSansCondensed-Bold.ttf")  # arrows, marks and what the first lacks


def load_fonts() -> list[str]:
    """Registers the shipped fonts; returns the families, the first that has a character draws it."""
    folder = shipped("data/fonts")
    families: list[str] = []
    for name in (*TEXT_FONTS, *SYMBOL_FONTS):
        number = QFontDatabase.addApplicationFontFromData(folder.joinpath(name).read_bytes())
        families += [family for family in QFontDatabase.applicationFontFamilies(number) if family not in families]
    return families


def base_size() -> float:
    """Size of normal text in points."""
    return QGuiApplication.font().pointSizeF()


def set_base_size(points: float) -> None:
    """Sets the size of normal text; the others follow by the type scale."""
    chosen = QFont(QGuiApplication.font())
    chosen.setPointSizeF(points)
    QApplication.setFont(chosen)
    for kept in (font, advance, fitting):
        kept.cache_clear()


@cache
def font(kind: str = "normal", bold: bool = False) -> QFont:
    """The application's font in one of the three sizes; not to be changed by who gets it."""
    normal = QGuiApplication.font()
    chosen = QFont(normal.families())
    chosen.setPointSizeF(normal.pointSizeF() * TYPE_SCALE[kind])
    chosen.setBold(bold)
    return chosen


@lru_cache(maxsize=4000)
def advance(text: str, kind: str = "normal", bold: bool = False) -> int:
    """Width in pixels of a text in a font of the application."""
    return QFontMetrics(font(kind, bold)).horizontalAdvance(text)


WIDER_FROM = "\u0180"  # a character from which on some are wider than any before it


@cache
def _widest(kind: str, bold: bool) -> int:
    """Width in pixels of the widest letters and signs before ``WIDER_FROM``."""
    return max(advance(letter, kind, bold) for letter in "WM@%Æ")


@lru_cache(maxsize=4000)
def fitting(text: str, width: int, kind: str = "normal", bold: bool = False) -> str:
    """The text as far as it fits into a width in px in a font of the application, with an ellipsis for the rest."""
    if text and max(text) < WIDER_FROM and len(text) * _widest(kind, bold) <= width:
        return text  # surely: most are far shorter than their cell, and measuring takes as long as drawing
    return QFontMetrics(font(kind, bold)).elidedText(text, Qt.TextElideMode.ElideRight, width)


@lru_cache(maxsize=256)
def pen(colour: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen in a colour as #rrggbb; not to be changed by who gets it.  Reading the colour takes as long as a line."""
    return QPen(QColor(colour), width, style)


# most texts are the same at the next edit, and fitting them takes as long as drawing them
_fitted: dict[tuple[str, float, bool, str, int, Qt.TextElideMode], str] = {}
MAX_FITTED = 4000


def elided(chosen: QFont, text: str, width: float, mode: Qt.TextElideMode = Qt.TextElideMode.ElideRight) -> str:
    """The text as far as it fits into ``width`` pixels in a font, with an ellipsis for the rest."""
    key = (chosen.family(), chosen.pointSizeF(), chosen.bold(), text, int(width), mode)
    if key not in _fitted:
        if len(_fitted) >= MAX_FITTED:
            _fitted.clear()
        _fitted[key] = QFontMetrics(chosen).elidedText(text, mode, int(width))
    return _fitted[key]


def set_property(widget: QWidget, name: str, value: object) -> None:
    """Sets a property that the style sheet looks at; the style is worked out again only where it changes."""
    if widget.property(name) == value:
        return
    widget.setProperty(name, value)
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


def fill_own_ground(view: QAbstractScrollArea) -> None:
    """Lets the inside of a view fill its own ground: else all that lies behind it is painted first, at every edit.

    Once it is shown, and again with every theme: the style takes it back.
    """
    viewport = view.viewport()
    if viewport is not None:
        viewport.setAutoFillBackground(True)


def draw_elided(painter: QPainter, box: QRectF, flags: int, text: str) -> None:
    """Text in one line; what does not fit ends in an ellipsis instead of being cut."""
    shown = elided(painter.font(), text, box.width())
    if isinstance(painter, TellingPainter):
        painter.tell(text)
        painter.draw_cut(box, flags, shown)
    else:
        painter.drawText(box, flags, shown)


def draw_words(
    painter: QPainter, box: QRectF, flags: int, text: str, colour: str, kind: str = "normal", bold: bool = False
) -> None:
    """Text in one line in a font of the application and a colour as #rrggbb; ends in an ellipsis if it must."""
    painter.setFont(font(kind, bold))
    painter.setPen(pen(colour))
    painter.drawText(box, flags, fitting(text, int(box.width()), kind, bold))


def apply_theme(application: QApplication, theme: Theme) -> None:
    """Palette and style sheet of the whole application."""
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, theme.paper), (roles.WindowText, theme.ink), (roles.Base, theme.raised),
        (roles.AlternateBase, theme.panel), (roles.Text, theme.ink), (roles.Button, theme.panel),
        (roles.ButtonText, theme.ink), (roles.Highlight, theme.accent), (roles.HighlightedText, theme.accent_ink),
        (roles.ToolTipBase, theme.raised), (roles.ToolTipText, theme.ink), (roles.PlaceholderText, theme.quiet),
        (roles.Link, theme.accent), (roles.Mid, theme.line), (roles.Light, theme.raised), (roles.Dark, theme.quiet),
    ):  # fmt: skip
        palette.setColor(role, QColor(colour))
    application.setPalette(palette)
    application.setStyleSheet(_style_sheet(theme))


def _style_sheet(t: Theme) -> str:
    return f"""
    QMainWindow, QWidget {{ background: {t.paper}; color: {t.ink}; }}
    QToolTip {{ background: {t.raised}; color: {t.ink}; border: 1px solid {t.line}; padding: 3px; }}
    QMenuBar, QMenu {{ background: {t.panel}; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {t.accent}; color: {t.accent_ink}; }}
    QLineEdit, QComboBox, QPlainTextEdit {{ background: {t.raised}; border: 1px solid {t.line}; border-radius: 2px;
        padding: 2px 4px; selection-background-color: {t.accent}; selection-color: {t.accent_ink}; }}
    QLineEdit:focus, QComboBox:focus, QTableView:focus, QListView:focus {{ border: 2px solid {t.accent}; }}
    QLineEdit[role="opaque"] {{ border-radius: 0px; }}
    QLineEdit[wrong="true"] {{ border: 2px solid {t.alarm}; }}
    QLabel[role="alarm"] {{ color: {t.alarm}; }}
    QLabel[role="decision"] {{ font-weight: 600; background: {t.panel}; }}
    QLabel[role="quiet"] {{ color: {t.quiet}; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; selection-background-color: {t.accent};
        selection-color: {t.accent_ink}; }}
    QPushButton, QToolButton {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 2px;
        padding: 3px 8px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.accent}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.accent}; padding: 2px 7px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.quiet}; background: {t.paper}; }}
    QTableView {{ background: {t.raised}; alternate-background-color: {t.panel}; gridline-color: {t.line};
        border: 1px solid {t.line}; selection-background-color: {t.accent}; selection-color: {t.accent_ink}; }}
    QHeaderView::section {{ background: {t.panel}; color: {t.quiet}; border: none;
        border-bottom: 1px solid {t.line}; padding: 2px 4px; }}
    QSplitter::handle {{ background: {t.line}; }}
    QScrollArea {{ border: none; }}
    QScrollBar:vertical {{ background: {t.panel}; width: 9px; margin: 0px; }}
    QScrollBar:horizontal {{ background: {t.panel}; height: 9px; margin: 0px; }}
    QScrollBar::handle {{ background: {t.line}; border-radius: 3px; min-height: 24px; min-width: 24px; }}
    QScrollBar::handle:hover {{ background: {t.quiet}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0px; height: 0px; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QStatusBar {{ background: {t.panel}; }}
    QToolButton[role="inline"] {{ padding: 0px 2px; background: transparent; color: {t.quiet};
        border-color: transparent; }}
    QToolButton[role="inline"]:hover, QToolButton[role="inline"]:focus {{ color: {t.accent};
        border: 1px solid {t.accent}; padding: 0px 2px; }}
    QToolButton[role="inline"]::menu-indicator {{ image: none; width: 0px; }}
    QToolButton[role="wall"], QToolButton[role="wall_fails"] {{ padding: 1px 6px; background: {t.raised}; }}
    QToolButton[role="wall_fails"] {{ color: {t.alarm}; font-weight: 600; }}
    QToolButton[role="wall"]:focus, QToolButton[role="wall_fails"]:focus {{ padding: 0px 5px; }}
    QToolButton[role="wall"]:checked, QToolButton[role="wall_fails"]:checked {{ background: {t.accent};
        color: {t.accent_ink}; border-color: {t.accent}; }}
    QFrame[role="notice"] {{ background: {t.accent}; }}
    QFrame[role="notice"] QLabel {{ background: {t.accent}; color: {t.accent_ink}; }}
    QFrame[role="raised"] {{ background: {t.panel}; border: 1px solid {t.accent}; }}
    QTreeWidget {{ background: {t.raised}; border: 1px solid {t.line}; }}
    QTreeWidget::item:selected {{ background: {t.accent}; color: {t.accent_ink}; }}
    QFrame[role="card"] QLineEdit, QFrame[role="card"] QComboBox {{ background: {t.panel}; border: none;
        border-bottom: 1px dashed {t.accent}; border-radius: 0px; padding: 0px 1px; font-weight: 600;
        color: {t.accent}; }}
    QFrame[role="card"] QLineEdit:focus, QFrame[role="card"] QComboBox:focus {{ background: {t.raised};
        border: none; border-bottom: 2px solid {t.accent}; }}
    QFrame[role="card"] QLineEdit:hover, QFrame[role="card"] QComboBox:hover {{ background: {t.raised}; }}
    QFrame[role="card"] QLineEdit[wrong="true"] {{ color: {t.alarm}; border-bottom: 2px solid {t.alarm}; }}
    QPlainTextEdit[role="plain"] {{ background: {t.paper}; border: none; border-radius: 0px; }}
    QFrame[role="card"] QLineEdit[role="title"] {{ color: {t.ink}; border-bottom-color: {t.line}; }}
    QFrame[role="card"] QComboBox::drop-down {{ width: 0px; border: none; }}
    QFrame[role="card"] {{ background: {t.panel}; border: 1px solid {t.line}; }}
    QFrame[role="card"] QLabel, QFrame[role="card"] QWidget[role="flow"] {{ background: {t.panel}; }}
    """
