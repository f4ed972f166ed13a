"""Puts the made-up workshop's series of tests into the demo project: python -m scripts.demo_tests.

All data comes from the simulated frame with fixed draws, so that running this again gives the same file.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from omakase.core.specimens.curve import Curve, Quantity
from omakase.core.specimens.registry import all_methods
from omakase.devices.simulated import SimulatedFrame, hide, run_through
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.testing import planning
from omakase.project import series as edits
from omakase.project.commands import replace
from omakase.project.curves import to_record
from omakase.project.demo import DEMO_FILE, demo_project
from omakase.project.library import materials_of
from omakase.project.model import LayerRecord, LoadItem, Project, Series, Specimen, find_brief, find_candidate
from omakase.project.storage import write_project

ROOT = Path(__file__).parents[1]
ROWS = 250
SPEED = 4e-3 / 60.0
COMPLIANCE = 2.2e-8


def planned(project: Project, brief_id: str, candidate_id: str, method: str, name: str, on: str, count: int) -> Series:
    brief = find_brief(project, brief_id)
    candidate = find_candidate(brief, candidate_id)
    series = planning.plan(brief, candidate, method, materials_of(project), on, count=count)
    return replace(series, name=name, compliance=COMPLIANCE, capacity=20e3)


def broken(
    project: Project, series: Series, bias: dict[str, float], key: str, gauges: tuple[Quantity, ...] = (),
    capacity: float = 20e3, stiff: float | None = 1.0,
) -> Series:  # fmt: skip
    """The series with a curve in every planned specimen; ``stiff`` : factor on its stiffness, None for a metal blank,
    which is just as stiff as it should be and stays straight."""
    method = all_methods()[series.method]
    expected = planning.predicted(series, materials_of(project))
    assert expected is not None
    specimens = []
    for i in range(series.planned):
        hidden = hide(expected, method, key, f"{key} {i}", bias)
        if stiff is None:
            hidden = replace(hidden, stiffness=expected.stiffness, softening=0.0)
        else:
            hidden = replace(hidden, stiffness=hidden.stiffness * stiff)
        frame = SimulatedFrame(hidden, capacity, COMPLIANCE, gauges=gauges, seed=i)
        rows = run_through(frame, SPEED)
        rows.pop("time")
        place = {"it breaks at the grip": "grip", "core shear": "core"}.get(hidden.manner, "gauge")
        specimen = Specimen(f"p{i + 1}", f"{i + 1}", place=place, manner=hidden.manner)
        specimens.append(edits.with_curve(specimen, to_record(Curve(rows), "simulated load frame", rows=ROWS)))
    return replace(series, specimens=tuple(specimens))


def changed(series: Series, number: int, change: Callable[[Specimen], Specimen]) -> Series:
    return edits.change_specimen(series, f"p{number}", change)


def cores(project: Project) -> Series:
    """Short beams of the footwell floor; the width of number 4 was written down wrongly."""
    series = planned(project, "b1", "c2", "core_shear_beam", "Footwell floor, core shear", "2026-09-14", 6)
    series = replace(series, recipe="wet layup, bagged, 7 days at 22 °C")
    series = broken(project, series, {"core shear": 0.9}, "footwell")
    width = series.sizes["width"]
    return changed(series, 4, lambda s: replace(s, sizes={"width": round(0.7 * width, 4)}, note="width as noted"))


def spars(project: Project) -> Series:
    """Unidirectional strips for the oar; one slipped in the grip."""
    layers = (LayerRecord("ud200"),) * 4
    brief = find_brief(project, "b3")
    candidate = replace(brief.candidates[2], name="four plies at 0°", layers=layers)
    series = planning.plan(brief, candidate, "tension", materials_of(project), "2026-09-21", count=7)
    series = replace(series, name="Oar, unidirectional pulled", candidate="", recipe="bagged on glass", capacity=50e3,
                     compliance=COMPLIANCE, sizes={**series.sizes, "width": 0.015})  # fmt: skip
    series = replace(series, prediction=planning.freeze(series, materials_of(project), "2026-09-21"))
    series = broken(project, series, {"fibres break": 0.94}, "oar", ("strain", "cross_strain"), 50e3)
    weak = series.specimens[2].curve
    assert weak is not None
    columns = tuple(replace(c, step=c.step * 0.83) for c in weak.columns)  # it slipped out early
    return changed(series, 3, lambda s: replace(s, curve=replace(weak, columns=columns), place="grip",
                                                manner="slipped out of the tab"))  # fmt: skip


def bars(project: Project) -> tuple[Series, Series]:
    """The same bar from two processes."""
    found = []
    for name, key, strength, stiff, recipe, cost in (
        ("Drone floor, bars bagged", "bagged", 0.97, 1.0, "bagged, 45 % resin by mass", 62.0),
        ("Drone floor, bars by hand", "by hand", 0.99, 0.86, "wet by hand, not bagged", 51.0),
    ):
        series = planned(project, "b2", "c4", "flexure_3", name, "2026-10-05", 5)
        series = replace(series, recipe=recipe, cost=cost, working_load=40.0)
        found.append(broken(project, series, {"outer fibres fail": strength}, key, stiff=stiff))
    return found[0], found[1]


def blank(project: Project) -> Series:
    """An aluminium bar on a short span: what the machine itself gives way by."""
    layers = (LayerRecord("al6082", thickness=0.004),)
    brief = find_brief(project, "b2")
    candidate = replace(brief.candidates[3], name="aluminium blank", layers=layers)
    series = planning.plan(brief, candidate, "flexure_3", materials_of(project), "2026-10-02", count=2)
    sizes = {**series.sizes, "width": 0.015, "thickness": 0.004, "span": 0.04, "known_modulus": 70e9}
    series = replace(series, name="Aluminium blank, short span", candidate="", material="", sizes=sizes,
                     prediction=None, capacity=5e3, note="loaded well below yield, to see the machine")  # fmt: skip
    series = broken(project, series, {}, "blank", capacity=700.0, stiff=None)
    return replace(series, specimens=tuple(replace(s, place="none", manner="") for s in series.specimens))


def planks(project: Project) -> Series:
    """Cantilevered strips of the plank with blocks and water; the last one outlasted the weights."""
    series = planned(project, "b3", "c3", "cantilever", "Oar plank, blocks and water", "2026-10-19", 4)
    sizes = {**series.sizes, "width": 0.05, "length": 0.4}
    series = replace(
        series, sizes=sizes, compliance=0.0, capacity=0.0, tare=0.8, recipe="bagged, 23 °C",
        items=(LoadItem("block", 10.4), LoadItem("bar", 1.15)),
    )  # fmt: skip
    series = replace(series, prediction=planning.freeze(series, materials_of(project), "2026-10-19"))
    logs = (
        ("2 block; 17.9 mm\n1 block; 26.5 mm\n5 l water; 30.8 mm\n5 l water; 35.1 mm\n5 l water; broke", "root"),
        ("2 block; 17.5 mm\n1 block; 26.0 mm\n10 l water; 34.1 mm\n5 l water; 38.4 mm\n5 l water; broke", "root"),
        ("2 block; 18.1 mm\n1 block; 27.0 mm\n5 l water; 31.2 mm\n5 l water; 35.3 mm\n5 l water; broke", "root"),
        ("2 block; 17.2 mm\n1 block; 25.5 mm\n10 l water; 33.4 mm\n5 l water; 37.6 mm\n2 bar; 39.4 mm", "none"),
    )
    specimens = tuple(
        Specimen(f"p{i + 1}", f"{i + 1}", log=log, place=place, manner="pressed side" if place == "root" else "",
                 note="" if place == "root" else "no weights left")
        for i, (log, place) in enumerate(logs)
    )  # fmt: skip
    return replace(series, specimens=specimens)


def proof(project: Project) -> Series:
    """The payload floor under sandbags."""
    brief = find_brief(project, "b2")
    candidate = find_candidate(brief, "c2")
    result = Evaluator().evaluate(brief, candidate, materials_of(project))
    series = planning.plan(brief, candidate, "proof_load", materials_of(project), "2026-10-26")
    series = planning.plan_proof(series, brief, result, "2026-10-26")
    frozen = series.prediction
    assert frozen is not None
    top = 0.67 * frozen.values["ultimate"]
    lines = []
    for i in range(1, 7):
        force = top * i / 6.0
        sag = force / frozen.stiffness * (1.06 + 0.004 * i)
        lines.append(f"= {force / 9.80665:.2f} kg; {sag * 1e3:.2f} mm")
    lines.append(f"unloaded; {0.02 * sag * 1e3:.2f} mm")
    return replace(series, specimens=(Specimen("p1", "floor 2", log="\n".join(lines), place="none"),))


def main() -> None:
    project = replace(demo_project(), series=(), acceptances=())
    made = [cores(project), *bars(project), blank(project), spars(project), planks(project), proof(project)]
    for series in made:
        command, _ = edits.add_series(project, series)
        project = command.apply(project)
    write_project(ROOT / "src" / "omakase" / DEMO_FILE, project)
    write_project(ROOT / "tests" / "files" / "version-7.json", project)


if __name__ == "__main__":
    main()
