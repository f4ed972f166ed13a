"""A brief made larger or smaller by a rule, with the list of what that changes before it is done."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QPushButton

from omakase.evaluate.vehicle.resize import Rule, resize_changes, resize_command, resized
from omakase.ui.kit.fields import ChoiceField, QuantityField, framed, within
from omakase.ui.kit.fitting_list import fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.theme import SPACE, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

FIELDS = (
    ("along", "Length times"), ("across", "Width times"), ("speed", "Speed times"),
    ("load_factor", "Load factor times"),
)  # fmt: skip
FORCES = {"area": "grow with the area", "kept": "stay as they are"}
bounded = within(0.05, 20.0, "a factor must lie between 0.05 and 20")
RULE = (
    "Pressures go with speed² × load factor, lift with the area too; own weight with the load factor; masses that are "
    "carried with length × width². Layers stay."
)


class ResizeView(TopPage):
    """Four factors, and what they do to the chosen brief and its candidates."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rule = Rule()
        self.head, self.message, self.about = Heading(), Message(), Label(RULE)
        self.fields = {name: QuantityField("ratio", what, bounded) for name, what in FIELDS}
        self.forces = ChoiceField("What point forces do", FORCES)
        self.list = fitting_list("What the new size changes", ("What changes",), 1)
        self.apply = QPushButton("Resize in one step")
        self.entry = self.fields["along"]
        self._arrange()
        for name, field in self.fields.items():
            field.committed.connect(lambda value, name=name: self._set(name, value))
            field.problem.connect(lambda text: self.message.warn(text))
        self.forces.committed.connect(lambda key: self._set("forces", key))
        self.apply.clicked.connect(lambda: self.resize_brief())
        session.brief_changed.connect(self.refresh)

    def _arrange(self) -> None:
        line = FlowLayout(gap=SPACE)
        for name, what in FIELDS:
            field = self.fields[name]
            framed(field)
            field.setMinimumWidth(70)
            field.setProperty("glue", "loose")
            line.addWidget(Label(what.lower() if name != "along" else what))
            line.addWidget(field)
        framed(self.forces)
        self.forces.setProperty("glue", "loose")
        line.addWidget(Label("point forces"))
        line.addWidget(self.forces)
        line.addWidget(self.apply)
        self.about.setWordWrap(True)
        set_property(self.about, "role", "quiet")
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addLayout(line)
        layout.addWidget(self.about)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.message)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Shows what the present factors would change."""
        if not self.isVisible():
            return
        brief, units = self.session.brief, self.session.units
        for name, field in self.fields.items():
            field.set_value(getattr(self.rule, name), units)
        self.forces.set_value(self.rule.forces)
        if brief is None:
            self.apply.setEnabled(False)
            return
        new, left = resized(brief, self.rule)
        changes = resize_changes(brief, new, units)
        self.head.show_parts("Resize", f"{brief.name}: {len(changes)} changes; Esc goes back")
        fill_list(self.list, [(str(i), (text,)) for i, text in enumerate([*left, *changes])], "", ())
        self.apply.setEnabled(new != brief)
        self.message.warn("; ".join(left))

    def _set(self, name: str, value: object) -> None:
        self.rule = Rule(**{field: getattr(self.rule, field) for field in Rule.__struct_fields__} | {name: value})
        self.refresh()

    def resize_brief(self) -> None:
        """Does it, and begins anew with factors of one."""
        brief = self.session.brief
        if brief is not None:
            command = resize_command(self.session.document.project, brief, self.rule)
            self.rule = Rule()
            self.session.do(command)
            self.refresh()
