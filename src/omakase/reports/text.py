"""Results as plain text for a terminal."""

from __future__ import annotations

import math
from typing import Any

from omakase.evaluate.results.wording import reserve_text
from omakase.units import UnitSystem, format_value


def results_text(record: dict[str, Any], units: UnitSystem) -> str:
    """A short table per brief: mass, thickness, deflection, frequency, governing check."""
    lines = [record["title"]]
    for brief in record["briefs"]:
        lines += [
            "",
            brief["name"],
            f"  {'candidate':32} {'mass':>10} {'thick':>10} {'sag':>10} {'freq':>10}  governing",
        ]
        for candidate in brief["candidates"]:
            name = candidate["name"] + (" (baseline)" if candidate["baseline"] else "")
            if candidate["error"]:
                lines.append(f"  {name:32} {candidate['error']}")
                continue
            sags = [c["value"] for c in candidate["checks"] if c["check"] == "deflection"]
            worst = candidate["checks"][0]
            lines.append(
                f"  {name:32} {format_value(candidate['mass'], 'mass', units, True):>10} "
                f"{format_value(candidate['thickness'], 'length', units, True):>10} "
                f"{format_value(max(sags, default=math.nan), 'deflection', units, True):>10} "
                f"{format_value(min(candidate['frequencies'], default=math.nan), 'frequency', units, True):>10}  "
                f"{worst['title']} RF {_reserve(worst)}{'' if candidate['passes'] else '  FAILS'}"
            )
    return "\n".join(lines) + "\n"


def _reserve(check: dict[str, Any]) -> str:
    value = check["reserve_factor"]
    return "> 99" if value is None else reserve_text(value)


def sizing_text(record: dict[str, Any], units: UnitSystem) -> str:
    """Ways of each candidate and the menu, a line each."""
    lines = [record["name"]]
    for candidate in record["candidates"]:
        lines += ["", f"{candidate['name']}: {candidate['error'] or ('passes' if candidate['passes'] else 'fails')}"]
        for way in candidate["ways"]:
            if way["blocked"]:
                lines.append(f"  – {way['change']}: {way['blocked']}")
            else:
                mass = format_value(way["mass"], "mass", units, True)
                lines.append(f"  ✓ {way['change']}: {mass}, governs {way['governs']}")
    menu = record["menu"]
    lines += ["", f"Menu, {menu['proof']}"]
    lines += [f"  out: {reason}: {count:,}" for reason, count in menu["excluded"].items()]
    for dish in menu["dishes"] or menu["least_bad"]:
        titles = f" ({', '.join(dish['titles'])})" if dish["titles"] else ""
        mass = format_value(dish["mass"] or 0.0, "mass", units, True)
        lines.append(f"  {mass} {dish['layup']}{titles}: {dish['governs'] or dish['error']}")
    return "\n".join(lines) + "\n"


def tests_text(record: dict[str, Any], units: UnitSystem) -> str:
    """A short table per series: each result with its count, mean, scatter and basis values."""
    lines = [record["title"]]
    for series in record["series"]:
        lines += ["", f"{series['name']} ({series['basis']})"]
        titles = {r["key"]: r for specimen in series["specimens"] for r in specimen["results"]}
        for key, summary in series["statistics"].items():
            dimension = titles[key]["dimension"]

            def shown(value: float | None, dimension: str = dimension) -> str:
                return "–" if value is None else format_value(value, dimension, units, True)

            count = f"{summary['n']} + {summary['bounds']} bounds" if summary["bounds"] else str(summary["n"])
            scatter = "" if summary["variation"] is None else f"  CV {summary['variation']:.1%}"
            basis = "".join(f"  {name} {shown(value['value'])}" for name, value in summary["basis"].items())
            lines.append(f"  {titles[key]['title']:36} n {count:12} mean {shown(summary['mean'])}{scatter}{basis}")
            if key == "strength":
                lines += [f"    {word}" for word in summary["words"]]
    for entry in record["accepted"]:
        lines.append(f"accepted: {entry['key']} of {entry['material']} from '{entry['name']}'")
    return "\n".join(lines) + "\n"
