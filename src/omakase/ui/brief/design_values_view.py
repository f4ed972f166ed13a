"""Design values by condition: the project's sets, which of them the brief names, and for which zones."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QTreeWidgetItem

from omakase.evaluate.results.wording import conditions_text, counted
from omakase.project.commands import EditConditions, replace
from omakase.project.conditions import CAUTIOUS, FAMILIES, AppliedCondition, ConditionRecord, DesignValue
from omakase.project.model import Brief, by_id, new_id
from omakase.ui.kit.fields import WordField, framed
from omakase.ui.kit.fitting_list import chosen_key, editable, fill_list, typed_list
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.theme import SPACE, Theme, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.units import FIELD, QuantityError, format_value, parse_quantity

SETS = ("Condition", "Temperature", "Moisture", "This brief")
VALUES = ("Family", "Pulled", "Pressed", "Shear", "Yield", "Ultimate", "Basis", "Source")
FIELDS = ("family", "tension", "compression", "shear", "yield_stress", "ultimate", "basis", "source")
BASES = ("agreed", "mean", "B", "A", "minimum")
STRAINS = ("tension", "compression", "shear")
HINT = (
    "Strains at ultimate load that plies may not pass, by family of fibres; stresses of metals at limit and at "
    "ultimate load. Values of a set count only in briefs that name it."
)
CAUTION = "Cautious values are common practice without source: replace them with your own tests."


class DesignValuesView(TopPage):
    """The sets of the project at the left, the values of the chosen one at the right."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.head, self.message, self.hint = Heading(), Message(), Label(HINT)
        self.sets = self.entry = typed_list("Conditions", SETS, 1, (0, 1, 2))
        self.values = typed_list("Design values of the condition", VALUES, 0, range(len(VALUES)))
        self.zones = WordField("Zones that the condition is for, empty for all of the member")
        self.zones.setPlaceholderText("zones, separated by commas; empty for all")
        self.zones.setMaxLength(300)
        self.name_it = QPushButton("Judge this brief by it")
        self.new, self.offer = QPushButton("New condition"), QPushButton("Cautious values to begin with")
        self.drop = QPushButton("Remove the condition")
        self._filling = False
        self._arrange()
        self.sets.currentItemChanged.connect(lambda _now, _before: self._show_values())
        self.sets.itemChanged.connect(self._typed_set)
        self.values.itemChanged.connect(self._typed_value)
        self.new.clicked.connect(lambda: self.add())
        self.offer.clicked.connect(lambda: self.offer_cautious())
        self.drop.clicked.connect(lambda: self.remove())
        self.name_it.clicked.connect(lambda: self.name_or_drop())
        self.zones.committed.connect(self._set_zones)
        session.document.changed.connect(lambda _change: self.refresh())
        session.brief_changed.connect(self.refresh)

    def _arrange(self) -> None:
        buttons = FlowLayout(gap=SPACE)
        framed(self.zones)
        self.zones.setMinimumWidth(260)
        for widget in (self.offer, self.new, self.drop, self.name_it, self.zones):
            buttons.addWidget(widget)
        self.hint.setWordWrap(True)
        set_property(self.hint, "role", "quiet")
        both = QHBoxLayout()
        both.addWidget(self.sets, 3)
        both.addWidget(self.values, 4)
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addWidget(self.hint)
        layout.addLayout(buttons)
        layout.addLayout(both, 1)
        layout.addWidget(self.message)

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    # --- what is shown ------------------------------------------------------------------------------------------

    @property
    def conditions(self) -> tuple[ConditionRecord, ...]:
        return self.session.document.project.conditions

    @property
    def condition(self) -> ConditionRecord | None:
        """The chosen one."""
        return by_id(self.conditions, chosen_key(self.sets))

    def _applied(self, identity: str) -> AppliedCondition | None:
        brief = self.session.brief
        named = brief.conditions if brief is not None else ()
        return next((own for own in named if own.condition.id == identity), None)

    def refresh(self) -> None:
        """Shows the present sets."""
        if not self.isVisible():
            return
        brief, units = self.session.brief, self.session.units
        told = conditions_text(brief) if brief is not None else ""
        self.head.show_parts("Design values", f"{told}; {counted(len(self.conditions), 'condition')} in the project")
        rows = []
        for own in self.conditions:
            applied = self._applied(own.id)
            state = "" if applied is None else ", ".join(applied.zones) or "everywhere"
            rows.append((own.id, (own.name, format_value(own.temperature, "temperature", units, with_unit=True),
                                  "wet" if own.wet else "dry", state)))  # fmt: skip
        chosen = chosen_key(self.sets)
        if chosen not in {own.id for own in self.conditions}:
            chosen = self.conditions[0].id if self.conditions else ""
        self._filling = True
        fill_list(self.sets, rows, chosen, (1,))
        editable(self.sets)
        self._filling = False
        self._show_values()

    def _show_values(self) -> None:
        own, units = self.condition, self.session.units
        rows = []
        for value in own.values if own is not None else ():
            texts = [value.family]
            for field in FIELDS[1:6]:
                number = getattr(value, field)
                dimension = "strain" if field in STRAINS else "strength"
                texts.append("" if number is None else format_value(number, dimension, units, True, digits=FIELD))
            rows.append((value.family, (*texts, value.basis, value.source)))
        rows.append(("", ("+ family", *[""] * 7)))
        self._filling = True
        chosen = chosen_key(self.values) or rows[0][0]
        fill_list(self.values, rows if own is not None else [], chosen, (1, 2, 3, 4, 5))
        editable(self.values)
        self._filling = False
        applied = self._applied(own.id) if own is not None else None
        for widget in (self.drop, self.name_it):
            widget.setEnabled(own is not None)
        self.name_it.setText("Judge this brief without it" if applied is not None else "Judge this brief by it")
        self.zones.setEnabled(applied is not None)
        self.zones.set_value(", ".join(applied.zones) if applied is not None else "")
        self.message.say(CAUTION if own is not None and own.cautious else "")

    # --- edits ----------------------------------------------------------------------------------------------------

    def _put(self, new: tuple[ConditionRecord, ...], text: str) -> None:
        if new != self.conditions:
            self.session.do(EditConditions(self.conditions, new, text))

    def _change(self, changed: ConditionRecord, text: str) -> None:
        self._put(tuple(changed if own.id == changed.id else own for own in self.conditions), text)

    def add(self) -> None:
        """Adds an empty condition."""
        identity = new_id("k", {own.id for own in self.conditions})
        made = ConditionRecord(identity, f"condition {identity[1:]}", values=(DesignValue("carbon"),))
        self._put((*self.conditions, made), "add a condition")
        fill_list(self.sets, [(own.id, (own.name,)) for own in self.conditions], identity, (1,))
        self.refresh()

    def offer_cautious(self) -> None:
        """Puts the cautious sets that are not there yet into the project; no brief names them by that."""
        known = {own.id for own in self.conditions}
        self._put((*self.conditions, *(own for own in CAUTIOUS if own.id not in known)), "cautious design values")
        self.refresh()

    def remove(self) -> None:
        """Removes the chosen condition from the project, and from the brief that is shown."""
        own = self.condition
        if own is None:
            return
        used = [brief.name for brief in self.session.document.project.briefs
                if any(applied.condition.id == own.id for applied in brief.conditions)]  # fmt: skip
        if used:
            self.message.warn(f"{', '.join(used)} name it: take it off there first")
            return
        self._put(tuple(other for other in self.conditions if other.id != own.id), f"remove {own.name}")

    def name_or_drop(self) -> None:
        """Lets the brief be judged by the chosen condition, or no longer."""
        own = self.condition
        if own is None:
            return
        on, rest = self._applied(own.id) is None, self._rest(own.id)
        self._brief(lambda brief: replace(
            brief, conditions=(*rest, AppliedCondition(own)) if on else rest
        ), f"{'name' if on else 'drop'} {own.name}")  # fmt: skip

    def _rest(self, identity: str) -> tuple[AppliedCondition, ...]:
        brief = self.session.brief
        return tuple(own for own in brief.conditions if own.condition.id != identity) if brief is not None else ()

    def _set_zones(self, text: str) -> None:
        own = self.condition
        applied = self._applied(own.id) if own is not None else None
        brief = self.session.brief
        if own is None or applied is None or brief is None:
            return
        zones = tuple(part.strip() for part in text.split(",") if part.strip())
        known = {zone.name for candidate in brief.candidates for zone in candidate.zones}
        missing = [zone for zone in zones if zone not in known]
        new = replace(applied, zones=zones)
        self._brief(lambda b: replace(b, conditions=tuple(
            new if other.condition.id == own.id else other for other in b.conditions
        )), f"zones of {own.name}")  # fmt: skip
        if missing:
            self.message.warn(f"no candidate has a zone '{missing[0]}'")

    def _brief(self, change: Callable[[Brief], Brief], text: str) -> None:
        brief = self.session.brief
        if brief is not None:
            self.session.edit_brief(change(brief), text)
            self.refresh()

    def _typed_set(self, item: QTreeWidgetItem, column: int) -> None:
        own = by_id(self.conditions, str(item.data(0, Qt.ItemDataRole.UserRole)))
        if self._filling or own is None:
            return
        text = item.text(column).strip()
        try:
            if column == 0 and text:
                self._change(replace(own, name=text), "name a condition")
            elif column == 1:
                value = parse_quantity(text, "temperature", self.session.units)
                self._change(replace(own, temperature=value, cautious=False), "temperature of a condition")
            elif column == 2:
                if text not in ("wet", "dry"):
                    raise QuantityError("wet or dry")
                self._change(replace(own, wet=text == "wet", cautious=False), "moisture of a condition")
        except QuantityError as error:
            self.refresh()
            self.message.warn(f"'{text}': {error}")
            return
        self.refresh()

    def _typed_value(self, item: QTreeWidgetItem, column: int) -> None:
        own = self.condition
        if self._filling or own is None:
            return
        family, field, text = str(item.data(0, Qt.ItemDataRole.UserRole)), FIELDS[column], item.text(column).strip()
        try:
            values = _with_value(own.values, family, field, self._read(field, text, own, family))
        except QuantityError as error:
            self.refresh()
            self.message.warn(f"'{text}': {error}")
            return
        self._change(replace(own, values=values, cautious=False), "design value")
        self.refresh()

    def _read(self, field: str, text: str, own: ConditionRecord, family: str) -> object:
        if field == "source":
            return text
        if field == "basis":
            if text not in BASES:
                raise QuantityError(f"a basis is one of {', '.join(BASES)}")
            return text
        if field == "family":
            if text and text not in FAMILIES:
                raise QuantityError(f"a family is one of {', '.join(FAMILIES)}")
            if text != family and any(other.family == text for other in own.values):
                raise QuantityError("that family is there already")
            return text
        if not text:
            return None
        value = parse_quantity(text, "strain" if field in STRAINS else "strength", self.session.units)
        if value <= 0.0:
            raise QuantityError("a cut-off is more than zero; leave it empty for none")
        return value


def _with_value(
    values: tuple[DesignValue, ...], family: str, field: str, value: object
) -> tuple[DesignValue, ...]:  # fmt: skip
    """The values with one changed; a family that is typed is added, one whose name is emptied goes."""
    if not family:
        return (*values, DesignValue(str(value))) if field == "family" and value else values
    if field == "family" and not value:
        return tuple(own for own in values if own.family != family)
    return tuple(replace(own, **{field: value}) if own.family == family else own for own in values)
