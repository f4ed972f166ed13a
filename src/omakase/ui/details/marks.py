"""Details on the picture of their member: a numbered diamond each, filled where one of its checks fails."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from omakase.project.details import Detail
from omakase.ui.kit.theme import Theme, font
from omakase.ui.session import Session

SIZE = 8.0  # px from the middle of a diamond to its corners


def marked(session: Session) -> tuple[tuple[Detail, ...], frozenset[str]]:
    """(details of the chosen candidate, ids of those with a check that fails): what the marks show."""
    candidate, result = session.candidate, session.result
    if candidate is None or not candidate.details:
        return (), frozenset()
    checks = result.checks if result is not None else ()
    return candidate.details, frozenset(check.detail for check in checks if check.detail and not check.passes)


def paint_details(painter: QPainter, theme: Theme, session: Session, at: Callable[[Detail], QPointF]) -> None:
    """Marks of the chosen candidate's details; ``at`` : where a detail lies on the picture."""
    details, failing = marked(session)
    painter.setFont(font("small"))
    for number, detail in enumerate(details, 1):
        centre = at(detail)
        steps = ((0.0, -SIZE), (SIZE, 0.0), (0.0, SIZE), (-SIZE, 0.0))
        colour = QColor(theme.alarm if detail.id in failing else theme.accent)
        painter.setPen(QPen(colour, 1.4))
        painter.setBrush(colour if detail.id in failing else QColor(theme.raised))
        painter.drawPolygon(QPolygonF([centre + QPointF(*step) for step in steps]))
        painter.setPen(QColor(theme.raised if detail.id in failing else theme.ink))
        box = QRectF(centre.x() - SIZE, centre.y() - SIZE, 2.0 * SIZE, 2.0 * SIZE)
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), str(number))
