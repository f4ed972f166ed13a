"""Makes the pictures of docs/screenshots from the demo project: ./run shots [folder [names]]."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def main(folder: Path, only: list[str]) -> None:
    """Drives the real window offscreen, at the design size, and saves one PNG per view."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
        os.environ[name] = tempfile.mkdtemp()  # this user's own settings must not show

    from PyQt6.QtCore import QEvent

    from omakase.project.demo import demo_project
    from omakase.project.document import Document
    from omakase.project.model import Project
    from omakase.ui.build import BAG, BOOK, CALENDAR, COST, CUT, PARTS, RESIN, SHOP, WEIGHTS
    from omakase.ui.build.view import BuildView
    from omakase.ui.kit.searching import Searching
    from omakase.ui.kit.theme import DARK, LIGHT
    from omakase.ui.window.application import make_application, make_window, preferences
    from omakase.ui.window.main_window import MainWindow

    application = make_application(preferences())
    folder.mkdir(parents=True, exist_ok=True)

    def settle() -> None:
        for _ in range(8):
            application.processEvents()
            application.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)

    def shoot(
        name: str, prepare: Callable[[MainWindow], object], project: Project | None = None, size=(1280, 800), kept=True
    ):
        """One that is not ``kept`` is to look at, made only where it is named."""
        if name not in only and (only or not kept):
            return
        settings = preferences()
        settings.remove("splitter")  # as on the first day
        window = make_window(Document(project or demo_project()), settings, synchronous=True)
        window.resize(*size)
        window.show()
        settle()
        prepare(window)
        settle()
        window.grab().save(str(folder / f"{name}.png"))
        window.set_theme(LIGHT)
        window.step_size(-20)
        window.step_size(1)
        window.session.document.mark_saved(Path("demo"))
        window.close()
        window.deleteLater()
        settle()

    def core_shear(window: MainWindow) -> None:
        window.session.choose("c4")
        checks = window.session.result.checks if window.session.result else ()
        window.session.look_at_check(next(check for check in checks if check.check == "core_shear"))

    def layup(window: MainWindow) -> None:
        window.session.choose("c5")
        window.pages.setCurrentIndex(1)

    def material(window: MainWindow) -> None:
        window.session.choose("c5")
        window.layup_editor.table.select_row(1)
        window.copy_material()
        window.material_card._set_thickness(0.24e-3)
        model = window.material_card.model
        row = next(i for i, entry in enumerate(model.rows) if entry.key == "Xc")
        model.setData(model.index(row, 1), "390 MPa")
        model.setData(model.index(row, 2), "tested")
        model.setData(model.index(row, 3), "5 coupons")

    def library(window: MainWindow) -> None:
        window.session.choose("c4")
        window.switch_library()
        window.library_view.search.setText("carbon satin")
        window.library_view.kind.setCurrentIndex(window.library_view.kind.findData("cloth"))
        window.library_view.make_ply()

    def breaking(window: MainWindow) -> None:
        window.session.choose("c5")
        window.pages.setCurrentIndex(4)

    def cloths(window: MainWindow) -> None:
        window.session.choose("c4")
        window.switch_top(window.cloth_view)
        while window.cloth_view.searching:
            settle()

    def samples(window: MainWindow) -> None:
        window.switch_top(window.samples_view)
        window.samples_view.list.setCurrentItem(window.samples_view.list.topLevelItem(1))

    def ways(window: MainWindow) -> None:
        window.show_ways()
        settle()
        window.ways_view.search.begin_now()
        while window.ways_view.searching:
            settle()

    def menu(window: MainWindow) -> None:
        window.switch_top(window.menu_view)
        window.menu_view.start()
        while window.menu_view.searching:
            settle()

    def finish(search: Searching) -> None:
        settle()
        search.begin_now()
        while search.running:
            settle()

    def study(window: MainWindow) -> None:
        window.switch_top(window.study_view)
        finish(window.study_view.search)

    def study_map(window: MainWindow) -> None:
        window.switch_top(window.study_view)
        window.study_view.second.setCurrentIndex(window.study_view.second.findData("faces"))
        window.study_view.restart()
        finish(window.study_view.search)

    def reasons(window: MainWindow) -> None:
        window.session.choose("c3")
        window.pages.setCurrentIndex(5)
        window.reasons_picture.turn()
        finish(window.reasons_picture.search)

    def dark(window: MainWindow) -> None:
        window.session.choose_brief("b9")
        window.session.choose("c3")
        window.session.look_at_case("l1")
        window.pages.setCurrentIndex(1)
        window.set_theme(DARK)

    def chosen(brief: str, candidate: str, case: str = "") -> Callable[[MainWindow], None]:
        def choose(window: MainWindow) -> None:
            window.session.choose_brief(brief)
            window.session.choose(candidate)
            if case:
                window.session.look_at_case(case)

        return choose

    tube, spar = chosen("b4", "c4"), chosen("b6", "c5")
    fairing, lid = chosen("b7", "c4", "l2"), chosen("b8", "c4", "l2")

    def span(window: MainWindow) -> None:
        window.session.choose_brief("b6")
        window.session.choose("c3")
        window.session.look_at_wall("upper cap")
        window.switch_top(window.diagram_page)
        window.diagram_page.picture.overlay()
        window.diagram_page.picture.overlay()
        runs = window.diagram_page.runs
        runs.chosen = 1
        runs.setFocus()
        finish(runs.search)

    def rib_pitch(window: MainWindow) -> None:
        chosen("b13", "c4")(window)
        window.switch_top(window.study_view)
        view = window.study_view
        view.first.setCurrentIndex(view.first.findData("pitch"))
        view.measure.setCurrentIndex(view.measure.findData("share"))
        view.restart()
        finish(view.search)

    def vehicle(window: MainWindow) -> None:
        view = window.vehicle_view
        window.session.choose_brief("b6")
        window.session.choose("c3")
        window.switch_top(view)
        view.change(1, 1, "3.6 kg")
        finish(view.search)
        view.list.setCurrentItem(view.list.topLevelItem(2))

    def parts(window: MainWindow) -> None:
        window.switch_top(window.parts_view)
        window.parts_view.show_vehicle("v2")
        finish(window.parts_view.search)

    def resize(window: MainWindow) -> None:
        window.session.choose_brief("b9")
        window.switch_top(window.resize_view)
        window.resize_view.fields["along"].committed.emit(1.06)
        window.resize_view.fields["across"].committed.emit(1.08)

    def history(window: MainWindow) -> None:
        brief = window.session.brief
        changed = replace(brief, limits=replace(brief.limits, deflection=0.0045))
        window.session.choose("c3")
        window.session.edit_brief(changed, "less sag")
        window.switch_top(window.history_view)

    def tests(window: MainWindow) -> None:
        window.switch_top(window.tests_view)

    def plan(window: MainWindow) -> None:
        tests(window)
        window.switch_units()
        window.session.choose("c4")
        view = window.tests_view
        view.method.setCurrentIndex(view.method.findData("core_shear_beam"))
        view.plan_series()

    def statistics(window: MainWindow) -> None:
        tests(window)
        window.tests_view.model.choose_series("t5")
        window.tests_view.show_page(1)

    def compared(window: MainWindow) -> None:
        tests(window)
        window.tests_view.model.choose_series("t2")
        window.tests_view.show_page(3)

    def second_opinion(window: MainWindow) -> None:
        window.session.choose("c1")
        window.switch_top(window.second_view)
        window.second_view.start()
        finish(window.second_view.search)

    def details(window: MainWindow) -> None:
        window.session.choose("c4")
        window.switch_top(window.details_view)

    def job(page: int, then: Callable[[BuildView], object] = lambda _view: None) -> Callable[[MainWindow], None]:
        def show(window: MainWindow) -> None:
            window.at_the_bench(page)
            finish(window.build_view.model.search)
            then(window.build_view)

        return show

    def ply(view: BuildView) -> None:
        view.model.choose_part("p1")
        view.book.list.setCurrentItem(view.book.list.topLevelItem(3))

    def weighed(view: BuildView) -> None:
        view.weights.ledger.setCurrentItem(view.weights.ledger.topLevelItem(3))
        view.weights.offers.setCurrentItem(view.weights.offers.topLevelItem(0))

    def leak(view: BuildView) -> None:
        view.model.choose_part("p3")
        view.bag.list.setCurrentItem(view.bag.list.topLevelItem(0))

    def believed(window: MainWindow) -> None:
        tests(window)
        view = window.tests_view
        view.model.choose_specimen("p4")
        view.model.edit_specimen(lambda specimen: replace(specimen, sizes={}), "width")
        view.show_page(4)
        view.belief.accept_offer()

    from omakase.project.commands import replace
    from omakase.project.model import new_project

    shoot("bench", lambda window: None)
    shoot("why", core_shear)
    shoot("layup", layup, kept=False)
    shoot("material", material, kept=False)
    shoot("library", library)
    shoot("tube", tube)
    shoot("spar", spar)
    shoot("span", span)
    shoot("breaking", breaking, kept=False)
    shoot("cloths", cloths, kept=False)
    shoot("fairing", fairing)
    shoot("lid", lid, kept=False)
    shoot("hatch", chosen("b10", "c2", "l2"), kept=False)
    shoot("hatch-dished", chosen("b10", "c3"), kept=False)
    shoot("samples", samples, kept=False)
    shoot("ways", ways)
    shoot("menu", menu)
    shoot("study", study, kept=False)
    shoot("study-map", study_map, kept=False)
    shoot("reasons", reasons)
    shoot("vehicle", vehicle)
    shoot("leg", chosen("b11", "c5"), kept=False)
    shoot("bracket", chosen("b12", "c3", "l3"), kept=False)
    shoot("rib", chosen("b13", "c4", "l2"), kept=False)
    shoot("rib-pitch", rib_pitch)
    shoot("surface", chosen("b14", "c3", "l1"), kept=False)
    shoot("measured", chosen("b5", "c9"), kept=False)
    shoot("resize", resize, kept=False)
    shoot("parts", parts, kept=False)
    shoot("history", history, kept=False)
    shoot("dark", dark)
    shoot("tests", tests)
    shoot("plan", plan, kept=False)
    shoot("statistics", statistics, kept=False)
    shoot("details", details)
    shoot("second-opinion", second_opinion, kept=False)
    shoot("believed", believed, kept=False)
    shoot("job", job(PARTS), kept=False)
    shoot("ply-book", job(BOOK, ply), kept=False)
    shoot("cut-list", job(CUT))
    shoot("resin", job(RESIN), kept=False)
    shoot("calendar", job(CALENDAR))
    shoot("cost", job(COST), kept=False)
    shoot("weights", job(WEIGHTS, weighed))
    shoot("vacuum", job(BAG, leak), kept=False)
    shoot("shop", job(SHOP), kept=False)
    shoot("empty", lambda window: None, new_project(), kept=False)
    shoot("large-text", lambda window: window.step_size(4), kept=False)
    shown = {"bench": lambda window: None, "tube": tube, "spar": spar, "span": span, "strip": dark,
             "cloths": cloths, "samples": samples, "library": library, "tests": tests,
             "vehicle": vehicle, "parts": parts, "resize": resize, "history": history,
             "plan": plan, "statistics": statistics, "compared": compared, "believed": believed}  # fmt: skip
    shoot("compared", compared, kept=False)
    for name, show in shown.items():
        shoot(f"{name}-small", show, size=(1024, 700), kept=False)
    if not only or "report" in only:
        shoot_report(folder / "report.png")


def shoot_report(target: Path) -> None:
    """The one-page report of the demo's first brief, as it prints."""
    from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize
    from PyQt6.QtGui import QColor, QImage, QPainter
    from PyQt6.QtPdf import QPdfDocument

    from omakase.evaluate.results.engine import Evaluator
    from omakase.evaluate.results.records import evaluate_brief
    from omakase.project.demo import demo_project
    from omakase.reports.page import line_up_pdf

    project = demo_project()
    data = line_up_pdf(project, evaluate_brief(project, project.briefs[0], Evaluator()))
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    document = QPdfDocument(None)
    document.load(buffer)
    page = document.render(0, QSize(1280, 904))
    image = QImage(page.size(), QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.drawImage(0, 0, page)
    painter.end()
    image.save(str(target))


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER, sys.argv[2:])
