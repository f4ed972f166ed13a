"""Single lap shear of a bond."""

from __future__ import annotations

from omakase.core.specimens import method as m

BASIS = "ASTM D5868, D1002"


def reduce(data: m.Data, sizes: m.Sizes, _options: m.Options) -> m.Reduction:
    """P over the overlap's area: a mean, for peel and the ends' peaks are in it."""
    width, overlap = m.positive(sizes, "width", "overlap")
    formula = f"τ = P/(b l) = {m.newtons(data.end)}/({m.mm(width)} × {m.mm(overlap)})"
    result = m.failure(data, "strength", "Lap-shear strength", "strength", 1.0 / (width * overlap), formula, BASIS)
    x, _, _ = m.travel_of(data, m.Options())
    told = "a mean over the overlap: it does not scale to longer laps, whose ends carry most"
    return m.Reduction((result, *m.work_result(data, x, 0.0)), None, "", (told,))


METHOD = m.Method(
    "lap_shear", "Lap shear of a bond", BASIS,
    "Compares adhesives and preparations; not a design value of another lap.",
    (m.WIDTH, m.Size("overlap", "overlap", "length", 0.025)),
    reduce, None, (("strength", ("lap_shear",)),), "", "",
    accepted=("bond",), rules=(m.SizeRule("overlap", "", 0.0, 0.026, "ASTM D1002 (25.4 mm in D5868)"),),
)  # fmt: skip
