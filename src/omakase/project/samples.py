"""Edits of a project's samples, as commands."""

from __future__ import annotations

from omakase.project.commands import ArrangeSamples, replace
from omakase.project.model import Candidate, Project, Reading, Sample, new_id
from omakase.units import UnitSystem, parse_reading

MAX_MASSES = 2


def add(project: Project, candidate: Candidate) -> tuple[ArrangeSamples, str]:
    """Command for a sample of a candidate's layup, and its id."""
    identity = new_id("s", {sample.id for sample in project.samples})
    sample = Sample(identity, f"{candidate.name}, sample {identity[1:]}", candidate.layers)
    return ArrangeSamples(project.samples, (*project.samples, sample), f"sample of {candidate.name}"), identity


def change(project: Project, new: Sample, text: str) -> ArrangeSamples:
    """Command that puts a changed sample in the place of the one with its id."""
    samples = tuple(new if sample.id == new.id else sample for sample in project.samples)
    return ArrangeSamples(project.samples, samples, text)


def remove(project: Project, sample_id: str) -> ArrangeSamples:
    rest = tuple(sample for sample in project.samples if sample.id != sample_id)
    return ArrangeSamples(project.samples, rest, "remove a sample")


def read_mass(sample: Sample, place: int, text: str, units: UnitSystem) -> Sample:
    """The sample with its first or second reading of the mass; an empty text removes it.  Raises QuantityError."""
    masses = list(sample.masses)
    if not text.strip():
        return replace(sample, masses=tuple(masses[:place] + masses[place + 1 :]))
    value, half = parse_reading(text, "mass", units)
    reading = Reading(value, half, text.strip())
    return replace(sample, masses=(*masses[:place], reading, *masses[place + 1 :])[:MAX_MASSES])


def read_thickness(sample: Sample, text: str, units: UnitSystem) -> Sample:
    """The sample with its measured thickness; an empty text removes it.  Raises QuantityError."""
    if not text.strip():
        return replace(sample, thickness=None)
    value, half = parse_reading(text, "length", units)
    return replace(sample, thickness=Reading(value, half, text.strip()))
