"""The build view: a list of jobs and the pages about the chosen one."""

from __future__ import annotations

from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QTabBar, QVBoxLayout, QWidget

from omakase.evaluate.build.plan import sums
from omakase.project import jobs as edits
from omakase.ui.build.bag_page import BagPage
from omakase.ui.build.book_page import BookPage
from omakase.ui.build.calendar_page import CalendarPage
from omakase.ui.build.cost_page import CostPage
from omakase.ui.build.cut_page import CutPage
from omakase.ui.build.model import BuildModel
from omakase.ui.build.parts_page import PartsPage
from omakase.ui.build.resin_page import ResinPage
from omakase.ui.build.shop_page import ShopPage
from omakase.ui.build.weight_page import WeightPage
from omakase.ui.kit.day import today
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.theme import SPACE, Theme, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

TABS = ("Parts", "Ply book", "Cut list", "Resin", "Calendar", "Cost", "Masses", "Vacuum and cure", "Shop")
HINT = "No job yet. Choose a candidate in the line-up, then make a job of it here."


class BuildView(TopPage):
    """Takes the whole right side; plans the chosen job again after each edit while it is seen."""

    whole = alone = True

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session)
        self.model = BuildModel(session, self)
        self.list = self.entry = fitting_list("Jobs", ("Job",), 1)
        self.head, self.message = Heading(), Message()
        self.head.setWordWrap(True)
        self.notes = Label()
        self.notes.setWordWrap(True)
        self.new, self.drop = QPushButton("New job of the candidate"), QPushButton("Remove the job")
        self.tabs = QTabBar()
        self.tabs.setAccessibleName("Pages of the job")
        self.pages = QStackedWidget()
        self.parts, self.book = PartsPage(self.model), BookPage(self.model, theme)
        self.cut, self.resin = CutPage(self.model, theme), ResinPage(self.model)
        self.calendar, self.cost = CalendarPage(self.model, theme), CostPage(self.model)
        self.weights, self.bag, self.shop = WeightPage(self.model), BagPage(self.model, theme), ShopPage(self.model)
        self.searches = (self.model.search, self.cut.search)
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        for text in TABS:
            self.tabs.addTab(text)
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        for page in self._all_pages():
            self.pages.addWidget(page)
        self.list.setMinimumWidth(170)
        left, right, buttons = QVBoxLayout(), QVBoxLayout(), FlowLayout(gap=SPACE)
        left.addWidget(Heading("Jobs", "Esc goes back"))
        left.addWidget(self.list, 1)
        for button in (self.new, self.drop):
            buttons.addWidget(button)
        left.addLayout(buttons)
        left.addWidget(self.notes)
        right.addWidget(self.head)
        right.addWidget(self.tabs)
        right.addWidget(self.pages, 1)
        right.addWidget(self.message)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(2 * SPACE)
        layout.addLayout(left, 2)
        layout.addLayout(right, 9)

    def _all_pages(self) -> tuple[QWidget, ...]:
        return (
            self.parts, self.book, self.cut, self.resin, self.calendar, self.cost, self.weights, self.bag, self.shop,
        )  # fmt: skip

    def _connect(self) -> None:
        self.model.changed.connect(self.refresh)
        self.model.planned.connect(self.refresh)
        self.model.told.connect(self.message.say)
        self.list.currentItemChanged.connect(lambda _now, _before: self._chosen(chosen_key(self.list)))
        self.new.clicked.connect(lambda: self.add_job())
        self.drop.clicked.connect(lambda: self.remove_job())
        self.tabs.currentChanged.connect(self.show_page)

    def set_theme(self, theme: Theme) -> None:
        for page in (self.book, self.cut, self.calendar, self.bag):
            page.set_theme(theme)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.model.watch(True)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.model.watch(False)

    def show_page(self, index: int) -> None:
        """Shows a page by its place."""
        self.tabs.setCurrentIndex(index)
        self.pages.setCurrentIndex(index)

    # --- what is shown --------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if not self.isVisible():
            return
        job, plan = self.model.job, self.model.plan
        rows = [(own.id, (own.name or own.id,)) for own in self.model.project.jobs]
        fill_list(self.list, rows, job.id if job is not None else "", ())
        self.drop.setEnabled(job is not None)
        if job is None:
            self.head.show_parts("", HINT)
            self.notes.setText("")
            return
        self.head.show_parts(f"{job.name}, revision {job.revision}", sums(plan) if plan is not None else "")
        problems = [text for _, text in plan.problems] if plan is not None else []
        notes = list(plan.notes) if plan is not None else []
        self.notes.setText("\n".join([*problems, *notes]))
        set_property(self.notes, "role", "alarm" if problems or notes else "quiet")
        self.message.say("")

    def _chosen(self, identity: str) -> None:
        if identity:
            self.model.choose_job(identity)

    # --- acts -----------------------------------------------------------------------------------------------

    def add_job(self) -> None:
        """A new job of the line-up's chosen candidate."""
        candidate = self.session.candidate
        if candidate is None or not candidate.layers:
            self.message.warn("choose a candidate with a layup in the line-up first")
            return
        command, identity = edits.add_job(self.model.project, self.session.brief, candidate, today())
        self.model.do(command)
        self.model.choose_job(identity)

    def remove_job(self) -> None:
        """Removes the chosen job; undo brings it back."""
        job = self.model.job
        if job is not None:
            self.model.do(edits.remove_job(self.model.project, job.id))
