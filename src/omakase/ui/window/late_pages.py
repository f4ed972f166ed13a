"""The pages of the main window, each made when it is first wanted: the window starts without them."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QMainWindow, QStackedWidget

from omakase.ui.kit.theme import Theme
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.ui.window.files import Files
from omakase.ui.window.notice import Notice

if TYPE_CHECKING:
    from omakase.ui.brief.design_values_view import DesignValuesView
    from omakase.ui.brief.history_view import HistoryView
    from omakase.ui.brief.parts_view import PartsView
    from omakase.ui.brief.resize_view import ResizeView
    from omakase.ui.brief.vehicle_view import VehicleView
    from omakase.ui.build.view import BuildView
    from omakase.ui.details.details_view import DetailsView
    from omakase.ui.layup.break_picture import BreakPicture
    from omakase.ui.layup.outline_reader import OutlineReader
    from omakase.ui.materials.cloth_view import ClothView
    from omakase.ui.materials.library_view import LibraryView
    from omakase.ui.materials.material_card import MaterialCard
    from omakase.ui.materials.samples_view import SamplesView
    from omakase.ui.sizing.equals_search import EqualsSearch
    from omakase.ui.sizing.menu_view import MenuView
    from omakase.ui.sizing.study_view import StudyView
    from omakase.ui.sizing.ways_view import WaysView
    from omakase.ui.testing.view import TestsView
    from omakase.ui.why.diagram_page import DiagramPage
    from omakase.ui.why.reasons_picture import ReasonsPicture
    from omakase.ui.why.second_view import SecondView
    from omakase.ui.window.exchange import Exchange
    from omakase.ui.window.first_path import FirstPath
    from omakase.ui.window.help_view import HelpView
    from omakase.ui.window.preview import Preview

Page = TypeVar("Page", bound=TopPage)


class LatePages(QMainWindow):
    """A window that has pages as soon as they are asked for; what is always there is laid out by ``MainWindow``.

    ``top`` : where those stand that take the line-up's place, all in ``top_pages``.
    """

    session: Session
    theme: Theme
    settings: QSettings
    files: Files
    notice: Notice
    top: QStackedWidget
    top_pages: list[TopPage]

    def _taken_in(self, page: Page) -> Page:
        page.left.connect(self.show_line_up)
        self.top.addWidget(page)
        self.top_pages.append(page)
        return page

    @cached_property
    def material_card(self) -> MaterialCard:
        """The material of the selected layer, or of the library."""
        from omakase.ui.materials.material_card import MaterialCard

        return MaterialCard(self.session, self.layup_editor.table, self.theme)

    @cached_property
    def ways_view(self) -> WaysView:
        """Ways out of what fails."""
        from omakase.ui.sizing.ways_view import WaysView

        return WaysView(self.session)

    @cached_property
    def break_picture(self) -> BreakPicture:
        """How the layup breaks."""
        from omakase.ui.layup.break_picture import BreakPicture

        return BreakPicture(self.session, self.theme)

    @cached_property
    def reasons_picture(self) -> ReasonsPicture:
        """What drives a result."""
        from omakase.ui.why.reasons_picture import ReasonsPicture

        return ReasonsPicture(self.session, self.theme)

    @cached_property
    def library_view(self) -> LibraryView:
        """The library of materials."""
        from omakase.ui.materials.library_view import LibraryView

        page = self._taken_in(LibraryView(self.session))
        page.chosen.connect(self.material_card.show_material)
        page.used.connect(self.use_material)
        return page

    @cached_property
    def cloth_view(self) -> ClothView:
        """Which cloth has the wanted stiffness."""
        from omakase.ui.materials.cloth_view import ClothView

        return self._taken_in(ClothView(self.session))

    @cached_property
    def samples_view(self) -> SamplesView:
        """Samples that were weighed."""
        from omakase.ui.materials.samples_view import SamplesView

        return self._taken_in(SamplesView(self.session))

    @cached_property
    def menu_view(self) -> MenuView:
        """The menu of trade-offs."""
        from omakase.ui.sizing.menu_view import MenuView

        return self._taken_in(MenuView(self.session, self.theme))

    @cached_property
    def study_view(self) -> StudyView:
        """Studies of one or two values."""
        from omakase.ui.sizing.study_view import StudyView

        return self._taken_in(StudyView(self.session, self.theme))

    @cached_property
    def diagram_page(self) -> DiagramPage:
        """Diagrams along the span."""
        from omakase.ui.why.diagram_page import DiagramPage

        return self._taken_in(DiagramPage(self.session, self.theme))

    @cached_property
    def vehicle_view(self) -> VehicleView:
        """The vehicle sheet."""
        from omakase.ui.brief.vehicle_view import VehicleView

        return self._taken_in(VehicleView(self.session))

    @cached_property
    def history_view(self) -> HistoryView:
        """Decisions and history."""
        from omakase.ui.brief.history_view import HistoryView

        return self._taken_in(HistoryView(self.session, self.settings))

    @cached_property
    def parts_view(self) -> PartsView:
        """Parts and budgets of vehicles."""
        from omakase.ui.brief.parts_view import PartsView

        return self._taken_in(PartsView(self.session))

    @cached_property
    def details_view(self) -> DetailsView:
        """Details of the chosen candidate."""
        from omakase.ui.details.details_view import DetailsView

        return self._taken_in(DetailsView(self.session, self.theme))

    @cached_property
    def equals(self) -> EqualsSearch:
        """What is just as stiff or as heavy."""
        from omakase.ui.sizing.equals_search import EqualsSearch

        search = EqualsSearch(self.session, self.line_up_view)
        search.told.connect(lambda text: self._tell(text))
        return search

    @cached_property
    def outlines(self) -> OutlineReader:
        """Outlines of sections from files."""
        from omakase.ui.layup.outline_reader import OutlineReader

        return OutlineReader(self.session, lambda kinds: self.files.ask_open(kinds), self.notice.say)

    @cached_property
    def exchange(self) -> Exchange:
        """Files to and from other programs."""
        from omakase.ui.window.exchange import Exchange

        return Exchange(self)

    @cached_property
    def first_path(self) -> FirstPath:
        """What to do in the first ten minutes."""
        from omakase.ui.window.first_path import FirstPath

        path = FirstPath(self)
        self._column.insertWidget(1, path)
        return path

    @cached_property
    def preview(self) -> Preview:
        """Pages before they are printed."""
        from omakase.ui.window.preview import Preview

        return self._taken_in(Preview(self.session, self.files))

    @cached_property
    def second_view(self) -> SecondView:
        """A finite-element solver's numbers beside our own."""
        from omakase.ui.why.second_view import SecondView

        page = self._taken_in(SecondView(self.session))
        page.deck_wanted.connect(self.write_deck)
        return page

    @cached_property
    def design_values_view(self) -> DesignValuesView:
        """Design values by condition."""
        from omakase.ui.brief.design_values_view import DesignValuesView

        return self._taken_in(DesignValuesView(self.session))

    @cached_property
    def resize_view(self) -> ResizeView:
        """The page that resizes a brief."""
        from omakase.ui.brief.resize_view import ResizeView

        return self._taken_in(ResizeView(self.session))

    @cached_property
    def help_view(self) -> HelpView:
        """The page of help."""
        from omakase.ui.window.help_view import HelpView

        return self._taken_in(HelpView(self.session, lambda: self.commands))

    @cached_property
    def tests_view(self) -> TestsView:
        """The test bench."""
        from omakase.ui.testing.view import TestsView

        return self._taken_in(TestsView(self.session, self.theme, self.settings))

    @cached_property
    def build_view(self) -> BuildView:
        """Jobs and what it takes to build them."""
        from omakase.ui.build.view import BuildView

        return self._taken_in(BuildView(self.session, self.theme))
