"""What the parts of a panel's picture in plan have in common: where the panel lies on the screen, and its outline."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPainterPath

from omakase.evaluate.members.panel import is_round
from omakase.project.model import Brief
from omakase.ui.kit.theme import Theme
from omakase.units import UnitSystem


class PlanPainter:
    """Paints on a picture ``width`` pixels wide, the panel in the rectangle ``plan``, ``scale`` pixels to the metre."""

    def __init__(
        self, painter: QPainter, theme: Theme, brief: Brief, units: UnitSystem, plan: QRectF, scale: float, width: int
    ) -> None:
        self.painter, self.theme, self.brief, self.units = painter, theme, brief, units
        self.plan, self.scale, self.width = plan, scale, width

    def rectangle(self, low_x: float, high_x: float, low_y: float, high_y: float) -> QRectF:
        """Where a rectangle of the panel, m, lies on the screen."""
        left, top = self.plan.left() + low_x * self.scale, self.plan.bottom() - high_y * self.scale
        return QRectF(left, top, (high_x - low_x) * self.scale, (high_y - low_y) * self.scale)

    def outline(self) -> QPainterPath:
        """Of the panel."""
        path = QPainterPath()
        if is_round(self.brief):
            path.addEllipse(self.plan)
        else:
            path.addRect(self.plan)
        return path
