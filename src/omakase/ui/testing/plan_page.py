"""The plan of a series as sentences: what is cut and loaded, expected, to be prepared and to be careful of."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout

from omakase.core.errors import OmakaseError
from omakase.core.specimens.statistics import CONTENT, ENOUGH, tolerance_factor
from omakase.core.specimens.steps import planned
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.testing import planning
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.project.commands import replace
from omakase.project.library import materials_of
from omakase.project.model import LoadItem, Series
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import ChoiceField, QuantityField, WordField, positive, within
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, set_property
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.page import BenchPage
from omakase.ui.testing.size_row import SizeRow
from omakase.units import UnitSystem, parse_number, parse_quantity

LITRES_A_GALLON = 3.785411784
PROOF_SHARE, PROOF_STEPS = 0.67, 6


def items_text(items: tuple[LoadItem, ...], units: UnitSystem) -> str:
    return "; ".join(f"{item.name} {quantity(item.mass, 'mass', units)}" for item in items)


def read_items(text: str, units: UnitSystem) -> tuple[LoadItem, ...]:
    """Named items from "block 10.5 kg; bar 1.2 kg".  Raises QuantityError."""
    items = []
    for part in (part.strip() for part in text.split(";")):
        if part:
            name, _, mass = part.partition(" ")
            parse_number(mass)
            items.append(LoadItem(name, parse_quantity(mass, "mass", units)))
    return tuple(items)


def _how_many(count: int) -> str:
    """What the number of specimens does to a basis value."""
    if count < ENOUGH:
        return f"From {count} specimens only the mean and the minimum are known; from {ENOUGH} on a B-basis."
    now, more = (tolerance_factor(n, CONTENT["B"]) for n in (count, 2 * count))
    return (
        f"{count} specimens put the B-basis {now:.2f} deviations below the mean; {2 * count} would put it {more:.2f}."
    )


LEAST_TWIST = 0.05  # degrees at limit load that are worth measuring


class PlanPage(BenchPage):
    """Fields of the chosen series within sentences; below them what follows."""

    def __init__(self, model: SeriesModel) -> None:
        super().__init__()
        self.follow(model)
        body, scroll, outer = QFrame(), QScrollArea(), QVBoxLayout(self)
        body.setProperty("role", "card")
        scroll.setWidgetResizable(True)
        scroll.setWidget(body)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, SPACE)
        self._layout.setSpacing(SPACE)
        self.name, self.recipe = WordField("Name of the series"), WordField("How the specimens were made")
        self.material = WordField("Material the series is for")
        self.note, self.items = WordField("Note on the series"), WordField("Weights available")
        self.items.setMaxLength(300)
        self.count = QuantityField("ratio", "Number of specimens planned", within(1, 200, "between 1 and 200"))
        self.capacity = QuantityField("force", "Capacity of the rig")
        self.lever = QuantityField("ratio", "Lever ratio", positive)
        self.tare = QuantityField("mass", "Tare hung from the first step")
        self.compliance = QuantityField("compliance", "Compliance of machine and fixture")
        self.shear = QuantityField("modulus", "Shear modulus for the shear share")
        self.toe = ChoiceField("Toe of the curve", {"yes": "taken off", "no": "left in"})
        self.offset = QuantityField("strain", "Offset of the yield line", within(1e-5, 0.1, "between 10 µε and 10 %"))
        self.working = QuantityField("force", "Working load")
        self.cost = QuantityField("ratio", "Cost per square metre")
        self.sizes = SizeRow("planned {}", in_sentence=True)
        self.told = Label()
        self.told.setWordWrap(True)
        self.told.setAccessibleName("What to prepare")
        self.warning = Label()
        self.warning.setWordWrap(True)
        self.problem = Label()
        self.problem.setWordWrap(True)
        set_property(self.problem, "role", "alarm")
        self.safety = Label(planning.SAFETY)
        self.safety.setWordWrap(True)
        set_property(self.safety, "role", "quiet")
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        for field, text in ((self.recipe, "vacuum-bagged, 23 °C, 7 days"), (self.note, "a note"),
                            (self.items, "block 10.5 kg; bar 1.2 kg"),
                            (self.material, "a material")):  # fmt: skip
            field.setPlaceholderText(text)
        for parts in (
            ("Series", self.name, "made", self.recipe, "·", self.count, "specimens", self.note, "; it speaks of",
             self.material),
            self.sizes.layout,
            ("On a rig for", self.capacity, ", lever", self.lever, ": 1, tare", self.tare, ", loaded with", self.items),
            ("Machine compliance", self.compliance, "; shear taken off with G =", self.shear,
             "; toe", self.toe, ", yield at", self.offset, "; working load", self.working, "; costs", self.cost,
             "per m²"),
        ):  # fmt: skip
            flow = parts if isinstance(parts, FlowLayout) else FlowLayout(gap=SPACE)
            for part in () if isinstance(parts, FlowLayout) else parts:
                if isinstance(part, str):
                    label = Label(part)
                    if part[0] in ",;:":
                        label.setProperty("glue", "loose")
                    flow.addWidget(label)
                else:
                    part.extra_height = 6
                    part.setMinimumWidth(40)
                    flow.addWidget(part)
            self._layout.addLayout(flow)
        for widget in (self.problem, self.told, self.warning, self.safety):
            self._layout.addWidget(widget)
        self._layout.addStretch(1)

    def _connect(self) -> None:
        for field, name in ((self.name, "name"), (self.recipe, "recipe"), (self.note, "note")):
            field.committed.connect(lambda v, n=name: self._edit(lambda s: replace(s, **{n: v}), f"{n} of a series"))
        self.material.committed.connect(
            lambda v: self._edit(lambda s: self._with_material(s, v), "material of a series")
        )
        self.items.committed.connect(
            lambda v: self._edit(lambda s: replace(s, items=read_items(v, self.model.session.units)), "load items")
        )
        self.count.committed.connect(
            lambda v: self._edit(lambda s: replace(s, planned=round(v)), "number of specimens")
        )
        for field, name in (
            (self.capacity, "capacity"), (self.lever, "lever"), (self.tare, "tare"), (self.compliance, "compliance"),
            (self.shear, "shear_modulus"), (self.offset, "offset"), (self.working, "working_load"), (self.cost, "cost"),
        ):  # fmt: skip
            field.committed.connect(lambda v, n=name: self._edit(lambda s: replace(s, **{n: v}), n.replace("_", " ")))
            field.problem.connect(self.problem.setText)

        self.sizes.changed.connect(self._set_size)
        self.sizes.problem.connect(self.problem.setText)
        self.toe.committed.connect(lambda v: self._edit(lambda s: replace(s, toe=v == "yes"), "toe of the curve"))

    def _edit(self, change: Callable[[Series], Series], text: str) -> None:
        self.model.edit_series(change, text)

    def fill(self) -> None:
        """Shows the chosen series."""
        report = self.model.report
        self.setEnabled(report is not None)
        if report is None:
            self.told.setText("")
            return
        series, units = report.series, self.model.session.units
        self.name.set_value(series.name)
        self.recipe.set_value(series.recipe)
        self.note.set_value(series.note)
        self.material.set_value(series.material)
        self.items.set_value(items_text(series.items, units))
        for field, value in (
            (self.count, float(series.planned)), (self.capacity, series.capacity), (self.lever, series.lever),
            (self.tare, series.tare), (self.compliance, series.compliance), (self.shear, series.shear_modulus),
            (self.offset, series.offset),
            (self.working, series.working_load), (self.cost, series.cost),
        ):  # fmt: skip
            field.set_value(value, units)
        self.toe.set_value("yes" if series.toe else "no")
        self.sizes.show(report.method, series.sizes, units)
        self._tell(report)

    def _with_material(self, series: Series, short_name: str) -> Series:
        """Raises OmakaseError for a material that there is none of."""
        if short_name and short_name not in materials_of(self.model.session.document.project):
            raise OmakaseError(f"no material is named '{short_name}'")
        return replace(series, material=short_name)

    def _set_size(self, key: str, value: float) -> None:
        """A planned size; as long as nothing is logged, the frozen prediction is made again for it."""

        def change(series: Series) -> Series:
            new = replace(series, sizes={**series.sizes, key: value})
            logged = any(s.curve or s.log or s.force for s in series.specimens)
            if series.prediction is None or logged:
                return new
            materials = materials_of(self.model.session.document.project)
            return replace(new, prediction=planning.freeze(new, materials, today()))

        self._edit(change, f"{key.replace('_', ' ')} of a series")

    def _tell(self, report: SeriesReport) -> None:
        series, units = report.series, self.model.session.units
        project = self.model.session.document.project
        method = report.method
        lines = [f"{method.title} after {method.basis}. {method.validity}"]
        try:
            plan = planning.prepare(series, materials_of(project))
        except OmakaseError as error:
            self.told.setText("\n".join(lines))
            self.warning.setText(str(error))
            return
        if method.name == "proof_load":
            lines += self._proof_lines(series)
        else:
            length, width = (quantity(value, "length", units) for value in plan.blank)
            lines.append(
                f"Cut {series.planned} of {length} × {width}, saw kerf and overhang in it: "
                f"a strip of {length} × {quantity(plan.sheet[1], 'length', units)}."
            )
        if method.name != "proof_load":
            lines.append(_how_many(series.planned))
        if plan.force > 0.0:
            sag = f" at {quantity(plan.deflection, 'deflection', units)}" if plan.deflection is not None else ""
            lines.append(f"From present data: {plan.manner} at {quantity(plan.force, 'force', units)}{sag}.")
            water = f"{plan.litres:.0f} l" if units == "si" else f"{plan.litres / LITRES_A_GALLON:.0f} gal"
            lines.append(
                f"With weights: {quantity(plan.mass, 'mass', units)} on the lever, or {water} of water; "
                "have a third more ready."
            )
        frozen = series.prediction
        if frozen is not None:
            expected = min(frozen.forces.values(), default=0.0)
            rests = f"; it rests on {', '.join(frozen.rests_on)}" if frozen.rests_on else ""
            lines.append(f"Predicted on {frozen.on} and frozen: {quantity(expected, 'force', units)}{rests}.")
        else:
            lines.append("Nothing was predicted: no layup, or a property that no material states.")
        self.told.setText("\n".join(lines))
        set_property(self.warning, "role", "alarm")
        self.warning.setText("\n".join(f"! {text}" for text in plan.warnings))

    def _proof_lines(self, series: Series) -> list[str]:
        units = self.model.session.units
        ultimate = series.prediction.values.get("ultimate", 0.0) if series.prediction is not None else 0.0
        if ultimate <= 0.0:
            return ["No ultimate load is known for this part: plan it from a candidate."]
        steps = planned(ultimate, PROOF_SHARE, PROOF_STEPS)
        loads = ", ".join(quantity(force, "force", units) for force in steps[:-1])
        return [
            f"Load to {PROOF_SHARE:.0%} of the ultimate {quantity(ultimate, 'force', units)} in {PROOF_STEPS} steps: "
            f"{loads}; read the deflection at each when it has come to rest, then unload and read again.",
            "Stop and unload where a step sags 5 % more than the line of the first three, or creaks; do not load again "
            "where more than 5 % stays.",
            *self._line_words(series, PROOF_SHARE * ultimate),
        ]

    def _line_words(self, series: Series, force: float) -> list[str]:
        """How a load of so many N is shared out along a span, and what is expected to be measured then."""
        frozen, units = series.prediction, self.model.session.units
        total = sum(station.load for station in frozen.line) if frozen is not None else 0.0
        if frozen is None or total <= 0.0:
            return []
        share = force / total
        bags = ", ".join(
            f"{quantity(station.load * share, 'force', units)} around x {quantity(station.x, 'length', units)}"
            for station in frozen.line if station.load > 0.0
        )  # fmt: skip
        line = ", ".join(
            f"{quantity(station.deflection * share, 'deflection', units)} at {quantity(station.x, 'length', units)}"
            for station in frozen.line
        )
        words = [f"At the last step: {bags}. Expected deflection then: {line}."]
        if frozen.twist is not None and abs(frozen.twist) > LEAST_TWIST:
            words.append(f"It should twist by {abs(frozen.twist) * share:.1f}° at its far end: mark two points there.")
        return words
