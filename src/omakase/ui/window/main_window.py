"""The main window: the brief, the line-up, and the chosen candidate's layup, checks and pictures."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QSettings, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from omakase.core.quantities import QUANTITIES
from omakase.evaluate.members.registry import all_kinds, kind_of
from omakase.evaluate.results.decision import decision
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.wording import CAUTION, stiffness_text
from omakase.project.commands import EditHeader
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Project
from omakase.ui.brief.brief_view import BriefView
from omakase.ui.brief.panel_picture import PanelPicture
from omakase.ui.brief.span_picture import SpanPicture
from omakase.ui.computed import AFTER_PAINTING_MS
from omakase.ui.kit.labels import Label, SteadyLabel, plain
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.panes import splitter
from omakase.ui.kit.popup import popup
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import DARK, LIGHT, Theme, apply_theme, base_size, set_base_size
from omakase.ui.kit.top_page import TopPage
from omakase.ui.lineup.line_up_view import LineUpView
from omakase.ui.session import Session
from omakase.ui.window import pages
from omakase.ui.window.acts import Acts
from omakase.ui.window.command_list import CommandList
from omakase.ui.window.files import Files
from omakase.ui.window.late_pages import LatePages
from omakase.ui.window.notice import Notice
from omakase.units import UnitSystem

if TYPE_CHECKING:
    from omakase.evaluate.second.comparing import Line
    from omakase.ui.kit.late_stack import LateStack
    from omakase.ui.layup.layup_editor import LayupEditor
    from omakase.ui.testing.view import TestsView
    from omakase.ui.why.checks_view import ChecksView
    from omakase.ui.window.lower import Lower
    from omakase.ui.window.recent import Recent

SPLITS = {
    "main": [300, 980],
    "left": [520, 230],
    "right": [410, 330],
    "bottom": [290, 415, 275],
    "pictures": [170, 160],
}
DESIGN_SIZE = 1280, 800
TITLE_BAR = 32  # px that a window's frame takes where nobody says how many
CARD = 2  # place of the material's card among the pages
UNPAINTED_MS = 200  # until the rest is made where nothing is painted
SIZES = (8.5, 9.5, 10.5, 11.5, 12.5, 14.0, 16.0)


class MainWindow(LatePages):
    """Puts the views around one session and gives every action a key, a menu place and an entry in the list."""

    undo: QAction
    redo: QAction
    recent: Recent

    def __init__(
        self, document: Document, theme: Theme, settings: QSettings, fill_menus: Callable[[MainWindow], None],
        synchronous: bool = False,
    ) -> None:  # fmt: skip
        super().__init__()
        self.theme, self.settings = theme, settings
        self.session = Session(document, synchronous)
        self.notice = Notice()
        self.files = Files(document, self.notice, self)
        self.brief_view = BriefView(self.session, in_parts=not synchronous)
        self.panel_picture = PanelPicture(self.session, theme)
        self.span_picture = SpanPicture(self.session, theme)
        self.line_up_view = LineUpView(self.session, theme)
        self.top_pages: list[TopPage] = []
        self.commands: list[QAction] = []
        self.acts = Acts(
            self.session, self._tell,
            lambda: self.focus_on(self.layup_editor.line), lambda: self.focus_on(self.layup_editor.name),
        )  # fmt: skip
        self.setAcceptDrops(True)
        self._closing = self._begun = False
        self._page_before = 0
        self._told: tuple[Project, LineUp | None] | None = None  # what the sentence above the line-up is about
        self._arrange()
        self.brief_view.refresh()
        fill_menus(self)
        self.command_list = CommandList(self, lambda: self.commands)
        self.line_up_view.opened.connect(lambda: self.layup_editor.line.setFocus())
        self.session.results_changed.connect(self._show_decision)
        self.session.brief_changed.connect(self._show_kind)
        self._show_kind()
        self.files.told.connect(lambda text: self._tell(text))
        document.state.connect(self._show_state)
        self._show_state()
        if synchronous:
            self._begin()

    # --- layout ---------------------------------------------------------------------------------------------

    def _arrange(self) -> None:
        # from the outside in: a widget that moves to another parent has its style worked out again
        centre = QWidget(self)
        self.setCentralWidget(centre)
        layout = QVBoxLayout(centre)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.notice)
        self._column = layout
        main = splitter(Qt.Orientation.Horizontal, centre)
        layout.addWidget(main, 1)
        left, right = splitter(Qt.Orientation.Vertical, main), splitter(Qt.Orientation.Vertical, main)
        self.top = QStackedWidget(right)
        first = QWidget(self.top)
        self.top.addWidget(first)
        scroll = QScrollArea(first)
        bottom = splitter(Qt.Orientation.Horizontal, right)
        left.addWidget(self.brief_view)
        self.plans = QStackedWidget(left)
        left.addWidget(self.plans)
        self.plans.addWidget(self.panel_picture)
        self.plans.addWidget(self.span_picture)
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.line_up_view)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.decision = SteadyLabel("Decision")
        self.decision.setProperty("role", "decision")
        self.decision.setContentsMargins(8, 4, 8, 4)
        self.decision.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        column = QVBoxLayout(first)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.decision)
        column.addWidget(scroll, 1)
        self._empty = QWidget(bottom)  # keeps the place of the lower row
        bottom.addWidget(self._empty)
        self.splitters = {"main": main, "left": left, "right": right, "bottom": bottom}
        bar = self.statusBar()
        assert bar is not None
        caution = Label(CAUTION)
        caution.setProperty("role", "quiet")
        caution.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        caution.setToolTip(CAUTION)
        self.state_label = SteadyLabel("State of the work")
        bar.addWidget(self.state_label)
        self.state_label.setContentsMargins(6, 0, 12, 0)  # the bar has taken them away
        bar.addPermanentWidget(caution, 1)
        self.resize(*DESIGN_SIZE)
        for name in ("main", "left", "right"):
            self._size_panes(name)

    def _size_panes(self, name: str) -> None:
        """As wide as they were left, or as they are at first."""
        self.splitters[name].setSizes(SPLITS[name])
        kept = self.settings.value(f"splitter/{name}")
        if isinstance(kept, QByteArray):
            self.splitters[name].restoreState(kept)

    @cached_property
    def lower(self) -> Lower:
        """Layup, checks and pictures of the chosen candidate."""
        from omakase.ui.window.lower import Lower

        late = (lambda: self.material_card, lambda: self.ways_view, lambda: self.break_picture,
                lambda: self.reasons_picture)  # fmt: skip
        self._empty.setParent(None)
        leave(self._empty)
        made = Lower(self.session, self.theme, self.splitters["bottom"], late)
        self.splitters["pictures"] = made.pictures
        self._size_panes("bottom")
        self._size_panes("pictures")
        made.layup_editor.details.clicked.connect(lambda: self.show_details())
        made.fields.setCurrentIndex(self.plans.currentIndex())
        return made

    @property
    def layup_editor(self) -> LayupEditor:
        return self.lower.layup_editor

    @property
    def checks_view(self) -> ChecksView:
        return self.lower.checks_view

    @property
    def pages(self) -> LateStack:
        """The pages beside the checks."""
        return self.lower.pages

    def _show_kind(self) -> None:
        """The pictures of the brief's kind of member."""
        brief = self.session.brief
        along = brief is not None and kind_of(brief).plan(brief, None, self.session.units) is not None
        self.plans.setCurrentIndex(int(along))
        if "lower" in self.__dict__:
            self.lower.fields.setCurrentIndex(int(along))

    def show_page(self, index: int) -> None:
        """Shows one of the pages beside the checks; what has taken their place is hidden."""
        self._make_room()
        self.pages.setCurrentIndex(index)

    def _make_room(self) -> None:
        if not self.splitters["bottom"].isVisibleTo(self):
            self.show_line_up()

    def focus_on(self, widget: QWidget) -> None:
        if self.splitters["bottom"].isAncestorOf(widget):
            self._make_room()
        widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
        if hasattr(widget, "selectAll"):
            widget.selectAll()

    def step_pane(self, by: int) -> None:
        """Moves the keyboard to the next of brief, line-up or the page in its place, layup, checks."""
        shown = self.top.currentWidget()
        entry = shown.entry if isinstance(shown, TopPage) else self.line_up_view
        panes: list[tuple[QWidget, QWidget | None]] = [
            (self.brief_view, next((f for p in self.brief_view.paragraphs.values() for f in p.fields), None)),
            (self.top, entry),
            (self.layup_editor, self.layup_editor.table),
            (self.checks_view, self.checks_view.table),
        ]
        focus = self.focusWidget()
        here = next(
            (i for i, (pane, _) in enumerate(panes) if focus and (pane is focus or pane.isAncestorOf(focus))), -1
        )
        target = panes[(here + by) % len(panes)][1]
        if target is not None:
            if self.splitters["bottom"].isAncestorOf(target):
                self._make_room()
            if self.brief_view.isAncestorOf(target) and not self.brief_view.isVisibleTo(self):
                self.show_line_up()
            target.setFocus(Qt.FocusReason.ShortcutFocusReason)

    # --- acts -----------------------------------------------------------------------------------------------

    def switch_units(self) -> None:
        project = self.session.document.project
        other: UnitSystem = "inch_pound" if project.units == "si" else "si"
        self.settings.setValue("units", other)
        self.session.do(EditHeader(project.title, project.title, project.units, other, "change the units"))

    def ask_kind(self) -> None:
        """Offers the kinds of members that a new brief may be about."""
        entries = [
            (f"&{kind.title[:1].upper()}{kind.title[1:]}", lambda name=kind.name: self.acts.add_brief(name))
            for kind in all_kinds().values()
        ]
        self.kind_menu = popup(self.brief_view, entries)

    def show_ways(self) -> None:
        """Looks for the smallest changes that pass."""
        self.show_page(3)
        self.ways_view.show_forms(False)
        self.ways_view.list.setFocus()

    def show_forms(self) -> None:
        """Looks for the lightest of each form of a panel: skins, core, ribs, arch, dish, lips."""
        self.show_page(3)
        self.ways_view.show_forms(True)
        self.ways_view.list.setFocus()

    def add_sample(self) -> None:
        """Makes a sample of the chosen candidate, to be weighed."""
        self._make_room()
        self.top.setCurrentWidget(self.samples_view)
        self.samples_view.add_sample()

    def switch_top(self, page: TopPage) -> bool:
        """Shows a page in the line-up's place, or the line-up again where it is there already; tells which."""
        if self.top.currentWidget() is page:
            self.show_line_up()
            return False
        self.top.setCurrentWidget(page)
        self.splitters["bottom"].setVisible(not page.whole)
        self._fold_brief(page.alone)
        page.entry.setFocus()
        return True

    # --- what pages are shown for --------------------------------------------------------------------------------

    def in_full(self, act: Callable[[], None]) -> None:
        """Does something that leaves the window with numbers: when those of the last edit are of the full order."""
        if not self.session.settled:
            self._tell("computing in full first …")
        self.session.computed.once_settled(act)

    def preview_pages(self, record: bool = False) -> None:
        """Shows what would be printed of what is looked at: the line-up or the record of the candidate, the report of
        the series at the test bench, the sheets of the job at the build sheets."""
        project, shown = self.session.document.project, self.top.currentWidget()
        line_up, candidate, second = self.recorded()
        build = self.build_view.model.plan if self._is_at("build_view") else None
        if self.is_at_the_tests and self.tests_view.model.named()[0]:
            series, title = self.tests_view.model.named()
            make = pages.of_series(project, series)
        elif build is not None:
            title, make = build.job.name, pages.of_job(project, build)
        elif line_up is not None:
            title = f"{line_up.brief.name} record" if record else line_up.brief.name
            make = (
                pages.of_record(project, line_up, candidate, second) if record else pages.of_line_up(project, line_up)
            )
        else:
            self._tell("there is nothing to print")
            return
        if shown is not self.preview:
            self.switch_top(self.preview)
        self.preview.show_pages(title, make)

    def write_deck(self) -> None:
        """Writes the chosen candidate for a finite-element solver."""
        page = self.second_view
        title, candidate = self.session.document.project.title, self.session.candidate
        self.files.export_deck(page.result(), candidate.name if candidate is not None else "", title)

    def show_help(self, part: str) -> None:
        """Shows help at one of its parts."""
        if self.top.currentWidget() is not self.help_view:
            self.switch_top(self.help_view)
        self.help_view.show_part(part)

    def help_here(self) -> None:
        """Explains what has the keyboard: a check, a row, a property, a finding, a test, a limit of the brief."""
        widget = self.focusWidget()
        limits = [own.key for own in QUANTITIES if widget is not None and widget.accessibleName() == own.field]
        keys = [f"quantity:{key}" for key in limits]
        while widget is not None and widget is not self:
            ask = getattr(widget, "help_topic", None)
            keys += [ask()] if ask is not None else []
            widget = widget.parentWidget()
        wanted = next((key for key in keys if key), "")
        self._at_help()
        if not self.help_view.show_topic(wanted):
            self.help_view.show_part("marks")
        self.help_view.page.setFocus()

    def begin_path(self) -> None:
        """Begins the first ten minutes, on the demo."""
        self.files.open_demo(self.first_path.begin)

    def search_help(self) -> None:
        """Shows help with the keyboard in its search line."""
        self._at_help()
        self.help_view.search()
        self.help_view.query.setFocus()

    def _at_help(self) -> None:
        if self.top.currentWidget() is not self.help_view:
            self.switch_top(self.help_view)

    def at_the_bench(self, page: int) -> None:
        """Shows a page of the build view."""
        if self.top.currentWidget() is not self.build_view:
            self.switch_top(self.build_view)
        self.build_view.show_page(page)

    def new_job(self) -> None:
        """A job of the chosen candidate, shown."""
        self.at_the_bench(0)
        self.build_view.add_job()

    def write_job(self, ending: str) -> None:
        """Writes the shown job to a file, each of its tables to one without an ending; the view is shown where its
        plan is not there yet."""
        plan = self.build_view.model.plan
        if plan is None and self.build_view.model.job is not None and self.top.currentWidget() is not self.build_view:
            self.switch_top(self.build_view)
            self._tell("the job is being planned: write it again in a moment")
            return
        if ending:
            self.files.export_job(plan, ending)
        else:
            self.files.export_job_tables(plan)

    def recorded(self) -> tuple[LineUp | None, str, tuple[Line, ...]]:
        """The line-up and the chosen candidate, of which a record is written, and the second opinion kept of it."""
        brief, candidate, project = self.session.judged_brief, self.session.candidate, self.session.document.project
        if brief is None or candidate is None:
            return self.session.line_up(), "", ()
        from omakase.evaluate.second.keeping import kept, lines_of  # slow to import and rarely needed

        second = lines_of(kept(project, brief, candidate, materials_of(project)))
        return self.session.line_up(), candidate.id, second

    def at_the_tests(self, act: Callable[[TestsView], object]) -> None:
        """Does something at the test bench, which is shown for it."""
        if self.top.currentWidget() is not self.tests_view:
            self.switch_top(self.tests_view)
        act(self.tests_view)

    @property
    def is_at_the_tests(self) -> bool:
        """Whether the test bench is shown."""
        return self._is_at("tests_view")

    def _is_at(self, name: str) -> bool:
        """Whether a page is shown; it is not made for the question."""
        page = self.__dict__.get(name)
        return page is not None and self.top.currentWidget() is page

    def switch_library(self) -> None:
        """Shows the library in the line-up's place, with the card of its material beside; and back."""
        if self.switch_top(self.library_view):
            self._page_before = self.pages.currentIndex()
            self.show_page(2)
            self.library_view.choose(self.material_card.model.short_name)

    def show_details(self) -> None:
        """Shows the details of the chosen candidate."""
        if self.top.currentWidget() is not self.details_view:
            self.switch_top(self.details_view)

    def show_line_up(self) -> None:
        """Shows the line-up again."""
        if self._is_at("library_view") and self.pages.currentIndex() == CARD:
            self.pages.setCurrentIndex(self._page_before)  # the card was shown for the library
        self.top.setCurrentIndex(0)
        self.splitters["bottom"].show()
        self._fold_brief(False)
        self.line_up_view.setFocus()

    def _fold_brief(self, folded: bool) -> None:
        """Takes the brief out of sight where a page is not about it."""
        column = self.splitters["main"].widget(0)
        if column is not None:
            column.setVisible(not folded)

    def use_material(self, short_name: str) -> None:
        """Puts a material of the library into the selected layers of the chosen candidate, or adds a layer of it."""
        if self.layup_editor.use_material(short_name):
            self._tell(f"{short_name} is in the layup")

    def copy_material(self) -> None:
        """Makes the selected layer's material one of the project's own, to be changed."""
        self.show_page(2)
        new = self.material_card.copy()
        if new:
            self._tell(f"'{new}' is the project's own: double-click a value to change it")

    def copy_stiffness(self) -> None:
        """Puts the stiffness matrices of the chosen layup on the clipboard, SI, for a spreadsheet."""
        result, clipboard = self.session.result, QApplication.clipboard()
        if result is None or result.stack is None or clipboard is None:
            self._tell("there is no layup to copy from")
            return
        clipboard.setText(stiffness_text(result.stack))
        self._tell("A, B and D copied (SI, tab between columns)")

    # --- looks ----------------------------------------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        apply_theme(application, theme)
        for view in (self.panel_picture, self.span_picture, self.line_up_view, self.lower, *self.top_pages):
            view.set_theme(theme)

    def switch_theme(self) -> None:
        self.set_theme(LIGHT if self.theme is DARK else DARK)
        self.settings.setValue("theme", self.theme.name)

    def step_size(self, by: int) -> None:
        """Next larger or smaller size of all text."""
        nearest = min(range(len(SIZES)), key=lambda i: abs(SIZES[i] - base_size()))
        size = SIZES[max(0, min(nearest + by, len(SIZES) - 1))]
        set_base_size(size)
        self.settings.setValue("text_size", size)
        self.set_theme(self.theme)
        wider = int(300 * (size / SIZES[1]) ** 0.7)
        self.splitters["main"].setSizes([wider, self.width() - wider])
        self.splitters["bottom"].setSizes([wider, 385, 295])
        self.line_up_view.refresh()
        self.checks_view.refresh()
        self.layup_editor.refresh()

    # --- state ----------------------------------------------------------------------------------------------

    def _tell(self, text: str) -> None:
        bar = self.statusBar()
        if bar is not None:
            bar.showMessage(text, 6000)

    def _show_state(self) -> None:
        document = self.session.document
        self.setWindowTitle(f"{self.files.title}[*] – Omakase")
        self.setWindowModified(document.modified)
        for action, text, word in ((self.undo, document.undo_text, "Undo"), (self.redo, document.redo_text, "Redo")):
            action.setEnabled(bool(text))
            action.setText(f"{word}: {text}" if text else word)
        self._show_decision()

    def _show_saved(self) -> None:
        document = self.session.document
        computing = "" if self.session.settled else "refining …   "
        saved = "not saved" if document.modified else ("saved" if document.path else "")
        self.state_label.setText(f"{computing}{saved}   Ctrl+K: all commands")

    def _show_decision(self) -> None:
        """What the line-up decides, and whether it is still being computed."""
        self._show_saved()
        told = self.session.document.project, self.session.line_up()
        if self._told is not None and self._told[0] is told[0] and self._told[1] is told[1]:
            return  # an edit tells of its results, then of itself
        self._told = told
        remark, decided = decision(told[1], self.session.units), self.session.decided
        both = (remark, decided) if decided.endswith("unchanged.") else (decided, remark)
        remark = " ".join(text for text in both if text)
        self.decision.setText(remark)
        self.decision.setToolTip(plain(remark))
        self.decision.setVisible(bool(remark))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        QTimer.singleShot(UNPAINTED_MS, self._begin)  # where nothing is painted

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._begun:
            QTimer.singleShot(AFTER_PAINTING_MS, self._begin)

    def _begin(self) -> None:
        """The window has been painted: the rest of it is made, and the work begins."""
        if not self._begun and not self._closing:
            self._begun = True
            self.brief_view.finish()
            self.lower  # noqa: B018  made when it is first asked for
            self.session.start()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self.exchange.dropped(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        path = self.exchange.dropped(event.mimeData()) if event is not None else None
        if path is not None:
            self.exchange.take(path)

    def keep_on_screen(self) -> None:
        """Opens inside the screen, its frame too."""
        screen = self.screen()
        if screen is None or self.isMaximized() or self.isFullScreen():
            return
        room, frame = screen.availableGeometry(), self.frameGeometry()
        title = max(frame.height() - self.height(), TITLE_BAR)
        width, height = min(self.width(), room.width()), min(self.height(), room.height() - title)
        if (width, height) != (self.width(), self.height()):
            self.resize(width, height)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        if self.session.document.modified and not self._closing:
            event.ignore()
            self.files.with_work_safe(self._close_now)
            return
        self._begun = True  # a window that is closed at once makes no more
        self._fold_brief(False)
        for name, panes in self.splitters.items():
            if name != "bottom" or "lower" in self.__dict__:
                self.settings.setValue(f"splitter/{name}", panes.saveState())
        self.files.close()
        searching = [getattr(page, "search", None) for page in self.top_pages]
        searching += [search for page in self.top_pages for search in page.searches]
        beside = self.pages.made() if "lower" in self.__dict__ else []
        searching += [getattr(page, "search", None) for page in (*beside, self.__dict__.get("equals"))]
        for search in searching:
            if isinstance(search, Searching):
                search.close()
        self.session.close()
        event.accept()

    def _close_now(self) -> None:
        self._closing = True
        self.close()
