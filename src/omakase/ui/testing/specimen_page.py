"""One series' specimens: their data, the curve with its region, every number with its formula, and the judgement."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
import numpy as np
from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QPlainTextEdit,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
)

from omakase.core.plates.loads import STANDARD_GRAVITY
from omakase.core.specimens.curve import DIMENSIONS, MEANINGS
from omakase.core.specimens.method import Result
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.testing.reducing import VERDICT_WORDS, SeriesReport, SpecimenReport, reduce_specimen
from omakase.project import series as edits
from omakase.project.commands import replace
from omakase.project.model import Region, Specimen
from omakase.ui.kit.fields import ChoiceField, WordField, framed
from omakase.ui.kit.fitting_list import RIGHT, chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Message, plain
from omakase.ui.kit.photo import Photo
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.page import BenchPage
from omakase.ui.testing.plot import CurvePlot
from omakase.ui.testing.size_row import SizeRow
from omakase.units import UnitSystem, display_unit

TITLES = ("Specimen", "Failure", "Worth", "", "")
PLACES = {
    "": "place of failure", "gauge": "in the free length", "face": "in a face", "core": "in the core",
    "bond": "at the bond", "edge": "at an edge or insert", "root": "at the root", "roller": "under a roller",
    "grip": "at the grip", "tab": "at the tab", "none": "it did not fail",
}  # fmt: skip
VERDICTS = {"": "worth by the place", "valid": "valid", "at_least": "at least", "void": "void"}
ROWS = "rows"  # what a curve of force alone is drawn over
SCALES = {"force": "force", "kgf": "kgf", "stress": "stress"}


def result_text(result: Result | None, units: UnitSystem) -> str:
    """A result as it stands in a list: a value, an interval, or at least."""
    if result is None:
        return ""
    low = quantity(result.lower, result.dimension, units)
    if result.exact:
        return low
    if np.isinf(result.upper):
        return f"≥ {low}"
    return f"{low} … {quantity(result.upper, result.dimension, units)}"


class SpecimenPage(BenchPage):
    """``file_wanted``, ``frame_wanted``: the person wants to read a file, or to run the chosen specimen."""

    file_wanted = pyqtSignal()
    frame_wanted = pyqtSignal()
    weigh_wanted = pyqtSignal()

    def __init__(self, model: SeriesModel, theme: Theme) -> None:
        super().__init__()
        self.follow(model)
        self.scale = "force"
        self._shown: tuple[str, str] = ("", "")
        self._fitted: object = None
        self._filling = False
        self.list = self.entry = fitting_list("Specimens", TITLES, 3)
        header = self.list.header()
        assert header is not None
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        self.plot = CurvePlot(theme, "Curve of the specimen")
        self.results = fitting_list("Numbers of the specimen", ("Number", "Value"), 1)
        self.scales = ChoiceField("What the curve shows", SCALES)
        self.whole = QPushButton("All of it")
        self.standard = QPushButton("By the standard")
        self.log = QPlainTextEdit()
        self.log.setAccessibleName("Step log")
        self.keep_log = QPushButton("Take the log in")
        self.place = ChoiceField("Place of failure", PLACES)
        self.manner, self.reason = WordField("Manner of failure"), WordField("Reason for the verdict")
        self.note, self.photo = WordField("Note on the specimen"), WordField("Photograph of the specimen")
        self.name, self.batch = WordField("Name of the specimen"), WordField("Batch of the specimen")
        self.picture = Photo(model.session, "Photograph of the specimen", QSize(150, 84))
        self.verdict = ChoiceField("How the specimen counts", VERDICTS)
        self.force, self.mass = WordField("Force at failure"), WordField("Mass of the specimen")
        self.buttons = {name: QPushButton(text) for name, text in (
            ("file", "Read a file…"), ("frame", "Run on the frame"), ("weigh", "Weigh it"),
            ("photo", "Photograph…"), ("add", "One more"), ("drop", "Remove"))}  # fmt: skip
        self.sizes = SizeRow("{} of the specimen", in_sentence=False)
        self.message = Message()
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        for field, text, width in (
            (self.name, "name", 60), (self.batch, "batch", 60),
            (self.manner, "manner: fibres break, core shear, peel …", 170),
            (self.reason, "why this verdict", 130), (self.note, "note", 110), (self.photo, "path of a photograph", 120),
            (self.force, "broke at 420 N", 110), (self.mass, "mass: 41 g", 80),
        ):  # fmt: skip
            field.setPlaceholderText(text)
            field.setMinimumWidth(width)
            framed(field)
        for choice in (self.scales, self.place, self.verdict):
            framed(choice)
        self.log.setPlaceholderText("or a step log, a line a step:\n2 block; 1.2 mm\n5 l water; 2.4 mm\n1 bar; broke")
        self.log.setTabChangesFocus(True)
        bar = QHBoxLayout()
        for widget in (self.scales, self.whole, self.standard):
            bar.addWidget(widget)
        bar.addStretch(1)
        left, right, beside = QVBoxLayout(), QVBoxLayout(), QHBoxLayout()
        left.addLayout(bar)
        left.addWidget(self.plot, 1)
        right.addWidget(self.results, 1)
        right.addWidget(self.log)
        right.addWidget(self.keep_log)
        self.log.setMaximumHeight(78)
        wide = self.fontMetrics().horizontalAdvance("Core shear strength  10.41 MPa") + 40
        self.results.setMinimumWidth(wide)
        self.results.setMinimumHeight(60)
        beside.addLayout(left, 3)
        beside.addLayout(right, 2)
        take, judge = FlowLayout(gap=SPACE), FlowLayout(gap=SPACE)
        for widget in (self.buttons["file"], self.buttons["frame"], self.force, self.mass, self.buttons["weigh"],
                       self.buttons["add"], self.buttons["drop"]):  # fmt: skip
            take.addWidget(widget)
        for widget in (self.name, self.batch, self.place, self.manner, self.verdict, self.reason, self.note, self.photo,
                       self.buttons["photo"]):  # fmt: skip
            judge.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        self.list.setMinimumHeight(110)
        layout.addWidget(self.list, 2)
        layout.addLayout(take)
        layout.addLayout(beside, 5)
        layout.addLayout(judge)
        last = QHBoxLayout()
        last.addLayout(self.sizes.layout, 1)
        last.addWidget(self.picture)
        layout.addLayout(last)
        layout.addWidget(self.message)

    def _connect(self) -> None:
        selection = self.list.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._row_chosen())
        self.buttons["file"].clicked.connect(lambda: self.file_wanted.emit())
        self.buttons["frame"].clicked.connect(lambda: self.frame_wanted.emit())
        self.buttons["weigh"].clicked.connect(lambda: self.weigh_wanted.emit())
        self.buttons["add"].clicked.connect(lambda: self.add_specimen())
        self.buttons["drop"].clicked.connect(lambda: self.remove_specimen())
        self.buttons["photo"].clicked.connect(lambda: self.choose_photo())
        self.keep_log.clicked.connect(lambda: self.take_log())
        self.whole.clicked.connect(lambda: self.plot.fit())
        self.standard.clicked.connect(lambda: self._edit(lambda s: replace(s, region=None), "region by the standard"))
        self.scales.committed.connect(self._rescale)
        self.plot.region_moved.connect(self._preview_region)
        self.plot.region_set.connect(self._set_region)
        self.place.committed.connect(lambda v: self._edit(lambda s: replace(s, place=v), "place of failure"))
        self.verdict.committed.connect(lambda v: self._edit(lambda s: replace(s, verdict=v), "verdict"))
        for field, name in ((self.manner, "manner"), (self.reason, "reason"), (self.note, "note"),
                            (self.photo, "photo"), (self.name, "name"), (self.batch, "batch")):  # fmt: skip
            field.committed.connect(
                lambda v, name=name: self._edit(lambda s: replace(s, **{name: v}), f"{name} of a specimen")
            )
        self.sizes.changed.connect(
            lambda key, v: self._edit(lambda s: edits.with_size(s, key, v), "size of a specimen")
        )
        self.sizes.problem.connect(lambda text: self.message.warn(text) if text else None)
        self.force.committed.connect(
            lambda v: self._edit(lambda s: edits.with_force(s, v, self.units), "force at failure")
        )
        self.mass.committed.connect(
            lambda v: self._edit(lambda s: edits.with_mass(s, v, self.units), "weigh a specimen")
        )

    @property
    def units(self) -> UnitSystem:
        return self.model.session.units

    def _edit(self, change: Callable[[Specimen], Specimen], text: str) -> None:
        if not self._filling:
            self.model.edit_specimen(change, text)

    # --- what is shown --------------------------------------------------------------------------------------

    def fill(self) -> None:
        """Shows the chosen series and specimen."""
        self._filling = True
        try:
            report, specimen = self.model.report, self.model.specimen
            self._fill_list(report, specimen)
            self._fill_fields(report, specimen)
            self.show_numbers(specimen)
            self._show_curve(report, specimen)
        finally:
            self._filling = False

    def _fill_list(self, report: SeriesReport | None, specimen: SpecimenReport | None) -> None:
        keys = self._columns(report)
        titles = [report.titles[key].title if report else "" for key in keys] + ["", ""]
        self.list.setHeaderLabels([*TITLES[:3], *titles[:2]])
        reports = report.specimens if report is not None else ()
        rows = [(one.specimen.id, self._row(one, keys)) for one in reports]
        fill_list(self.list, rows, specimen.specimen.id if specimen is not None else "", (3, 4))
        for place, one in enumerate(reports):
            self.list.topLevelItem(place).setToolTip(2, plain(one.why or one.error))

    @staticmethod
    def _columns(report: SeriesReport | None) -> list[str]:
        """The two numbers that the list shows: what the method is for, and a stiffness."""
        if report is None:
            return []
        main = [key for key in (report.method.main, "strength") if key in report.titles][:1]
        others = [key for key in ("modulus", "shear_modulus", "stiffness", "bending") if key in report.titles]
        return main + [key for key in others if key not in main][:1]

    def _row(self, specimen_report: SpecimenReport, keys: list[str]) -> list[str]:
        specimen = specimen_report.specimen
        failure = ", ".join(part for part in (specimen.manner, PLACES.get(specimen.place, "") if specimen.place else "")
                            if part)  # fmt: skip
        worth = specimen_report.error or VERDICT_WORDS[specimen_report.verdict]
        if specimen_report.error:
            worth = f"! {specimen_report.error}"
        elif specimen_report.verdict in ("at_least", "void"):
            worth = f"{worth}: {specimen_report.why}"
        values = [
            result_text(specimen_report.reduction.get(key), self.units) if specimen_report.reduction else ""
            for key in keys
        ]
        values += [""] * (2 - len(values))
        return [specimen.name, failure, worth, *values]

    def _fill_fields(self, report: SeriesReport | None, specimen_report: SpecimenReport | None) -> None:
        for widget in (self.place, self.manner, self.verdict, self.reason, self.note, self.photo, self.name, self.force,
                       self.mass, self.log, self.keep_log, *self.buttons.values()):  # fmt: skip
            widget.setEnabled(specimen_report is not None)
        self.buttons["add"].setEnabled(report is not None)
        if specimen_report is None or report is None:
            return
        specimen = specimen_report.specimen
        for field, text in (
            (self.name, specimen.name), (self.manner, specimen.manner), (self.reason, specimen.reason),
            (self.note, specimen.note), (self.photo, specimen.photo),
            (self.force, specimen.force.text if specimen.force else ""),
            (self.mass, specimen.mass.text if specimen.mass else ""),
        ):  # fmt: skip
            field.set_value(text)
        self.place.set_value(specimen.place)
        self.verdict.set_value(specimen.verdict)
        key = report.series.id, specimen.id
        if key != self._shown or not self.log.hasFocus():
            self.log.setPlainText(specimen.log)
        self._shown = key
        self.sizes.show(report.method, specimen_report.sizes, self.units)
        remarks = [text for text in (specimen_report.error, self.picture.show_file(specimen.photo)) if text]
        if specimen_report.verdict in ("at_least", "void"):
            remarks.append(f"{VERDICT_WORDS[specimen_report.verdict]}: {specimen_report.why}")
        remarks += specimen_report.reduction.remarks if specimen_report.reduction is not None else ()
        self.message.say("; ".join(remarks), bool(specimen_report.error))

    def show_numbers(self, specimen: SpecimenReport | None) -> None:
        """The numbers of a specimen, each with its formula and source under it; what stays the same is left alone."""
        results = specimen.reduction.results if specimen is not None and specimen.reduction is not None else ()
        tree = self.results
        if [tree.topLevelItem(i).text(0) for i in range(tree.topLevelItemCount())] != [r.title for r in results]:
            tree.clear()
            for result in results:
                item = QTreeWidgetItem([result.title, ""])
                item.setTextAlignment(1, RIGHT)
                item.addChildren([QTreeWidgetItem([""]), QTreeWidgetItem([f"after {result.source}"])])
                tree.addTopLevelItem(item)
                for row in range(2):
                    item.child(row).setFirstColumnSpanned(True)
            tree.setRootIsDecorated(True)
        for i, result in enumerate(results):
            item = tree.topLevelItem(i)
            item.setText(1, result_text(result, self.units))
            item.child(0).setText(0, result.formula)
            remark = "\n".join((result.formula, result.source, *result.remarks))
            for shown, column in ((item, 0), (item, 1), (item.child(0), 0), (item.child(1), 0)):
                shown.setToolTip(column, plain(remark))

    # --- the curve ------------------------------------------------------------------------------------------

    def _axis(self, specimen: SpecimenReport) -> str:
        """Which column the curve is drawn over: the one its modulus is read from."""
        curve = specimen.curve
        if curve is None:
            return "deflection"
        if specimen.reduction is not None and specimen.reduction.axis in curve.columns:
            return specimen.reduction.axis
        return next((q for q in ("travel", "deflection", "strain", "time") if q in curve.columns), ROWS)

    def _x_unit(self, axis: str) -> tuple[str, float]:
        """(label, SI value of one unit shown)."""
        if axis == ROWS:
            return "in the order read", 1.0
        dimension = DIMENSIONS[axis]  # type: ignore[index]
        unit = display_unit(dimension, self.units)
        return unit.label, unit.factor

    def _y_unit(self, specimen: SpecimenReport) -> tuple[str, float]:
        strength = specimen.reduction.get("strength") if specimen.reduction is not None else None
        if (
            self.scale == "stress"
            and strength is not None
            and specimen.data is not None
            and strength.dimension != "force"
        ):
            unit = display_unit(strength.dimension, self.units)
            end = specimen.data.held
            return f"{strength.title.removesuffix(' strength')}, {unit.label}", unit.factor * end / (
                strength.lower or 1.0
            )
        if self.scale == "kgf":
            return "force, kgf", STANDARD_GRAVITY
        unit = display_unit("force", self.units)
        return f"force, {unit.label}", unit.factor

    def _over(self, specimen: SpecimenReport, axis: str) -> np.ndarray:
        """The curve's x in SI; crosshead travel less the machine's own deflection, as used for the modulus."""
        assert specimen.curve is not None
        x = specimen.curve.columns.get(axis, np.arange(len(specimen.curve)))  # type: ignore[call-overload]
        report = self.model.report
        if axis == "travel" and report is not None:
            x = x - report.series.compliance * specimen.curve.force
        return x

    def _show_curve(self, report: SeriesReport | None, specimen: SpecimenReport | None) -> None:
        data = specimen.data if specimen is not None else None
        self.plot.setEnabled(data is not None)
        if specimen is None or report is None or data is None or (data.curve is None and data.readings is None):
            self.plot.show_curve(np.empty(0), np.empty(0))
            self.plot.show_lines(None, None)
            self.plot.show_points(None)
            self.plot.show_region(None)
            self.plot.show_behind([])
            return
        axis = self._axis(specimen)
        (x_label, x_one), (y_label, y_one) = self._x_unit(axis), self._y_unit(specimen)
        self.plot.set_axes(f"{MEANINGS.get(axis, axis)}, {x_label}", y_label)  # type: ignore[call-overload]
        if data.curve is not None:
            self.plot.show_curve(self._over(specimen, axis) / x_one, data.curve.force / y_one)
            self.plot.show_points(None)
        else:
            assert data.readings is not None
            points = data.readings[:, ::-1] / (x_one, y_one)
            self.plot.show_curve(np.append(0.0, points[:, 0]), np.append(0.0, points[:, 1]))
            self.plot.show_points(points)
        self.plot.show_behind([
            (self._over(one, axis) / x_one, one.curve.force / y_one) for one in report.specimens
            if one is not specimen and one.curve is not None and axis in one.curve.columns
        ])  # fmt: skip
        self._show_line(report, specimen, x_one, y_one)
        fitted = report.series.id, specimen.specimen.id, specimen.data, self.scale
        if fitted != self._fitted:
            self._fitted = fitted
            self.plot.fit()

    def _show_line(self, report: SeriesReport, specimen: SpecimenReport, x_one: float, y_one: float) -> None:
        line = specimen.reduction.line if specimen.reduction is not None else None
        drawn = None
        if line is not None and specimen.data is not None:
            top = specimen.data.held
            ends = np.array([line.toe, line.toe + top / line.slope])
            drawn = ends / x_one, np.array([0.0, top]) / y_one
            self.plot.show_region((line.start / x_one, line.end / x_one) if specimen.curve is not None else None)
        else:
            kept = specimen.specimen.region
            self.plot.show_region(None if kept is None else (kept.start / x_one, kept.end / x_one))
        frozen, predicted = report.series.prediction, None
        toe = line.toe if line is not None else 0.0
        stiffness = specimen.sizes.get("predicted_stiffness") or (frozen.stiffness if frozen is not None else 0.0)
        if stiffness > 0.0 and specimen.data is not None and self._axis(specimen) in ("travel", "deflection"):
            top = min(frozen.forces.values(), default=specimen.data.held) if frozen is not None else specimen.data.held
            predicted = np.array([[toe, 0.0], [toe + top / stiffness, top]]) / (x_one, y_one)
        self.plot.show_lines(drawn, predicted)

    def _rescale(self, scale: str) -> None:
        self.scale = scale
        self.refresh()

    def _region_in_si(self, low: float, high: float) -> Region | None:
        specimen = self.model.specimen
        if specimen is None or specimen.curve is None:
            return None
        _, one = self._x_unit(self._axis(specimen))
        return Region(low * one, high * one)

    def _preview_region(self, low: float, high: float) -> None:
        """Numbers follow the region while it is dragged; nothing is written before it is let go."""
        report, specimen, region = self.model.report, self.model.specimen, self._region_in_si(low, high)
        if report is None or specimen is None or region is None:
            return
        trial = reduce_specimen(report.series, msgspec.structs.replace(specimen.specimen, region=region), report.method)
        if trial.error:
            self.message.warn(trial.error)
            return
        self.message.say("")
        self.show_numbers(trial)

    def _set_region(self, low: float, high: float) -> None:
        region = self._region_in_si(low, high)
        if region is not None:
            self._edit(lambda specimen: replace(specimen, region=region), "region of the modulus")

    # --- acts -----------------------------------------------------------------------------------------------

    def _row_chosen(self) -> None:
        identity = chosen_key(self.list)
        if identity and not self._filling:
            self.model.choose_specimen(identity)

    def add_specimen(self) -> None:
        """One specimen more, chosen."""
        report = self.model.report
        if report is not None:
            new, identity = edits.add_specimen(report.series)
            self.model.edit_series(lambda _old: new, "add a specimen")
            self.model.choose_specimen(identity)

    def remove_specimen(self) -> None:
        specimen = self.model.specimen
        if specimen is not None:
            self.model.edit_series(lambda s: edits.remove_specimen(s, specimen.specimen.id), "remove a specimen")

    def take_log(self) -> None:
        """Takes the step log in as the specimen's data; a curve it had is given up, which undo brings back."""
        text = self.log.toPlainText().strip()
        self._edit(lambda specimen: edits.with_log(specimen, text, self.units), "step log")

    def choose_photo(self, path: str = "") -> None:
        """Takes a picture file as the photograph of the specimen."""
        path = self.picture.choose(self, path)
        if path:
            self._edit(lambda specimen: replace(specimen, photo=path), "photograph")
