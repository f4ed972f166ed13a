"""Single lap shear of a bond."""

from __future__ import annotations

from omakase.core.specimens import method as m

BASIS = "ASTM D5868, D1002"


def reduce(data: m.Data, sizes: m.Sizes, _options: m.Options) -> m.Reduction:
    """P over the overlap's area: a mean, which includes peel and the peaks at the ends."""
    width, overlap = m.positive(sizes, "width", "overlap")
    formula = f"τ = P/(b l) = {m.newtons(data.end)}/({m.mm(width)} × {m.mm(overlap)})"
    result = m.failure(data, "strength", "Lap-shear strength", "strength", 1.0 / (width * overlap), formula, BASIS)
    x, _, _ = m.travel_of(data, m.Options())
    remarks = ["a mean over the overlap: it does not scale to longer laps, whose ends carry most"]
    adherend, limit = sizes.get("adherend", 0.0), sizes.get("yield_stress", 0.0)
    if adherend > 0.0 and limit > 0.0 and data.end > limit * adherend * width:
        longest = overlap * limit * adherend * width / data.end
        remarks.append(
            f"the adherend reached {data.end / (adherend * width) / 1e6:.3g} MPa and yields at {limit / 1e6:.3g} MPa: "
            f"it fails by yielding; D1002 asks for an overlap of at most F_ty t/τ, here {m.mm(longest)}"
        )
    return m.Reduction((result, *m.work_result(data, x, 0.0)), None, "", tuple(remarks))


METHOD = m.Method(
    "lap_shear", "Lap shear of a bond", BASIS,
    "Compares adhesives and preparations; not a design value of another lap.",
    (
        m.WIDTH,
        m.Size("overlap", "overlap", "length", 0.025),
        m.Size("adherend", "thickness of the adherend", "length", 0.0016, True),
        m.Size("yield_stress", "its yield stress, 0 if it has none", "strength", 0.0, True),
    ),
    reduce, None, (("strength", ("lap_shear",)),), "", "",
    accepted=("bond",), rules=(m.SizeRule("overlap", "", 0.0, 0.026, "ASTM D1002 (25.4 mm in D5868)"),),
)  # fmt: skip
