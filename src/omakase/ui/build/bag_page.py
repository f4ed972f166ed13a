"""Vacuum and cure of a part: readings, the drop test with its limit, and what the cure has reached."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout

from omakase.core.errors import OmakaseError
from omakase.devices.gauge import Gauge, SimulatedGauge
from omakase.evaluate.build.logs import (
    LOG_TITLES,
    bag_limit,
    bag_words,
    cure_words,
    log_rows,
    read_log,
    with_bag,
    with_cure,
)
from omakase.evaluate.build.weighing import without_log
from omakase.project.build import BagLog, CureLog, Job
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.part_choice import PartChoice
from omakase.ui.build.pictures import LogPicture
from omakase.ui.kit.day import today
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, Theme, set_property
from omakase.units import QuantityError

STEP = 30.0  # s between two readings of the gauge


class BagPage(BuildPage):
    """Logs of the chosen part in a list, the chosen one as a curve with its limit."""

    def __init__(self, model: BuildModel, theme: Theme) -> None:
        super().__init__(model)
        self.choice = PartChoice(model)
        self.list = fitting_list("Logs of the part", LOG_TITLES, 1)
        self.picture = LogPicture(theme)
        self.told = Label()
        self.told.setWordWrap(True)
        self.line = QLineEdit()
        self.line.setAccessibleName("Readings: time and pressure or temperature")
        self.line.setPlaceholderText("0 25 mbar; 60 s 27 mbar; 5 min 31 mbar   or   0 22 °C; 1 h 60 °C; 9 h 60 °C")
        self.line.setMaxLength(4000)
        self.gauge, self.note = QPushButton("Read the gauge"), QPushButton("Keep the readings")
        self.drop = QPushButton("Remove the log")
        self.make_gauge: Callable[[str], Gauge] = _simulated  # another gauge takes its place here
        self._chosen = ""
        line = QHBoxLayout()
        line.addWidget(self.line, 1)
        for button in (self.note, self.gauge, self.drop):
            line.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.choice)
        layout.addWidget(self.list, 2)
        layout.addLayout(line)
        layout.addWidget(self.told)
        layout.addWidget(self.picture, 4)
        self.choice.chosen.connect(self.refresh)
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))
        self.line.returnPressed.connect(lambda: self.keep())
        self.note.clicked.connect(lambda: self.keep())
        self.gauge.clicked.connect(lambda: self.read_gauge())
        self.drop.clicked.connect(lambda: self.remove_log())

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def fill(self) -> None:
        self.choice.refresh()
        job, part = self.model.job, self.model.part
        units = self.model.session.units
        rows = log_rows(job, part, units) if job is not None and part is not None else []
        if self._chosen not in {key for key, _ in rows}:
            self._chosen = rows[-1][0] if rows else ""
        fill_list(self.list, rows, self._chosen, (1, 2))
        log = self.log
        self.drop.setEnabled(log is not None)
        if log is None or part is None or len(log.points) < 2:
            self.picture.show_log((), None, ("", ""))
            self.told.setText("No log of this part yet: type readings, or read the gauge.")
            set_property(self.told, "role", "quiet")
            return
        text, fine = bag_words(log, part, units) if isinstance(log, BagLog) else cure_words(
            log, part, self.model.project.shop, units
        )  # fmt: skip
        self.told.setText(text)
        set_property(self.told, "role", "quiet" if fine else "alarm")
        points, limit, axes = bag_limit(log, part, self.model.project.shop, units)
        self.picture.show_log(points, limit, axes)

    @property
    def log(self) -> BagLog | CureLog | None:
        """The chosen log."""
        job = self.model.job
        logs: list[BagLog | CureLog] = [*job.bags, *job.cures] if job is not None else []
        return next((own for own in logs if own.id == self._chosen), None)

    def _choose(self, key: str) -> None:
        if key and key != self._chosen:
            self._chosen = key
            self.refresh()

    # --- acts -----------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Keeps the typed readings as a log of the chosen part."""
        part, job = self.model.part, self.model.job
        if part is None or job is None:
            return
        try:
            kind, points = read_log(self.line.text(), self.model.session.units)
            change = with_bag if kind == "bag" else with_cure
            new = change(job, part.made.part.id, points, today())
        except (QuantityError, OmakaseError) as error:
            self.model.told.emit(str(error), True)
            self.line.setFocus()
            return
        self._chosen = (new.bags if kind == "bag" else new.cures)[-1].id
        self.model.edit_job(lambda _job: new, "keep readings")
        self.line.clear()

    def read_gauge(self) -> None:
        """Reads the gauge through a drop test and keeps the readings; the simulated one needs no waiting."""
        part, job = self.model.part, self.model.job
        if part is None or job is None:
            return
        process = part.made.process
        if process.drop <= 0.0:
            self.model.told.emit(f"'{process.name}' has no bag: there is nothing to read", True)
            return
        count = len([own for own in job.bags if own.part == part.made.part.id])
        gauge = self.make_gauge(f"{job.id} {part.made.part.id} {count}")
        times = [STEP * i for i in range(int(process.drop_time / STEP) + 1)]
        points = tuple((own, gauge.read(own)) for own in times)

        def put(own: Job) -> Job:
            return with_bag(own, part.made.part.id, points, today())

        self._chosen = put(job).bags[-1].id
        self.model.edit_job(put, "read the gauge")

    def remove_log(self) -> None:
        """Removes the chosen log."""
        identity = self._chosen
        if identity:
            self.model.edit_job(lambda job: without_log(job, identity), "remove a log")


def _simulated(name: str) -> Gauge:
    """A bag that is tight or leaks, always the same one for the same name."""
    draw = sum(map(ord, name)) % 5
    return SimulatedGauge(leak=(0.6, 1.2, 0.3, 2.4, 14.0)[draw], seed=draw)
