"""The layup of the chosen candidate: its name, the quick line, and the list of layers."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.wording import counted
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.library import faced_materials, materials_of
from omakase.project.model import Candidate, LayerRecord
from omakase.project.quickline import QuickLineError, laminate_code, read_quick_line, write_quick_line
from omakase.project.shared import free_name, released, share, shared_stacks
from omakase.project.validation import layup_problems
from omakase.ui.details.button import DetailsButton
from omakase.ui.kit.completing import Completing
from omakase.ui.kit.fields import FittingLine, WordField
from omakase.ui.kit.labels import SteadyLabel
from omakase.ui.kit.theme import SPACE, Theme, set_property
from omakase.ui.layup.findings_view import FindingsView
from omakase.ui.layup.form_view import FormScroll, FormView
from omakase.ui.layup.layer_table import ANGLE, THICKNESS, LayerTable
from omakase.ui.layup.wall_bar import WallBar
from omakase.ui.session import Session


class QuickLine(FittingLine):
    """The line that writes a whole layup; what cannot be read is explained while typing and never lost."""

    entered = pyqtSignal()
    extra_height = 10
    fixed = True

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Quick line: the layup as text")
        self.setProperty("role", "opaque")
        self.setPlaceholderText("2 twill200 ±45 ; core pvc80 12 ; 2 twill200 ±45")
        self.setToolTip(
            "The whole layup from face A down, parts separated by ;\n"
            "2 twill200 ±45     two plies at +45 and −45\n"
            "core pvc80 12      a core of 12 mm (or any unit: 1/2 in)\n"
            "twill200 [45/0/core pvc80 10]s     laminate code, mirrored about the core\n"
            "al6082 3 mm        a sheet;  ns marks a layer not counted on\n"
            "ud300 0 @ 0..800 mm     only over that stretch of a strip or tube;  @ root: over a zone\n"
            "Enter puts it in place, Escape brings the present layup back."
        )
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.returnPressed.connect(self.entered)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fill()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange:
            self._fill()

    def _fill(self) -> None:
        """Nothing is painted below it; the style takes that back with every theme and before it is shown."""
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def sizeHint(self) -> QSize:
        return QSize(160, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(80, super().sizeHint().height())


class LayupEditor(QWidget):
    """Edits the session's chosen candidate."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.name = WordField("Name of the candidate")
        self.name.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.form = FormView(session)
        self.walls = WallBar(session)
        self.line = QuickLine()
        self.completing = Completing(self.line, lambda: materials_of(session.document.project))
        self.message = SteadyLabel("What the layup is", wrapped=True)
        self.details = DetailsButton(session)
        self.table = LayerTable(session, theme)
        self.findings = FindingsView(session)
        self.note = WordField("Note on the candidate")
        self.note.setPlaceholderText("note")
        self.note.setMaxLength(400)
        self.note.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.name.extra_height = self.note.extra_height = QuickLine.extra_height
        self._arrange()
        self.name.committed.connect(lambda text: self._edit(lambda c: replace(c, name=text), "rename the candidate"))
        self.note.committed.connect(lambda text: self._edit(lambda c: replace(c, note=text), "note on the candidate"))
        self.line.entered.connect(self.commit_line)
        self.line.textEdited.connect(lambda _text: self.explain_line())
        self.table.layer_model.problem.connect(self._say)
        session.chosen_changed.connect(self.refresh)
        session.brief_changed.connect(self.refresh)
        session.wall_changed.connect(self.refresh)
        self.refresh()

    def _arrange(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(0, 0, 0, 0)
        top.addWidget(self.name, 3)
        top.addWidget(self.note, 2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(SPACE // 2)
        layout.addLayout(top)
        layout.addWidget(FormScroll(self.form))
        layout.addWidget(self.walls)
        layout.addWidget(self.line)
        under = QHBoxLayout()
        under.setContentsMargins(0, 0, 0, 0)
        under.addWidget(self.message, 1)
        under.addWidget(self.details, 0, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(under)
        layout.addWidget(self.table, 3)
        layout.addWidget(self.findings, 2)

    def set_theme(self, theme: Theme) -> None:
        self.table.set_theme(theme)

    def _edit(self, change, text: str) -> None:  # type: ignore[no-untyped-def]
        candidate = self.session.layup
        if candidate is not None:
            self.session.edit_layup(change(candidate), text)

    def refresh(self) -> None:
        """Shows the chosen candidate; a quick line that is being typed is left alone."""
        candidate = self.session.layup
        self.setEnabled(candidate is not None)
        self.table.refresh()
        if candidate is None:
            for field in (self.name, self.line, self.note):
                field.setText("")
            self._say("Ctrl+N adds a candidate to this brief.", quiet=True)
            return
        self.name.set_value(candidate.name)
        self.note.set_value(candidate.note)
        if not (self.line.hasFocus() and self.line.isModified()):
            self._show_line(candidate)

    def _show_line(self, candidate: Candidate) -> None:
        text = ""
        if candidate.layers:
            shared = shared_stacks(self.session.document.project, self._faced())
            text = write_quick_line(
                candidate.layers, self.session.units, shared, self._faced(), {z.id: z.name for z in candidate.zones}
            )
        if text != self.line.text():
            self.line.setText(text)
            self.line.setCursorPosition(0)
        self.line.show_problem("")
        self._show_state(candidate)

    def _show_state(self, candidate: Candidate) -> None:
        """What is wrong with the layup, or its code and where it came from."""
        brief, materials = self.session.brief, materials_of(self.session.document.project)
        whole = self.session.candidate
        if whole is not None and whole.measured is not None and not whole.layers:
            self._say("a measured part: its layup is not known", True)
            return
        listed = layup_problems(candidate.layers, materials)
        if not candidate.layers and self.session.wall:
            listed = [(".layers", f"the {self.session.wall} has no layers yet: type them into the line above")]
        if brief is not None and candidate.layers and not listed:
            listed = [problem for problem in self.session.problems() if problem[0].startswith(".layers")]
        if listed:
            self._say(listed[0][1])
            return
        text = laminate_code(candidate.layers, self.session.units, self._faced())
        self._say(
            f"{text}, {counted(len(candidate.layers), 'layer')}"
            + (f", {candidate.origin}" if candidate.origin else ""),
            True,
        )

    def _say(self, text: str, quiet: bool = False) -> None:
        if not text and self.session.layup is not None:
            self._show_state(self.session.layup)
            return
        set_property(self.message, "role", "quiet" if quiet else "alarm")
        self.message.setText(text)

    # --- quick line -----------------------------------------------------------------------------------------

    def _read_line(self):  # type: ignore[no-untyped-def]
        candidate = self.session.layup
        layers = candidate.layers if candidate else ()
        plies = [layer.material for layer in layers if layer.thickness is None]
        cores = [layer for layer in layers if layer.role == "core"]
        return read_quick_line(
            self.line.text(),
            materials_of(self.session.document.project),
            self.session.units,
            plies[0] if plies else "",
            cores[0].material if cores else "",
            cores[0].thickness if cores else None,
            shared_stacks(self.session.document.project, self._faced()),
            {zone.name: zone.id for zone in candidate.zones} if candidate else {},
        )

    def explain_line(self) -> None:
        """While typing: how the line reads, or what is wrong with it."""
        try:
            layers = self._read_line()
        except QuickLineError as error:
            self.line.show_problem(str(error))
            self._say(str(error))
            return
        self.line.show_problem("")
        listed = layup_problems(layers, materials_of(self.session.document.project))
        if listed:
            self._say(listed[0][1])
        else:
            code = laminate_code(layers, self.session.units, self._faced())
            self._say(f"reads as {code}, {counted(len(layers), 'layer')}; Enter puts it in place", quiet=True)

    def commit_line(self) -> None:
        """Puts the line's layers in place of the present ones; a mistake is selected in the line."""
        candidate = self.session.layup
        if candidate is None:
            return
        try:
            layers = self._read_line()
        except QuickLineError as error:
            self.line.show_problem(str(error))
            self._say(str(error))
            self.line.setSelection(error.start, max(error.end - error.start, 1))
            return
        self.line.setModified(False)
        layers = edits.keep_thicknesses(candidate.layers, layers)
        self.session.edit_layup(edits.with_stretches(candidate, layers), "write the layup")
        self._show_line(self.session.layup or candidate)

    # --- actions on layers ----------------------------------------------------------------------------------

    def repeat_layers(self) -> None:
        """Puts a copy of the selected layers below them."""
        rows, candidate = self.table.rows(), self.session.layup
        if rows and candidate is not None:
            copies = [candidate.layers[row] for row in rows]
            self._edit(lambda c: edits.insert_layers(c, rows[-1] + 1, copies), "repeat layers")
            self.table.select_row(rows[-1] + 1, max(self.table.currentIndex().column(), ANGLE))

    def move_layers(self, by: int) -> None:
        rows = self.table.rows()
        candidate = self.session.layup
        if len(rows) == 1 and candidate is not None and 0 <= rows[0] + by < len(candidate.layers):
            self._edit(lambda c: edits.move_layer(c, rows[0], rows[0] + by), f"move layer {rows[0] + 1}")
            self.table.select_row(rows[0] + by, max(self.table.currentIndex().column(), 0))

    def flip(self) -> None:
        self._edit(lambda c: edits.flip(c, self._faced()), "flip the layup over")

    def mirror(self) -> None:
        self._edit(lambda c: edits.mirror(c, self._faced()), "mirror face A to face B")

    def turn_layers(self) -> None:
        """Lays the selected cloths that have a face with their other side up."""
        rows = set(self.table.rows())

        def turned(candidate: Candidate) -> Candidate:
            layers = (edits.turn(la, self._faced()) if i in rows else la for i, la in enumerate(candidate.layers))
            return replace(candidate, layers=tuple(layers))

        self._edit(turned, "lay with the other side up")

    def share_layers(self) -> None:
        """Makes the selected layers a sub-stack that other candidates can take in and that changes in all of them."""
        candidate, name = self.session.layup, free_name(self.session.document.project)
        if candidate is not None:
            try:
                changed = share(candidate, self.table.rows(), name)
            except ValueError as error:
                self._say(f"{error}, then share them")
                return
            self.session.edit_layup(changed, f"share sub-stack {name}")
            self._say(f"shared as ({name}): type ({name}) into any quick line, ({name})m for its mirror image", True)

    def release_layers(self) -> None:
        """Lets the selected layers' sub-stack go in this candidate: its layers stay, and change alone."""
        candidate = self.session.layup
        if candidate is not None:
            names = {candidate.layers[row].shared for row in self.table.rows()} - {""}
            for name in names:
                candidate = released(candidate, name)
            self.session.edit_layup(candidate, "unlink a sub-stack")

    def use_material(self, short_name: str) -> bool:
        """Puts a material into the selected layers, each keeping its angle; without a selection it becomes a layer."""
        candidate, rows = self.session.layup, self.table.rows()
        if candidate is None:
            return False
        model = self.table.layer_model
        try:
            if rows:
                changed = candidate
                for row in rows:
                    changed = edits.set_layer(changed, row, model.other_material(candidate.layers[row], short_name))
            else:
                start = LayerRecord(short_name)
                changed = edits.insert_layers(
                    candidate, len(candidate.layers), [model.other_material(start, short_name)]
                )
        except OmakaseError as error:
            self._say(str(error))
            return False
        self.session.edit_layup(changed, f"use {short_name}")
        return True

    def _faced(self) -> frozenset[str]:
        return faced_materials(self.session.document.project)

    def thicken_core(self, steps: int) -> None:
        """Steps the thickness of the first core."""
        candidate = self.session.layup
        if candidate is not None:
            row = next((i for i, layer in enumerate(candidate.layers) if layer.role == "core"), -1)
            if row >= 0:
                self.table.layer_model.step(self.table.layer_model.index(row, THICKNESS), steps, False)
