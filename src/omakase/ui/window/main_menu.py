"""The menus of the main window: every act with its words, its key and its place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu

from omakase.evaluate.members.registry import all_kinds
from omakase.ui.testing import BELIEF, COMPARE, FRAME, PLAN, SPECIMENS, STATISTICS
from omakase.ui.window.recent import Recent

if TYPE_CHECKING:
    from omakase.ui.testing.view import TestsView
    from omakase.ui.window.main_window import MainWindow


def _action(window: MainWindow, menu: QMenu, text: str, keys: str, act: Callable[[], object]) -> QAction:
    action = QAction(text, window)
    if keys:
        action.setShortcuts([QKeySequence(k) for k in keys.split("|")])
    action.triggered.connect(lambda _checked: act())
    menu.addAction(action)
    window.addAction(action)
    window.commands.append(action)
    return action


def _menu(window: MainWindow, title: str) -> QMenu:
    bar = window.menuBar()
    assert bar is not None
    menu = bar.addMenu(title)
    assert menu is not None
    return menu


def make_actions(window: MainWindow) -> None:
    """Every command with its key and its menu place; those that are shown differently later are kept in the window."""
    action, new_menu = partial(_action, window), partial(_menu, window)
    files, document = window.files, window.session.document

    def line_up_to(ending: str) -> None:
        window.in_full(lambda: files.export(window.session.line_up(), ending))

    def record() -> None:
        window.in_full(lambda: files.export_record(*window.recorded()))

    def preview(of_record: bool = False) -> None:
        window.in_full(lambda: window.preview_pages(of_record))

    menu = new_menu("&Project")
    action(menu, "&New project", "", files.new)
    action(menu, "&Open a project…", "Ctrl+O", files.open)
    recent = menu.addMenu("Open &recent")
    assert recent is not None
    window.recent = Recent(files, recent, window.settings)
    action(menu, "&Save", "Ctrl+S", files.save)
    action(menu, "Save &as…", "Ctrl+Shift+S", files.save_as)
    menu.addSeparator()
    action(menu, "Line-up to CS&V…", "Ctrl+E", lambda: line_up_to(".csv"))
    action(menu, "Line-up to a &workbook (XLSX)…", "", lambda: line_up_to(".xlsx"))
    action(menu, "Line-up to a one-page &PDF…", "Ctrl+P", lambda: line_up_to(".pdf"))
    action(menu, "&Design record (PDF)…", "Ctrl+Alt+E", record)
    action(menu, "Deck &for a finite-element solver…", "", lambda: window.write_deck())
    action(menu, "Print previe&w", "Ctrl+Alt+Q", lambda: preview())
    action(menu, "Print preview of the design record", "", lambda: preview(of_record=True))
    menu.addSeparator()
    action(menu, "Candidates &from a table…", "", lambda: window.exchange.read_candidates())
    action(menu, "Candidates to a ta&ble…", "", lambda: window.exchange.write_candidates())
    action(menu, "Section at the c&ursor to DXF or SVG…", "", lambda: window.exchange.write_section())
    action(menu, "Dia&grams to CSV, PNG or SVG…", "", lambda: window.exchange.write_diagrams())
    menu.addSeparator()
    action(menu, "&Materials from a table…", "", lambda: files.read_materials())
    action(menu, "Materials &to a table…", "", files.write_materials)
    menu.addSeparator()
    action(menu, "&Units: SI or inch-pound", "Ctrl+U", window.switch_units)
    action(menu, "&Quit", "Ctrl+Q", window.close)
    menu = new_menu("&Edit")
    window.undo = action(menu, "&Undo", "Ctrl+Z", document.undo)
    window.redo = action(menu, "&Redo", "Ctrl+Shift+Z|Ctrl+Y", document.redo)
    menu.addSeparator()
    action(menu, "&Find a command…", "Ctrl+K", lambda: window.command_list.open())
    menu = new_menu("&Brief")
    action(menu, "&New brief", "Ctrl+Shift+N", window.ask_kind)
    for kind in all_kinds().values():
        action(menu, f"New brief about a {kind.title}", "", lambda name=kind.name: window.acts.add_brief(name))
    action(menu, "&Duplicate the brief with its candidates", "", window.acts.duplicate_brief)
    action(menu, "&Remove the brief", "", window.acts.remove_brief)
    action(menu, "Next &brief", "Ctrl+PgDown", lambda: window.acts.step_brief(1))
    action(menu, "&Previous brief", "Ctrl+PgUp", lambda: window.acts.step_brief(-1))
    action(menu, "Resi&ze the brief, or the line-up", "Ctrl+Shift+Y", lambda: window.switch_top(window.resize_view))
    action(menu, "Desi&gn values by condition, or the line-up", "Ctrl+Shift+I",
           lambda: window.switch_top(window.design_values_view))  # fmt: skip
    action(menu, "Add a &load case", "Ctrl+Shift+L", window.brief_view.add_case)
    menu = new_menu("&Candidate")
    action(menu, "&New candidate", "Ctrl+N", window.acts.add_candidate)
    action(menu, "&Duplicate the candidate", "Ctrl+D", window.acts.duplicate_candidate)
    action(menu, "New part known by its measurements", "Ctrl+Shift+A", window.acts.add_measured)
    action(
        menu,
        "Solid, sandwich and metal just as &stiff",
        "Ctrl+Shift+E",
        lambda: window.equals.ask_core("stiffness"),
    )
    action(
        menu,
        "Solid, sandwich and metal just as &heavy",
        "Ctrl+Shift+G",
        lambda: window.equals.ask_core("mass"),
    )
    action(menu, "De&tails where loads enter, or the line-up", "Ctrl+Shift+B",
           lambda: window.switch_top(window.details_view))  # fmt: skip
    action(menu, "&Weigh a sample of it", "Ctrl+Shift+W", window.add_sample)
    action(menu, "&Remove the candidate", "Ctrl+Del", window.acts.remove_candidate)
    action(menu, "Re&name the candidate", "F2", lambda: window.focus_on(window.layup_editor.name))
    action(menu, "Make it the &baseline", "Ctrl+B", window.acts.make_baseline)
    action(menu, "Choose the &next candidate", "Alt+Right", lambda: window.line_up_view.step(1))
    action(menu, "Choose the &previous candidate", "Alt+Left", lambda: window.line_up_view.step(-1))
    action(menu, "Move it to the &right", "Alt+Shift+Right", lambda: window.acts.shift_candidate(1))
    action(menu, "Move it to the &left", "Alt+Shift+Left", lambda: window.acts.shift_candidate(-1))
    menu = new_menu("&Layup")
    action(menu, "Write it in the &quick line", "Ctrl+L", lambda: window.focus_on(window.layup_editor.line))
    action(menu, "&Repeat the selected layers", "Ctrl+Return", lambda: window.layup_editor.repeat_layers())
    action(menu, "Remo&ve the selected layers", "Ctrl+Backspace", lambda: window.layup_editor.table.remove_selected())
    action(menu, "Move the layer &up", "Alt+Up", lambda: window.layup_editor.move_layers(-1))
    action(menu, "Move the layer &down", "Alt+Down", lambda: window.layup_editor.move_layers(1))
    action(menu, "&Mirror face A to face B", "Ctrl+M", lambda: window.layup_editor.mirror())
    action(menu, "&Flip it over", "Ctrl+Shift+F", lambda: window.layup_editor.flip())
    action(menu, "T&urn the cloth's other side up", "Ctrl+Shift+U", lambda: window.layup_editor.turn_layers())
    action(
        menu, "&Share the selected layers as a sub-stack", "Ctrl+Shift+K", lambda: window.layup_editor.share_layers()
    )
    action(menu, "&Unlink the sub-stack", "Ctrl+Shift+J", lambda: window.layup_editor.release_layers())
    action(menu, "&Thicken the core", "Ctrl+Up", lambda: window.layup_editor.thicken_core(1))
    action(menu, "T&hin the core", "Ctrl+Down", lambda: window.layup_editor.thicken_core(-1))
    action(menu, "Layers of the ne&xt wall", "Ctrl+Alt+Right", lambda: window.layup_editor.walls.step(1))
    action(menu, "Layers of the wall &before", "Ctrl+Alt+Left", lambda: window.layup_editor.walls.step(-1))
    action(menu, "Read the section's &outline from a file", "Ctrl+Alt+O", lambda: window.outlines.read())
    action(menu, "Copy the layer's material into the &project", "Ctrl+Shift+M", window.copy_material)
    action(menu, "&Copy its A, B and D as text", "Ctrl+Shift+C", window.copy_stiffness)
    menu = new_menu("&View")
    action(menu, "Pictures of the &panel", "Ctrl+1", lambda: window.show_page(0))
    action(menu, "Pictures of the la&yup", "Ctrl+2", lambda: window.show_page(1))
    action(menu, "&Material of the layer", "Ctrl+3", lambda: window.show_page(2))
    action(menu, "&Ways out", "Ctrl+4", window.show_ways)
    action(menu, "&Forms of the panel, each sized", "Ctrl+Shift+R", window.show_forms)
    action(menu, "How the layup brea&ks", "Ctrl+6", lambda: window.show_page(4))
    action(menu, "Break it along the other a&xis", "Ctrl+Shift+X", lambda: window.break_picture.turn())
    action(menu, "What drives its result, and why it &differs", "Ctrl+Shift+H", lambda: window.show_page(5))
    action(menu, "Compare it with the next candidate", "Ctrl+Shift+D", lambda: window.reasons_picture.turn())
    action(menu, "Secon&d opinion by a solver, or the line-up", "Ctrl+Alt+F",
           lambda: window.switch_top(window.second_view))  # fmt: skip
    action(menu, "Stu&dies, or the line-up", "Ctrl+0", lambda: window.switch_top(window.study_view))
    action(menu, "Diagrams along the spa&n, or the line-up", "Ctrl+G", lambda: window.switch_top(window.diagram_page))
    action(menu, "W&hich cloth, or the line-up", "Ctrl+7", lambda: window.switch_top(window.cloth_view))
    action(menu, "Sa&mples, or the line-up", "Ctrl+8", lambda: window.switch_top(window.samples_view))
    action(menu, "The me&nu of trade-offs, or the line-up", "Ctrl+9", lambda: window.switch_top(window.menu_view))
    action(menu, "&Tests, or the line-up", "Ctrl+J", lambda: window.switch_top(window.tests_view))
    action(menu, "&Vehicle sheet, or the line-up", "Ctrl+Shift+V", lambda: window.switch_top(window.vehicle_view))
    action(menu, "Pa&rts and budget, or the line-up", "Ctrl+Alt+V", lambda: window.switch_top(window.parts_view))
    action(menu, "&Decisions and history, or the line-up", "Ctrl+H", lambda: window.switch_top(window.history_view))
    action(menu, "&Library of materials, or the line-up", "Ctrl+5", window.switch_library)
    action(menu, "Make a pl&y of the library's cloth", "Ctrl+Shift+P", lambda: window.library_view.make_ply())
    action(menu, "Put the library's material on my shel&f", "", lambda: window.library_view.keep_chosen())
    action(menu, "Take it off my shelf", "", lambda: window.library_view.drop_chosen())
    action(menu, "Give the sample's plies its resin share", "", lambda: window.samples_view.feed_materials())
    action(menu, "Remove the sample", "", lambda: window.samples_view.remove_sample())
    menu_of_tests = new_menu("&Tests")
    acts: tuple[tuple[str, str, Callable[[TestsView], object]], ...] = (
        ("&Plan this test of the candidate", "Ctrl+Shift+T", lambda tests: tests.plan_series()),
        ("Read a &file of a curve…", "Ctrl+I", lambda tests: tests.read_file()),
        ("Run the specimen on the &load frame", "Ctrl+R", lambda tests: tests.show_page(FRAME)),
        ("One specimen &more", "", lambda tests: tests.specimens.add_specimen()),
        ("&Weigh the specimen", "", lambda tests: tests.weigh()),
        ("&Specimens and curves", "Ctrl+Alt+1", lambda tests: tests.show_page(SPECIMENS)),
        ("S&tatistics of the series", "Ctrl+Alt+2", lambda tests: tests.show_page(STATISTICS)),
        ("The pla&n of the series", "Ctrl+Alt+3", lambda tests: tests.show_page(PLAN)),
        ("Recipes &compared", "Ctrl+Alt+4", lambda tests: tests.show_page(COMPARE)),
        ("P&redicted and measured", "Ctrl+Alt+5", lambda tests: tests.show_page(BELIEF)),
        ("&Accept what the series offers", "", lambda tests: tests.belief.accept_offer()),
        ("Wit&hdraw what was accepted", "", lambda tests: tests.belief.withdraw_chosen()),
    )
    for text, keys, act in acts:
        action(menu_of_tests, text, keys, lambda act=act: window.at_the_tests(act))
    action(menu_of_tests, "Specimens &from a table…", "", lambda: window.exchange.read_specimens())
    action(menu_of_tests, "All series to CS&V…", "", files.export_tests)
    action(menu_of_tests, "All series to a wor&kbook (XLSX)…", "", lambda: files.export_tests(".xlsx"))
    action(menu_of_tests, "Report of the ser&ies (PDF)…", "",
           lambda: window.at_the_tests(lambda tests: files.export_series(*tests.model.named())))  # fmt: skip
    menu_of_jobs = new_menu("B&uild")
    action(menu_of_jobs, "&Jobs, or the line-up", "Ctrl+Alt+B", lambda: window.switch_top(window.build_view))
    for page, (text, keys) in enumerate((
        ("&Parts and works", "Ctrl+Alt+P"), ("Ply &book", "Ctrl+Alt+Y"), ("&Cut list", "Ctrl+Alt+C"),
        ("&Resin", "Ctrl+Alt+R"), ("C&alendar", "Ctrl+Alt+D"), ("C&ost", "Ctrl+Alt+M"),
        ("&Masses and weighings", "Ctrl+Alt+W"), ("&Vacuum and cure", "Ctrl+Alt+U"), ("&Shop", "Ctrl+Alt+S"),
    )):  # fmt: skip
        action(menu_of_jobs, text, keys, lambda page=page: window.at_the_bench(page))
    menu_of_jobs.addSeparator()
    action(menu_of_jobs, "&New job of the candidate", "", lambda: window.new_job())
    for text, keys, ending in (
        ("All sheets of the job to P&DF…", "Ctrl+Alt+Shift+P", ".pdf"),
        ("All tables to a workboo&k (XLSX)…", "", ".xlsx"),
        ("Cut list to CS&V…", "", ".csv"), ("&Flat patterns to DXF…", "", ".dxf"),
        ("Flat patterns to S&VG…", "", ".svg"),
    ):  # fmt: skip
        action(menu_of_jobs, text, keys, lambda ending=ending: window.write_job(ending))
    action(menu_of_jobs, "All tab&les to CSV files…", "", lambda: window.write_job(""))
    help_menu = new_menu("&Help")
    action(help_menu, "&Explain what has the keyboard", "F1", window.help_here)
    action(help_menu, "&Search help", "Shift+F1", window.search_help)
    action(help_menu, "&First ten minutes, on the demo", "", window.begin_path)
    help_menu.addSeparator()
    for text, keys, part in (
        ("&Marks and symbols", "", "marks"),
        ("Words of the &quick line", "", "line"),
        ("&Keys", "", "keys"),
        ("&Terms", "", "terms"),
    ):
        action(help_menu, text, keys, lambda part=part: window.show_help(part))
    action(menu, "&Light or dark", "Ctrl+T", window.switch_theme)
    action(menu, "&Larger text", "Ctrl+=|Ctrl++", lambda: window.step_size(1))
    action(menu, "&Smaller text", "Ctrl+-", lambda: window.step_size(-1))
    action(menu, "&Next pane", "F6", lambda: window.step_pane(1))
    action(menu, "&Previous pane", "Shift+F6", lambda: window.step_pane(-1))
