"""Predicted against measured over all tests, and what is accepted from them: values and factors, until withdrawn."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from omakase.core.errors import OmakaseError
from omakase.core.materials.properties import PROPERTIES
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.testing import believing
from omakase.evaluate.testing.believing import BASES, Offer, Point
from omakase.project import series as edits
from omakase.project.library import materials_of
from omakase.project.materials import users
from omakase.project.model import Acceptance
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import ChoiceField, framed
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label, Message, plain
from omakase.ui.kit.plot_frame import PlotFrame
from omakase.ui.kit.theme import SPACE, Theme, draw_elided, pen
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.page import BenchPage
from omakase.ui.testing.page_picture import PagePicture
from omakase.units import UnitSystem, display_unit

SHAPES = ("circle", "square", "diamond", "cross", "triangle")
GROUPS = {"material": "by material", "manner": "by failure", "check": "by check"}


class ScatterPicture(PagePicture):
    """Measured over predicted strength, both axes logarithmic, with the 1:1 line and the band of ± 20 %."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Predicted against measured", (240, 180))
        self.points: list[Point] = []
        self.group, self.chosen = "material", ""

    def sizeHint(self) -> QSize:
        return QSize(420, 360)

    def show_points(self, points: list[Point], group: str, chosen: str, units: UnitSystem) -> None:
        self.points, self.group, self.chosen, self.units = points, group, chosen, units
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        t = self.theme
        if not self.points:
            self.begin("no test with a prediction yet")
            return
        painter = self.begin()
        values = np.array([[p.predicted, p.measured] for p in self.points])
        low, high = np.log10(values.min()) - 0.15, np.log10(values.max()) + 0.15
        count = len({getattr(p, self.group) for p in self.points})
        side = min(self.width() - 64, self.height() - 60 - 17 * count)
        box = QRectF(52, 8, side, side)

        frame = PlotFrame(painter, t, box, (low, high), (low, high))
        frame.outline()
        painter.setClipRect(box)
        for factor, style in ((1.0, Qt.PenStyle.SolidLine), (0.8, Qt.PenStyle.DotLine), (1.2, Qt.PenStyle.DotLine)):
            painter.setPen(pen(t.quiet, 1.0, style))
            frame.line((end, end + np.log10(factor)) for end in (low, high))
        painter.setClipping(False)
        self._paint_axes(frame)
        groups = list(dict.fromkeys(getattr(p, self.group) for p in self.points))
        for point in self.points:
            shape = SHAPES[groups.index(getattr(point, self.group)) % len(SHAPES)]
            self._paint_point(frame, frame.at(np.log10(point.predicted), np.log10(point.measured)), shape, point)
        legend = QRectF(box.left(), box.bottom() + 44, self.width() - box.left() - 8, 18)
        for i, name in enumerate(groups):
            y = legend.top() + 10 + 17 * i
            painter.setPen(pen(t.ink, 1.3))
            self._shape(frame, QPointF(legend.left() + 6, y), SHAPES[i % len(SHAPES)])
            room = QRectF(legend.left() + 16, y - 9, legend.width() - 16, 18)
            draw_elided(painter, room, int(Qt.AlignmentFlag.AlignVCenter), self._group_text(name))

    def _group_text(self, name: str) -> str:
        """A group with its mean of measured over predicted and the scatter of that; bounds are left out."""
        ratios = [p.measured / p.predicted for p in self.points if getattr(p, self.group) == name and not p.at_least]
        if not ratios:
            return f"{name or '–'}: bounds only"
        scatter = f" ± {np.std(ratios, ddof=1) / np.mean(ratios):.0%}" if len(ratios) > 1 else ""
        return f"{name or '–'}: × {np.mean(ratios):.2f}{scatter}, n {len(ratios)}"

    def _paint_axes(self, frame: PlotFrame) -> None:
        unit = display_unit("strength", self.units)
        painter, box, (low, high) = frame.painter, frame.box, frame.x
        frame.below(1, f"predicted strength, {unit.label}")
        frame.upright("measured", 2.0)
        painter.setPen(pen(self.theme.quiet))
        for decade in range(-4, 6):
            for m in (1, 2, 5):
                value = m * 10.0**decade * unit.factor
                if low <= np.log10(value) <= high and (m == 1 or high - low < 1.5):
                    place = frame.at(np.log10(value), np.log10(value))
                    x, y = place.x(), place.y()
                    text = f"{m * 10.0**decade:g}"
                    painter.drawLine(QPointF(x, box.bottom()), QPointF(x, box.bottom() + 3))
                    painter.drawLine(QPointF(box.left() - 3, y), QPointF(box.left(), y))
                    painter.drawText(QRectF(x - 25, box.bottom() + 3, 50, 14), int(Qt.AlignmentFlag.AlignCenter), text)
                    painter.drawText(QRectF(box.left() - 38, y - 7, 32, 14), int(Qt.AlignmentFlag.AlignRight), text)

    def _paint_point(self, frame: PlotFrame, place: QPointF, shape: str, point: Point) -> None:
        colour = self.theme.accent if point.series == self.chosen else self.theme.ink
        frame.painter.setPen(pen(colour, 1.3))
        self._shape(frame, place, shape, "" if point.at_least else colour)
        if point.at_least:
            frame.painter.drawLine(place + QPointF(0, -5), place + QPointF(0, -14))

    @staticmethod
    def _shape(frame: PlotFrame, place: QPointF, shape: str, filling: str = "") -> None:
        r = 4.0
        if shape == "circle":
            frame.dot(place, r, filling)
            return
        if shape == "cross":
            frame.cross(place, r)
            return
        corners = {
            "square": ((-r, -r), (r, -r), (r, r), (-r, r)),
            "diamond": ((0, -r), (r, 0), (0, r), (-r, 0)),
            "triangle": ((0, -r), (r, r), (-r, r)),
        }[shape]
        frame.painter.setBrush(QColor(filling) if filling else Qt.BrushStyle.NoBrush)
        frame.painter.drawPolygon([place + QPointF(x, y) for x, y in corners])
        frame.painter.setBrush(Qt.BrushStyle.NoBrush)


class BeliefPage(BenchPage):
    """The picture, what the chosen series offers, and what is accepted."""

    def __init__(self, model: SeriesModel, theme: Theme) -> None:
        super().__init__()
        self.follow(model)
        self.picture = ScatterPicture(theme)
        self.group = ChoiceField("Marks by", GROUPS)
        self.offers = self.entry = fitting_list("What the series offers", ("It may change", "Now", "n, scatter"), 1)
        self.basis = ChoiceField("Basis of the value", BASES)
        self.value = Label()
        self.accept = QPushButton("Accept it")
        self.accepted = fitting_list("Accepted from tests", ("Accepted", "Value", "From"), 1)
        self.withdraw = QPushButton("Withdraw it")
        self.message = Message()
        self._found: list[Offer] = []
        self._arrange()
        self.group.committed.connect(lambda _v: self.refresh())
        self.basis.committed.connect(lambda _v: self._show_value())
        self.accept.clicked.connect(lambda: self.accept_offer())
        self.withdraw.clicked.connect(lambda: self.withdraw_chosen())
        selection = self.offers.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._offer_chosen())

    def _arrange(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.group)
        left.addWidget(self.picture, 1)
        row = FlowLayout(gap=SPACE)
        for choice in (self.basis, self.group):
            framed(choice)
        for widget in (self.basis, self.value, self.accept):
            row.addWidget(widget)
        right.addWidget(self.offers, 2)
        right.addLayout(row)
        right.addWidget(self.accepted, 2)
        right.addWidget(self.withdraw)
        both = QHBoxLayout()
        both.addLayout(left, 1)
        both.addLayout(right, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(both, 1)
        layout.addWidget(self.message)

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    @property
    def units(self) -> UnitSystem:
        return self.model.session.units

    def fill(self) -> None:
        report, project = self.model.report, self.model.session.document.project
        chosen = report.series.id if report is not None else ""
        self.picture.show_points(believing.points(self.model.reports), self.group.currentData(), chosen, self.units)
        materials = materials_of(project)
        self._found = believing.offers(report, materials) if report is not None else []
        offered = []
        for offer in self._found:
            now = "" if np.isnan(offer.before) else self._quantity(offer.before, offer.dimension)
            offered.append((offer.title, (offer.title, now, offer.text.split(", ", 1)[1])))
        before = chosen_key(self.offers)
        fill_list(self.offers, offered, before if before in dict(offered) else next(iter(dict(offered)), ""), ())
        for place, offer in enumerate(self._found):
            self.offers.topLevelItem(place).setToolTip(0, plain(f"{offer.title}: {offer.text}"))
        entries = project.acceptances
        kept = chosen_key(self.accepted)
        first = entries[0].id if entries else ""
        rows = [(entry.id, self._accepted_row(entry)) for entry in entries]
        fill_list(self.accepted, rows, kept if kept in dict(rows) else first, ())
        for place, entry in enumerate(entries):
            self.accepted.topLevelItem(place).setToolTip(0, plain(f"{entry.text}; {entry.on}"))
        self.withdraw.setEnabled(bool(entries))
        self._offer_chosen()

    def _quantity(self, value: float, dimension: str) -> str:
        return f"× {value:.3f}" if dimension == "ratio" else quantity(value, dimension, self.units)

    def _accepted_row(self, entry: Acceptance) -> list[str]:
        if entry.kind == "factor":
            return [f"{entry.key.replace('_', ' ')} with {entry.material}", f"× {entry.value:.3f}", entry.name]
        spec = PROPERTIES[entry.key]
        return [f"{spec.symbol} of {entry.material}", quantity(entry.value, spec.dimension, self.units), entry.name]

    @property
    def offer(self) -> Offer | None:
        row = self.offers.currentIndex().row()
        return self._found[row] if 0 <= row < len(self._found) else None

    def _offer_chosen(self) -> None:
        offer = self.offer
        for widget in (self.basis, self.accept):
            widget.setEnabled(offer is not None)
        if offer is not None:
            self.basis.set_value(offer.usual)
        self._show_value()

    def _show_value(self) -> None:
        offer = self.offer
        if offer is None:
            self.value.setText("")
            self.message.say(
                "This series offers nothing yet: it needs values, and a material or check that they are for."
            )
            return
        basis = self.basis.currentData()
        value = offer.bases.get(basis)
        self.accept.setEnabled(value is not None)
        self.value.setText("too few specimens" if value is None else self._quantity(value, offer.dimension))
        why = {
            "B": "the usual basis for design: 95 % sure that nine of ten are stronger",
            "A": "for parts whose failure can kill: 95 % sure that 99 of 100 are stronger",
            "mean": "for comparing and for stiffness; half of all specimens are weaker",
            "minimum": "the lowest value measured: for few specimens, without a stated confidence",
        }[basis]
        names = users(self.model.session.document.project, offer.material)
        remark = (
            f"It touches {', '.join(names[:4])}{' …' if len(names) > 4 else ''}." if names else "No candidate uses it."
        )
        self.message.say(f"{offer.warning} {BASES[basis]}: {why}. {remark}".strip(), bool(offer.warning))

    # --- acts -----------------------------------------------------------------------------------------------

    def accept_offer(self) -> None:
        """Accepts the chosen offer on the chosen basis."""
        offer, report = self.offer, self.model.report
        if offer is None or report is None:
            return
        try:
            project = self.model.session.document.project
            command = believing.take(project, report, offer, self.basis.currentData(), today())
        except OmakaseError as error:
            self.message.warn(str(error))
            return
        self.model.do(command)

    def withdraw_chosen(self) -> None:
        """Withdraws what is chosen among the accepted."""
        identity = chosen_key(self.accepted)
        if identity:
            self.model.do(edits.withdraw(self.model.session.document.project, identity))
