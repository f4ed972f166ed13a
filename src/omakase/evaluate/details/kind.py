"""What the program must know of a kind of detail, and the words that all kinds share: place, layup there, loads."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial
from typing import Any, Literal, Protocol

from omakase.core.build.masses import MassRow
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import (
    Act,
    Choice,
    Layup,
    Name,
    Number,
    Part,
    Path,
    Range,
    Sentence,
    Words,
    value_at,
    with_entry,
    with_value,
    without_entry,
)
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.project.commands import replace
from omakase.project.detail_translate import rows_there
from omakase.project.details import Detail, DetailLoad
from omakase.project.layers import LayerRecord
from omakase.project.model import Brief, Candidate, new_id
from omakase.project.panels import PanelMember
from omakase.units import FIELD, UnitSystem, format_value

TAKEN = (("typed", "as typed", "typed"), ("support", "what the support there takes", "support"),
         ("load", "the loads that act there", "load"))  # fmt: skip
TAKEN_EXPLAINED = (
    ("typed", "forces typed here, each a load case of its own"),
    ("support", "the reaction of the bolt, edge, line or support at its place, under each load case"),
    ("load", "the loads of the brief that act at its place, under each load case"),
)
COUNTS = tuple((str(n), str(n), n) for n in range(1, 13))  # of bolts or steps, to choose from
AXES = (("above", "from above", "above"), ("side", "from the side", "side"))


class DetailKind(Protocol):
    """A kind of detail.  ``name`` : as in the file; ``title`` : as people say it; ``record`` : its class."""

    name: str
    title: str
    record: type

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> Detail:
        """One to start from."""
        ...

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        """The detail as it is chosen; paths from the candidate."""
        ...

    def levers(
        self, candidate: Candidate, index: int, materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[Lever]:
        """What may be changed about one that fails."""
        ...

    def masses(
        self, brief: Brief, candidate: Candidate, detail: Any, materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[MassRow]:  # fmt: skip
        """What it adds to the part, kg.  Raises OmakaseError."""
        ...

    def drawing(self, made: CoreDetail) -> Drawing | None:
        """A section through it."""
        ...


class Fields:
    """Parts of the sentence of one detail: fields by their name, said to be of that detail."""

    def __init__(self, index: int, what: str) -> None:
        self.base: Path = ("details", index)
        self.what = what

    def number(self, field: str, dimension: str, title: str, range_: Range = "positive", path: Path = ()) -> Number:
        return Number((*self.base, *path, field), dimension, f"{title}, {self.what}", title.lower(), range_)

    def choice(
        self, field: str, title: str, options: tuple[tuple[str, str, Any], ...],
        explained: tuple[tuple[str, str], ...] = (), follow: Callable[[Any, Any], Any] | None = None,
    ) -> Choice:  # fmt: skip
        return Choice((*self.base, field), f"{title}, {self.what}", title.lower(), options, explained, follow)

    def material(
        self, field: str, title: str, materials: Mapping[str, Material], wanted: Callable[[Material], bool],
        none: str = "nothing",
    ) -> Choice:  # fmt: skip
        names = sorted(name for name, material in materials.items() if wanted(material))
        return self.choice(field, title, (("", none, ""), *((name, name, name) for name in names)))

    def layup(self, field: str, title: str) -> Layup:
        return Layup((*self.base, field), f"{title}, {self.what}", title.lower())

    def act(self, text: str, title: str, change: Callable[[Any], Any]) -> Act:
        return Act(text, f"{title}, {self.what}", title.lower(), change)

    def put(self, text: str, title: str, field: str, value: Any) -> Act:
        """A button that sets one field."""
        return self.act(text, title, partial(_put, path=(*self.base, field), value=value))


def _put(candidate: Any, path: Path, value: Any) -> Any:
    return with_value(candidate, path, value)


def place_sentence(brief: Brief, candidate: Candidate, fields: Fields) -> Sentence:
    """Its name, wall and place."""
    walls = kind_of(brief).walls(candidate)
    parts: list[Part] = [Name((*fields.base, "name"), f"Name, {fields.what}", "name a detail")]
    if len(walls) > 1:
        parts += [
            Words("in the"),
            fields.choice("wall", "Wall", tuple((wall, wall or "panel", wall) for wall in walls)),
        ]
    parts += [Words("at x"), fields.number("x", "length", "Place along", "not_negative")]
    if isinstance(brief.member, PanelMember):
        parts += [Words("y"), fields.number("y", "length", "Place across", "not_negative")]
    return tuple(parts)


def layup_sentence(brief: Brief, candidate: Candidate, index: int, fields: Fields) -> Sentence:
    """The layup there: the member's, or one of its own."""
    if candidate.details[index].layers:
        return (
            Words("The layup there:"), fields.layup("layers", "Layup there"),
            fields.put("the member's", "Take the member's layup there", "layers", ()),
        )  # fmt: skip
    own = partial(_own_layers, brief=brief, index=index)
    return Words("The layup there is the member's"), fields.act("another", "Another layup there", own)


def _own_layers(candidate: Candidate, brief: Brief, index: int) -> Candidate:
    """The layers that are there become those of the detail, to be changed."""
    try:
        rows = rows_there(brief, candidate, candidate.details[index])
    except OmakaseError:
        rows = tuple(range(len(candidate.layers)))
    return with_value(candidate, ("details", index, "layers"), own_layers([candidate.layers[row] for row in rows]))


def own_layers(layers: Iterable[LayerRecord]) -> tuple[LayerRecord, ...]:
    """Layers of a member as those of a detail, which has neither zones nor walls."""
    return tuple(replace(layer, zone="", wall="", shared="", outside=False) for layer in layers)


def loads_sentence(brief: Brief, candidate: Candidate, index: int, fields: Fields) -> Sentence:
    """Where its loads come from, and those that are typed."""
    detail = candidate.details[index]
    parts: list[Part] = [Words("Loads:"), fields.choice("taken", "Loads", TAKEN, TAKEN_EXPLAINED)]
    if not isinstance(brief.member, PanelMember) and detail.taken != "typed":
        parts += [Words(", its axis"), fields.choice("axis", "Axis", AXES)]
    if detail.taken != "typed":
        return tuple(parts)
    for k, _ in enumerate(detail.loads):
        path: Path = ("loads", k)
        parts += [
            Words(":" if k == 0 else "; "), Name((*fields.base, *path, "name"), f"Name of load {k + 1}", "name a load"),
            Words("pulls"), fields.number("pull", "force", f"Pull of load {k + 1}", "anything", path),
            Words("off face A,"), fields.number("along", "force", f"Force along x of load {k + 1}", "anything", path),
            Words("along x,"), fields.number("across", "force", f"Force across of load {k + 1}", "anything", path),
            Words("across, tilts by"), fields.number("moment", "bending", f"Moment of load {k + 1}", "anything", path),
            *_remove_load(detail, fields, index, k),
        ]  # fmt: skip
    parts.append(fields.act("+ load", "Add a load", partial(_with_load, index=index)))
    return tuple(parts)


SEAM_TAKEN = (("typed", "as typed", "typed"), ("support", "what the member hands over there", "support"))
SEAM_EXPLAINED = (
    ("typed", "forces per length typed here, each a load case of its own"),
    ("support", "what goes through a panel's edge or the end of a spar's web at its place, under each load case"),
)


def seam_loads(candidate: Candidate, index: int, fields: Fields) -> Sentence:
    """Where the loads of a seam come from, and those that are typed."""
    detail = candidate.details[index]
    parts: list[Part] = [Words("Loads:"), fields.choice("taken", "Loads", SEAM_TAKEN, SEAM_EXPLAINED)]
    for k, _ in enumerate(detail.loads if detail.taken == "typed" else ()):
        path: Path = ("loads", k)
        parts += [
            Words(":" if k == 0 else "; "), Name((*fields.base, *path, "name"), f"Name of load {k + 1}", "name a load"),
            Words("pulls"), fields.number("pull", "line_load", f"Pull of load {k + 1}", "anything", path),
            Words("across, flows"), fields.number("flow", "line_load", f"Shear flow of load {k + 1}", "anything", path),
            Words("along, opens by"),
            fields.number("opening", "line_load", f"Opening of load {k + 1}", "anything", path),
            *_remove_load(detail, fields, index, k),
        ]  # fmt: skip
    if detail.taken == "typed":
        parts.append(fields.act("+ load", "Add a load", partial(_with_load, index=index)))
    return tuple(parts)


def _remove_load(detail: Detail, fields: Fields, index: int, load: int) -> list[Part]:
    if len(detail.loads) < 2:
        return []
    return [fields.act("×", f"Remove load {load + 1}", partial(_without_load, index=index, load=load))]


def _with_load(candidate: Candidate, index: int) -> Candidate:
    path: Path = ("details", index, "loads")
    loads = value_at(candidate, path)
    new = type(loads[0]) if loads else DetailLoad
    return with_entry(candidate, path, len(loads), new(f"load {len(loads) + 1}"))


def _without_load(candidate: Candidate, index: int, load: int) -> Candidate:
    return without_entry(candidate, ("details", index, "loads"), load)


def start(brief: Brief, candidate: Candidate) -> tuple[float, float, str]:
    """(x, y, wall) of a new detail: where a support is, else the middle."""
    member = brief.member
    walls = kind_of(brief).walls(candidate)
    wall = next((own for own in walls if "web" in own), walls[0])
    if isinstance(member, PanelMember):
        bolts = member.supports.bolts
        return (bolts[0].x, bolts[0].y, wall) if bolts else (member.length / 2.0, member.width / 2.0, wall)
    supports = getattr(member, "supports", ())
    return (supports[0].x if supports else 0.0), 0.0, wall


def axis_of(wall: str) -> Literal["above", "side"]:
    """From where bolts go through a wall: through webs from the side."""
    return "side" if "web" in wall else "above"


def with_detail(candidate: Candidate, detail: Detail) -> Candidate:
    """The candidate with a detail more."""
    return replace(candidate, details=(*candidate.details, detail))


def without_detail(candidate: Candidate, index: int) -> Candidate:
    """The candidate without one of its details."""
    return without_entry(candidate, ("details",), index)


def doubled(candidate: Candidate, index: int) -> Candidate:
    """The candidate with a copy of one of its details beside it."""
    own = candidate.details[index]
    copy = replace(own, id=free_id(candidate), name=f"{own.name} (copy)")
    return with_entry(candidate, ("details",), index + 1, copy)


def free_id(candidate: Candidate) -> str:
    """An id that no detail has yet."""
    return new_id("d", {detail.id for detail in candidate.details})


# --- levers ---------------------------------------------------------------------------------------------------------


def changed(candidate: Candidate, index: int, text: str, **changes: object) -> Option:
    """A setting of a lever: some fields of a detail with other values."""
    made = candidate
    for field, value in changes.items():
        made = with_value(made, ("details", index, field), value)
    return Option(f"{candidate.details[index].name}: {text}", made)


def one_lever(name: str, title: str, detail: Detail, options: list[Option]) -> Iterator[Lever]:
    """A lever of a detail, whose first setting that passes is wanted; none without settings."""
    if options:
        yield Lever(f"{name} {detail.id}", f"{detail.name}: {title}", tuple(options), "first")


def length_text(value: float, units: UnitSystem) -> str:
    """A length with its unit, as it would be typed."""
    return format_value(value, "length", units, with_unit=True, digits=FIELD)
