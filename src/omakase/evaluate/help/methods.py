"""What the methods page says: every check, finding, test and piece of theory, from the words beside the code.

``docs/methods.md`` is written from this, and the help in the window shows the same sections.
"""

from __future__ import annotations

import inspect
from collections.abc import Iterable, Iterator

import msgspec

from omakase.core import screen
from omakase.core.build import calendar as build_calendar
from omakase.core.build import cost, ledger, masses, nesting, pieces, vacuum
from omakase.core.build import resin as build_resin
from omakase.core.checks import walls_together
from omakase.core.checks.registry import Registration, all_checks
from omakase.core.details import adhesive_layer, bolts, bond, detail, doubler, edge, fastener, impact, insert
from omakase.core.findings.details import DETAIL_RULES
from omakase.core.findings.registry import all_rules
from omakase.core.laminate import bend, breaking, constants, failure, open_hole, stiffness, strength, thermal
from omakase.core.materials import areal, cloth, conditions, grades, micromechanics, processing, sleeve
from omakase.core.members import (
    bracket,
    leg,
    panel_beyond,
    panel_edges,
    panel_given,
    panel_held,
    panel_patchwork,
    panel_ribs,
    panel_round,
    panel_zones,
    pressing,
    reduced_panel,
    rib,
    rib_energies,
    round_grid,
    span,
    span_mesh,
    span_sideways,
    spar,
    stretches,
    strip,
    strip_folding,
    surface,
    tube,
)
from omakase.core.mesh import curving, panel_bricks, panel_plan, rib_bricks, span_shells, strip_bricks, supports
from omakase.core.plates import condensation, disc, energies, grid, large_deflection, lines, reduced, section, solver
from omakase.core.sections import (
    aerofoils,
    cylinder,
    drawn,
    folded,
    long_plates,
    outlines,
    profile,
    ring,
    section_strips,
    thin_walled,
)
from omakase.core.specimens import beams, curve, statistics
from omakase.core.specimens.method import Method
from omakase.core.specimens.methods import proof_load
from omakase.core.specimens.registry import all_methods
from omakase.devices import simulated
from omakase.evaluate.build import weighing, weights
from omakase.evaluate.materials import samples
from omakase.evaluate.members import flat
from omakase.evaluate.second import comparing, stresses
from omakase.evaluate.sizing import equals, explain, menu, needed_runs, sensitivity, study, wall_menu, ways_out
from omakase.evaluate.testing import planning

HEAD = """# Methods, sources, ranges of validity

Made by `python -m scripts.methods` from the checks' registrations and the docstrings beside the code; a test keeps it
current. SI inside; angles in degrees; layers from face A (top, positive z) down. Loads in files are limit loads;
strength is checked at ultimate = limit × factor of safety × special factor, deflection and frequency at limit load.
"""
FULL, QUICK = panel_given.FULL, panel_given.QUICK
WHY_BREAKS = f"""
### Grid

{inspect.cleandoc(lines.__doc__ or "")}

{inspect.cleandoc(lines.break_lines.__doc__ or "")}

| Order | one cell | cut along edges or into equal cells | around patches, several layers |
|---|---|---|---|
| quick, no layers | {QUICK.smooth_order} | {QUICK.edge_order} | {QUICK.patch_order} |
| full | {FULL.smooth_order} | {FULL.edge_order} | {FULL.patch_order} |

The full order is checked against the same grid with every cell cut in two each way, over supports of all kinds,
proportions to 10:1, feet from 1 % of the width on, and layups of cloth, skew unidirectional plies, foam, balsa and
honeycomb. Of 116 panels drawn at random deflection differed by 0.3 % at most; six frequencies of some 120 sandwiches by
0.3 % from four orders more; of the 116 judged in strength, reserve factors were within 3 % (faces of skew fibres under
feet below a tenth of the width within 4 %), but for core shear beside the corner of skew faces on free edges, by 11 %,
and in interlaminar shear of unidirectional laminates turned off the axis, by up to 15 %. Interlaminar shear at a
clamped edge that meets a free one is less exact, 50 % off in two of 50 laminates.  The result says so in both cases.
For some skew faces the reserve factor at the corners reads up to 31 % too low, which is on the safe side.

### Corners

{inspect.cleandoc(lines.singular_corners.__doc__ or "")}

There strength checks leave out a square of {lines.CORNER_SHARE:.0%} of the shorter side and say so where more was left
out than governs: ply and face failure, core shear, wrinkling, crimping, dimpling, interlaminar shear.
"""


STRIPS = """
Not counted: flattening or spreading of an arch or hat; lateral buckling of a strip that is bent about its stiff axis;
the peaks of bonding stress where plies end; the ends of a tube, where fittings hold it. A filling carries bending and
mass but does not help the wall against buckling or crushing; it only keeps it round.
"""


class Section(msgspec.Struct, frozen=True):
    """One heading with its text in Markdown; ``key`` tells what it is about, as in ``check:core_shear``."""

    key: str
    title: str
    text: str


class Part(msgspec.Struct, frozen=True):
    """A part of the page: what stands before its sections, and behind."""

    title: str
    before: str
    sections: tuple[Section, ...]
    behind: str = ""


def _text(thing: object) -> str:
    return inspect.cleandoc(thing.__doc__ or "")


def words(name: str) -> str:
    """A name in the code as words."""
    return name.replace("_", " ").capitalize()


def _sections(named: Iterable[tuple[str, object]]) -> tuple[Section, ...]:
    return tuple(Section(f"theory:{title}", title, _text(thing)) for title, thing in named)


def check_section(check: Registration) -> Section:
    """What a check looks for, its basis, its range, and how it goes about it."""
    text = f"{check.summary}.\n\n- Basis: {check.basis}\n- Valid: {check.validity}\n- {_text(check.run)}"
    return Section(f"check:{check.name}", words(check.name), text)


def method_section(method: Method) -> Section:
    """How a test is reduced, its standard, its range and the sizes it asks for."""
    sizes = ", ".join(size.label for size in method.sizes)
    text = f"{_text(method.reduce)}\n\n- Basis: {method.basis}\n- Valid: {method.validity}\n- Sizes: {sizes}"
    return Section(f"test:{method.name}", method.title, text)


def parts() -> Iterator[Part]:
    """All parts of the page, in its order."""
    yield Part(
        "Panel",
        _text(section) + "\n\n" + WHY_BREAKS.strip(),
        _sections(
            (
                ("Edges", grid.held_functions),
                ("Energy", energies),
                ("Solution", condensation),
                ("Range", solver.PlateModel),
                ("Quick answers between an edit and the full solution", reduced),
                ("Accuracy of quick answers", reduced_panel.ReducedPanel),
                ("Shape", panel_given.Surface),
                ("Curved panels", energies.strain_terms),
                ("Vibrations of a curved panel", solver.PlateModel.frequencies),
                ("Curved, compressed and stretching", panel_beyond),
                ("Large deflection", large_deflection),
                ("Raising a load", large_deflection.raised),
                ("Knock-down of a curved panel", pressing.knock_down),
                ("Zones", panel_zones),
                ("Inserts", panel_patchwork.rows_at),
                ("Lines of zones", lines.zone_lines),
                ("Bolts and other supports", panel_held),
                ("Bolts", panel_given.Bolt),
                ("Reactions along edges", panel_edges.EdgeForces),
                ("Round panels", disc),
                ("Rings of a round panel", round_grid.rings_of),
                ("Near the middle of a round panel", panel_round.calmed),
                ("Ribs", panel_ribs),
                ("Stiffness of a rib", panel_ribs.RibBeam),
                ("Shear of a rib", panel_ribs.RibBeam.shear_turn),
                ("Beads", rib_energies.sheet_below),
            )
        ),
    )
    yield Part(
        "Strips and tubes",
        "",
        _sections(
            (
                ("Along the span", span),
                ("Cells", span_mesh),
                ("Layers that end", stretches),
                ("Wall of a strip or leg", profile.StripWall),
                ("Section of a strip or leg", profile.StripSection),
                ("Flat strips that curve across", strip_folding.held_across),
                ("Arches and hats that flatten", strip_folding.kept_of_height),
                ("Vibrations of arches and hats", strip_folding.frequencies_as_folded),
                ("Folded walls", folded),
                ("What is computed of a strip", strip.StripResponse),
                ("What is computed of a leg or leaf", leg.LegResponse),
                ("Torsion of a leg", leg.torsion_stiffness),
                ("Large deflection of a leg", leg.bent_far),
                ("Bracket", bracket),
                ("Stresses in a bend", bend.BendStress),
                ("Section of a tube", ring.Ring),
                ("What is computed of a tube", tube.TubeResponse),
                ("Braided sleeve", sleeve.pulled_angle),
                ("Sleeve as a ply", sleeve.pulled),
                ("Buckling along", cylinder.axial_buckling),
                ("Buckling in torsion", cylinder.torsion_buckling),
                ("Knock-downs", cylinder.knock_down),
                ("Flattening", cylinder.flattening_moment),
                ("A mass that falls", span.SpanModel.drop_factor),
            )
        ),
        STRIPS.strip(),
    )
    yield Part(
        "Spars",
        "",
        _sections(
            (
                ("Outlines", outlines),
                ("Outlines by points", drawn.DrawnOutline),
                ("A wall in the section", thin_walled.wall_law),
                ("The section", thin_walled.ThinWalled),
                ("Warping held back", thin_walled.ThinWalled.warping),
                ("The aerofoil", aerofoils.half_thickness),
                ("The mean line of an aerofoil", aerofoils.camber),
                ("What a spar is", spar.SparResponse),
                ("Compression of a wall", long_plates.LongPlate.compression),
                ("Compression of a flange", long_plates.LongPlate.flange),
                ("Bending of a wall in its plane", long_plates.LongPlate.bending),
                ("Shear of a wall", long_plates.LongPlate.in_shear),
                ("Walls that buckle together", walls_together),
                ("A section in strips", section_strips.SectionStrips),
                ("A rib", rib),
                ("What a rib is", rib.RibResponse),
                ("Beside a hole", open_hole.beside_hole),
                ("A lifting surface", surface),
                ("What a lifting surface is", surface.SurfaceResponse),
                ("What fills a section", surface.core_section),
                ("Divergence", surface.SurfaceResponse.divergence),
                ("Buckling sideways", span_sideways.sideways),
                ("Open sections whose corners are loose", spar.SparResponse.loose_torsion),
                ("How far a ply must run", needed_runs.needed_runs),
                ("Run-out", needed_runs.run_out),
                ("The menu of spars", wall_menu),
            )
        ),
    )
    yield Part(
        "Details",
        "",
        _sections(
            (
                ("Where a detail is", detail.Site),
                ("Preload", bolts.preload),
                ("Stress area of a thread", bolts.stress_area),
                ("Flexibility of a fastener", bolts.flexibility),
                ("Shares of a row", bolts.row_shares),
                ("Core under a clamp", fastener.Fastener.core_area),
                ("Forces on each bolt", fastener.Fastener.forces),
                ("What holds an insert", insert.Insert.radius),
                ("What the faces carry beside an insert", insert.Insert.faces_share),
                ("Shear of a lap", adhesive_layer.volkersen),
                ("A glue that yields", adhesive_layer.plastic_capacity),
                ("Moments of a lap", adhesive_layer.end_moments),
                ("Peel of a lap", adhesive_layer.Lap),
                ("Scarfs and steps", adhesive_layer.shear_between),
                ("A layer of glue", bond.glue_of),
                ("A face that slopes down", edge.Edge.face_load),
                ("Core under a kink", edge.Edge.under_line),
                ("A free edge", edge.Edge.parting),
                ("A doubler", doubler.Doubler.answer),
                ("A struck face", impact.ImpactFace.energy),
            )
        ),
    )
    yield Part(
        "Building",
        "",
        _sections(
            (
                ("Laid out flat", flat),
                ("Cut to fit", pieces.cut_to_fit),
                ("Rolls and sheets", nesting),
                ("Resin", build_resin),
                ("Pot life", build_resin.pot_life_at),
                ("Size of a batch", build_resin.largest_batch),
                ("Calendar", build_calendar.schedule),
                ("Learning", cost.learnt),
                ("Price", cost.price),
                ("Scatter of a mass", masses.scatter),
                ("Why a part weighs what it does", masses.explained),
                ("Walls as built", weights.fit_row),
                ("Kerfs", weights.kerf_resin),
                ("Ledger", ledger.tally),
                ("Coupon to part", ledger.coupon_to_part),
                ("Drop test", vacuum.leak_down),
                ("A cure", weighing.cured),
            )
        ),
    )
    yield Part(
        "Plies and cloths",
        "",
        _sections(
            (
                ("Fibre and resin by mass", areal.fibre_volume_fraction),
                ("Fibre and resin to a ply", micromechanics),
                ("Range", micromechanics.lamina),
                ("Halpin and Tsai", micromechanics.halpin_tsai),
                ("Chamis", micromechanics.chamis),
                ("Cloth to a ply", cloth),
                ("Random mat", cloth._mat),
                ("Hybrid cloth", micromechanics.side_by_side),
                ("Another share of resin", processing.with_resin),
                ("Measured thickness", processing.resin_fraction_from_thickness),
                ("The two sides of a satin", stiffness.satin_difference),
                ("Strength where the part works", conditions),
                ("Heat and water", conditions.heat_factor),
                ("Thick honeycomb", conditions.thickness_factor),
                ("Grades between grades", grades.grade_between),
            )
        ),
    )
    yield Part(
        "Laminate",
        "",
        _sections(
            (
                ("Moduli", constants.LaminateConstants),
                ("Strength by direction", strength.first_layer_strength),
                ("Order of breaking", breaking.breaking_order),
                ("Heat and cure", thermal.free_expansion),
                ("Transverse shear", stiffness.TransverseShear),
                ("Maximum strain", failure.maximum_strain),
                ("Tsai wu", failure.tsai_wu),
            )
        ),
    )
    yield Part("Checks", "", tuple(check_section(check) for check in all_checks().values()))
    rules = [(own.name, own.summary, own.basis) for own in all_rules().values()]
    rules += [(own.name, own.summary, own.basis) for own in DETAIL_RULES.values()]
    found = (Section(f"finding:{name}", words(name), f"{what}.\n\n- Basis: {basis}") for name, what, basis in rules)
    yield Part("Findings", "", tuple(found))
    margins = ", ".join(f"{name.replace('_', ' ')} {value:g}" for name, value in screen.MARGINS.items())
    yield Part(
        "Sizing",
        "",
        _sections(
            (
                ("Ways", ways_out),
                ("Screen", screen),
                ("Menu", menu),
                ("Sensitivity", sensitivity),
                ("Differences", explain),
                ("Studies", study),
                ("As stiff, as heavy", equals.Equals),
            )
        ),
        f"The screen's margins: {margins}.",
    )
    yield Part(
        "Tests",
        "",
        (
            *_sections(
                (
                    ("Curves", curve.modulus_line),
                    ("Thinning", curve.thinned),
                    ("Beams", beams),
                    ("Statistics", statistics),
                    ("Bounds", statistics.censored_fit),
                    ("Batches", statistics.batches_agree),
                    ("Voids", samples.void_content),
                    ("Spans", planning.best_span),
                    ("Open questions", planning.questions),
                    ("Proof load", proof_load.Watch),
                    ("The simulated frame", simulated),
                )
            ),
            *(method_section(method) for method in all_methods().values()),
        ),
    )
    yield Part(
        "Second opinion",
        "",
        _sections(
            (
                ("Panels as bricks", panel_bricks),
                ("Plan of a panel's bricks", panel_plan),
                ("Surface of a curved panel", curving.Curving),
                ("Supports of bricks", supports),
                ("Ribs as bricks", rib_bricks),
                ("Strips as bricks", strip_bricks),
                ("Spars and tubes as shells", span_shells),
                ("When two numbers agree", comparing.Line),
                ("Stress in both", stresses),
            )
        ),
    )


def methods_text() -> str:
    """The whole page."""
    lines = [HEAD]
    for part in parts():
        lines.append(f"## {part.title}\n")
        if part.before:
            lines.append(f"{part.before}\n")
        lines += [f"### {own.title}\n\n{own.text}\n" for own in part.sections]
        if part.behind:
            lines.append(f"{part.behind}\n")
    return "\n".join(lines).rstrip() + "\n"
