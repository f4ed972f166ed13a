"""Pull-out of an insert, a bolt or a screw from its laminate."""

from __future__ import annotations

from omakase.core.specimens import method as m

BASIS = "common practice, no source"


def reduce(data: m.Data, sizes: m.Sizes, _options: m.Options) -> m.Reduction:
    """The force at which the insert came out: its strength, for the same insert in the same laminate."""
    (ring,) = m.positive(sizes, "ring")
    result = m.failure(data, "strength", "Pull-out load", "force", 1.0, f"P = {m.newtons(data.end)}", BASIS)
    return m.Reduction(
        (result,), None, "", (f"the panel was held on a ring of {m.mm(ring)}: that belongs to the result",)
    )


METHOD = m.Method(
    "insert_pull_out", "Pull-out of an insert", BASIS,
    "The same insert, laminate and distance to edges; a support ring too close to the insert makes it look too strong.",
    (m.Size("ring", "inside diameter of the ring that holds it", "length", 0.07),), reduce, None,
    (("strength", ("pull_out",)),), "", "",
)  # fmt: skip
