"""The form study: what each form of a panel comes to when it is sized for the same limits.

Thicker skins, a thicker core, ribs, an arch, a dish, lips: each is a family of candidates made from one; of each the
lightest that passes is looked for, as a way out is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.members.panel import ARCHES, is_round
from omakase.evaluate.members.panel_ribs import lipped, new_rib, ribbed
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.ways_out import Cancelled, LeverSearch, Way, search_in_worker
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember
from omakase.project.spans import PanelForm
from omakase.units import FIELD, UnitSystem, format_value

MOST_PLIES = 4  # more on each face
CORES = (0.4, 0.5, 0.6, 0.7, 0.85, 1.0, 1.2, 1.4, 1.7, 2.0, 2.5, 3.0)  # times the present thickness
WITH_FORM = (1.0, 0.7, 0.5)  # of the core below a form that carries itself
RIB_COUNTS, RIB_HEIGHTS = (1, 2, 3), (0.7, 1.0, 1.5)


class FormStudy:
    """The forms of one candidate of a panel, which loses the form it has; ``present`` is the candidate as it is."""

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem,
        evaluator: Evaluator, cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self.brief, self.materials, self.units = brief, materials, units
        self.candidate = candidate
        self._evaluator, self._cancelled = evaluator, cancelled
        self.present: Outcome | None = None

    def find(self, workers: Workers | None = None) -> Iterator[Way]:
        """The lightest of each form that passes, or what stops it; ends early when cancelled."""
        if not isinstance(self.brief.member, PanelMember):
            return
        try:
            search = LeverSearch(self.brief, self.candidate, self.materials, self._evaluator, self._cancelled)
            self.present = search.present()
            if self.present.error:
                return
            families = list(forms(self.brief, self.candidate, self.units))
            # of every form the lightest, whether the candidate passes or not
            wanted = msgspec.structs.replace(self.present, passes=False)
            if workers is None:
                for place, family in enumerate(families):
                    yield msgspec.structs.replace(search.search(family, wanted), place=place)
                return
            common = (self.brief, self.candidate, dict(self.materials), wanted, None)
            for place, way in workers.run(search_in_worker, common, families, self._cancelled):
                yield msgspec.structs.replace(way, place=place)
        except Cancelled:
            return


def forms(brief: Brief, candidate: Candidate, units: UnitSystem) -> Iterator[Lever]:
    """The families of a panel's candidate, each a lever whose lightest setting is wanted."""
    form = candidate.form
    if not isinstance(form, PanelForm):
        return
    flat = _flat(candidate)
    yield Lever("skins", "thicker skins", tuple(_skins(flat)))
    cores = tuple(_cored(flat, share, units) for share in CORES) if _core_rows(flat) else ()
    if cores:
        yield Lever("core", "thicker core", cores)
    if is_round(brief):
        yield Lever("dish", "dish", tuple(_risen(brief, flat, units, dish=True)))
        return
    yield Lever("ribs", "ribs", tuple(_ribs(brief, flat, units)))
    yield Lever("arch", "arch", tuple(_risen(brief, flat, units, dish=False)))
    yield Lever("dish", "dish", tuple(_risen(brief, flat, units, dish=True)))
    lips = tuple(_lips(brief, flat, units))
    if lips:
        yield Lever("lips", "lips along free edges", lips)


def _flat(candidate: Candidate) -> Candidate:
    """The candidate without rises and ribs; zones stay."""
    form = candidate.form
    assert isinstance(form, PanelForm)
    layers = tuple(layer for layer in candidate.layers if not layer.wall)
    return replace(candidate, form=PanelForm(flush=form.flush), layers=layers)


def _core_rows(candidate: Candidate) -> list[int]:
    return [i for i, layer in enumerate(candidate.layers) if layer.role == "core" and layer.thickness]


def _skins(flat: Candidate) -> Iterator[Option]:
    """More plies of the outermost cloth on each face, and the plies there are."""
    yield Option("as it is", flat)
    for count in range(1, MOST_PLIES + 1):
        candidate = flat
        for _ in range(count):
            first, last = candidate.layers[0], candidate.layers[-1]
            candidate = edits.insert_layers(candidate, len(candidate.layers), [last])
            candidate = edits.insert_layers(candidate, 0, [first])
        yield Option(f"{count} more on each face", candidate)


def _cored(flat: Candidate, share: float, units: UnitSystem) -> Option:
    """All cores thicker or thinner by one share."""
    candidate, thickest = flat, 0.0
    for row in _core_rows(flat):
        layer = flat.layers[row]
        thickness = round((layer.thickness or 0.0) * share, 4)
        thickest = max(thickest, thickness)
        candidate = edits.set_layer(candidate, row, replace(layer, thickness=thickness))
    return Option(f"core {_size(thickest, units)}", candidate)


def _thinned(flat: Candidate, units: UnitSystem) -> Iterator[tuple[str, Candidate]]:
    """The candidate with its core and with thinner ones: a form that carries needs less of it."""
    if not _core_rows(flat):
        yield "", flat
        return
    for share in WITH_FORM:
        option = _cored(flat, share, units)
        yield ("" if share == 1.0 else f", {option.text}"), option.candidate


def _ribs(brief: Brief, flat: Candidate, units: UnitSystem) -> Iterator[Option]:
    height = new_rib(brief).height
    for words, candidate in _thinned(flat, units):
        for count in RIB_COUNTS:
            evenly = ribbed(brief, candidate, count)
            for share in RIB_HEIGHTS:
                assert isinstance(evenly.form, PanelForm)
                high = round(height * share, 4)
                ribs = tuple(replace(rib, height=high) for rib in evenly.form.ribs)
                made = replace(evenly, form=replace(evenly.form, ribs=ribs))
                several = f"{count} ribs" if count > 1 else "1 rib"
                yield Option(f"{several} {_size(high, units)} high{words}", made)


def _risen(brief: Brief, flat: Candidate, units: UnitSystem, dish: bool) -> Iterator[Option]:
    member, form = brief.member, flat.form
    assert isinstance(member, PanelMember)
    assert isinstance(form, PanelForm)
    shorter = min(member.length, member.width)
    for words, candidate in _thinned(flat, units):
        for share in ARCHES:
            rise = round(share * shorter, 4)
            along = rise if dish or member.length <= member.width else 0.0
            across = rise if dish or member.width < member.length else 0.0
            made = replace(candidate, form=replace(form, rise_along=along, rise_across=across))
            yield Option(f"{'dish' if dish else 'arch'} of {_size(rise, units)}{words}", made)


def _lips(brief: Brief, flat: Candidate, units: UnitSystem) -> Iterator[Option]:
    for words, candidate in _thinned(flat, units):
        for height, made in lipped(brief, candidate):
            yield Option(f"lips of {_size(height, units)}{words}", made)


def _size(value: float, units: UnitSystem) -> str:
    return format_value(value, "length", units, with_unit=True, digits=FIELD)
