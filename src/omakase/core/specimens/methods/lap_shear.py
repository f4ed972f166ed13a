"""Single lap shear of a bond."""

from __future__ import annotations

from omakase.core.specimens.method import (
    WIDTH,
    Data,
    Method,
    Options,
    Reduction,
    Size,
    Sizes,
    failure,
    mm,
    newtons,
    positive,
    travel_of,
    work_result,
)

BASIS = "ASTM D5868, D1002"


def reduce(data: Data, sizes: Sizes, _options: Options) -> Reduction:
    """P over the overlap's area: a mean, for peel and the ends' peaks are in it."""
    width, overlap = positive(sizes, "width", "overlap")
    end = data.failed if data.failed is not None else data.held
    formula = f"τ = P/(b l) = {newtons(end)}/({mm(width)} × {mm(overlap)})"
    result = failure(data, "strength", "Lap-shear strength", "strength", 1.0 / (width * overlap), formula, BASIS)
    x, _, _ = travel_of(data, Options())
    told = "a mean over the overlap: it does not scale to longer laps, whose ends carry most"
    return Reduction((result, *work_result(data, x, 0.0)), None, "", (told,))


METHOD = Method(
    "lap_shear", "Lap shear of a bond", BASIS,
    "Compares adhesives and preparations; not a design value of another lap.",
    (WIDTH, Size("overlap", "overlap", "length", 0.025)),
    reduce, None, (("strength", ("lap_shear",)),), "", "",
)  # fmt: skip
