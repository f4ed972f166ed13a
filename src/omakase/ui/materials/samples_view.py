"""Samples that were made: schedule, what scale and caliper say, and what that means for the resin."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
)

from omakase.core.errors import OmakaseError
from omakase.evaluate.materials.samples import SampleReport, report
from omakase.evaluate.results.wording import percent_text, quantity
from omakase.project import materials as own_materials
from omakase.project import samples as edits
from omakase.project.commands import replace
from omakase.project.library import faced_materials, materials_of
from omakase.project.model import Sample
from omakase.project.quickline import laminate_code
from omakase.ui.kit.fields import QuantityField, WordField, positive
from omakase.ui.kit.fitting_list import fitting_list
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.photo import Photo
from omakase.ui.kit.theme import SPACE
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.units import QuantityError

PHOTO_SIZE = QSize(190, 96)
TITLES = ("Sample", "Layup", "Predicted", "Weighed", "", "t predicted", "measured", "Resin share")
HINT = "No sample yet. Choose a candidate and press Ctrl+Shift+W: its layup becomes a sample to weigh and measure."


class SamplesView(TopPage):
    """A list of all samples, and the fields of the chosen one below it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.reports: list[SampleReport] = []
        self._filling = False
        self.list = self.entry = fitting_list("Samples", TITLES, 2)
        self.head = Heading()
        self.message = Message()
        self.name, self.note, self.photo = WordField("Name of the sample"), WordField("Note"), WordField("Photograph")
        self.find_photo, self.picture = (
            QPushButton("Photograph…"),
            Photo(session, "Photograph of the sample", PHOTO_SIZE),
        )
        self.length = QuantityField("length", "Length of the sample", positive)
        self.width_field = QuantityField("length", "Width of the sample", positive)
        self.masses = [WordField("Weighed mass"), WordField("The same mass in another unit")]
        self.thickness = WordField("Thickness of the sample")
        self.fields = (self.name, self.note, self.photo, *self.masses, self.thickness, self.length, self.width_field)
        self.add = QPushButton("Sample of the chosen candidate")
        self.drop = QPushButton("Remove")
        self.feed = QPushButton("Give its plies this resin share")
        self._arrange()
        self._connect()
        session.brief_changed.connect(self.refresh)

    def _arrange(self) -> None:
        flow, last = FlowLayout(gap=SPACE), FlowLayout(gap=SPACE)
        placeholders = ("name", "note", "path of a photograph")
        for field, words in zip((self.name, self.note, self.photo), placeholders, strict=True):
            field.setPlaceholderText(words)
            field.setMinimumWidth(180)
            field.setMaxLength(200)
        self.masses[0].setPlaceholderText("163 g")
        self.masses[1].setPlaceholderText("5.75 oz")
        self.thickness.setPlaceholderText("10.4 mm")
        for field in self.fields:
            field.extra_height = 6
        for size in (self.length, self.width_field):
            size.setMinimumWidth(92)
        times = Label("×")
        for widget in (times, self.width_field):
            widget.setProperty("glue", "loose")
        for widget in (self.name, self.length, times, self.width_field):
            flow.addWidget(widget)
        for text, field in (("weighed", self.masses[0]), ("or", self.masses[1]), ("thickness", self.thickness)):
            field.setMinimumWidth(100)
            field.setProperty("glue", "loose")
            flow.addWidget(Label(text))
            flow.addWidget(field)
        flow.addWidget(self.note)
        flow.addWidget(self.photo)
        flow.addWidget(self.find_photo)
        for button in (self.add, self.feed, self.drop):
            last.addWidget(button)
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addWidget(self.list, 1)
        beside = QHBoxLayout()
        beside.addLayout(flow, 1)
        beside.addWidget(self.picture)
        layout.addLayout(beside)
        layout.addWidget(self.message)
        layout.addLayout(last)

    def _connect(self) -> None:
        self.add.clicked.connect(lambda: self.add_sample())
        self.drop.clicked.connect(lambda: self.remove_sample())
        self.feed.clicked.connect(lambda: self.feed_materials())
        selection = self.list.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._show_fields())
        self.name.committed.connect(lambda text: self._change(lambda s: replace(s, name=text), "rename a sample"))
        self.note.committed.connect(lambda text: self._change(lambda s: replace(s, note=text), "note on a sample"))
        self.photo.committed.connect(lambda text: self._change(lambda s: replace(s, photo=text), "photograph"))
        self.find_photo.clicked.connect(lambda: self.choose_photo())
        self.length.committed.connect(lambda v: self._change(lambda s: replace(s, length=v), "length of a sample"))
        self.width_field.committed.connect(lambda v: self._change(lambda s: replace(s, width=v), "width of a sample"))
        for place, field in enumerate(self.masses):
            field.committed.connect(
                lambda text, place=place: self._change(
                    lambda s: edits.read_mass(s, place, text, self.session.units), "weigh a sample"
                )
            )
        self.thickness.committed.connect(
            lambda text: self._change(lambda s: edits.read_thickness(s, text, self.session.units), "measure a sample")
        )
        for field in (self.length, self.width_field):
            field.problem.connect(self.message.warn)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    # --- what is shown --------------------------------------------------------------------------------------

    @property
    def report(self) -> SampleReport | None:
        """What the chosen sample says."""
        row = self.list.currentIndex().row()
        return self.reports[row] if 0 <= row < len(self.reports) else None

    @property
    def sample(self) -> Sample | None:
        """The chosen sample."""
        return self.report.sample if self.report is not None else None

    def refresh(self) -> None:
        """Shows the present samples; the cursor stays on its sample."""
        if not self.isVisible():
            return
        project = self.session.document.project
        before = self.sample.id if self.sample is not None else ""
        materials = materials_of(project)
        self.reports = [report(sample, materials) for sample in project.samples]
        self._filling = True  # without a row for a moment, the fields would lose what is typed and the focus
        self.list.clear()
        for sample_report in self.reports:
            item = QTreeWidgetItem(self._texts(sample_report))
            for column in range(2, len(TITLES)):
                item.setTextAlignment(column, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.list.addTopLevelItem(item)
        if self.reports:
            self.head.show_parts("Samples", "weighed and measured; Esc goes back")
        else:
            self.head.show_parts("", HINT)
        ids = [report.sample.id for report in self.reports]
        if ids:
            row = ids.index(before) if before in ids else len(ids) - 1
            self.list.setCurrentItem(self.list.topLevelItem(row))
        self._filling = False
        self._show_fields()

    def _texts(self, report: SampleReport) -> list[str]:
        sample, units = report.sample, self.session.units
        code = laminate_code(sample.layers, units, faced_materials(self.session.document.project), materials=True)
        if report.error:
            return [sample.name, report.error, "", "", "", "", "", ""]
        mark = "! " if report.warnings else ""
        return [
            sample.name,
            code,
            quantity(report.predicted_mass, "mass", units),
            mark + ("" if report.weighed is None else quantity(report.weighed, "mass", units)),
            "" if report.mass_difference is None else percent_text(report.mass_difference),
            quantity(report.predicted_thickness, "length", units),
            "" if sample.thickness is None else quantity(sample.thickness.value, "length", units),
            "" if report.fraction is None or report.predicted_fraction is None
            else f"{report.fraction:.1%} for {report.predicted_fraction:.1%}",
        ]  # fmt: skip

    def _show_fields(self) -> None:
        if self._filling:
            return
        report = self.report
        for widget in (*self.fields, self.drop, self.find_photo):
            widget.setEnabled(report is not None)
        self.feed.setEnabled(report is not None and report.fraction is not None and report.fraction < 0.95)
        problem = self.picture.show_file("" if report is None else report.sample.photo)
        if report is None:
            self.message.say("")
            return
        sample = report.sample
        self.name.set_value(sample.name)
        self.note.set_value(sample.note)
        self.photo.set_value(sample.photo)
        texts = [reading.text for reading in sample.masses] + ["", ""]
        for field, text in zip(self.masses, texts, strict=False):
            field.set_value(text)
        self.thickness.set_value(sample.thickness.text if sample.thickness is not None else "")
        self.length.set_value(sample.length, self.session.units)
        self.width_field.set_value(sample.width, self.session.units)
        for field in self.fields:
            field.setCursorPosition(0)
        remarks = [*report.warnings, *([problem] if problem else [])]
        if not remarks and report.voids is not None:
            voids, half = report.voids
            self.message.say(f"Voids {max(voids, 0.0):.1%} ± {half:.1%}, from mass and thickness (ASTM D2734).")
        else:
            self.message.say("\n".join(remarks), bool(remarks))

    def choose_photo(self, path: str = "") -> None:
        """Takes a picture file as the photograph of the chosen sample; beside the project its path is relative."""
        path = self.picture.choose(self, path)
        if path:
            self._change(lambda sample: replace(sample, photo=path), "photograph")

    # --- acts -----------------------------------------------------------------------------------------------

    def _change(self, change: Callable[[Sample], Sample], text: str) -> None:
        sample = self.sample
        if sample is None:
            return
        try:
            new = change(sample)
        except QuantityError as error:
            self.message.warn(str(error))
            return
        if new != sample:
            self.session.do(edits.change(self.session.document.project, new, text))

    def add_sample(self) -> None:
        """Makes a sample of the chosen candidate's layup."""
        candidate = self.session.layup
        if candidate is None or not candidate.layers:
            self.message.warn("choose a candidate with a layup first")
            return
        command, identity = edits.add(self.session.document.project, candidate)
        self.session.do(command)
        ids = [report.sample.id for report in self.reports]
        if identity in ids:
            self.list.setCurrentItem(self.list.topLevelItem(ids.index(identity)))
        self.masses[0].setFocus()

    def remove_sample(self) -> None:
        """Removes the chosen sample."""
        sample = self.sample
        if sample is not None:
            self.session.do(edits.remove(self.session.document.project, sample.id))

    def feed_materials(self) -> None:
        """Gives the sample's plies the resin share that was weighed; every candidate that uses them follows."""
        report = self.report
        if report is None or report.fraction is None:
            return
        sample = report.sample
        project = self.session.document.project
        materials = materials_of(project)
        names = dict.fromkeys(la.material for la in sample.layers if materials[la.material].kind == "ply")
        try:
            command = own_materials.from_sample(project, names, report.fraction, sample.name)
        except OmakaseError as error:
            self.message.warn(str(error))
            return
        self.session.do(command)
        self.message.say(f"{', '.join(names)}: {report.fraction:.1%} resin, tested; Ctrl+Z undoes it")
