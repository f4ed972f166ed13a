"""Which series and specimen the pages of the test bench show, their reports, and the one road to edit them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from omakase.core.errors import OmakaseError
from omakase.evaluate.testing.reducing import Reducer, SeriesReport, SpecimenReport
from omakase.project import series as edits
from omakase.project.commands import Command
from omakase.project.model import Series, Specimen
from omakase.ui.kit.day import today
from omakase.ui.session import Session
from omakase.units import QuantityError


class SeriesModel(QObject):
    """``changed``: another series or specimen is chosen, or the project changed.  ``told``: words for the person."""

    changed = pyqtSignal()
    told = pyqtSignal(str, bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.series_id = self.specimen_id = ""
        self._reducer = Reducer()
        self._of: tuple[Series, ...] | None = None
        self._reports: list[SeriesReport] = []
        session.brief_changed.connect(self.changed.emit)

    @property
    def reports(self) -> list[SeriesReport]:
        """Reports of all series, worked out again where something changed."""
        series = self.session.document.project.series
        if series is not self._of:
            self._of = series
            reports = (self._reducer.report(one) for one in series)
            self._reports = [report for report in reports if report is not None]
        return self._reports

    @property
    def report(self) -> SeriesReport | None:
        """Report of the chosen series, the first one if none was chosen."""
        reports = self.reports
        return next(
            (report for report in reports if report.series.id == self.series_id), reports[0] if reports else None
        )

    def named(self) -> tuple[str, str]:
        """Id and name of the chosen series; both empty without one."""
        report = self.report
        return ("", "") if report is None else (report.series.id, report.series.name)

    @property
    def specimen(self) -> SpecimenReport | None:
        """Report of the chosen specimen, the series' first one if none was chosen."""
        report = self.report
        if report is None or not report.specimens:
            return None
        return next((s for s in report.specimens if s.specimen.id == self.specimen_id), report.specimens[0])

    def choose_series(self, series_id: str) -> None:
        if series_id != self.series_id:
            self.series_id, self.specimen_id = series_id, ""
            self.changed.emit()

    def choose_specimen(self, specimen_id: str) -> None:
        if specimen_id != self.specimen_id:
            self.specimen_id = specimen_id
            self.changed.emit()

    # --- edits ----------------------------------------------------------------------------------------------

    def do(self, command: Command) -> None:
        self.session.do(command)

    def edit_series(self, change: Callable[[Series], Series], text: str) -> bool:
        """Changes the chosen series as one step; False and a message where the change cannot be."""
        report = self.report
        if report is None:
            return False
        try:
            new = change(report.series)
        except (QuantityError, OmakaseError) as error:
            self.told.emit(str(error), True)
            return False
        if new != report.series:
            new = edits.dated(report.series, new, today())
            self.do(edits.change_series(self.session.document.project, new, text))
        return True

    def edit_specimen(self, change: Callable[[Specimen], Specimen], text: str) -> bool:
        """Changes the chosen specimen as one step."""
        specimen = self.specimen
        if specimen is None:
            return False
        identity = specimen.specimen.id
        return self.edit_series(lambda series: edits.change_specimen(series, identity, change), text)

    def next_specimen(self) -> Specimen | None:
        """Where new data goes: the chosen specimen if it has none yet, else the next without, else one to be added."""
        report, specimen = self.report, self.specimen
        if report is None:
            return None
        empty = [one.specimen for one in report.specimens if one.data is None and not one.error]
        if specimen is not None and specimen.specimen in empty:
            return specimen.specimen
        return empty[0] if empty else edits.add_specimen(report.series)[0].specimens[-1]

    def take_in(self, change: Callable[[Specimen], Specimen], text: str) -> None:
        """Changes the next specimen, adding it where it is not there yet, as one step; it becomes the chosen one."""
        target = self.next_specimen()
        if target is None:
            return

        def put(series: Series) -> Series:
            if edits.find_specimen(series, target.id) is None:
                series, _ = edits.add_specimen(series)
            return edits.change_specimen(series, target.id, change)

        self.edit_series(put, text)
        self.choose_specimen(target.id)
