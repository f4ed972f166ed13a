"""The menu: what may be used, the search that goes through all of it, and the trade-offs as a picture and a list."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHideEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from omakase.core.errors import OmakaseError
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.outcome_words import outcome_words
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.sizing.combinations import MATTERS, Matter, MenuChoices, choices_of
from omakase.evaluate.sizing.menu import MenuSearch, as_candidate
from omakase.evaluate.sizing.menu_state import Dish, Menu
from omakase.project import translate
from omakase.project.library import faced_materials, materials_of
from omakase.project.quickline import layup_code
from omakase.ui.kit.fields import WordField
from omakase.ui.kit.fitting_list import fitting_list
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, plain
from omakase.ui.kit.plot_frame import PlotFrame
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import SPACE, Theme, font, pen, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.lineup.section_picture import draw_section
from omakase.ui.session import Session
from omakase.units import QuantityError, parse_quantity

TITLES = ("Layup", "Best in", "Mass", "Price", "Thickness", "Sag", "Governs")
OF_FACES = ("unequal", "balanced", "outside_45", "isolation")  # rules that caps and webs are not searched by
MATTER_WORDS: dict[Matter, str] = {
    "mass": "mass", "cost": "price", "thickness": "thickness", "hours": "hours of laying up",
}  # fmt: skip
MATTER_DIMENSIONS: dict[Matter, str] = {"mass": "mass", "thickness": "length"}


class FrontPicture(QWidget):
    """Judged combinations by two things that matter: those that pass, those that fail, and the best as a line."""

    picked = pyqtSignal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.menu = Menu(0)
        self.matters: tuple[Matter, ...] = ("mass", "cost")
        self.chosen = -1
        self._spots: list[tuple[QPointF, int]] = []
        self.setMinimumSize(220, 120)
        self.setAccessibleName("Trade-off")

    def sizeHint(self) -> QSize:
        return QSize(330, 240)

    def show_menu(self, menu: Menu, matters: tuple[Matter, ...], chosen: int) -> None:
        """Shows the state of a search."""
        self.menu, self.matters, self.chosen = menu, matters, chosen
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        painter.setFont(font("small"))
        em = float(painter.fontMetrics().height())
        self._spots = []
        if not self.menu.points:
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), "nothing judged yet")
            return
        box = QRectF(3.6 * em, 0.8 * em, self.width() - 4.4 * em, self.height() - 3.0 * em)
        second = 1 if len(self.matters) > 1 else 0
        low = [min(point[k] for point in self.menu.points) for k in (0, 1)]
        high = [max(point[k] for point in self.menu.points) for k in (0, 1)]
        frame = PlotFrame(painter, self.theme, box, (low[0], high[0]), (low[1], high[1]))
        frame.outline()
        across, up = self.matters[0], self.matters[second]
        frame.ends(
            (self._axis_text(across, low[0]), self._axis_text(across, high[0])),
            (self._axis_text(up, low[1]), self._axis_text(up, high[1])),
        )
        frame.below(0, MATTER_WORDS[across])
        frame.upright(MATTER_WORDS[up], 0.2 * em)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for x, y, passes in self.menu.points:
            painter.setPen(pen(self.theme.good if passes else self.theme.quiet))
            if passes:
                frame.dot(frame.at(x, y), 2.5)
            else:
                frame.cross(frame.at(x, y), 2.0)
        for row, dish in enumerate(self.menu.dishes):
            at = frame.at(dish.values[0], dish.values[second])
            self._spots.append((at, row))
            painter.setPen(pen(self.theme.accent, 1.6))
            frame.dot(at, 4.5, self.theme.accent if row == self.chosen else self.theme.panel)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        frame.below(1, "× fails   ○ passes   ● on the menu", 0)
        self._section(painter, box, em)

    def _axis_text(self, matter: Matter, value: float) -> str:
        if matter == "cost":
            return f"{value:.0f}"
        if matter == "hours":
            return f"{value:.1f} h"
        return quantity(value, MATTER_DIMENSIONS[matter], self.session.units)

    def _section(self, painter: QPainter, box: QRectF, em: float) -> None:
        """The section of the chosen one, small, in the corner where points are rare: heavy and dear."""
        if not 0 <= self.chosen < len(self.menu.dishes):
            return
        dish = self.menu.dishes[self.chosen]
        if any(layer.wall for layer in dish.candidate.layers):
            return  # its section stands in the line-up once it is taken
        try:
            stack = translate.stack(dish.candidate, materials_of(self.session.document.project))
        except OmakaseError:
            return
        height = min(box.height() * 0.45, 7.0 * em)
        frame = QRectF(box.right() - 6.5 * em, box.top() + 0.5 * em, 6.0 * em, height)
        painter.fillRect(frame.adjusted(-4.0, -4.0, 4.0, 4.0), QColor(self.theme.panel))
        draw_section(painter, frame, stack, frame.height() / stack.thickness, self.theme)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._spots:
            return
        at = event.position()
        spot, row = min(self._spots, key=lambda item: (item[0] - at).manhattanLength())
        if (spot - at).manhattanLength() < 16.0:
            self.picked.emit(row)


class MenuView(TopPage):
    """Choices above, picture and list below; the search runs on worker processes and may be stopped at any time."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session)
        self.menu = Menu(0)
        self.search = Searching("menu", self)
        self._brief_id = ""
        self._choices: MenuChoices | None = None
        self.head = Heading()
        self.head.setWordWrap(True)
        self.skins, self.cores = WordField("Skins, short names"), WordField("Cores, short names")
        self.angles, self.sizes = WordField("Angles"), WordField("Core thickness from and to")
        self.fewest, self.most, self.kinds = QComboBox(), QComboBox(), QComboBox()
        self.first, self.second = QComboBox(), QComboBox()
        self.rules = {
            "unequal": QCheckBox("faces may differ"),
            "sold": QCheckBox("thicknesses as sold"),
            "balanced": QCheckBox("balanced faces"),
            "outside_45": QCheckBox("±45° outside"),
            "isolation": QCheckBox("no carbon on a metal core"),
        }
        self.begin, self.halt = QPushButton("Search"), QPushButton("Stop")
        self.take = QPushButton("Make it a candidate (Enter)")
        self.front = FrontPicture(session, theme)
        self.list = self.entry = fitting_list("Menu", TITLES)
        self.detail = Label()
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        flow, rules = FlowLayout(gap=SPACE), FlowLayout(gap=SPACE)
        for text, field, width in (
            ("skins", self.skins, 220), ("angles", self.angles, 110), ("cores", self.cores, 170),
            ("core thickness", self.sizes, 190),
        ):  # fmt: skip
            field.setMinimumWidth(width)
            field.extra_height = 6
            field.setProperty("glue", "loose")
            flow.addWidget(Label(text))
            flow.addWidget(field)
        for box, name, numbers in (
            (self.fewest, "Fewest plies per face", range(1, 5)),
            (self.most, "Most plies per face", range(1, 5)),
            (self.kinds, "Most different materials", range(2, 7)),
        ):
            box.setAccessibleName(name)
            for number in numbers:
                box.addItem(str(number), number)
        for text, widget in (
            ("plies per face or cap", self.fewest), ("to", self.most), ("materials at most", self.kinds),
        ):  # fmt: skip
            widget.setProperty("glue", "loose")
            flow.addWidget(Label(text))
            flow.addWidget(widget)
        for box, name in ((self.first, "What matters first"), (self.second, "What matters second")):
            box.setAccessibleName(name)
            for matter in MATTERS:
                box.addItem(MATTER_WORDS[matter], matter)
            box.setProperty("glue", "loose")
        for text, widget in (("what matters", self.first), ("and", self.second)):
            flow.addWidget(Label(text))
            flow.addWidget(widget)
        for check in self.rules.values():
            rules.addWidget(check)
        for button in (self.begin, self.halt):
            rules.addWidget(button)
        self.detail.setWordWrap(True)
        self.detail.setProperty("role", "quiet")
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setChildrenCollapsible(False)
        right = QWidget()
        beside = QVBoxLayout(right)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.list, 1)
        last = QHBoxLayout()
        last.addWidget(self.detail, 1)
        last.addWidget(self.take)
        beside.addLayout(last)
        split.addWidget(self.front)
        split.addWidget(right)
        split.setSizes([340, 640])
        layout = page_column(self)
        layout.addLayout(flow)
        layout.addLayout(rules)
        layout.addWidget(self.head)
        layout.addWidget(split, 1)

    def _connect(self) -> None:
        self.begin.clicked.connect(lambda: self.start())
        self.halt.clicked.connect(lambda: self.stop())
        self.take.clicked.connect(lambda: self.take_chosen())
        self.list.itemActivated.connect(lambda _item, _column: self.take_chosen())
        self.list.currentItemChanged.connect(lambda _now, _before: self._tell())
        self.front.picked.connect(self._pick)
        self.search.found.connect(self._receive)
        self.search.ended.connect(self._end)
        self.session.brief_changed.connect(self._follow)
        for field in (self.skins, self.cores, self.angles, self.sizes):
            field.committed.connect(lambda _text: self.read_choices())

    def set_theme(self, theme: Theme) -> None:
        self.front.theme = theme
        self.front.update()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._follow()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.stop()

    # --- choices --------------------------------------------------------------------------------------------

    def _follow(self) -> None:
        """Another brief begins with choices of its own; an edit of it makes the menu old."""
        brief = self.session.brief
        if not self.isVisible() or brief is None:
            return
        if brief.id != self._brief_id:
            self._brief_id = brief.id
            self.stop()
            missing = kind_of(brief).missing.get("menu", "")
            for widget in (self.begin, self.take):
                widget.setEnabled(not missing)
            for widget in (self.kinds, *(self.rules[name] for name in OF_FACES)):
                widget.setEnabled(not kind_of(brief).can_be_drawn)
            if missing:
                self._show_menu(Menu(0))
                self.head.show_parts("", missing)
                return
            self._show_choices(choices_of(brief, materials_of(self.session.document.project)))
            self._show_menu(Menu(0))
            self.head.show_parts("", "Choose what may be used, then Search. The full evaluator judges what is offered.")

    def _show_choices(self, choices: MenuChoices) -> None:
        units = self.session.units
        self.skins.set_value(", ".join(choices.skins))
        self.cores.set_value(", ".join(choices.cores))
        self.angles.set_value(", ".join(f"{angle:g}" for angle in choices.angles))
        sizes = [quantity(t, "length", units) for t in (min(choices.thicknesses), max(choices.thicknesses))]
        self.sizes.set_value(" to ".join(sizes))
        for box, value in ((self.fewest, choices.fewest), (self.most, choices.most), (self.kinds, choices.materials)):
            box.setCurrentIndex(box.findData(value))
        for box, matter in zip((self.first, self.second), choices.matters, strict=False):
            box.setCurrentIndex(box.findData(matter))
        for field in (self.skins, self.cores, self.angles, self.sizes):
            field.setCursorPosition(0)
        for name, check in self.rules.items():
            check.setChecked(getattr(choices, name))

    def read_choices(self) -> MenuChoices | None:
        """The choices as they stand; None, with a message at the top, where one cannot be read."""
        materials = materials_of(self.session.document.project)
        try:
            skins, cores = _names(self.skins.text()), _names(self.cores.text())
            for name in (*skins, *cores):
                if name not in materials:
                    raise OmakaseError(f"no material is named '{name}'; Ctrl+5 shows the library")
            for name in cores:
                if not materials[name].can_be_core:
                    raise OmakaseError(f"'{name}' cannot be a core")
            for name in skins:
                if materials[name].kind != "ply":
                    raise OmakaseError(f"'{name}' is not a ply")
            angles = tuple(float(word) for word in _names(self.angles.text().replace("°", "")))
            if not all(-90.0 <= angle <= 90.0 for angle in angles):
                raise OmakaseError("angles lie between −90° and 90°")
            low, high = self._sizes()
        except (OmakaseError, QuantityError) as error:
            return self._refuse(str(error))
        except ValueError:
            return self._refuse("angles are numbers in degrees with commas between them")
        matters: tuple[Matter, ...] = tuple(dict.fromkeys((self.first.currentData(), self.second.currentData())))
        fewest, most = self.fewest.currentData(), self.most.currentData()
        if fewest > most:
            return self._refuse("the fewest plies per face are more than the most")
        steps = tuple(round(low + (high - low) * k / 5.0, 5) for k in range(6))
        set_property(self.head, "role", "")
        return MenuChoices(
            skins, cores, angles, fewest, most, thicknesses=tuple(dict.fromkeys(steps)),
            materials=self.kinds.currentData(), matters=matters,
            base=self.session.candidate_id, **{name: check.isChecked() for name, check in self.rules.items()},
        )  # fmt: skip

    def _sizes(self) -> tuple[float, float]:
        words = self.sizes.text().replace("–", " to ").split(" to ")
        values = [parse_quantity(word, "length", self.session.units) for word in words]
        low, high = min(values), max(values)
        if not 1e-4 <= low <= high <= 1.0:
            raise OmakaseError("a core is between 0.1 mm and 1 m thick")
        return low, high

    def _refuse(self, text: str) -> None:
        set_property(self.head, "role", "alarm")
        self.head.show_parts("", text[:1].upper() + text[1:])

    # --- searching ------------------------------------------------------------------------------------------

    @property
    def searching(self) -> bool:
        """A search is under way."""
        return self.search.running

    def stop(self) -> None:
        """Ends a search that is under way; the menu so far stays."""
        if self.searching:
            self.search.stop()
            self._say_state("Stopped")

    def start(self) -> None:
        """Begins a search of the choices."""
        brief, choices = self.session.judged_brief, self.read_choices()
        if brief is None or choices is None:
            return
        self._choices = choices
        materials = materials_of(self.session.document.project)

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            return MenuSearch(brief, choices, materials, self.session.evaluator, stopped).run(self.session.workers)

        self.search.begin(make)
        self._show_menu(Menu(0))
        self._say_state("Searching")
        self.search.begin_now()

    def _receive(self, menu: Menu) -> None:
        self._show_menu(menu)
        self._say_state("Searching")

    def _end(self, message: str) -> None:
        if message:
            self._refuse(message)
        else:
            self._say_state("")

    def _say_state(self, word: str) -> None:
        menu = self.menu
        excluded = ", ".join(f"{reason} {number:,}" for reason, number in sorted(menu.excluded.items()))
        text = (
            f"{menu.looked:,} of {menu.total:,} combinations checked by the screen, {menu.left:,} left, "
            f"{menu.judged:,} evaluated. "
        )
        proof = menu.proof[:1].upper() + menu.proof[1:] + "."
        if menu.least_bad:
            passes = "Nothing passes" if menu.complete else "Nothing passes yet"
            proof = f"{passes}; these come nearest. {proof}"
        if menu.note:
            text = f"{menu.note} {text}"
        self.head.show_parts(f"{word}." if word else "", text + proof + (f" Out: {excluded}." if excluded else ""))

    # --- the menu -------------------------------------------------------------------------------------------

    @property
    def dishes(self) -> tuple[Dish, ...]:
        """What the list shows."""
        return self.menu.dishes or self.menu.least_bad

    def _show_menu(self, menu: Menu) -> None:
        before = self.list.currentIndex().row()
        chosen = self.dishes[before].candidate.layers if 0 <= before < len(self.dishes) else None
        self.menu = menu
        self.list.blockSignals(True)
        self.list.clear()
        for dish in self.dishes:
            item = QTreeWidgetItem(self._texts(dish))
            for column in range(2, 6):
                item.setTextAlignment(column, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            item.setToolTip(0, plain(item.text(0)))
            self.list.addTopLevelItem(item)
        row = next((i for i, dish in enumerate(self.dishes) if dish.candidate.layers == chosen), 0)
        if self.dishes:
            self.list.setCurrentItem(self.list.topLevelItem(row))
        self.list.blockSignals(False)
        self._tell()

    def _code(self, dish: Dish) -> str:
        if dish.candidate.note:
            return dish.candidate.note  # of a member with several walls, where its layers would say too much
        project = self.session.document.project
        return layup_code(dish.candidate.layers, project.units, faced_materials(project), materials=True)

    def _texts(self, dish: Dish) -> list[str]:
        units, outcome, code = self.session.units, dish.outcome, self._code(dish)
        if outcome.error:
            return [code, outcome.error, "", "", "", "", ""]
        return [
            code,
            ", ".join(dish.titles),
            quantity(outcome.mass, "mass", units),
            "" if outcome.cost is None else f"{outcome.cost.value:.0f}",
            quantity(outcome.thickness, "length", units),
            quantity(outcome.deflection, "deflection", units) if outcome.deflection == outcome.deflection else "",
            outcome.governs.split(",")[0],
        ]

    def _tell(self) -> None:
        row = self.list.currentIndex().row()
        dish = self.dishes[row] if 0 <= row < len(self.dishes) else None
        self.take.setEnabled(dish is not None)
        remark = outcome_words(dish.outcome, None, self.session.units) if dish and not dish.outcome.error else ""
        self.detail.setText(f"{self._code(dish)}: {remark}" if dish is not None and remark else remark)
        matters = self._choices.matters if self._choices is not None else ("mass", "cost")
        self.front.show_menu(self.menu, matters, row)

    def _pick(self, row: int) -> None:
        if row < self.list.topLevelItemCount():
            self.list.setCurrentItem(self.list.topLevelItem(row))

    def take_chosen(self) -> None:
        """Puts the chosen combination into the line-up as a candidate, and chooses it."""
        row, brief = self.list.currentIndex().row(), self.session.brief
        if brief is None or not 0 <= row < len(self.dishes):
            return
        dish = self.dishes[row]
        command, identity = as_candidate(dish, brief, self.session.candidate_id)
        self.session.do(command)
        self.session.choose(identity)


def _names(text: str) -> tuple[str, ...]:
    """Words between commas or spaces."""
    return tuple(dict.fromkeys(text.replace(",", " ").split()))
