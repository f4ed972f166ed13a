"""The load frame: a specimen in it, speed, a live curve, stop; the curve goes into the specimen."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import Curve, Quantity
from omakase.core.specimens.method import Method
from omakase.devices.driver import DeviceError, LoadFrame
from omakase.devices.simulated import SimulatedFrame, hide
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.testing import planning
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.project.library import materials_of
from omakase.project.model import Specimen
from omakase.ui.kit.fields import ChoiceField, QuantityField, framed, within
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.testing.import_page import put_curve
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.plot import CurvePlot
from omakase.units import display_unit

EVERY_MS = 50
HURRY = {"1": "as in the workshop", "10": "ten times as fast", "60": "sixty times as fast"}
GAUGES = {"": "force and travel", "deflection": "and a deflection gauge", "strain": "and strain gauges"}
CHANNELS: dict[str, tuple[Quantity, ...]] = {
    "": (), "deflection": ("deflection",), "strain": ("strain", "cross_strain"),
}  # fmt: skip
USUAL_CAPACITY = 20e3
USUAL_COMPLIANCE = 2e-8


def simulated(
    model: SeriesModel, report: SeriesReport, specimen: Specimen, capacity: float, gauges: tuple[Quantity, ...],
    hurry: float,
) -> LoadFrame:  # fmt: skip
    """The frame that ships with the program, with the series' specimen in it.  Raises DeviceError."""
    expected = planning.predicted(report.series, materials_of(model.session.document.project))
    if expected is None or expected.stiffness <= 0.0:
        raise DeviceError(
            "the simulated frame needs a prediction of the specimen, and this series has none; a file, a log or a "
            "single value can still be read"
        )
    hidden = hide(expected, report.method, report.series.material, report.series.id + specimen.id)
    return SimulatedFrame(
        hidden,
        capacity,
        USUAL_COMPLIANCE,
        gauges=gauges,
        hurry=hurry,
        seed=sum(map(ord, report.series.id + specimen.id)),
    )


def usual_speed(method: Method, force: float, stiffness: float) -> float:
    """m/s that breaks a specimen in about two minutes, rounded to 0.5 mm/min."""
    travel = force / stiffness if stiffness > 0.0 else 0.002
    return max(round(travel / 120.0 * 6e4 / 0.5), 1) * 0.5 / 6e4


class FramePage(QWidget):
    """``done``: the person goes back to the specimens.  ``make_frame`` gives the device; tests and other machines
    put their own in its place."""

    done = pyqtSignal()

    def __init__(self, model: SeriesModel, theme: Theme) -> None:
        super().__init__()
        self.model = model
        self.make_frame: Callable[..., LoadFrame] = simulated
        self.frame: LoadFrame | None = None
        self.rows: dict[Quantity, list[np.ndarray]] = {}
        self.plot = CurvePlot(theme, "Live curve")
        self.head, self.state = Heading(), Message()
        self.head.setWordWrap(True)
        self.speed = QuantityField(
            "speed", "Speed of the crosshead", within(1e-7, 0.02, "between 0.006 and 1200 mm/min")
        )
        self.capacity = QuantityField("force", "Capacity of the frame", within(1.0, 1e7, "between 1 N and 10 MN"))
        self.gauges = ChoiceField("What is measured", GAUGES)
        self.hurry = ChoiceField("How fast time runs", HURRY)
        self.hurry.set_value("10")
        self.start, self.stop = QPushButton("Start"), QPushButton("Stop")
        self.keep, self.back = QPushButton("Keep the curve"), QPushButton("Back")
        self.entry = self.start
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY_MS)
        self._timer.timeout.connect(self.poll)
        self._of = self._ran_for = ""
        self._arrange()
        for button, act in ((self.start, self.run), (self.stop, self.halt), (self.keep, self.keep_curve)):
            button.clicked.connect(lambda _checked, act=act: act())
        self.back.clicked.connect(lambda: self.done.emit())
        for field in (self.speed, self.capacity):
            field.problem.connect(lambda text: self.state.warn(text) if text else None)

    def _arrange(self) -> None:
        row, buttons = FlowLayout(gap=SPACE), FlowLayout(gap=SPACE)
        for part in ("Crosshead at", self.speed, ", capacity", self.capacity, ", measuring", self.gauges, "; time runs",
                     self.hurry):  # fmt: skip
            widget = Label(part) if isinstance(part, str) else part
            if isinstance(widget, QuantityField | ChoiceField):
                framed(widget)
            row.addWidget(widget)
        for button in (self.start, self.stop, self.keep, self.back):
            buttons.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.head)
        layout.addLayout(row)
        layout.addWidget(self.plot, 1)
        layout.addWidget(self.state)
        layout.addLayout(buttons)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.halt()
        super().hideEvent(event)

    # --- the test -------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Makes ready for the chosen specimen."""
        report, specimen, units = self.model.report, self.model.next_specimen(), self.model.session.units
        self._buttons()
        if report is None or specimen is None:
            return
        self.head.show_parts(
            "Simulated load frame,",
            f"specimen {specimen.name} of {report.series.name}. Its true properties are hidden, as in a real test. "
            "Stand clear: a loaded specimen can break suddenly.",
        )
        if self._of != report.series.id:
            self._of = report.series.id
            expected = planning.predicted(report.series, materials_of(self.model.session.document.project))
            force, stiffness = (expected.force, expected.stiffness) if expected is not None else (1000.0, 0.0)
            self.speed.set_value(usual_speed(report.method, force, stiffness), units)
            self.capacity.set_value(report.series.capacity or USUAL_CAPACITY, units)
        for field in (self.speed, self.capacity):
            field.set_value(field._value, units)

    def run(self) -> None:
        """Starts the test on a fresh specimen."""
        report, specimen = self.model.report, self.model.next_specimen()
        if report is None or specimen is None or self._timer.isActive():
            return
        chosen = self.gauges.currentData()
        gauges = CHANNELS[chosen]
        try:
            self.frame = self.make_frame(
                self.model, report, specimen, self.capacity._value or USUAL_CAPACITY, gauges,
                float(self.hurry.currentData()),
            )  # fmt: skip
            self.frame.start(self.speed._value or 1e-4)
        except OmakaseError as error:
            self.state.warn(str(error))
            return
        self.rows = {name: [] for name in self.frame.channels}
        self._ran_for = report.series.id
        units = self.model.session.units
        x, y = display_unit("length", units), display_unit("force", units)
        self.plot.set_axes(f"crosshead travel, {x.label}", f"force, {y.label}")
        self.plot.show_curve(np.empty(0), np.empty(0))
        self._timer.start()
        self._buttons()

    def poll(self) -> None:
        """Takes what has come in and draws it."""
        if self.frame is None:
            return
        for name, values in self.frame.read().items():
            self.rows[name].append(values)
        force, travel = self._column("force"), self._column("travel")
        units = self.model.session.units
        x, y = display_unit("length", units), display_unit("force", units)
        self.plot.show_curve(travel / x.factor, force / y.factor)
        if len(force):
            remark = (
                f"{quantity(float(force[-1]), 'force', units)} at {quantity(float(travel[-1]), 'deflection', units)}, "
            )
            remark += f"most {quantity(float(force.max()), 'force', units)}"
            self.state.say(f"{remark}; {'running' if self.frame.running else self.frame.why_stopped}")
        if not self.frame.running:
            self._timer.stop()
            self.plot.fit()
            self._buttons()

    def _column(self, name: Quantity) -> np.ndarray:
        parts = self.rows.get(name, [])
        if len(parts) > 1:
            parts[:] = [np.concatenate(parts)]
        return parts[0] if parts else np.empty(0)

    def halt(self) -> None:
        """Stops the crosshead."""
        if self.frame is not None and self.frame.running:
            self.frame.stop()
            self.poll()
        self._timer.stop()
        self._buttons()

    def keep_curve(self) -> None:
        """Puts the curve into the specimen."""
        try:
            curve = Curve({name: self._column(name) for name in self.rows})
        except OmakaseError as error:
            self.state.warn(str(error))
            return
        self.rows = {}
        self.model.choose_series(self._ran_for)  # another may have been looked at meanwhile
        put_curve(self.model, curve, "simulated load frame")
        self.done.emit()

    def _buttons(self) -> None:
        running = self._timer.isActive()
        self.start.setEnabled(not running)
        self.stop.setEnabled(running)
        self.keep.setEnabled(not running and len(self._column("force")) > 1)

    def set_theme(self, theme: Theme) -> None:
        self.plot.set_theme(theme)
