"""What a sample that was made says: weighed against predicted, two readings of one mass, and its share of resin."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.areal import ply_thickness
from omakase.core.materials.material import Material
from omakase.project import translate
from omakase.project.model import Candidate, Reading, Sample


class SampleReport(msgspec.Struct, frozen=True):
    """``error`` says why nothing could be worked out.  Masses in kg, thicknesses in m.

    ``fraction`` : resin mass fraction of its plies that the weighed mass means, None where it is unknown.
    ``voids`` : share of its volume that is neither fibre nor resin, and how much the readings leave open; None for a
    sandwich or without both a mass and a thickness.  ``warnings`` : what should be looked at before the numbers are
    believed.
    """

    sample: Sample
    error: str = ""
    predicted_mass: float = 0.0
    predicted_thickness: float = 0.0
    weighed: float | None = None
    fraction: float | None = None
    predicted_fraction: float | None = None
    voids: tuple[float, float] | None = None
    warnings: tuple[str, ...] = ()

    @property
    def mass_difference(self) -> float | None:
        """Weighed over predicted, less one."""
        return None if self.weighed is None else self.weighed / self.predicted_mass - 1.0

    @property
    def thickness_difference(self) -> float | None:
        """Measured over predicted, less one."""
        reading = self.sample.thickness
        return None if reading is None else reading.value / self.predicted_thickness - 1.0


def disagree(first: Reading, second: Reading) -> bool:
    """Whether two readings of one mass differ by more than rounding: their ranges do not meet."""
    return abs(first.value - second.value) > (first.half + second.half) * (1.0 + 1e-9)


def report(sample: Sample, materials: Mapping[str, Material]) -> SampleReport:
    """The report of one sample.

    The resin fraction is that of all plies alike: what is weighed less cloth, core, sheet and core uptake is resin,
    over itself and the cloth (the sum of areal masses backwards; trimmed square, no filler, no paint).
    """
    try:
        stack = translate.stack(Candidate("sample", "sample", sample.layers), materials)
    except OmakaseError as error:
        return SampleReport(sample, str(error))
    area, parts = sample.length * sample.width, stack.areal_mass()
    if not area > 0.0:
        return SampleReport(sample, "its length and width must be positive")
    total = sum(parts.values())
    weighed = sum(m.value for m in sample.masses) / len(sample.masses) if sample.masses else None
    fraction, warnings = None, []
    if len(sample.masses) == 2 and disagree(*sample.masses):
        first, second = (m.text for m in sample.masses)
        warnings.append(f"{first} and {second} are not the same mass: weigh it again, or look for a typing error")
        weighed = None
    if weighed is not None and parts["cloth"] > 0.0:
        resin = weighed / area - (total - parts["resin"])
        if resin > 0.0:
            fraction = resin / (resin + parts["cloth"])
        else:
            warnings.append("lighter than its cloth and core alone: is the size right, and every layer in it?")
    warnings += _thickness_warnings(sample, stack)
    voids = void_content(sample, stack, fraction)
    if voids is not None and voids[0] < -voids[1]:
        warnings.append(f"thinner than its fibres and resin by {-voids[0]:.1%}: is the mass or the thickness wrong?")
        voids = None
    predicted = parts["resin"] / (parts["resin"] + parts["cloth"]) if parts["cloth"] else None
    return SampleReport(sample, "", total * area, stack.thickness, weighed, fraction, predicted, voids, tuple(warnings))


def void_content(sample: Sample, stack: Stack, fraction: float | None) -> tuple[float, float] | None:
    """(share of voids, uncertainty from half the last digit of thickness and mass) of a sample of plies alone.

    1 − (A_f/ρ_f + A_m/ρ_m)/t: measured density against the void-free one of fibre and resin (ASTM D2734, D3171).
    """
    reading = sample.thickness
    if fraction is None or reading is None or any(layer.material.kind != "ply" for layer in stack.layers):
        return None
    cloth = solid = resin_volume = 0.0
    for layer in stack.layers:
        one_ply = layer.material.value("fibre_areal_mass") * layer.thickness / ply_thickness(layer.material)
        cloth += one_ply
        solid += one_ply / layer.material.value("fibre_density")
        resin_volume += one_ply * fraction / (1.0 - fraction) / layer.material.value("resin_density")
    filled = (solid + resin_volume) / reading.value
    mass = sum(weighing.half for weighing in sample.masses) / sum(weighing.value for weighing in sample.masses)
    return 1.0 - filled, filled * (reading.half / reading.value + mass)


def _thickness_warnings(sample: Sample, stack: Stack) -> list[str]:
    reading = sample.thickness
    if reading is None:
        return []
    if not 0.5 <= reading.value / stack.thickness <= 2.0:
        return ["the measured thickness is far from that of the layers: is a layer missing, or the unit another?"]
    return []
