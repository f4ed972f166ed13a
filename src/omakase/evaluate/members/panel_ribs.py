"""Ribs of a panel: their sentence, what may be studied of them and what they offer."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from functools import partial

from omakase.core.materials.material import Material
from omakase.core.members.panel_ribs import BEADS, RIB, rib_pieces
from omakase.evaluate.members.sentence import (
    WAYS,
    Act,
    Choice,
    Number,
    Part,
    Path,
    Range,
    Sentence,
    Words,
    with_value,
)
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember
from omakase.project.spans import PanelForm, RibRecord
from omakase.units import FIELD, UnitSystem, format_value

OUTLINES = (
    ("strip", "flat strip", "strip"), ("blade", "blade", "blade"), ("tee", "tee", "tee"), ("hat", "hat", "hat"),
    ("triangle", "triangle", "triangle"), ("half_round", "half-round", "half_round"),
)  # fmt: skip
OUTLINES_EXPLAINED = (
    ("strip", "plies laid on the face in a strip"),
    ("blade", "an upright web with a foot to either side; without feet a lip or a moulded-in rib"),
    ("tee", "a blade with a flange along its free edge"),
    ("hat", "plies laid over a former, closed by the panel; stiff in torsion too"),
    ("triangle", "two sides that meet in a ridge, bonded on or formed into the sheet"),
    ("half_round", "an arc, bonded on or formed into the sheet"),
)
_BEAD = [("height", "Height", ", high"), ("width", "Width", ", wide")]
MADE = (("bonded", "bonded on", False), ("formed", "formed into the sheet", True))
FREE = ("free", "free")
LIPS = (0.03, 0.06, 0.1)  # of the shorter side
RIB_FACES = (("face_b", "face B", "face_b"), ("face_a", "face A", "face_a"))


def ribs_sentence(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
    """The ribs, one after the other, and the offer of another."""
    form = candidate.form
    assert isinstance(form, PanelForm)
    cores = sorted(name for name, material in materials.items() if material.kind == "core")
    filled = (("", "nothing", ""), *((name, name, name) for name in cores))
    parts: list[Part] = [Words("Ribs:" if form.ribs else "")]
    for i, rib in enumerate(form.ribs):
        base: Path = ("form", "ribs", i)

        def number(field: str, what: str, range_: Range = "positive", base: Path = base, i: int = i) -> Number:
            return Number((*base, field), "length", f"{what} of rib {i + 1}", f"{what.lower()} of a rib", range_)

        parts += [
            Words(f"{i + 1}: a"), Choice((*base, "outline"), f"Shape of rib {i + 1}", "shape of a rib", OUTLINES,
                                         OUTLINES_EXPLAINED, _made_otherwise),
            Words("on"), Choice((*base, "face"), f"Face that rib {i + 1} is on", "face of a rib", RIB_FACES),
            Choice((*base, "along"), f"Way of rib {i + 1}", "way of a rib", WAYS, follow=partial(_turned_rib, index=i)),
            number("place", "Place", "not_negative"),
        ]  # fmt: skip
        if rib.high is None:
            part = partial(_shorter_rib, index=i)
            parts.append(Act("only a part", f"Rib {i + 1} over a part of the panel", "shorten a rib", part))
        else:
            parts += [Words("from"), number("low", "Start", "not_negative"), Words("to"), number("high", "End")]
        sizes = {
            "strip": [("width", "Width", ", wide")],
            "blade": [("height", "Height", ", high"), ("foot", "Foot", ", feet")],
            "tee": [("height", "Height", ", high"), ("width", "Width", ", flange"), ("foot", "Foot", ", feet")],
            "hat": [("height", "Height", ", high"), ("width", "Width", ", base"), ("crown", "Crown", ", crown"),
                    ("foot", "Foot", ", feet")],
            "triangle": _BEAD if rib.is_bead else [*_BEAD, ("foot", "Foot", ", feet")],
            "half_round": _BEAD if rib.is_bead else [*_BEAD, ("foot", "Foot", ", feet")],
        }[rib.outline]  # fmt: skip
        for field, what, words in sizes:
            parts += [Words(words), number(field, what, "not_negative" if field == "foot" else "positive")]
        if rib.outline in BEADS:
            parts.append(Choice((*base, "formed"), f"How rib {i + 1} is made", "how a rib is made", MADE,
                                follow=_made_otherwise))  # fmt: skip
        elif rib.outline == "hat":
            parts += [Words(", over"), Choice((*base, "filling"), f"What rib {i + 1} is laid over", "filling of a rib",
                                              filled)]  # fmt: skip
        parts += [Act("×", f"Remove rib {i + 1}", "remove a rib", partial(_without_rib, index=i)), Words(";")]
    parts.append(Act("+ rib", "Add a rib", "add a rib", partial(_with_rib, brief=brief)))
    if len(form.ribs) > 1:
        parts.append(Act("same pitch", "Put ribs of one way at equal distances", "space ribs evenly",
                         partial(_evenly, brief=brief)))  # fmt: skip
    return tuple(parts)


def new_rib(brief: Brief) -> RibRecord:
    """A hat across the middle of the longer side, or from one supported edge to the other where two are free."""
    member = brief.member
    assert isinstance(member, PanelMember)
    along, supports = member.width > member.length, member.supports
    if not supports.bolts:
        ends_free, sides_free = (supports.x0, supports.x1) == FREE, (supports.y0, supports.y1) == FREE
        along = sides_free or (along and not ends_free)
    side = member.width if along else member.length
    height = round(max(0.01, min(member.length, member.width) / 25.0), 3)
    width = round(1.2 * height, 3)
    return RibRecord(along, round(side / 2.0, 4), height=height, width=width,
                     crown=round(0.7 * height, 3), foot=0.015)  # fmt: skip


def with_ribs(candidate: Candidate, ribs: tuple[RibRecord, ...]) -> Candidate:
    """With other ribs; the first ones take the plies of face B, and with the last their layers go."""
    form = candidate.form
    assert isinstance(form, PanelForm)
    layers = candidate.layers
    if all(rib.is_bead for rib in ribs):
        layers = tuple(layer for layer in layers if layer.wall != RIB)
    elif not any(layer.wall == RIB for layer in layers):
        cores = [i for i, layer in enumerate(layers) if layer.role == "core"]
        face = layers[cores[-1] + 1 :] if cores else layers
        own = [replace(layer, wall=RIB, zone="", outside=False, shared="") for layer in face if layer.role == "ply"]
        layers = (*layers, *own)
    return replace(candidate, form=replace(form, ribs=ribs), layers=layers)


def _made_otherwise(_before: Candidate, new: Candidate) -> Candidate:
    """Beads have no layers of their own, other ribs do; an arc is at least twice as wide as high."""
    assert isinstance(new.form, PanelForm)
    ribs = [
        replace(rib, width=round(2.0 * rib.height, 4)) if rib.outline == "half_round" and rib.width < 2.0 * rib.height
        else rib for rib in new.form.ribs
    ]  # fmt: skip
    return with_ribs(new, tuple(ribs))


def _with_rib(candidate: Candidate, brief: Brief) -> Candidate:
    assert isinstance(candidate.form, PanelForm)
    ribs = candidate.form.ribs
    if not ribs:
        return with_ribs(candidate, (new_rib(brief),))
    last = ribs[-1]
    member = brief.member
    assert isinstance(member, PanelMember)
    size = member.width if last.along else member.length
    places = sorted([0.0, size, *(rib.place for rib in ribs if rib.along == last.along)])
    gaps = [high - low for low, high in itertools.pairwise(places)]
    k = gaps.index(max(gaps))
    return with_ribs(candidate, (*ribs, replace(last, place=round((places[k] + places[k + 1]) / 2.0, 4))))


def _without_rib(candidate: Candidate, index: int) -> Candidate:
    assert isinstance(candidate.form, PanelForm)
    ribs = candidate.form.ribs
    return with_ribs(candidate, (*ribs[:index], *ribs[index + 1 :]))


def _turned_rib(_before: Candidate, new: Candidate, index: int) -> Candidate:
    """A rib turned the other way runs over the whole panel again."""
    assert isinstance(new.form, PanelForm)
    return with_value(new, ("form", "ribs", index), replace(new.form.ribs[index], low=0.0, high=None))


def _shorter_rib(candidate: Candidate, index: int) -> Candidate:
    """Without its ends: from 20 mm on to 100 mm, to be put where it ends."""
    rib = candidate.form.ribs[index]  # type: ignore[union-attr]
    return with_value(candidate, ("form", "ribs", index), replace(rib, low=0.02, high=0.1))


def evenly(ribs: tuple[RibRecord, ...], member: PanelMember) -> tuple[RibRecord, ...]:
    """Ribs of one way at equal distances between the edges; those along an edge stay."""
    new = list(ribs)
    for along in (True, False):
        size = member.width if along else member.length
        own = [i for i, rib in enumerate(ribs) if rib.along == along and 1e-6 < rib.place < size - 1e-6]
        for k, i in enumerate(sorted(own, key=lambda i: ribs[i].place), 1):
            new[i] = replace(ribs[i], place=round(size * k / (len(own) + 1), 5))
    return tuple(new)


def _evenly(candidate: Candidate, brief: Brief) -> Candidate:
    member = brief.member
    assert isinstance(member, PanelMember)
    return with_value(candidate, ("form", "ribs"), evenly(candidate.form.ribs, member))  # type: ignore[union-attr]


def ribbed(brief: Brief, candidate: Candidate, count: int) -> Candidate:
    """With so many ribs at equal distances, all like its first one or, without any, like a new one."""
    member, form = brief.member, candidate.form
    assert isinstance(member, PanelMember)
    assert isinstance(form, PanelForm)
    first = form.ribs[0] if form.ribs else new_rib(brief)
    return with_ribs(candidate, evenly((replace(first, place=0.5 * _side(first, member)),) * count, member))


def _side(rib: RibRecord, member: PanelMember) -> float:
    return member.width if rib.along else member.length


def rib_parameters(brief: Brief, candidate: Candidate) -> Iterator[Parameter]:
    """The pitch of the ribs, and their height, all alike."""
    form, member = candidate.form, brief.member
    assert isinstance(form, PanelForm)
    assert isinstance(member, PanelMember)

    def higher(state: State, value: float) -> State:
        ribs = tuple(replace(rib, height=round(value, 6)) for rib in state[1].form.ribs)  # type: ignore[union-attr]
        return state[0], with_value(state[1], ("form", "ribs"), ribs), state[2]

    now = form.ribs[0].height
    if any(rib.outline != "strip" for rib in form.ribs):
        yield Parameter("rib_height", "height of the ribs", "length", now, 0.4 * now, 2.5 * now, higher)
    if len({rib.along for rib in form.ribs}) == 1:
        side = _side(form.ribs[0], member)

        def pitched(state: State, value: float) -> State:
            count = max(1, min(round(side / value) - 1, 12))
            return state[0], ribbed(state[0], state[1], count), state[2]

        pitch = side / (len(form.ribs) + 1)
        yield Parameter("rib_pitch", "pitch of the ribs", "length", pitch, side / 9.0, side / 2.0, pitched)


def rib_levers(brief: Brief, candidate: Candidate, units: UnitSystem) -> Iterator[Lever]:
    """One, two or three ribs more, and higher ones."""
    form = candidate.form
    if not isinstance(form, PanelForm):
        return
    ways = {rib.along for rib in form.ribs}
    if len(ways) <= 1:
        now = len(form.ribs)
        options = [
            Option(f"{count} rib{'s' if count > 1 else ''} at equal pitch", ribbed(brief, candidate, count))
            for count in range(now + 1, now + 4)
        ]
        yield Lever("ribs", "ribs" if not now else "closer ribs", tuple(options), "first")
    yield from _lips(brief, candidate, units)
    if form.ribs and all(rib.outline != "strip" for rib in form.ribs):
        higher = []
        for share in (1.25, 1.5, 2.0):
            height = round(form.ribs[0].height * share, 4)
            ribs = tuple(replace(rib, height=round(rib.height * share, 4)) for rib in form.ribs)
            text = f"ribs {format_value(height, 'length', units, with_unit=True, digits=FIELD)} high"
            higher.append(Option(text, with_value(candidate, ("form", "ribs"), ribs)))
        yield Lever("rib_height", "higher ribs", tuple(higher), "first")


def _lips(brief: Brief, candidate: Candidate, units: UnitSystem) -> Iterator[Lever]:
    """Free edges turned up: a blade without feet along each."""
    options = []
    for height, made in lipped(brief, candidate):
        text = f"free edges turned up by {format_value(height, 'length', units, with_unit=True, digits=FIELD)}"
        options.append(Option(text, made))
    if options:
        yield Lever("lips", "lips along free edges", tuple(options), "first")


def lipped(brief: Brief, candidate: Candidate) -> Iterator[tuple[float, Candidate]]:
    """(height in m, the candidate with its free edges turned up by it), from low to high; none without free edges."""
    member, form = brief.member, candidate.form
    assert isinstance(member, PanelMember)
    assert isinstance(form, PanelForm)
    supports = member.supports
    edges = (("x0", False, 0.0), ("x1", False, member.length), ("y0", True, 0.0), ("y1", True, member.width))
    free = [(along, place) for name, along, place in edges if getattr(supports, name) in ("free", "elastic")]
    taken = {(rib.along, rib.place) for rib in form.ribs}
    free = [edge for edge in free if edge not in taken]
    if not free or supports.bolts:  # what bolts hold along an edge is stiff there already
        return
    for share in LIPS:
        height = round(max(0.008, share * min(member.length, member.width)), 3)
        lips = tuple(RibRecord(along, place, outline="blade", height=height, foot=0.0) for along, place in free)
        yield height, with_ribs(candidate, (*form.ribs, *lips))


def rib_areas(brief: Brief, candidate: Candidate) -> tuple[float, float]:
    """m² of each layer of the ribs, of walls without thickness, and what beads add to each of the panel's."""
    member, form = brief.member, candidate.form
    if not (isinstance(member, PanelMember) and isinstance(form, PanelForm)):
        return 0.0, 0.0
    bonded = formed = 0.0
    for own in form.ribs:
        rib = translate.rib_of(own, member.length, member.width)
        developed = sum(piece.length for piece in rib_pieces(rib, 1e-9))
        if rib.formed:
            formed += (rib.high - rib.low) * (developed - rib.width)
        else:
            bonded += (rib.high - rib.low) * developed
    return bonded, formed
