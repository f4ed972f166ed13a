"""Masses row by row, weighings with their causes, and the ledger with the factors that it offers."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QSplitter, QVBoxLayout, QWidget

from omakase.core.errors import OmakaseError
from omakase.devices.driver import Scale
from omakase.devices.simulated import SimulatedScale
from omakase.evaluate.build.coupons import carried, carried_words, weighed_series
from omakase.evaluate.build.tables import MASS_TITLES, mass_rows
from omakase.evaluate.build.weighing import (
    STATE_NAMES,
    Offer,
    accept,
    causes,
    ledger,
    offers,
    simulated_mass,
    weigh_in,
    withdraw,
    without_log,
)
from omakase.evaluate.build.weighing_words import (
    CAUSE_TITLES,
    LEDGER_TITLES,
    OFFER_TITLES,
    cause_rows,
    ledger_rows,
    ledger_words,
    offer_rows,
)
from omakase.project.build import Job, WeighIn
from omakase.project.model import Reading
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.part_choice import PartChoice
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import ChoiceField, QuantityField, framed, positive
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, set_property
from omakase.units import QuantityError, format_value, parse_reading


def _line(name: str, hint: str, width: int) -> QLineEdit:
    field = QLineEdit()
    field.setAccessibleName(name)
    field.setPlaceholderText(hint)
    field.setToolTip(name)
    field.setMaximumWidth(width)
    field.setMaxLength(80)
    return field


class WeightPage(BuildPage):
    """Rows of the chosen part at the left; weighings of all jobs, and why, at the right."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__(model)
        self.choice = PartChoice(model)
        self.rows = fitting_list("Mass of the part, row by row", MASS_TITLES, 1)
        self.total = Label()
        self.ledger = fitting_list("Weighings", LEDGER_TITLES, 1)
        self.causes = fitting_list("Why it weighs what it does", CAUSE_TITLES, 1)
        self.offers = fitting_list("Factors of the ledger", OFFER_TITLES, 2)
        self.told = Label()
        for label in (self.total, self.told):
            label.setWordWrap(True)
            set_property(label, "role", "quiet")
        self.serial, self.mass = _line("Which one", "no. 1", 70), _line("Mass on the scale", "0.562 kg", 100)
        self.thick, self.crew = _line("Mean thickness, if measured", "thickness", 90), _line("Who made it", "crew", 70)
        self.state = ChoiceField("State of the part", STATE_NAMES)
        framed(self.state)
        self.scale, self.note = QPushButton("Scale"), QPushButton("Write it down")
        self.drop, self.take = QPushButton("Remove the weighing"), QPushButton("Take or withdraw the factor")
        self.make_scale: Callable[[float], Scale] = partial(SimulatedScale, resolution=1e-3)  # another takes its place
        self.from_series, self.to_series = QComboBox(), QComboBox()
        self.from_series.setAccessibleName("Series of the recipe now")
        self.to_series.setAccessibleName("Series of the recipe in its place")
        self.area = QuantityField("area", "Area of a specimen", positive)
        self.area_value = 0.0
        self.carried = Label()
        self.carried.setWordWrap(True)
        set_property(self.carried, "role", "quiet")
        self._arrange()
        for combo in (self.from_series, self.to_series):
            combo.setMinimumWidth(150)
            combo.activated.connect(lambda _index: self._other_series())
        self.area.committed.connect(self._take_area)
        self.choice.chosen.connect(self.refresh)
        self.ledger.currentItemChanged.connect(lambda _now, _before: self._show_causes())
        self.offers.currentItemChanged.connect(lambda _now, _before: self._name_take())
        self.scale.clicked.connect(lambda: self.weigh())
        self.note.clicked.connect(lambda: self.write_down())
        self.drop.clicked.connect(lambda: self.remove_weighing())
        self.take.clicked.connect(lambda: self.take_factor())

    def _arrange(self) -> None:
        left, right, split = QWidget(), QWidget(), QSplitter()
        one, two = QVBoxLayout(left), QVBoxLayout(right)
        for column in (one, two):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(SPACE)
        one.addWidget(self.choice)
        one.addWidget(self.rows, 1)
        one.addWidget(self.total)
        framed(self.area)
        coupons = FlowLayout(gap=SPACE)
        for widget in (Label("Coupon to part, from"), self.from_series, Label("to"), self.to_series,
                       Label("specimens of"), self.area):  # fmt: skip
            coupons.addWidget(widget)
        one.addLayout(coupons)
        one.addWidget(self.carried)
        line, acts = FlowLayout(gap=SPACE), QHBoxLayout()
        for widget in (self.serial, self.state, self.mass, self.scale, self.thick, self.crew, self.note):
            line.addWidget(widget)
        for button in (self.drop, self.take):
            acts.addWidget(button)
        acts.addStretch(1)
        two.addWidget(self.ledger, 3)
        two.addLayout(line)
        two.addWidget(self.causes, 2)
        two.addWidget(self.offers, 2)
        two.addLayout(acts)
        two.addWidget(self.told)
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([480, 540])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    # --- what is shown --------------------------------------------------------------------------------------

    def fill(self) -> None:
        self.choice.refresh()
        part, units, project = self.model.part, self.model.session.units, self.model.project
        fill_list(self.rows, mass_rows(part.rows, units) if part is not None else [], chosen_key(self.rows), (2, 3))
        if part is not None:
            mass = format_value(part.mass(), "mass", units)
            spread = format_value(part.spread(), "mass", units, with_unit=True)
            self.total.setText(f"In all {mass} ± {spread}; rows of one kind scatter together, kinds independently.")
        else:
            self.total.setText("")
        fill_list(self.ledger, ledger_rows(ledger(project), units), chosen_key(self.ledger), (3, 4, 5))
        self.told.setText(ledger_words(project))
        fill_list(self.offers, offer_rows(offers(project)), chosen_key(self.offers), (2,))
        self._show_causes()
        self._name_take()
        self._fill_series()

    def _fill_series(self) -> None:
        """Offers the series with weighed specimens, and carries their difference to the part."""
        found = weighed_series(self.model.project)
        entries = [(own.series.id, own.series.name) for own in found]
        for k, combo in enumerate((self.from_series, self.to_series)):
            if [(combo.itemData(i), combo.itemText(i)) for i in range(combo.count())] != entries:
                kept = combo.currentData()
                combo.clear()
                for key, text in entries:
                    combo.addItem(text, key)
                combo.setCurrentIndex(max(combo.findData(kept), min(k, len(entries) - 1)))
            combo.setEnabled(bool(entries))
        if not self.area_value and found:
            self.area_value = found[0].area
        self.area.set_value(self.area_value, self.model.session.units)
        part = self.model.part
        if part is None:
            self.carried.setText("")
            return
        try:
            now, then = str(self.from_series.currentData()), str(self.to_series.currentData())
            difference, count = carried(self.model.project, now, then, self.area_value, part)
        except OmakaseError as error:
            self.carried.setText(f"{error}.")
            return
        self.carried.setText(carried_words(difference, count, part.made.title, self.model.session.units))

    def _other_series(self) -> None:
        self.area_value = 0.0
        self._fill_series()

    def _take_area(self, value: float) -> None:
        self.area_value = value
        self._fill_series()

    def _weighed(self) -> tuple[Job, WeighIn] | None:
        """The chosen weighing with its job."""
        job_id, _, identity = chosen_key(self.ledger).partition(" ")
        for job in self.model.project.jobs:
            for own in job.weighed if job.id == job_id else ():
                if own.id == identity:
                    return job, own
        return None

    def _show_causes(self) -> None:
        found, plan = self._weighed(), self.model.plan
        self.drop.setEnabled(found is not None)
        rows = []
        if found is not None and plan is not None and plan.job.id == found[0].id:
            part = plan.part(found[1].part)
            if part is not None:
                rows = cause_rows(causes(part, found[0], found[1]), self.model.session.units)
        fill_list(self.causes, rows, "", (1,))

    @property
    def offer(self) -> Offer | None:
        """The chosen factor."""
        key = chosen_key(self.offers)
        return next((own for own in offers(self.model.project) if f"{own.what} {own.process}" == key), None)

    def _name_take(self) -> None:
        offer = self.offer
        self.take.setEnabled(offer is not None and (offer.standing is not None or offer.worth))
        stands = offer is not None and offer.standing is not None
        self.take.setText("Withdraw the factor" if stands else "Take the factor")

    # --- acts -----------------------------------------------------------------------------------------------

    def weigh(self) -> None:
        """Lays the chosen part on the scale; the simulated one holds a part that is a little rich in resin."""
        part = self.model.part
        if part is None:
            return
        state = self.state.currentData()
        value = self.make_scale(simulated_mass(part, state)).read()
        self.mass.setText(format_value(value, "mass", self.model.session.units, with_unit=True))

    def write_down(self) -> None:
        """Keeps the weighing with what was predicted."""
        part = self.model.part
        if part is None:
            return
        mass = self._reading(self.mass, "mass")
        thickness = self._reading(self.thick, "length") if self.thick.text().strip() else None
        if mass is None or (self.thick.text().strip() and thickness is None):
            return
        serial, state, crew = self.serial.text().strip() or "no. 1", self.state.currentData(), self.crew.text().strip()

        def put(job: Job) -> Job:
            return weigh_in(part, serial, today(), state, mass, thickness, crew, job)

        if self.model.edit_job(put, "write a weighing down"):
            self.mass.clear()
            self.thick.clear()

    def _reading(self, field: QLineEdit, dimension: str) -> Reading | None:
        text = field.text().strip()
        try:
            value, half = parse_reading(text, dimension, self.model.session.units)
        except QuantityError as error:
            self.model.told.emit(f"{field.accessibleName()}: {error}", True)
            set_property(field, "role", "alarm")
            field.setFocus()
            return None
        set_property(field, "role", "")
        return Reading(value, half, text)

    def remove_weighing(self) -> None:
        """Removes the chosen weighing of the shown job."""
        found = self._weighed()
        if found is None:
            return
        job, weighed = found
        self.model.choose_job(job.id)
        self.model.edit_job(lambda own: without_log(own, weighed.id), "remove a weighing")

    def take_factor(self) -> None:
        """Takes the chosen factor into the next predictions, or withdraws it."""
        offer = self.offer
        if offer is None:
            return
        try:
            project = self.model.project
            self.model.do(withdraw(project, offer) if offer.standing is not None else accept(project, offer, today()))
        except OmakaseError as error:
            self.model.told.emit(str(error), True)
