"""Peel by hand: where it parted, and how hard it was."""

from __future__ import annotations

from omakase.core.specimens import method as m

BASIS = "common practice, no source"


def reduce(data: m.Data, sizes: m.Sizes, _options: m.Options) -> m.Reduction:
    """Force per width.  The place of failure matters most: in the core is good, at the bond is bad."""
    (width,) = m.positive(sizes, "width")
    result = m.failure(data, "strength", "Peel force per width", "line_load", 1.0 / width,
                     f"P/b = {m.newtons(data.end)}/{m.mm(width)}", BASIS)  # fmt: skip
    return m.Reduction((result,), None, "", ("by hand: compare places and ranks, not numbers",))


METHOD = m.Method(
    "peel", "Peel by hand", BASIS, "Ranks preparations and cores; angle and speed are not held.",
    (m.WIDTH,), reduce, None, (("strength", ("peel",)),), "", "",
)  # fmt: skip
