"""The test bench: a list of series and the pages about the chosen one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
)

from omakase.core.errors import OmakaseError
from omakase.core.specimens.registry import all_methods
from omakase.devices.driver import Scale
from omakase.devices.simulated import SimulatedScale
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.testing import planning
from omakase.evaluate.testing.comparing import areal_mass, specimen_area
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.project import series as edits
from omakase.project.library import materials_of
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import ChoiceField, framed
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Heading, Label, Message, plain
from omakase.ui.kit.theme import SPACE, Theme, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.ui.testing import FRAME, IMPORT, PLAN, SPECIMENS
from omakase.ui.testing.belief_page import BeliefPage
from omakase.ui.testing.compare_page import ComparePage
from omakase.ui.testing.frame_page import FramePage
from omakase.ui.testing.import_page import ImportPage
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.plan_page import PlanPage
from omakase.ui.testing.specimen_page import SpecimenPage
from omakase.ui.testing.statistics_page import StatisticsPage

TABS = ("Specimens", "Statistics", "Plan", "Recipes", "Prediction")
TURNED = {"along": "cut along the length", "across": "cut along the width"}
HINT = (
    "No series yet. Choose a candidate and a test below, then plan it: its prediction is frozen before anything breaks."
)


class TestsView(TopPage):
    """Takes the whole right side.  Files of curves can be dropped on it."""

    __test__ = False  # not one of the program's own tests
    whole = alone = True

    def __init__(self, session: Session, theme: Theme, settings: QSettings) -> None:
        super().__init__(session)
        self.model = SeriesModel(session)
        self.list = self.entry = fitting_list("Series of tests", ("Series", "Result"), 1)
        self.head = Heading()
        self.head.setWordWrap(True)
        self.message = Message()
        self.method = QComboBox()
        self.method.setAccessibleName("Which test")
        self.why = Label()
        self.why.setWordWrap(True)
        set_property(self.why, "role", "quiet")
        self.turned = ChoiceField("How specimens are cut", TURNED)
        self.plan, self.drop = QPushButton("Plan this test"), QPushButton("Remove the series")
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Pages of the test bench")
        self.specimens = SpecimenPage(self.model, theme)
        self.statistics = StatisticsPage(self.model, theme)
        self.plan_page = PlanPage(self.model)
        self.compare = ComparePage(self.model, theme)
        self.belief = BeliefPage(self.model, theme)
        self.files, self.frame = ImportPage(self.model, settings), FramePage(self.model, theme)
        self.pages = QStackedWidget()
        self.make_scale: Callable[[float], Scale] = SimulatedScale  # another scale takes its place here
        self._questions: dict[str, str] = {}
        self._asked: object = None
        self._filling = False
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        for text in TABS:
            self.tabs.addTab(text)
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for page in (
            self.specimens,
            self.statistics,
            self.plan_page,
            self.compare,
            self.belief,
            self.files,
            self.frame,
        ):
            self.pages.addWidget(page)
        self.list.setMinimumWidth(230)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(Heading("Series of tests", "Esc goes back"))
        left.addWidget(self.list, 1)
        left.addWidget(Label("A test of the chosen candidate:"))
        left.addWidget(self.method)
        left.addWidget(self.why)
        row = FlowLayout(gap=SPACE)
        framed(self.turned)
        for widget in (self.turned, self.plan, self.drop):
            row.addWidget(widget)
        left.addLayout(row)
        right.addWidget(self.head)
        right.addWidget(self.tabs)
        right.addWidget(self.pages, 1)
        right.addWidget(self.message)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(2 * SPACE)
        layout.addLayout(left, 3)
        layout.addLayout(right, 8)

    def _connect(self) -> None:
        self.model.changed.connect(self.refresh)
        self.model.told.connect(self.message.say)
        self.session.chosen_changed.connect(self._fill_methods)
        self.session.results_changed.connect(self._fill_methods)
        selection = self.list.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._row_chosen())
        self.method.currentIndexChanged.connect(lambda _index: self._show_why())
        self.plan.clicked.connect(lambda: self.plan_series())
        self.drop.clicked.connect(lambda: self.remove_series())
        self.tabs.currentChanged.connect(self.show_page)
        self.tabs.tabBarClicked.connect(self.show_page)
        self.specimens.file_wanted.connect(self.read_file)
        self.specimens.frame_wanted.connect(lambda: self.show_page(FRAME))
        self.specimens.weigh_wanted.connect(self.weigh)
        self.files.done.connect(lambda: self.show_page(SPECIMENS))
        self.frame.done.connect(lambda: self.show_page(SPECIMENS))

    def set_theme(self, theme: Theme) -> None:
        for plot in (self.specimens.plot, self.frame.plot):
            plot.set_theme(theme)
        for page in (self.statistics, self.compare, self.belief):
            page.set_theme(theme)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()
        self._fill_methods()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self.pages.currentIndex() in (IMPORT, FRAME):
            self.show_page(SPECIMENS)
            return
        super().keyPressEvent(event)

    def show_page(self, index: int) -> None:
        """Shows a page; importing and the frame belong to the specimens."""
        tab = index if index < len(TABS) else SPECIMENS
        self.tabs.blockSignals(True)
        self.tabs.setCurrentIndex(tab)
        self.tabs.blockSignals(False)
        self.pages.setCurrentIndex(index)

    # --- what is shown --------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if not self.isVisible():
            return
        report = self.model.report
        self._filling = True
        rows = [(report.series.id, (report.series.name, self._result(report))) for report in self.model.reports]
        fill_list(self.list, rows, report.series.id if report is not None else "", (1,))
        for place, series_report in enumerate(self.model.reports):
            remark = f"{series_report.series.name}\n{series_report.method.title}, {series_report.method.basis}"
            self.list.topLevelItem(place).setToolTip(0, plain(remark))
        self._filling = False
        self.drop.setEnabled(report is not None)
        self.tabs.setEnabled(report is not None)
        self.pages.setEnabled(report is not None)
        if report is None:
            self.head.show_parts("", HINT)
        else:
            self.head.show_parts(report.series.name, self._head(report))
        self.message.say("")

    def _result(self, report: SeriesReport) -> str:
        summary, units = report.main, self.session.units
        accepted = any(entry.series == report.series.id for entry in self.session.document.project.acceptances)
        mark = "✓ " if accepted else ""
        if summary is None:
            return f"{mark}planned"
        dimension = report.titles[report.method.main].dimension
        if summary.mean is not None:
            return f"{mark}{quantity(summary.mean, dimension, units)}"
        least = min(seen.lower for seen in summary.observations) if summary.observations else 0.0
        return f"{mark}≥ {quantity(least, dimension, units)}"

    def _head(self, report: SeriesReport) -> str:
        series, units = report.series, self.session.units
        done = sum(one.data is not None for one in report.specimens)
        parts = [f"{report.method.basis}; {done} of {len(report.specimens)} specimens tested"]
        ratio = report.ratio(report.method.main)
        if ratio is not None and series.prediction is not None:
            expected = quantity(
                series.prediction.values[report.method.main], report.titles[report.method.main].dimension, units
            )
            parts.append(f"predicted {expected} on {series.prediction.on}, measured × {ratio:.2f} of it")
        return "; ".join(parts)

    def help_topic(self) -> str:
        """What F1 explains: the test that is being chosen, or that of the series shown."""
        report = self.model.report
        chosen = self.method.currentData() if self.method.hasFocus() or report is None else report.method.name
        return f"test:{chosen}" if chosen else ""

    def _fill_methods(self) -> None:
        if not self.isVisible():
            return
        result = self.session.result
        if result is self._asked and self.method.count():
            return
        self._asked = result
        questions = planning.questions(result) if result is not None else []
        self._questions = {question.method: question.why for question in questions}
        stack = result.stack if result is not None else None
        others = [
            name
            for name, method in all_methods().items()
            if name not in self._questions and planning.suits(method, stack)
        ]
        order = [*self._questions, *others]
        shown = [self.method.itemData(i) for i in range(self.method.count())]
        if shown != order:
            before = self.method.currentData()
            self.method.blockSignals(True)
            self.method.clear()
            for name in order:
                mark = "? " if name in self._questions else ""
                self.method.addItem(mark + all_methods()[name].title, name)
            self.method.setCurrentIndex(max(order.index(before) if before in order and shown else 0, 0))
            self.method.blockSignals(False)
        self._show_why()

    def _show_why(self) -> None:
        method = all_methods().get(self.method.currentData())
        if method is None:
            return
        candidate = self.session.candidate
        name = candidate.name if candidate is not None else "no candidate"
        why = self._questions.get(method.name)
        self.why.setText(f"{name}: {why}." if why else f"{name}: {method.validity}")

    def _row_chosen(self) -> None:
        identity = chosen_key(self.list)
        if identity and not self._filling:
            self.model.choose_series(identity)

    # --- acts -----------------------------------------------------------------------------------------------

    def plan_series(self) -> None:
        """Plans the chosen test of the chosen candidate and shows the plan."""
        brief, candidate, project = self.session.brief, self.session.layup, self.session.document.project
        if brief is None or candidate is None or not candidate.layers:
            self.message.warn("choose a candidate with a layup first")
            return
        method = self.method.currentData()
        try:
            turned = self.turned.currentData() == "across"
            series = planning.plan(brief, candidate, method, materials_of(project), today(), turned)
            if method == "proof_load":
                series = planning.plan_proof(series, brief, self.session.result, today())
        except OmakaseError as error:
            self.message.warn(str(error))
            return
        command, identity = edits.add_series(project, series)
        self.session.do(command)
        self.model.choose_series(identity)
        self.show_page(PLAN)

    def remove_series(self) -> None:
        """Removes the chosen series, unless something was accepted from it."""
        report = self.model.report
        if report is None:
            return
        try:
            self.session.do(edits.remove_series(self.session.document.project, report.series.id))
        except OmakaseError as error:
            self.message.warn(str(error))

    def read_file(self, path: str = "") -> None:
        """Shows a file of a curve to be taken in; asks for one where none is given."""
        if self.model.report is None:
            self.message.warn("plan a series first: the curve needs a specimen to belong to")
            return
        shown = self.files.open(Path(path)) if path else self.files.choose()
        if shown:
            self.show_page(IMPORT)

    def weigh(self) -> None:
        """Lays the specimen on the simulated scale."""
        specimen, report = self.model.specimen, self.model.report
        if specimen is None or report is None:
            return
        mass = areal_mass(report, materials_of(self.session.document.project)) * specimen_area(specimen.sizes)
        if mass <= 0.0:
            self.message.warn("the simulated scale cannot compute the mass of this specimen: type it")
            return
        # a specimen is up to some per cent off its computed mass, always by the same
        share = 1.0 + ((sum(map(ord, report.series.id + specimen.specimen.id)) % 13) - 5) / 200.0
        scale = self.make_scale(mass * share)
        text = quantity(scale.read(), "mass", self.session.units)
        self.model.edit_specimen(lambda s: edits.with_mass(s, text, self.session.units), "weigh a specimen")
