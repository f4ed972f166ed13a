"""The quick line: a layup written as a line of text, read and written.

    2 twill200 ±45 ; core pvc80 12 ; twill200 45/0
    [45/0/core pvc80 12]s          ud200 [0/±45/90]s        al6061 3 mm        satin300 0 ns

Parts are separated by semicolons, from face A (top) down.  Numbers after a cloth are angles; after a core or sheet
they are a thickness in the project's unit unless one is typed, with @ for an angle.  A bracket is a laminate
code: slashes between items, ``s`` mirrors it (a core that ends it is the middle and is not doubled), ``2s`` repeats
it first, a number before it repeats the whole.  ``ns`` marks a layer that is not counted on, ``turned`` one laid
with its other side up; a mirror turns the cloths that have a face.  ``(A)`` is the sub-stack named A that candidates
share, ``(A)m`` its mirror image.  ``@ root`` or ``@ 0..800 mm`` at the end of a part lets its layers run over that
stretch of the span, or that part of a panel, only; ``@ outside root`` everywhere else.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection, Mapping

from omakase.core.errors import both_units
from omakase.core.materials.material import LAYER_KINDS, Material
from omakase.project.commands import replace
from omakase.project.edits import mirrored, turn
from omakase.project.model import LayerRecord
from omakase.units import TYPED, QuantityError, UnitSystem, format_value, parse_quantity

MAX_COUNT = 200
SHORT = 9  # characters of a thickness with its unit that are read at a glance
MAX_LINE = 2000
CODE_DIGITS = 4  # of a thickness in a laminate code, which is read and not typed back

_ANGLE = re.compile(r"(?P<sign>±|\+-|\+/-|[+\-−])?(?P<value>\d+(?:\.\d+)?)(?:°|deg)?(?:_(?P<repeat>\d+))?\Z")
_SHARED = re.compile(r"\((?P<name>[^()]*)\)(?P<mirror>m?)\s*\Z")
_OVER = re.compile(r"@\s*(?P<outside>outside\s+)?(?P<zone>[^@]+?)\s*\Z")
_BRACKET = re.compile(
    r"(?:(?P<count>\d+)\s*[x×]?\s+)?(?:(?P<material>[a-z][\w-]*)\s+)?\[(?P<inside>[^\[\]]*)\](?P<times>\d*)(?P<s>s?)\s*\Z"
)


class QuickLineError(ValueError):
    """Why a line cannot be read, with the place (start, end) in the text."""

    def __init__(self, message: str, start: int, end: int) -> None:
        super().__init__(message)
        self.start, self.end = start, end


class _Reader:
    def __init__(
        self,
        materials: Mapping[str, Material],
        system: UnitSystem,
        ply: str,
        core: str,
        core_thickness: float | None,
        shared: Mapping[str, tuple[LayerRecord, ...]],
        zones: Mapping[str, str],
    ) -> None:
        self.materials, self.system = materials, system
        self.ply, self.core, self.core_thickness = ply, core, core_thickness
        self.shared, self.zones = shared, zones
        self.faced = [key for key, material in materials.items() if material.has_face]

    def part(self, text: str, at: int) -> list[LayerRecord]:
        over = _OVER.search(text)
        if over is not None and (over["zone"] in self.zones or ".." in over["zone"]):
            zone, outside = self.zones.get(over["zone"]) or self._stretch(over, at), bool(over["outside"])
            layers = self.part(text[: over.start()].rstrip(), at)
            return [replace(layer, zone=zone, outside=outside) for layer in layers]
        named = _SHARED.match(text)
        if named is not None:
            return self._named(named, at)
        bracket = _BRACKET.match(text)
        if "[" in text or "]" in text:
            if bracket is None:
                raise QuickLineError("a bracket reads like [45/0/core]s, with the cloth before it", at, at + len(text))
            return self._bracket(bracket, at)
        return self._plain(text, at)

    def _stretch(self, over: re.Match[str], at: int) -> str:
        """'0..800 mm' as text in m; the caller makes a zone of it.  A unit at the end holds for both."""
        start, _, end = over["zone"].partition("..")
        unit = re.search(r"[^\d.,/\s+\-−].*\Z", end.strip())
        if unit and not re.search(r"[^\d.,/\s+\-−]", start):
            start = f"{start} {unit[0]}"
        try:
            low, high = (parse_quantity(side.strip(), "length", self.system) for side in (start, end))
        except QuantityError as error:
            raise QuickLineError(
                f"a stretch reads like @ 0..800 mm: {error}", at + over.start(), at + over.end()
            ) from None
        if not 0.0 <= low < high:
            raise QuickLineError("a stretch must end further out than it begins", at + over.start(), at + over.end())
        return f"{low:.9g}..{high:.9g}"

    def _named(self, match: re.Match[str], at: int) -> list[LayerRecord]:
        name = match["name"].strip()
        if name not in self.shared:
            known = f"; there are {', '.join(f'({key})' for key in self.shared)}" if self.shared else ""
            raise QuickLineError(f"no sub-stack is called '{name}'{known}", at, at + match.end())
        layers = list(self.shared[name])
        return mirrored(layers, self.faced) if match["mirror"] else layers

    def _plain(self, text: str, at: int) -> list[LayerRecord]:
        words = text.split()
        structural, turned = "ns" not in words, "turned" in words
        words = [word for word in words if word not in ("ns", "turned")]
        count = None
        if words and re.fullmatch(r"\d+[x×]?", words[0]) and len(words) > 1 and words[1] not in ("mm", "in"):
            count = int(words[0].rstrip("x×"))
            words = words[1:]
            if not 1 <= count <= MAX_COUNT:
                raise QuickLineError(f"a count of {count} is outside 1 to {MAX_COUNT}", at, at + len(text))
        if not words:
            raise QuickLineError("nothing to read here: name a material, for example 'twill200 0'", at, at + len(text))
        is_core = words[0] == "core"
        if is_core:
            words = words[1:]
            if not words or words[0] not in self.materials:
                if words and re.match(r"[a-z]", words[0]):
                    self._material(words[0], at + text.find(words[0]))
                words = [self.core, *words]
                if not self.core:
                    raise QuickLineError("name the core: 'core pvc80 12'", at, at + len(text))
        material = self._material(words[0], at + max(text.find(words[0]), 0))
        rest = " ".join(words[1:])
        if material.kind == "ply" and not is_core:
            self.ply = material.id
            plies = self._plies(material, rest, count, structural, at, text)
            return [replace(ply, turned=True) for ply in plies] if turned else plies
        layer = self._thick(material, rest, is_core, structural, at, text)
        return [layer] * (count or 1)

    def _material(self, name: str, at: int) -> Material:
        if name in self.materials:
            if self.materials[name].kind not in LAYER_KINDS:
                kind = self.materials[name].kind
                raise QuickLineError(f"'{name}' is a {kind}, not a layer: make a ply of it first", at, at + len(name))
            return self.materials[name]
        names = [key for key, material in self.materials.items() if material.kind in LAYER_KINDS]
        import difflib  # only for names that are not known

        close = difflib.get_close_matches(name, names, 3, 0.7) or [key for key in names if name in key]
        hint = f"; did you mean {' or '.join(close[:3])}?" if close else ""
        raise QuickLineError(f"no material is named '{name}'{hint}", at, at + max(len(name), 1))

    def _plies(
        self, material: Material, rest: str, count: int | None, structural: bool, at: int, text: str
    ) -> list[LayerRecord]:
        angles = self._angles(rest.replace(" ", ""), at, text) if rest else [0.0]
        if count is not None:
            angles = [angles[i % len(angles)] for i in range(max(count, 1) if len(angles) <= count else len(angles))]
        return [LayerRecord(material.id, angle, None, "ply", structural) for angle in angles]

    def _angles(self, text: str, at: int, whole: str) -> list[float]:
        angles: list[float] = []
        for item in re.split(r"(?<!\+)/", text):
            match = _ANGLE.match(item)
            if match is None:
                raise QuickLineError(f"'{item}' is not an angle: write 0, 45, ±45 or 0/90", at, at + len(whole))
            angles += _expand(match, at, at + len(whole))
        return angles

    def _thick(self, material: Material, rest: str, is_core: bool, structural: bool, at: int, text: str) -> LayerRecord:
        end = at + len(text)
        angle = 0.0
        at_sign = re.search(r"@\s*([+\-−]?\d+(?:\.\d+)?)\s*(?:°|deg)?", rest)
        if at_sign:
            angle = float(at_sign[1].replace("−", "-"))
            _check_angle(angle, at, end)
            rest = (rest[: at_sign.start()] + rest[at_sign.end() :]).strip()
        try:
            if not rest and is_core and self.core_thickness is not None:
                thickness = self.core_thickness
            elif not rest:
                raise QuantityError(f"it is bought by thickness: '{material.id} 12' or '{material.id} 1/2 in'")
            else:
                thickness = parse_quantity(rest, "length", self.system)
        except QuantityError as error:
            raise QuickLineError(f"thickness of '{material.id}': {error}", at, end) from None
        if not 1e-6 <= thickness <= 1.0:
            raise QuickLineError(
                f"a thickness of {both_units(thickness)} is outside 0.001 mm to 1000 mm (39 in)", at, end
            )
        role = "core" if is_core or material.kind == "core" else "ply"
        if role == "core":
            if not material.can_be_core:
                raise QuickLineError(f"'{material.id}' has no flatwise properties and cannot serve as a core", at, end)
            self.core, self.core_thickness = material.id, thickness
        return LayerRecord(material.id, angle, thickness, "core" if role == "core" else "ply", structural)

    def _bracket(self, match: re.Match[str], at: int) -> list[LayerRecord]:
        start, end = at + match.start("inside"), at + match.end("inside")
        if match["material"]:
            name = match["material"]
            if self._material(name, at + match.start("material")).kind != "ply":
                raise QuickLineError(f"'{name}' is not a cloth: write it inside the bracket", start, end)
            self.ply = name
        layers: list[LayerRecord] = []
        place = start
        for item in re.split(r"(?<!\+)/(?!\d+\s*in)", match["inside"]):
            layers += self._bracket_item(item.strip(), place)
            place += len(item) + 1
        times = int(match["times"] or 1)
        count = int(match["count"] or 1)
        if not 1 <= times * count * len(layers) <= MAX_COUNT:
            raise QuickLineError(f"that makes more than {MAX_COUNT} layers, or none", start, end)
        layers = layers * times
        if match["s"]:
            mirror = mirrored(layers, self.faced)
            layers = layers + (mirror[1:] if layers[-1].role == "core" else mirror)
        return layers * count

    def _bracket_item(self, item: str, at: int) -> list[LayerRecord]:
        angle = _ANGLE.match(item.replace(" ", ""))
        if angle is None:
            return self._plain(item, at)
        if not self.ply:
            raise QuickLineError("name the cloth before the bracket: 'twill200 [45/0]s'", at, at + len(item))
        return [LayerRecord(self.ply, value) for value in _expand(angle, at, at + len(item))]


def _check_angle(angle: float, start: int, end: int) -> None:
    if not abs(angle) <= 360.0:
        raise QuickLineError(f"an angle of {angle:g}° is outside −360° to 360°", start, end)


def _expand(match: re.Match[str], start: int, end: int) -> list[float]:
    value = float(match["value"])
    _check_angle(value, start, end)
    repeat = int(match["repeat"] or 1)
    if not 1 <= repeat <= MAX_COUNT:
        raise QuickLineError(f"a repeat of {repeat} is outside 1 to {MAX_COUNT}", start, end)
    if match["sign"] in ("±", "+-", "+/-"):
        return [value, -value] * repeat
    return [-value if match["sign"] in ("-", "−") else value] * repeat


def read_quick_line(
    text: str,
    materials: Mapping[str, Material],
    system: UnitSystem = "si",
    ply: str = "",
    core: str = "",
    core_thickness: float | None = None,
    shared: Mapping[str, tuple[LayerRecord, ...]] | None = None,
    zones: Mapping[str, str] | None = None,
) -> tuple[LayerRecord, ...]:
    """Layers, face A first, of a quick line.

    ``ply``, ``core`` and ``core_thickness`` (m) are meant where the line names none (the last ones used); ``shared``
    are the sub-stacks that may be named, ``zones`` the ids of zones by name.  A stretch that is written out stands in
    the layers' ``zone`` as text in m, see ``edits.with_stretches``.  Raises QuickLineError with the place of the
    mistake.
    """
    if len(text) > MAX_LINE:
        raise QuickLineError("the line is too long", MAX_LINE, len(text))
    reader = _Reader(materials, system, ply, core, core_thickness, shared or {}, zones or {})
    layers: list[LayerRecord] = []
    at = 0
    for part in re.split(r"[;\n]", text):
        stripped = part.strip()
        if stripped:
            layers += reader.part(stripped, at + part.find(stripped))
        at += len(part) + 1
    if not layers:
        raise QuickLineError(
            "type a layup, for example '2 twill200 ±45 ; core pvc80 12 ; 2 twill200 ±45'", 0, len(text)
        )
    return tuple(layers)


def write_quick_line(
    layers: tuple[LayerRecord, ...],
    system: UnitSystem = "si",
    shared: Mapping[str, tuple[LayerRecord, ...]] | None = None,
    faced: Collection[str] = (),
    zones: Mapping[str, str] | None = None,
) -> str:
    """The line that reads back as these layers (given thicknesses of cloth are left out); ``zones`` : names by id."""
    parts: list[str] = []

    i = 0
    while i < len(layers):
        layer = layers[i]
        stack = (shared or {}).get(layer.shared, ())
        if stack and layers[i : i + len(stack)] in (stack, tuple(mirrored(stack, faced))):
            parts.append(f"({layer.shared})" + ("m" if layer.mirrored else ""))
            i += len(stack)
            continue
        if layer.thickness is None:
            j = i
            while j < len(layers) and _same_cloth(layers[j], layer):
                j += 1
            angles = "/".join(_angle_text(ply.angle) for ply in layers[i:j])
            parts.append(f"{layer.material} {angles}" + _marks(layer) + over_words(layer, zones or {}))
            i = j
            continue
        text = f"{layer.material} {_thickness_text(layer.thickness, system)}"
        if layer.role == "core":
            text = "core " + text
        if layer.angle:
            text += f" @{_angle_text(layer.angle)}"
        parts.append(text + _marks(layer) + over_words(layer, zones or {}))
        i += 1
    return " ; ".join(parts)


def over_words(layer: LayerRecord, zones: Mapping[str, str]) -> str:
    """Where a layer lies, as the line says it, with the names of ``zones`` by id; nothing for all over."""
    return f" @ {'outside ' if layer.outside else ''}{zones.get(layer.zone, layer.zone)}" if layer.zone else ""


def _thickness_text(thickness: float, system: UnitSystem) -> str:
    """A thickness to all its digits, in the unit in which it is short: 5 mm rather than 0.1968503937 in."""
    text = format_value(thickness, "length", system, True, digits=TYPED)
    other = format_value(thickness, "length", "si" if system == "inch_pound" else "inch_pound", True, digits=TYPED)
    return text if len(text) <= max(len(other) + 2, SHORT) else other


def _marks(layer: LayerRecord) -> str:
    return (" turned" if layer.turned else "") + ("" if layer.structural else " ns")


def _same_cloth(layer: LayerRecord, first: LayerRecord) -> bool:
    return replace(layer, angle=0.0) == replace(first, angle=0.0)


LOWERED = str.maketrans("0123456789", "₀₁₂₃₄₅₆₇₈₉")


def _angle_text(angle: float) -> str:
    return f"{angle:g}"


def laminate_code(
    layers: tuple[LayerRecord, ...], system: UnitSystem = "si", faced: Collection[str] = (), materials: bool = False
) -> str:
    """The short code for headings: [45/0/core]s where it is symmetric, angles of cloth, thickness of the rest.

    A ``faced`` cloth is symmetric where one is turned and the other not; the first not turned, which ᵗ marks.  With
    ``materials`` it is a layup that can be read alone, under a signature say: each cloth is named where it begins, and
    the core: [twill200 45/0/pvc80 10]s; without, three alike or more stand once with their number: [0₈].
    """
    if not layers:
        return "[ ]"
    layers = tuple(replace(layer, shared="", mirrored=False, zone="") for layer in layers)

    named = ""

    def item(layer: LayerRecord) -> str:
        nonlocal named
        cloth, named = named, layer.material
        if materials and layer.role != "core" and layer.thickness is None and layer.material != cloth:
            return f"{layer.material} {plain_item(layer)}"
        return plain_item(layer)

    def plain_item(layer: LayerRecord) -> str:
        if layer.role == "core":
            return (layer.material if materials else "core") + (
                f" {format_value(layer.thickness, 'length', system, digits=CODE_DIGITS)}" if layer.thickness else ""
            )
        if layer.thickness is not None:
            return f"{layer.material} {format_value(layer.thickness, 'length', system, digits=CODE_DIGITS)}"
        return _angle_text(layer.angle) + ("ᵗ" if layer.turned else "") + ("" if layer.structural else "*")

    half = len(layers) // 2
    cored = layers[half].role == "core" and len(layers) % 2 == 1
    image = tuple(turn(layer, faced) for layer in reversed(layers))
    if cored:  # which side of a core is up never tells
        image = (*image[:half], layers[half], *image[half + 1 :])
    symmetric = len(layers) > 1 and layers == image
    if symmetric and len(layers) % 2 == 0:
        return f"[{_joined([item(layer) for layer in layers[:half]], not materials)}]s"
    if symmetric and layers[half].role == "core":
        return f"[{_joined([item(layer) for layer in layers[: half + 1]], not materials)}]s"
    return f"[{_joined([item(layer) for layer in layers], not materials)}]"


def _joined(items: list[str], counted: bool) -> str:
    """Items of a code with strokes between them; ``counted`` : three alike or more once, with how many below."""
    if not counted:
        return "/".join(items)
    groups = [(text, len(list(run))) for text, run in itertools.groupby(items)]
    return "/".join(
        text + str(count).translate(LOWERED) if count > 2 else "/".join([text] * count) for text, count in groups
    )


def layup_code(
    layers: tuple[LayerRecord, ...], units: UnitSystem, faced: Collection[str] = (), materials: bool = False
) -> str:
    """The laminate code of each wall, after its name where there are several."""
    walls = dict.fromkeys(layer.wall for layer in layers)
    if len(walls) <= 1:
        return laminate_code(layers, units, faced, materials)
    codes = {
        wall: laminate_code(tuple(layer for layer in layers if layer.wall == wall), units, faced, materials)
        for wall in walls
    }  # fmt: skip
    return "; ".join(f"{wall} {code}" for wall, code in codes.items())
