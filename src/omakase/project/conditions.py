"""Records of design values by condition, and the cautious ones that may be begun with."""

from typing import Literal

from omakase.project.spans import Record

Basis = Literal["agreed", "mean", "B", "A", "minimum"]
FAMILIES = ("carbon", "glass", "aramid", "basalt", "flax", "metal")
PRACTICE = "common practice, no source"


class DesignValue(Record, frozen=True):
    """What one ``family`` of materials may reach, null for no cut-off: strains ``tension``, ``compression`` along the
    fibres and ``shear`` at ultimate load; of metals stresses in Pa, ``yield_stress`` at limit and ``ultimate`` at
    ultimate load.  ``source`` : where it is from, in words."""

    family: str
    tension: float | None = None
    compression: float | None = None
    shear: float | None = None
    yield_stress: float | None = None
    ultimate: float | None = None
    source: str = ""
    basis: Basis = "agreed"


class ConditionRecord(Record, frozen=True):
    """A named condition with its values, at a ``temperature`` in K, ``wet`` or dry.  ``cautious`` : one of those that
    the program offers to begin with, unchanged."""

    id: str
    name: str
    temperature: float = 296.15
    wet: bool = False
    values: tuple[DesignValue, ...] = ()
    cautious: bool = False


class AppliedCondition(Record, frozen=True):
    """A condition that a brief names, as it is in the project, and the names of the zones that it is for; none for all
    of the member."""

    condition: ConditionRecord
    zones: tuple[str, ...] = ()


def _values(carbon: tuple[float, float, float], glass: tuple[float, float, float]) -> tuple[DesignValue, ...]:
    return tuple(
        DesignValue(family, *own, source=PRACTICE) for family, own in (("carbon", carbon), ("glass", glass))
    )  # fmt: skip


# cautious strains at ultimate load of the kind that teams begin with before they have tests of their own: common
# practice, no source.  They are offered, and count for nothing until a brief names them.
CAUTIOUS: tuple[ConditionRecord, ...] = (
    ConditionRecord("dry", "room, dry", 296.15, False, _values((0.006, 0.005, 0.01), (0.012, 0.009, 0.012)), True),
    ConditionRecord("hot_wet", "hot, wet", 344.15, True, _values((0.0055, 0.0035, 0.007), (0.01, 0.006, 0.008)), True),
    ConditionRecord(
        "impact", "barely visible impact", 296.15, False, _values((0.0045, 0.003, 0.006), (0.009, 0.006, 0.009)), True
    ),
    ConditionRecord("hole", "open hole", 296.15, False, _values((0.0045, 0.004, 0.007), (0.009, 0.007, 0.009)), True),
    ConditionRecord(
        "filled_hole", "filled hole", 296.15, False, _values((0.0042, 0.005, 0.007), (0.008, 0.009, 0.009)), True
    ),
    ConditionRecord(
        "fatigue", "fatigue cut-off", 296.15, False,
        (*_values((0.004, 0.003, 0.004), (0.003, 0.003, 0.004)),
         DesignValue("metal", yield_stress=60e6, ultimate=90e6, source=f"{PRACTICE}; aluminium, welds excluded")), True,
    ),
)  # fmt: skip
