"""Another cloth or core in place of one: what that changes in grams and money of a unit."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from omakase.evaluate.build.plan import JobPlan, Planner
from omakase.project.build import Job
from omakase.project.commands import replace
from omakase.project.model import Candidate, Project
from omakase.units import format_value


class Exchange(msgspec.Struct, frozen=True, eq=False):
    """``new`` in place of ``old`` in all candidates of a job."""

    project: Project
    job: Job
    plan: JobPlan
    old: str
    new: str

    def told(self, planner: Planner, cancelled: Callable[[], bool] = lambda: False) -> str:
        """The difference in words; whether the parts still pass is for the line-up to say."""
        other = planner.plan(self.other(), self.job, cancelled)
        units = self.project.units
        mass = other.mass - self.plan.mass
        grams = format_value(mass, "small_mass", units, with_unit=True)
        said = [f"{self.new} in place of {self.old}: {_signed(grams)}"]
        if other.cost is not None and self.plan.cost is not None:
            money = other.cost.price.total - self.plan.cost.price.total
            said.append(f"{money:+,.0f} {self.project.shop.currency}".strip() + " on the price")
        wrong = [text for path, text in other.problems if (path, text) not in self.plan.problems]
        said += wrong[:1] or ["look in the line-up whether it still passes"]
        return "; ".join(said) + "."

    def other(self) -> Project:
        """The project with the other material in the candidates that the job builds."""
        wanted = {(own.made.brief.id, own.made.candidate.id) for own in self.plan.parts}
        briefs = tuple(
            replace(brief, candidates=tuple(
                _swapped(own, self.old, self.new) if (brief.id, own.id) in wanted else own for own in brief.candidates
            ))
            for brief in self.project.briefs
        )  # fmt: skip
        return replace(self.project, briefs=briefs)


def _swapped(candidate: Candidate, old: str, new: str) -> Candidate:
    layers = tuple(replace(own, material=new) if own.material == old else own for own in candidate.layers)
    return replace(candidate, layers=layers)


def _signed(text: str) -> str:
    return text if text.startswith(("−", "-")) else f"+{text}"
