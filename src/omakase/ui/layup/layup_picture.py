"""The chosen layup as one material: moduli by direction, constants in the plane and in bending, where its mass is."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent, QShowEvent

from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.strength import first_layer_strength
from omakase.evaluate.results.wording import COOLING, MASS_PARTS, quantity, thermal_words
from omakase.ui.kit.fields import QuantityField, within
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme, draw_elided, family_colour, font
from omakase.ui.session import Session
from omakase.units import format_value

RIGHT = int(Qt.AlignmentFlag.AlignRight)
change_range = within(-500.0, 500.0, "a change of temperature must lie within 500 K")
PART_FAMILIES = {"cloth": "carbon", "resin": "aramid", "core": "foam", "uptake": "wood", "sheet": "metal"}


class LayupPicture(Picture):
    """Modulus by direction as a closed line, in the plane solid and in bending dashed; figures and mass below."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Properties of the layup")
        session.wall_changed.connect(self.update)
        self.change = COOLING
        self.field = QuantityField(
            "temperature_change", "Change of temperature, below zero for colder", change_range, self
        )
        self.field.set_value(self.change, session.units)
        self.field.committed.connect(self._heat)
        session.results_changed.connect(self._place)
        session.chosen_changed.connect(self._place)

    def sizeHint(self) -> QSize:
        return QSize(280, 330)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        stack = self.session.stack
        em = float(painter.fontMetrics().height())
        if stack is None:
            self.say(painter, "no layup to show")
            return
        constants = LaminateConstants(stack)
        painter.setPen(QColor(self.theme.ink))
        draw_elided(painter, QRectF(8, 2, self.width() - 12, em), 0, "— modulus in plane, - - in bending, ·· strength")
        plot = self._plot(em)
        self._paint_polar(painter, stack, constants, plot, em)
        self._paint_figures(painter, constants, plot.bottom() + 0.6 * em, em)
        self._paint_heat(painter, stack, plot.bottom() + 5.3 * em, em)
        self._paint_mass(painter, stack, self.height() - 3.1 * em, em)

    def _paint_polar(
        self, painter: QPainter, stack: Stack, constants: LaminateConstants, box: QRectF, em: float
    ) -> None:
        angles = np.arange(0.0, 361.0, 3.0)
        styles = ((False, Qt.PenStyle.SolidLine), (True, Qt.PenStyle.DashLine))
        lines = [(constants.modulus(angles, bending), style) for bending, style in styles]
        largest = max(float(values.max()) for values, _ in lines)
        radius = box.width() / 2.0 - 1.2 * em
        centre = box.center()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.theme.line), 1.0))
        for share in (0.5, 1.0):
            painter.drawEllipse(centre, radius * share, radius * share)
        for angle in range(0, 180, 45):
            c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
            painter.drawLine(centre + QPointF(radius * c, -radius * s), centre - QPointF(radius * c, -radius * s))
        strength = first_layer_strength(stack, angles)
        strongest = float(strength.max())
        curves = [(values / largest, style) for values, style in lines]
        for share, style in [*curves, (strength / strongest, Qt.PenStyle.DotLine)]:
            painter.setPen(QPen(QColor(self.theme.accent), 1.7, style))
            r = share * radius
            x, y = r * np.cos(np.radians(angles)), -r * np.sin(np.radians(angles))
            painter.drawPolygon(QPolygonF([centre + QPointF(float(a), float(b)) for a, b in zip(x, y, strict=True)]))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QColor(self.theme.quiet))
        painter.drawText(QRectF(centre.x() + radius + 3, centre.y() - em / 2, 30, em), 0, "0°")
        painter.drawText(QRectF(centre.x() - 15, box.top(), 30, em), int(Qt.AlignmentFlag.AlignHCenter), "90°")
        text = quantity(largest, "modulus", self.session.units)
        foot = QRectF(8.0, box.bottom() - em, self.width() - 16.0, em)
        pull = quantity(strongest, "strength", self.session.units)
        draw_elided(painter, foot, RIGHT, f"○ {text}; ·· {pull} pulled, first layer")

    def _paint_figures(self, painter: QPainter, constants: LaminateConstants, top: float, em: float) -> None:
        units = self.session.units
        heads = ("", "E x", "E y", "G xy", "ν xy")
        rows = [heads]
        for name, values in (("stretch", constants.in_plane), ("bend", constants.bending)):
            moduli = [format_value(value, "modulus", units) for value in (values.Ex, values.Ey, values.Gxy)]
            rows.append((name, *moduli, f"{values.nuxy:.3f}"))
        width = (self.width() - 16.0) / 5.0
        for line, row in enumerate(rows):
            painter.setPen(QColor(self.theme.quiet if line == 0 else self.theme.ink))
            for column, text in enumerate(row):
                box = QRectF(8 + column * width, top + line * 1.15 * em, width - 2, em)
                draw_elided(painter, box, 0 if column == 0 else RIGHT, text)
        unit = quantity(1.0, "modulus", units).split(" ")[-1]
        painter.setPen(QColor(self.theme.quiet))
        text = f"moduli in {unit} over the whole thickness, without core shear"
        draw_elided(painter, QRectF(8, top + 3.5 * em, self.width() - 16, em), 0, text)

    def _plot(self, em: float) -> QRectF:
        side = max(40.0, min(self.width() - 16.0, self.height() - 14.2 * em))
        return QRectF((self.width() - side) / 2.0, 1.4 * em, side, side)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._place()

    def _place(self) -> None:
        """Puts the field into its sentence, where it is seen."""
        if not self.isVisible():
            return
        em = float(QFontMetrics(font("small")).height())
        self.field.set_value(self.change, self.session.units)
        size = self.field.sizeHint()
        self.field.setGeometry(8, int(self._plot(em).bottom() + 6.5 * em), size.width(), size.height())
        self.field.setVisible(self.session.stack is not None)

    def _heat(self, change: float) -> None:
        self.change = change or COOLING
        self._place()
        self.update()

    def _paint_heat(self, painter: QPainter, stack: Stack, top: float, em: float) -> None:
        lefts = (8.0, 14.0 + self.field.width())
        for line, text in enumerate(thermal_words(stack, self.session.units, self.change)):
            painter.setPen(QColor(self.theme.ink if line else self.theme.quiet))
            box = QRectF(lefts[line], top + line * 1.3 * em, self.width() - lefts[line] - 8, em)
            draw_elided(painter, box, 0, text)

    def _paint_mass(self, painter: QPainter, stack: Stack, top: float, em: float) -> None:
        """A bar of the areal mass by cause, each with its figure."""
        parts = {name: value for name, value in stack.areal_mass().items() if value > 0.0}
        total = sum(parts.values())
        x, width = 8.0, self.width() - 16.0
        painter.setPen(QPen(QColor(self.theme.ink), 1.0))
        words = []
        for name, value in parts.items():
            box = QRectF(x, top, width * value / total, 0.9 * em)
            painter.fillRect(box, family_colour(self.theme, PART_FAMILIES[name]))
            painter.drawRect(box)
            x += box.width()
            words.append(f"{MASS_PARTS[name]} {format_value(value, 'areal_mass', self.session.units)}")
        painter.setPen(QColor(self.theme.ink))
        text = f"{quantity(total, 'areal_mass', self.session.units)}: {', '.join(words)}"
        painter.drawText(QRectF(8, top + 1.0 * em, width, 2.1 * em), int(Qt.TextFlag.TextWordWrap), text)
