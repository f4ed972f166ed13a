"""The parts of a vehicle: chosen candidates and typed parts, their masses and costs added up against a budget."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
    QWidget,
)

from omakase.evaluate.results.wording import quantity
from omakase.evaluate.vehicle.parts import PartRow, part_rows, total
from omakase.project.commands import ArrangeVehicles, replace
from omakase.project.model import Vehicle, VehiclePart, by_id, new_id
from omakase.ui.kit.fields import WordField, framed
from omakase.ui.kit.fitting_list import editable, fill_list, typed_list
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.paragraph import menu_button
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import SPACE, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

TITLES = ("Part", "Candidate", "Count", "Mass each, typed", "Mass", "Cost", "State", "Note")
NAME, CANDIDATE, COUNT, TYPED_MASS, MASS, COST, STATE, NOTE = range(len(TITLES))
FIELDS = {NAME: "name", COUNT: "count", TYPED_MASS: "mass", NOTE: "note"}
MOST_OF_ONE = 10_000
HINT = "No vehicle yet. Press the button: a vehicle lists its parts and adds up their masses against a budget."


class PartsView(TopPage):
    """One vehicle at a time: its parts, and what they come to."""

    whole = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.head, self.message, self.sum = Heading(), Message(), Label()
        self.which = QComboBox()
        self.which.setAccessibleName("Vehicle")
        self.name, self.mass_budget, self.cost_budget = (
            WordField("Name of the vehicle"), WordField("Mass budget"), WordField("Cost budget"),
        )  # fmt: skip
        self.list = self.entry = typed_list("Parts of the vehicle", TITLES, 2, FIELDS)
        self.new, self.drop_vehicle = QPushButton("New vehicle"), QPushButton("Remove the vehicle")
        self.drop = QPushButton("Remove the part (Del)")
        self.rows: dict[int, PartRow] = {}
        self.search = Searching("parts", self)
        self._vehicle_id = ""
        self._filling = False
        self._add_button: QWidget | None = None
        self._buttons = QHBoxLayout()
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        line = FlowLayout(gap=SPACE)
        line.addWidget(self.which)
        for field, words, width in (
            (self.name, "name", 170), (self.mass_budget, "mass budget", 150), (self.cost_budget, "cost budget", 120),
        ):  # fmt: skip
            framed(field)
            field.setPlaceholderText(words)
            field.setMinimumWidth(width)
            field.setMaxLength(200)
            line.addWidget(field)
        line.addWidget(self.new)
        line.addWidget(self.drop_vehicle)
        self._buttons.addWidget(self.drop)
        self._buttons.addStretch(1)
        self.sum.setWordWrap(True)
        set_property(self.sum, "role", "decision")
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addLayout(line)
        layout.addWidget(self.sum)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.message)
        layout.addLayout(self._buttons)

    def _connect(self) -> None:
        self.which.activated.connect(lambda index: self.show_vehicle(str(self.which.itemData(index))))
        self.name.committed.connect(lambda text: self._edit(lambda own: replace(own, name=text), "rename the vehicle"))
        self.mass_budget.committed.connect(
            lambda text: self._edit(lambda own: replace(own, mass_budget=text), "mass budget")
        )
        self.cost_budget.committed.connect(
            lambda text: self._edit(lambda own: replace(own, cost_budget=text), "cost budget")
        )
        self.new.clicked.connect(lambda: self.add_vehicle())
        self.drop_vehicle.clicked.connect(lambda: self.remove_vehicle())
        self.drop.clicked.connect(lambda: self.remove_part())
        self.list.itemChanged.connect(self._typed)
        self.list.currentItemChanged.connect(lambda _now, _before: self._show_message())
        self.search.found.connect(self._take)
        self.search.ended.connect(lambda message: self.message.warn(message) if message else None)
        self.session.document.changed.connect(lambda _change: self.refresh())
        self.session.document.reset.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.search.stop()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete:
            self.remove_part()
        else:
            super().keyPressEvent(event)

    # --- what is shown --------------------------------------------------------------------------------------

    @property
    def vehicle(self) -> Vehicle | None:
        """The one that is shown: the chosen one, else the first."""
        vehicles = self.session.document.project.vehicles
        return by_id(vehicles, self._vehicle_id) or (vehicles[0] if vehicles else None)

    def show_vehicle(self, identity: str) -> None:
        """Shows another vehicle."""
        self._vehicle_id = identity
        self.refresh()

    def refresh(self) -> None:
        """Shows the present parts, and computes what they come to behind the window."""
        if not self.isVisible():
            return
        project, vehicle = self.session.document.project, self.vehicle
        self._filling = True
        self.which.clear()
        for own in project.vehicles:
            self.which.addItem(own.name, own.id)
        if vehicle is not None:
            self.which.setCurrentIndex([own.id for own in project.vehicles].index(vehicle.id))
        self._filling = False
        for widget in (self.which, self.name, self.mass_budget, self.cost_budget, self.drop_vehicle, self.drop):
            widget.setEnabled(vehicle is not None)
        self._offer_parts()
        self.rows = {}
        if vehicle is None:
            self.head.show_parts("Parts", HINT)
            self.sum.setText("")
            fill_list(self.list, [], "", ())
            self.search.stop()
            return
        self.head.show_parts("Parts", "chosen candidates and typed parts against a budget; Esc goes back")
        self.name.set_value(vehicle.name)
        self.mass_budget.set_value(vehicle.mass_budget)
        self.cost_budget.set_value(vehicle.cost_budget)
        self._show_rows()
        evaluator = self.session.evaluator

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            return part_rows(project, vehicle, evaluator, stopped)

        self.search.begin(make)

    def _offer_parts(self) -> None:
        """The menu of what may be added, which follows the briefs."""
        if self._add_button is not None:
            leave(self._add_button)
        entries: list[tuple[str, Callable[[], object]]] = [("a part that is typed", lambda: self.add_part(""))]
        entries += [
            (brief.name, lambda identity=brief.id: self.add_part(identity))
            for brief in self.session.document.project.briefs
        ]
        self._add_button = menu_button("+ part", "Add a part to the vehicle", entries)
        self._add_button.setEnabled(self.vehicle is not None)
        self._buttons.insertWidget(0, self._add_button)

    def _take(self, found: object) -> None:
        place, row = found  # type: ignore[misc]
        self.rows[place] = row
        self._show_rows()

    def _show_rows(self) -> None:
        vehicle, units = self.vehicle, self.session.units
        if vehicle is None:
            return
        briefs = {brief.id: brief.name for brief in self.session.document.project.briefs}
        shown = []
        for i, part in enumerate(vehicle.parts):
            row = self.rows.get(i)
            taken = row.candidate if row is not None else ""
            about = f"{briefs.get(part.brief, 'no brief')}: {taken}" if part.brief else "typed"
            mass = "" if row is None or row.mass is None else quantity(row.mass, "mass", units)
            cost = "" if row is None or row.cost is None else f"{row.cost:.0f}"
            state = "…" if row is None else _state(row)
            shown.append((str(i), (part.name, about, str(part.count), part.mass, mass, cost, state, part.note)))
        self._filling = True
        current = self.list.currentIndex().row()
        fill_list(self.list, shown, str(current), (COUNT, MASS, COST))
        editable(self.list)
        self._filling = False
        self._show_sum(vehicle)
        self._show_message()

    def _show_sum(self, vehicle: Vehicle) -> None:
        found, units = total(vehicle, list(self.rows.values()), self.session.sheet), self.session.units
        text = f"Mass {quantity(found.mass, 'mass', units)}"
        left = found.mass_left
        if found.mass_budget is not None and left is not None:
            over = "left" if left >= 0.0 else "over"
            budget = quantity(found.mass_budget, "mass", units)
            text += f" of {budget}, {quantity(abs(left), 'mass', units)} {over}"
        text += f". Cost of materials {found.cost:.0f}"
        if found.cost_budget is not None:
            text += f" of {found.cost_budget:.0f}"
        text += "." + (f" {found.open} parts are not in it yet." if found.open else "")
        self.sum.setText(" ".join([text, *found.problems]))
        wrong = bool(found.problems) or (left is not None and left < 0.0)
        set_property(self.sum, "role", "alarm" if wrong else "decision")

    def _show_message(self) -> None:
        row = self.rows.get(self.list.currentIndex().row())
        self.message.warn(row.problem if row is not None else "")

    # --- acts -----------------------------------------------------------------------------------------------

    def _typed(self, item: QTreeWidgetItem, column: int) -> None:
        if not self._filling and column in FIELDS:
            at, text = self.list.indexOfTopLevelItem(item), " ".join(item.text(column).split())
            QTimer.singleShot(0, lambda: self.change(at, column, text))

    def change(self, at: int, column: int, text: str) -> None:
        """Puts what was typed into a cell in place."""
        vehicle = self.vehicle
        if vehicle is None or not 0 <= at < len(vehicle.parts):
            return
        value: object = text
        if column == COUNT:
            if not text.isdecimal() or not 1 <= int(text) <= MOST_OF_ONE:
                self.refresh()
                self.message.warn(f"the count is a whole number from 1 to {MOST_OF_ONE:,}")
                return
            value = int(text)
        parts = tuple(
            replace(own, **{FIELDS[column]: value}) if i == at else own for i, own in enumerate(vehicle.parts)
        )
        self._edit(lambda own: replace(own, parts=parts), f"{FIELDS[column]} of a part")

    def add_part(self, brief_id: str) -> None:
        """Adds a part of a brief, or a typed one."""
        brief = by_id(self.session.document.project.briefs, brief_id)
        part = VehiclePart(
            brief.name if brief is not None else "part", brief_id, 1, "" if brief is not None else "1 kg"
        )
        self._edit(lambda own: replace(own, parts=(*own.parts, part)), f"add the part {part.name}")

    def remove_part(self) -> None:
        """Removes the current part."""
        vehicle, at = self.vehicle, self.list.currentIndex().row()
        if vehicle is not None and 0 <= at < len(vehicle.parts):
            parts = (*vehicle.parts[:at], *vehicle.parts[at + 1 :])
            self._edit(lambda own: replace(own, parts=parts), f"remove the part {vehicle.parts[at].name}")

    def add_vehicle(self) -> None:
        """Adds a vehicle and shows it."""
        vehicles = self.session.document.project.vehicles
        identity = new_id("v", {own.id for own in vehicles})
        self._vehicle_id = identity
        new = (*vehicles, Vehicle(identity, f"Vehicle {identity[1:]}"))
        self.session.do(ArrangeVehicles(vehicles, new, "add a vehicle"))
        self.name.setFocus()
        self.name.selectAll()

    def remove_vehicle(self) -> None:
        """Removes the shown vehicle."""
        vehicle, vehicles = self.vehicle, self.session.document.project.vehicles
        if vehicle is not None:
            rest = tuple(own for own in vehicles if own.id != vehicle.id)
            self.session.do(ArrangeVehicles(vehicles, rest, f"remove {vehicle.name}"))

    def _edit(self, change: Callable[[Vehicle], Vehicle], text: str) -> None:
        vehicle, vehicles = self.vehicle, self.session.document.project.vehicles
        if vehicle is None:
            return
        changed = change(vehicle)
        if changed != vehicle:
            new = tuple(changed if own.id == vehicle.id else own for own in vehicles)
            self.session.do(ArrangeVehicles(vehicles, new, text))


def _state(row: PartRow) -> str:
    if row.problem:
        return "!"
    if row.passes is None:
        return ""
    return ("decided, " if row.decided else "lightest, ") + ("passes" if row.passes else "fails")
