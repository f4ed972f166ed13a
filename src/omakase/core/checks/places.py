"""The sampled places of all load cases side by side, so that a check works through them at once."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from msgspec.structs import replace

from omakase.core.members.field import Place, WallCase
from omakase.core.plates.lines import CORNER_SHARE

CORNER_REMARK = (
    f"the corners are left out, {CORNER_SHARE:.0%} of the shorter side from both edges: the theory gives strains "
    "without bound there; look after them in the detail of the edge"
)


class Places:
    """Every sampled place of every load case in one row; none where there is no load case.

    ``strains`` : (11, places) generalised strains at limit load.  ``derived`` : what one check worked out from them
    and others need too.
    """

    def __init__(self, cases: tuple[WallCase, ...]) -> None:
        columns = [np.moveaxis(case.strains, -1, 0).reshape(11, -1) for case in cases]
        self.strains = np.concatenate([np.zeros((11, 0)), *columns], axis=1)
        self._left_out = np.concatenate([np.zeros(0, bool), *(case.left_out.ravel() for case in cases)])
        self._all_count = not self._left_out.any()
        self._cases: list[tuple[WallCase, slice]] = []
        start = 0
        for case, strains in zip(cases, columns, strict=True):
            self._cases.append((case, slice(start, start + strains.shape[1])))
            start += strains.shape[1]
        self.derived: dict[str, Any] = {}

    def __len__(self) -> int:
        return int(self.strains.shape[1])

    def largest(self, values: np.ndarray) -> Iterator[tuple[WallCase, int]]:
        """Each load case with the place of the largest of its ``values`` (places,), singular corners left out."""
        counted = self._counted(values)
        for case, span in self._cases:
            yield case, span.start + int(np.argmax(counted[span]))

    def per_case(self, values: np.ndarray) -> np.ndarray:
        """The largest of each load case's ``values`` (..., places), repeated at all of its places."""
        result = np.empty_like(values)
        counted = self._counted(values)
        for _, span in self._cases:
            result[..., span] = counted[..., span].max(axis=-1, keepdims=True)
        return result

    def _counted(self, values: np.ndarray) -> np.ndarray:
        return values if self._all_count else np.where(self._left_out, -np.inf, values)

    def remarks(self, values: np.ndarray, place: int) -> tuple[str, ...]:
        """That a place left out has more than the ``values`` (places,) have at ``place``, or nothing."""
        if self._all_count:
            return ()
        case, span = next(own for own in self._cases if place < own[1].stop)
        spot = values[span][self._left_out[span]]
        told = getattr(case, "left_out_told", CORNER_REMARK)
        return (told,) if spot.size and spot.max() > values[place] else ()

    def place(self, index: int, layer: int | None = None, surface: str = "") -> Place:
        """A place on the member, in a layer of the wall."""
        case, span = next(entry for entry in self._cases if index < entry[1].stop)
        place = case.place(*divmod(index - span.start, len(case.y)))
        return place if layer is None else replace(place, layer=layer, surface=surface)
