"""Proof load of a part in steps: is it straight, and does it come back."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import SpecimenError
from omakase.core.specimens import method as m

BASIS = "common practice, no source"
DEPARTURE = 0.05  # from the line of the first steps: stop
SET = 0.05  # of the largest deflection that stays after unloading: stop
FIRST = 3  # steps that make the line


class Watch:
    """What the readings so far say.  ``departure`` : of the newest step from the line of the first ones, as a share
    of what the line gives there, positive when it sags more; ``set_share`` : the share that stayed after unloading.

    ``readings`` : (m, 2), force N and deflection m in the order read; the line is through the first three loads up to
    the first unloading.  Stops at 5 % departure beyond the first steps, or 5 % set (common practice, no source).
    """

    def __init__(self, readings: np.ndarray, stiffness: float = 0.0) -> None:
        self.readings = np.atleast_2d(np.asarray(readings, dtype=float))
        force, sag = self.readings[:, 0], self.readings[:, 1]
        self.top = int(np.argmax(force))
        up_force, up_sag = force[: self.top + 1], sag[: self.top + 1]
        zero = sag[0] if force[0] == 0.0 else 0.0
        loaded = np.nonzero(up_force > 0.0)[0]
        first = loaded[:FIRST]
        self.slope = 0.0
        if len(first) and np.any(up_sag[first] - zero > 0.0):
            deflections = up_sag[first] - zero
            self.slope = float(up_force[first] @ deflections / (deflections @ deflections))
        self.departure = 0.0
        if self.slope > 0.0 and len(loaded) > FIRST:
            expected = up_force[loaded[FIRST:]] / self.slope
            self.departure = float(np.max((up_sag[loaded[FIRST:]] - zero - expected) / expected))
        self.against_prediction = self.slope / stiffness - 1.0 if stiffness > 0.0 and self.slope > 0.0 else None
        unloaded = np.nonzero(force[self.top :] <= 0.0)[0]
        deepest = float(np.max(sag - zero))
        self.set_share = None
        if len(unloaded) and deepest > 0.0:
            self.set_share = float((sag[self.top + unloaded[-1]] - zero) / deepest)

    @property
    def stop(self) -> str:
        """Why to stop and unload, or nothing."""
        if self.departure > DEPARTURE:
            return f"stop and unload: it sags {self.departure:.0%} more than the line of the first steps"
        if self.set_share is not None and self.set_share > SET:
            return f"do not load it again: {self.set_share:.0%} of the deflection stayed after unloading"
        return ""


def reduce(data: m.Data, sizes: m.Sizes, _options: m.Options) -> m.Reduction:
    """The stiffness of the first steps, the departure from it, the set, and the load that was held."""
    if data.readings is None or not len(data.readings):
        raise SpecimenError("a proof load needs deflections read at its steps")
    watch = Watch(data.readings, sizes.get("predicted_stiffness", 0.0))
    upper = np.inf if data.failed is None else data.failed
    results = [
        m.Result(
            "strength", "Load held", "force", data.held, upper, f"largest load held, {m.newtons(data.held)}", BASIS
        )
    ]
    if watch.slope > 0.0:
        results.append(m.single("stiffness", "Stiffness of the first steps", "line_load", watch.slope,
                              "line through the first three loads", BASIS))  # fmt: skip
        results.append(m.single("departure", "Departure from that line", "ratio", watch.departure,
                              "largest of the later steps", BASIS))  # fmt: skip
    if watch.set_share is not None:
        results.append(
            m.single("set", "Deflection that stayed", "ratio", watch.set_share, "share of the largest", BASIS)
        )
    return m.Reduction(tuple(results), None, "deflection", (watch.stop,) if watch.stop else ())


METHOD = m.Method(
    "proof_load", "Proof load of a part", BASIS,
    "Steps up to a share of ultimate, read when the part has come to rest.",
    (m.Size("predicted_stiffness", "predicted stiffness", "line_load", 0.0, True),), reduce, None, (), "", "", "",
)  # fmt: skip
