"""The command line: the window, or evaluation and validation without one."""

from __future__ import annotations

import argparse
import gc
import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from omakase import __version__

if TYPE_CHECKING:
    from omakase.evaluate.results.candidate_result import CandidateResult
    from omakase.evaluate.results.lineup import LineUp
    from omakase.evaluate.second.comparing import Line
    from omakase.project.model import Brief, Project

# Matrices here are small: one BLAS thread is twice as fast as two, and worker threads use the other cores.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="omakase", description="Workbench for composite sandwich structures.")
    parser.add_argument("--version", action="version", version=f"omakase {__version__}")
    commands = parser.add_subparsers(dest="command")
    window = commands.add_parser("open", help="open the window, with a project file if one is named")
    window.add_argument("file", nargs="?", type=Path)
    commands.add_parser("demo", help="open the window with the demo project")
    evaluate = commands.add_parser("evaluate", help="evaluate every candidate of a project file")
    evaluate.add_argument("file", type=Path, nargs="+")
    evaluate.add_argument("--json", action="store_true", help="print all results as JSON (docs/results.md)")
    validate = commands.add_parser("validate", help="say what is wrong in a project file, and where")
    validate.add_argument("file", type=Path)
    report = commands.add_parser("report", help="write a brief's line-up as CSV, workbook or PDF")
    report.add_argument("file", type=Path)
    report.add_argument("target", type=Path, help="a file ending in .csv, .xlsx or .pdf")
    report.add_argument("--brief", default="", help="id of the brief; the first one if not given")
    record = commands.add_parser("record", help="write the design record of a brief's decision as PDF")
    record.add_argument("file", type=Path)
    record.add_argument("target", type=Path, help="a file ending in .pdf")
    told = "run the solver now; without it what the project keeps is printed"
    record.add_argument("--second", action="store_true", help=told)
    deck = commands.add_parser("deck", help="write a candidate as a finite-element deck (CalculiX)")
    deck.add_argument("file", type=Path)
    deck.add_argument("target", type=Path, nargs="?", help="a file ending in .inp")
    deck.add_argument("--run", action="store_true", help="run the solver on two meshes and compare")
    section = commands.add_parser("section", help="write the section of a candidate at full size, every layer")
    section.add_argument("file", type=Path)
    section.add_argument("target", type=Path, help="a file ending in .dxf or .svg")
    section.add_argument("--at", default="", help="how far along the member, with unit or in m; most bent if not given")
    diagrams = commands.add_parser("diagrams", help="write the diagrams along the span of a candidate as a table")
    diagrams.add_argument("file", type=Path)
    diagrams.add_argument("target", type=Path, help="a file ending in .csv or .xlsx")
    for command in (record, deck, section, diagrams):
        command.add_argument("--brief", default="", help="id of the brief; the first one if not given")
        command.add_argument("--candidate", default="", help="id of the candidate; the one decided on if not given")
    size = commands.add_parser("size", help="ways out of each candidate, and a menu of the best trade-offs")
    size.add_argument("file", type=Path)
    size.add_argument("--brief", default="", help="id of the brief; the first one if not given")
    size.add_argument(
        "--candidate", default="", help="id of the one candidate whose ways to look for; all if not given"
    )
    size.add_argument("--choices", type=Path, help="a JSON file with what the menu may use (docs/results.md)")
    size.add_argument("--json", action="store_true", help="print everything as JSON (docs/results.md)")
    tests = commands.add_parser("tests", help="reduce every series of tests of a project file")
    tests.add_argument("file", type=Path)
    tests.add_argument("--json", action="store_true", help="print everything as JSON (docs/results.md)")
    tests.add_argument("--csv", type=Path, help="write one line per number into this file, .csv or .xlsx")
    tests.add_argument("--pdf", type=Path, help="write the test report into this file")
    tests.add_argument("--series", default="", help="id or name of the series that --pdf is of; all if not given")
    job = commands.add_parser("job", help="plan a job of a project file, and write its sheets")
    job.add_argument("file", type=Path)
    job.add_argument("target", type=Path, nargs="?", help="a name ending in .pdf, .xlsx, .csv (cut list), .dxf or .svg")
    job.add_argument("--job", default="", help="id or name of the job; the first one without it")
    compare = commands.add_parser("compare", help="say what changed between two project files, and which verdicts")
    compare.add_argument("old", type=Path)
    compare.add_argument("new", type=Path)
    commands.add_parser("schema", help="print the JSON Schema of project files")
    desktop = commands.add_parser("integrate", help="put it into this user's desktop, with man page and completion")
    desktop.add_argument("--remove", action="store_true", help="take it out again")
    return parser


def _evaluate(paths: list[Path], as_json: bool) -> int:
    """Results of every file; with one file the record itself is printed as JSON, with several a list of them."""
    from omakase.core.errors import OmakaseError
    from omakase.evaluate.results.records import project_record
    from omakase.project.storage import read_project

    status, records = 0, []
    for path in paths:
        try:
            project = read_project(path)
        except OmakaseError as error:
            if len(paths) == 1:
                raise
            print(f"omakase: {path}: {error}", file=sys.stderr)  # the others are evaluated all the same
            status = 2
            continue
        record = project_record(project)
        records.append(record)
        broken = [c for brief in record["briefs"] for c in brief["candidates"] if c["error"]]
        if not as_json:
            from omakase.reports.text import results_text

            sys.stdout.write(f"{path}\n" if len(paths) > 1 else "")
            sys.stdout.write(results_text(record, project.units))
        for candidate in broken:
            print(f"omakase: candidate '{candidate['name']}': {candidate['error']}", file=sys.stderr)
        status = max(status, 1 if broken else 0)
    if as_json:
        json.dump(records[0] if len(paths) == 1 else records, sys.stdout, indent=2, ensure_ascii=False, allow_nan=False)
        sys.stdout.write("\n")
    return status


def _validate(path: Path) -> int:
    from omakase.evaluate.vehicle.fields import all_problems
    from omakase.project.storage import read_project
    from omakase.project.validation import Problem, problems

    project = read_project(path)
    listed = [*problems(project), *(Problem(place, text) for place, text in all_problems(project))]
    for problem in listed:
        print(f"{problem.place}: {problem.message}")
    if not listed:
        print("no problems found")
    return 1 if listed else 0


def _compare(old_path: Path, new_path: Path) -> int:
    """Prints differences; 1 where there are any, as with other tools that compare."""
    from omakase.evaluate.history.changes import project_changes
    from omakase.evaluate.results.engine import Evaluator
    from omakase.evaluate.vehicle.effects import effects
    from omakase.evaluate.vehicle.words import TURN_WORDS, state_text
    from omakase.project.storage import read_project

    old, new = read_project(old_path), read_project(new_path)
    listed = list(project_changes(old, new))
    for what, texts in listed:
        print(what)
        for text in texts:
            print(f"  {text}")
    for effect, _, _ in effects(old, new, Evaluator()):
        if effect is not None and effect.turn != "same":
            before, after = state_text(effect.before), state_text(effect.after)
            where = f"{effect.brief_name}: {effect.candidate_name}"
            print(f"{where}: {before} → {after}, {TURN_WORDS[effect.turn].lstrip('×✓! ')}")
    if not listed:
        print("no differences")
    return 1 if listed else 0


def _read_brief(path: Path, brief_id: str) -> tuple[Project, Brief]:
    from omakase.core.errors import OmakaseError
    from omakase.project.model import find_brief
    from omakase.project.storage import read_project

    project = read_project(path)
    try:
        return project, find_brief(project, brief_id) if brief_id else project.briefs[0]
    except (KeyError, IndexError):
        raise OmakaseError(f"there is no brief '{brief_id}' in '{path.name}'") from None


def _report(path: Path, target: Path, brief_id: str) -> int:
    from omakase.evaluate.results.engine import Evaluator
    from omakase.evaluate.results.records import evaluate_brief
    from omakase.reports.write import write_report

    project, brief = _read_brief(path, brief_id)
    write_report(target, project, evaluate_brief(project, brief, Evaluator()))
    return 0


def _record(options: argparse.Namespace) -> int:
    import datetime

    from omakase.evaluate.second.keeping import kept, lines_of
    from omakase.project.library import materials_of
    from omakase.reports.record_pdf import write_record

    project, line_up, result = _read_candidate(options)
    if options.second:
        second = _second(project, line_up, result)
    else:
        second = lines_of(kept(project, line_up.brief, result.candidate, materials_of(project)))
    day = datetime.date.today().isoformat()
    write_record(options.target, project, line_up, options.candidate, day, second)
    return 0


def _second(project: Project, line_up: LineUp, result: CandidateResult) -> tuple[Line, ...]:
    """What the solver says; how far it is goes to the terminal."""
    from omakase.reports.second import second_opinion

    shown = sys.stderr.isatty()

    def told(text: str) -> None:
        if shown:
            print(f"\r{text}", end="", file=sys.stderr, flush=True)

    lines = second_opinion(result, f"{project.title}: {line_up.brief.name}", told)
    if shown:
        print(file=sys.stderr)
    return lines


def _deck(options: argparse.Namespace) -> int:
    from omakase.core.errors import OmakaseError
    from omakase.project.disk import write_atomically
    from omakase.reports.second import HEAD, deck_of, line_texts

    if options.target is None and not options.run:
        raise OmakaseError("name a file for the deck, or say --run")
    if options.target is not None and options.target.suffix.lower() != ".inp":
        raise OmakaseError(f"'{options.target.name}' should end in .inp")
    project, line_up, result = _read_candidate(options)
    if options.target is not None:
        write_atomically(options.target, deck_of(result, f"{project.title}: {line_up.brief.name}").encode())
    if not options.run:
        return 0
    lines = _second(project, line_up, result)
    rows = [HEAD, *(line_texts(line, project.units) for line in lines)]
    widths = [max(len(row[k]) for row in rows) for k in range(len(HEAD))]
    for row in rows:
        print("  ".join(text.ljust(width) for text, width in zip(row, widths, strict=True)).rstrip())
    return 0 if all(line.agrees for line in lines) else 1


def _section(options: argparse.Namespace) -> int:
    from omakase.core.errors import OmakaseError
    from omakase.evaluate.members.outline import outline
    from omakase.evaluate.results.diagrams import most_bent
    from omakase.project.disk import write_atomically
    from omakase.reports.section_lines import section
    from omakase.reports.vector import drawing_bytes
    from omakase.units import parse_quantity

    _, _, result = _read_candidate(options)
    if result.response is None or result.stack is None:
        raise OmakaseError("a part known by its measurements has no layers to draw")
    at = f"{options.at} m" if options.at[-1:].isdigit() else options.at
    station = parse_quantity(at, "length") if at else most_bent(result)
    drawn = section(outline(result.response, result.stack, station))
    write_atomically(options.target, drawing_bytes(drawn, options.target.suffix.lower()))
    return 0


def _diagrams(options: argparse.Namespace) -> int:
    from omakase.core.errors import OmakaseError
    from omakase.project.disk import write_atomically
    from omakase.reports.diagram_table import diagram_table
    from omakase.reports.sheets import table_csv, workbook

    project, line_up, result = _read_candidate(options)
    ending = options.target.suffix.lower()
    if ending not in (".csv", ".xlsx"):
        raise OmakaseError(f"'{options.target.name}' should end in .csv or .xlsx")
    table = diagram_table(line_up.brief, result, project.units)
    write_atomically(options.target, table_csv(table) if ending == ".csv" else workbook([table]))
    return 0


def _read_candidate(options: argparse.Namespace) -> tuple[Project, LineUp, CandidateResult]:
    """The project, the line-up of its brief, and the full result of the candidate that the options name."""
    from omakase.core.errors import OmakaseError
    from omakase.evaluate.record.decided import subject
    from omakase.evaluate.results.engine import Evaluator
    from omakase.evaluate.results.records import evaluate_brief
    from omakase.project.library import materials_of

    project, brief = _read_brief(options.file, options.brief)
    if options.candidate and options.candidate not in {own.id for own in brief.candidates}:
        raise OmakaseError(f"there is no candidate '{options.candidate}' in brief '{brief.id}'")
    line_up = evaluate_brief(project, brief, Evaluator())
    found = subject(project, line_up, materials_of(project), options.candidate)
    if found is None:
        raise OmakaseError("no candidate of the brief can be computed")
    return project, line_up, found.result


def _size(options: argparse.Namespace) -> int:
    from omakase.core.errors import OmakaseError
    from omakase.evaluate.sizing.sizing_records import read_choices, sizing_record
    from omakase.evaluate.sizing.workers import Workers
    from omakase.reports.text import sizing_text

    project, brief = _read_brief(options.file, options.brief)
    wanted = tuple(c for c in brief.candidates if not options.candidate or c.id == options.candidate)
    if options.candidate and not wanted:
        raise OmakaseError(f"there is no candidate '{options.candidate}' in brief '{brief.id}'")
    choices = read_choices(options.choices) if options.choices else None
    workers = Workers()
    try:
        record = sizing_record(project, brief, wanted, workers, choices)
    finally:
        workers.close()
    if options.json:
        json.dump(record, sys.stdout, indent=2, ensure_ascii=False, allow_nan=False)
        sys.stdout.write("\n")
    else:
        sys.stdout.write(sizing_text(record, project.units))
    menu = record["menu"]
    passing = any(entry["passes"] for entry in record["candidates"]) if "missing" in menu else bool(menu["dishes"])
    return 0 if passing else 1


def _tests(options: argparse.Namespace) -> int:
    import datetime

    from omakase.evaluate.testing.series_records import tests_record
    from omakase.project.storage import read_project
    from omakase.reports.series_table import write_series
    from omakase.reports.text import tests_text

    project = read_project(options.file)
    record = tests_record(project)
    if options.csv is not None:
        write_series(options.csv, project)
    if options.pdf is not None:
        from omakase.reports.series_pdf import write_series_report

        write_series_report(options.pdf, project, options.series, datetime.date.today().isoformat())
    if options.json:
        json.dump(record, sys.stdout, indent=2, ensure_ascii=False, allow_nan=False)
        sys.stdout.write("\n")
    elif options.csv is None and options.pdf is None:
        sys.stdout.write(tests_text(record, project.units))
    wrong = [(series, specimen) for series in record["series"] for specimen in series["specimens"] if specimen["error"]]
    for series, specimen in wrong:
        print(f"omakase: {series['name']}, specimen {specimen['name']}: {specimen['error']}", file=sys.stderr)
    return 1 if wrong else 0


def _job(path: Path, target: Path | None, wanted: str) -> int:
    import datetime

    from omakase.core.errors import OmakaseError
    from omakase.evaluate.build.plan import Planner, sums
    from omakase.project.storage import read_project
    from omakase.reports.job_write import write_job

    project = read_project(path)
    job = next((own for own in project.jobs if not wanted or wanted in (own.id, own.name)), None)
    if job is None:
        raise OmakaseError(f"there is no job '{wanted}' in '{path.name}'" if wanted else f"'{path.name}' has no jobs")
    plan = Planner().plan(project, job)
    print(f"{job.name}: {sums(plan)}")
    for text in (*(f"! {text}" for _, text in plan.problems), *plan.notes):
        print(text)
    if target is not None:
        write_job(target, plan, project.title, datetime.date.today().isoformat())
    return 1 if plan.problems else 0


def _window(file: Path | None, demo: bool) -> int:
    # what a start makes stays: looking through it for garbage, again and again, takes a tenth of the start
    gc.disable()
    from omakase.ui.window.application import run

    return run(file, demo)


def main(arguments: list[str] | None = None) -> int:
    """Runs the program; returns the exit status: 0 success, 1 findings, 2 could not be done."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    if words and words[0].endswith(".json") and Path(words[0]).exists():
        words = ["open", *words]
    options = _parser().parse_args(words)
    try:
        if options.command == "evaluate":
            return _evaluate(options.file, options.json)
        if options.command == "validate":
            return _validate(options.file)
        if options.command == "compare":
            return _compare(options.old, options.new)
        if options.command == "job":
            return _job(options.file, options.target, options.job)
        if options.command == "report":
            return _report(options.file, options.target, options.brief)
        if options.command == "section":
            return _section(options)
        if options.command == "diagrams":
            return _diagrams(options)
        if options.command == "deck":
            return _deck(options)
        if options.command == "record":
            return _record(options)
        if options.command == "size":
            return _size(options)
        if options.command == "tests":
            return _tests(options)
        if options.command == "integrate":
            from omakase import desktop

            desktop.told(desktop.withdraw() if options.remove else desktop.integrate(_parser()))
            return 0
        if options.command == "schema":
            from omakase.project.schema import schema_text

            sys.stdout.write(schema_text())
            return 0
        return _window(getattr(options, "file", None), options.command == "demo")
    except ValueError as error:  # every error meant for a person is one
        print(f"omakase: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 2


if __name__ == "__main__":
    sys.exit(main())
