"""Loading in steps with what is at hand: masses hung on a lever, and what the log says of the failure."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.errors import SpecimenError
from omakase.core.plates.loads import STANDARD_GRAVITY
from omakase.core.specimens.method import Data


class Step(msgspec.Struct, frozen=True):
    """One step: force in N on the specimen, the deflection read there in m, and whether it was held."""

    force: float
    deflection: float | None = None
    held: bool = True


def force_of(mass: float, lever: float = 1.0) -> float:
    """Force in N of a mass in kg hung on a lever of this ratio."""
    return mass * STANDARD_GRAVITY * lever


def data_of(steps: Sequence[Step]) -> Data:
    """What a step log says: the largest load held, and the one at which it failed if it did.

    Raises SpecimenError for an empty log, a failure that is not the last step, or one at no more than was held.
    """
    if not steps:
        raise SpecimenError("the log has no step yet")
    broken = [i for i, step in enumerate(steps) if not step.held]
    if len(broken) > 1 or (broken and broken[0] != len(steps) - 1):
        raise SpecimenError(f"step {broken[0] + 1} says that it failed, and there are steps after it")
    held = max((step.force for step in steps if step.held), default=0.0)
    failed = steps[-1].force if broken else None
    if failed is not None and failed <= held:
        raise SpecimenError("it failed at no more load than it had held before: check the last step")
    readings = np.array([[step.force, step.deflection] for step in steps if step.held and step.deflection is not None])
    return Data(held, failed, None, readings if len(readings) else None)


def planned(ultimate: float, share: float, count: int) -> list[float]:
    """Loads in N of a proof load: even steps up to a share of ultimate, then none, to see what stays."""
    top = ultimate * share
    return [top * (i + 1) / count for i in range(count)] + [0.0]
