"""Every page is opened on the demo and every choice of its boxes made; nothing may go wrong inside."""

from __future__ import annotations

import gc
import itertools
import time
import weakref

from PyQt6.QtWidgets import QComboBox, QWidget

from omakase.project.commands import replace
from omakase.project.model import LoadCase
from omakase.project.panels import PatchLoad, PressureLoad
from omakase.ui.kit.leaving import leave
from omakase.ui.testing import BELIEF, COMPARE, FRAME, PLAN, SPECIMENS, STATISTICS
from tests.ui.support import WindowTest


class EveryPage(WindowTest):
    def choices(self, where: QWidget) -> int:
        """Chooses everything in every visible box below a widget; how many choices there were."""
        made = 0
        for box in where.findChildren(QComboBox):
            try:
                count = box.count() if box.isVisible() else 0
            except RuntimeError:  # another choice made its row anew
                continue
            for index in range(count):
                try:
                    box.setCurrentIndex(index)
                    box.activated.emit(index)
                except RuntimeError:  # the choice made the row anew, and the box with it
                    break
                self.process()
                made += 1
        return made

    def test_pages_in_the_line_up_s_place(self) -> None:
        window = self.window
        for page in (window.library_view, window.cloth_view, window.samples_view):
            window.switch_top(page)
            self.process()
            self.assertTrue(page.isVisible())
            self.choices(page)
        window.show_line_up()

    def test_pages_beside_the_layup(self) -> None:
        for index in range(self.window.pages.count()):
            self.window.show_page(index)
            self.process()
            self.choices(self.window.pages.currentWidget())
        self.choices(self.window.layup_editor)

    def test_studies_and_the_menu(self) -> None:
        for page in (self.window.study_view, self.window.menu_view):
            self.window.switch_top(page)
            self.process()
            self.assertGreater(self.choices(page), 0)
            self.window.show_line_up()

    def test_the_test_bench(self) -> None:
        self.window.switch_top(self.window.tests_view)
        view = self.window.tests_view
        for series in [own.id for own in self.window.session.document.project.series]:
            view.model.choose_series(series)
            for page in (SPECIMENS, STATISTICS, PLAN, COMPARE, BELIEF, FRAME):
                view.show_page(page)
                self.process()
                if series in ("t1", "t5"):
                    self.choices(view)

    def test_the_brief(self) -> None:
        for brief in self.window.session.document.project.briefs:
            self.window.session.choose_brief(brief.id)
            self.process()
            if brief.id == "b3":  # one load case: the quickest to judge after every choice
                self.assertGreater(self.choices(self.window.brief_view), 0)


class Absurd(WindowTest):
    def test_a_load_a_million_times_as_wide_as_the_panel_is_painted_and_refused(self) -> None:
        session = self.window.session
        brief = session.brief
        case = LoadCase("l1", "wide", (PatchLoad(1e3, 0.2, 0.2, 1e9, 1e9), PressureLoad(1e3)))
        start = time.perf_counter()
        session.edit_brief(replace(brief, load_cases=(case,)), "a wide load")
        self.process()
        self.window.panel_picture.grab()
        self.assertLess(time.perf_counter() - start, 5.0)
        self.assertFalse(session.result.ok)

    def test_without_load_cases_under_every_criterion(self) -> None:
        session = self.window.session
        for brief, criterion in zip(
            session.document.project.briefs, itertools.cycle(("tsai_wu", "maximum_strain")), strict=False
        ):
            session.choose_brief(brief.id)
            judgement = replace(session.brief.judgement, criterion=criterion)
            session.edit_brief(replace(session.brief, load_cases=(), judgement=judgement), "none")
            self.process()
            self.assertTrue(all(result.ok for result in session.line_up().results))


class Leaving(WindowTest):
    def test_what_leaves_is_kept_until_qt_has_deleted_it(self) -> None:
        """A layout may ask it for its size before; garbage collected within that question ended the program."""
        widget = QWidget(self.window)
        seen = weakref.ref(widget)
        leave(widget)
        del widget
        gc.collect()
        self.assertIsNotNone(seen())
        self.process()
        gc.collect()
        self.assertIsNone(seen())
