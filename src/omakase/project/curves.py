"""Test curves in a project file: columns of whole numbers times a step, thinned where the test had very many rows.

A hundred thousand rows would make a file of megabytes.  Means of neighbouring rows keep every straight part where it is
and the peak and both ends stay exact; the original is found again by the name and digest of its file.
"""

from __future__ import annotations

import numpy as np

from omakase.core.errors import SpecimenError
from omakase.core.specimens.curve import Curve, thinned
from omakase.project.disk import sha256
from omakase.project.model import CurveColumn, CurveRecord

KEPT_ROWS = 2000
RESOLUTION = 20_000  # steps from the least to the largest value of a column: finer than any load cell


def to_record(curve: Curve, source: str = "", original: bytes = b"", rows: int = KEPT_ROWS) -> CurveRecord:
    """The curve as it is kept in a file; ``original`` is the content of the file it came from."""
    kept = thinned(curve, rows)
    columns = []
    for quantity, values in kept.columns.items():
        step = _step(values)
        whole = np.round(values / step).astype(np.int64)
        columns.append(CurveColumn(quantity, step, " ".join(map(str, whole.tolist()))))
    digest = sha256(original) if original else ""
    return CurveRecord(tuple(columns), len(curve), source, digest)


def _step(values: np.ndarray) -> float:
    """1, 2 or 5 times a power of ten, at least RESOLUTION of which span the column."""
    reach = float(np.ptp(values)) or abs(float(values[0])) or 1.0
    finest = reach / RESOLUTION
    power = 10.0 ** np.floor(np.log10(finest))
    return float(f"{max(m * power for m in (1.0, 2.0, 5.0) if m * power <= finest * 1.000001):.12g}")


def to_curve(record: CurveRecord) -> Curve:
    """The kept curve.  Raises SpecimenError for a column that is not numbers."""
    columns = {}
    for column in record.columns:
        try:
            whole = np.array(column.values.split(), dtype=np.int64)
        except (ValueError, OverflowError):
            raise SpecimenError(f"the column of {column.quantity} holds something that is not a whole number") from None
        columns[column.quantity] = whole * column.step
    return Curve(columns)
