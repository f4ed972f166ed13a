"""The runs of plies along the span: one bar a layer, whose ends are dragged."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent

from omakase.evaluate.results.diagrams import has_span
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.sizing.needed_runs import NeededRun, needed_runs
from omakase.project import edits
from omakase.project.library import materials_of
from omakase.project.model import by_id
from omakase.ui.brief.panel_picture import SNAP
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import Theme, draw_elided, family_colour, pen
from omakase.ui.lineup.section_picture import hatch
from omakase.ui.session import Session

NEAR = 7.0  # px within which an end of a bar is taken
SHORTEST = 0.01  # of the span, a run
LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)


class RunsPicture(Picture):
    """Bars from face A down, on the axis of the diagrams; the selected one is moved with the arrow keys."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Runs of plies along the span")
        self.chosen = 0
        self._dragged: tuple[int, int] | None = None  # layer, and which end
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip(
            "Drag an end of a bar to let a layer run over a stretch only.\n"
            "↑ ↓ chooses a layer, ← → moves its far end, with Shift its near end.\n"
            "The ticks show how far it must run: where the rest carries the loads without it, and the length over\n"
            "which its force passes on. E ends it there."
        )
        self.needed: dict[int, NeededRun] = {}  # by row of the candidate
        self._needed_of: object = None
        self.search = Searching("needed runs", self)
        self.search.found.connect(self._take)
        session.rested.connect(self.follow)
        session.wall_changed.connect(self.follow)
        session.chosen_changed.connect(self.follow)
        session.station_changed.connect(self.update)
        session.brief_changed.connect(self.update)
        session.wall_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 140)

    # --- how far each must run ------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def follow(self) -> None:
        """Works out how far the layers shown must run, once what they depend on rests."""
        brief, candidate, session = self.session.judged_brief, self.session.candidate, self.session
        if not self.isVisible() or brief is None or candidate is None or not has_span(session.result):
            return
        wanted = session.searched, session.wall
        if wanted == self._needed_of:
            return
        self._needed_of, self.needed = wanted, {}
        rows, materials, evaluator = self.rows, materials_of(session.document.project), session.evaluator

        def search(stopped: Callable[[], bool]) -> Iterator[object]:
            yield from needed_runs(brief, candidate, rows, materials, evaluator, stopped)

        self.search.begin(search)
        self.update()

    def _take(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        row, needed = answer
        self.needed[row] = needed
        self.update()

    def known(self, index: int) -> NeededRun | None:
        """How far the layer of a bar must run; None where that is not worked out, or an edit has gone over it."""
        if self._needed_of != (self.session.searched, self.session.wall):
            return None
        return self.needed.get(self.rows[index]) if index < len(self.rows) else None

    def end_there(self) -> None:
        """Lets the chosen layer run as far as it must, and no further."""
        needed, candidate = self.known(self.chosen), self.session.candidate
        if needed is None or not needed.needed or needed.error or candidate is None:
            return
        low, high = (round(end, 4) for end in needed.ends(self.length))
        self._run(self.chosen, low, high, "")
        self.session.document.end_merging()

    def _run(self, bar: int, low: float, high: float, merge_key: str) -> None:
        """Puts the run of a bar's layer in place; of the whole candidate: its zone may serve other walls too."""
        candidate = self.session.candidate
        if candidate is not None:
            new = edits.run_over(candidate, self.rows[bar], low, high, self.length)
            self.session.edit_candidate(new, f"run of layer {bar + 1}", merge_key)

    @property
    def length(self) -> float:
        brief = self.session.brief
        return float(getattr(brief.member, "length", 0.0)) if brief is not None else 0.0

    def plot(self) -> QRectF:
        """Where the span runs, as in the diagrams."""
        em = float(self.fontMetrics().height())
        return QRectF(8.0, 1.5 * em, self.width() - 16.0, self.height() - 1.8 * em)

    @property
    def rows(self) -> tuple[int, ...]:
        """Which of the candidate's layers have bars: those of the wall that is looked at."""
        return self.session.rows

    def run_of(self, index: int) -> tuple[float, float]:
        """Where the layer of a bar begins and ends, m."""
        candidate = self.session.layup
        assert candidate is not None
        zone = by_id(candidate.zones, candidate.layers[index].zone)
        return (0.0, self.length) if zone is None else (zone.low, zone.high)

    def bar(self, index: int) -> QRectF:
        """A layer's bar on the widget."""
        candidate, box = self.session.layup, self.plot()
        count = max(1, len(candidate.layers) if candidate else 1)
        each = min(box.height() / count, 1.5 * self.fontMetrics().height())
        low, high = self.run_of(index)
        left, right = (box.left() + end / self.length * box.width() for end in (low, high))
        return QRectF(left, box.top() + index * each + 1.0, right - left, max(3.0, each - 2.0))

    # --- painting -------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        candidate = self.session.layup
        if candidate is None or self.length <= 0.0 or not has_span(self.session.result):
            self.say(painter, "no layers that run along a span")
            return
        em = float(painter.fontMetrics().height())
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(8, 2, self.width() - 16, em), LEFT, self._head())
        materials = materials_of(self.session.document.project)
        for i, layer in enumerate(candidate.layers):
            bar = self.bar(i)
            material = materials.get(layer.material)
            fill = family_colour(self.theme, material.family if material else "carbon")
            painter.fillRect(bar, fill)
            if layer.role == "ply" and bar.height() >= 7.0:
                painter.setPen(pen((fill.darker(150) if fill.lightness() > 110 else fill.lighter(170)).name()))
                hatch(painter, bar, layer.angle, 7.0)
            chosen = i == self.chosen and self.hasFocus()
            painter.setPen(pen(self.theme.accent if chosen else self.theme.ink, 2.0 if chosen else 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(bar)
            if bar.height() >= 0.9 * em:
                self._name(painter, bar, f"{i + 1} {layer.material} {layer.angle:g}°", em)
            self._ticks(painter, i, bar)
        x = self.plot().left() + self.session.station / self.length * self.plot().width()
        painter.setPen(pen(self.theme.accent, 1.0, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, self.plot().top()), QPointF(x, self.plot().bottom()))

    def _ticks(self, painter: QPainter, index: int, bar: QRectF) -> None:
        """Where the layer must begin and end."""
        needed, box = self.known(index), self.plot()
        if needed is None or not needed.needed or needed.error:
            return
        for end in needed.ends(self.length):
            if 0.0 < end < self.length:
                x = box.left() + end / self.length * box.width()
                for colour, width in ((self.theme.raised, 5.0), (self.theme.accent, 2.0)):
                    painter.setPen(pen(colour, width))
                    painter.drawLine(QPointF(x, bar.top() - 1.0), QPointF(x, bar.bottom() + 1.0))

    def _must(self, index: int) -> str:
        """How far a layer must run, in words; empty while it is being worked out."""
        needed, units = self.known(index), self.session.units
        if needed is None:
            return ""
        if needed.error:
            return "; it cannot be left out"
        also = f"; without it fails: {', '.join(needed.limits)}" if needed.limits else ""
        if not needed.needed:
            return "; not needed for strength" + also
        low, high = needed.ends(self.length)
        if low <= 0.0 and high >= self.length:
            return "; needed all along" + also
        words = f"to {quantity(high, 'length', units)}"
        if low > 0.0:
            words = f"from {quantity(low, 'length', units)} {words}"
        out = quantity(needed.run_out, "length", units)
        return f"; must run {words} with its run-out of {out} (E ends it there){also}"

    def _head(self) -> str:
        candidate = self.session.layup
        assert candidate is not None
        text = "Runs of plies: drag an end"
        if self.chosen < len(candidate.layers):
            low, high = (quantity(end, "length", self.session.units) for end in self.run_of(self.chosen))
            layer = candidate.layers[self.chosen]
            text = f"Layer {self.chosen + 1} {layer.material} {layer.angle:g}° runs from {low} to {high}"
            text += self._must(self.chosen)
        return text

    def _name(self, painter: QPainter, bar: QRectF, text: str, em: float) -> None:
        room = QRectF(bar.left() + 4.0, bar.top(), min(bar.width() - 8.0, 12.0 * em), bar.height())
        if room.width() < 3.0 * em:
            return
        plate = QColor(self.theme.raised)
        plate.setAlpha(215)
        width = min(room.width(), painter.fontMetrics().horizontalAdvance(text) + 6.0)
        painter.fillRect(QRectF(room.left(), room.top() + 1.0, width, room.height() - 2.0), plate)
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, room.adjusted(3.0, 0.0, 0.0, 0.0), LEFT, text)

    # --- input ----------------------------------------------------------------------------------------------

    def end_at(self, point: QPointF) -> tuple[int, int] | None:
        """(layer, 0 near or 1 far end) under a point."""
        candidate = self.session.layup
        for i in range(len(candidate.layers) if candidate and self.length > 0.0 else 0):
            bar = self.bar(i)
            if bar.top() - 1.0 <= point.y() <= bar.bottom() + 1.0:
                ends = [abs(point.x() - bar.left()), abs(point.x() - bar.right())]
                nearest = int(ends[1] <= ends[0])
                return (i, nearest) if ends[nearest] < NEAR else None
        return None

    def layer_at(self, point: QPointF) -> int | None:
        """The layer whose row is under a point."""
        candidate = self.session.layup
        count = len(candidate.layers) if candidate and self.length > 0.0 else 0
        return next((i for i in range(count) if self.bar(i).top() <= point.y() <= self.bar(i).bottom()), None)

    def set_end(self, layer: int, end: int, x: float) -> None:
        """Lets the layer of a bar begin or end at ``x`` m."""
        candidate, rows = self.session.candidate, self.rows
        if candidate is None or layer >= len(rows):
            return
        low, high = self.run_of(layer)
        least = SHORTEST * self.length
        if end == 0:
            low = round(min(max(x, 0.0), high - least), 6)
        else:
            high = round(max(min(x, self.length), low + least), 6)
        self._run(layer, low, high, f"run {candidate.id} {rows[layer]} {end}")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus()
        self._dragged = self.end_at(event.position())
        row = self.layer_at(event.position())
        if row is not None:
            self.chosen = row
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._dragged is None:
            over = self.end_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        box, snap = self.plot(), SNAP[self.session.units]
        x = (event.position().x() - box.left()) / box.width() * self.length
        self.set_end(*self._dragged, round(x / snap) * snap)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._dragged is not None:
            self._dragged = None
            self.session.document.end_merging()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        candidate = self.session.layup
        if event is None or candidate is None or not candidate.layers:
            return
        key, count = event.key(), len(candidate.layers)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.chosen = min(max(self.chosen + (1 if key == Qt.Key.Key_Down else -1), 0), count - 1)
            self.update()
        elif key == Qt.Key.Key_E:
            self.end_there()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            end = 0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            step = self.length / 100.0 * (1.0 if key == Qt.Key.Key_Right else -1.0)
            self.set_end(self.chosen, end, self.run_of(self.chosen)[end] + step)
        else:
            super().keyPressEvent(event)
