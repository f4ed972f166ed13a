"""Peel by hand: where it parted, and how hard it was."""

from __future__ import annotations

from omakase.core.specimens.method import (
    WIDTH,
    Data,
    Method,
    Options,
    Reduction,
    Sizes,
    failure,
    mm,
    newtons,
    positive,
)

BASIS = "common practice, no source"


def reduce(data: Data, sizes: Sizes, _options: Options) -> Reduction:
    """Force per width; the place is what counts, in the core is good, at the bond is bad."""
    (width,) = positive(sizes, "width")
    end = data.failed if data.failed is not None else data.held
    result = failure(data, "strength", "Peel force per width", "line_load", 1.0 / width,
                     f"P/b = {newtons(end)}/{mm(width)}", BASIS)  # fmt: skip
    return Reduction((result,), None, "", ("by hand: compare places and ranks, not numbers",))


METHOD = Method(
    "peel", "Peel by hand", BASIS, "Ranks preparations and cores; angle and speed are not held.",
    (WIDTH,), reduce, None, (("strength", ("peel",)),), "", "",
)  # fmt: skip
