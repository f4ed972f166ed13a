"""Edits of jobs and of the shop, as commands."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from omakase.core.errors import OmakaseError
from omakase.project.build import BagLog, CureLog, Job, JobPart, ResinUse, Shop, WeighIn, WorkRecord
from omakase.project.commands import ArrangeJobs, EditShop
from omakase.project.model import Brief, Candidate, Project, by_id, new_id

replace = msgspec.structs.replace


def add_job(project: Project, brief: Brief | None, candidate: Candidate | None, on: str) -> tuple[ArrangeJobs, str]:
    """Command that adds a job with one part, a candidate of a brief, and the job's id; empty without a candidate."""
    identity = new_id("j", {own.id for own in project.jobs})
    parts: tuple[JobPart, ...] = ()
    name = "New job"
    if brief is not None and candidate is not None and candidate.layers:
        parts, name = (part_of(brief, candidate, "p1"),), brief.name
    job = Job(identity, name, start=on, parts=parts)
    return ArrangeJobs(project.jobs, (*project.jobs, job), f"new job {name}"), identity


def part_of(brief: Brief, candidate: Candidate, identity: str) -> JobPart:
    """A part of a job with what can be guessed: the faces' process is the shop's second one."""
    return JobPart(identity, brief.name, brief.id, candidate.id)


def change_job(
    project: Project, identity: str, change: Callable[[Job], Job], text: str, merge: str = ""
) -> ArrangeJobs:
    """Command that changes a job; ``merge`` : edits with the same one are one step.  Raises OmakaseError."""
    old = by_id(project.jobs, identity)
    if old is None:
        raise OmakaseError("the job was removed")
    new = change(old)
    jobs = tuple(new if own.id == identity else own for own in project.jobs)
    return ArrangeJobs(project.jobs, jobs, text, f"{identity} {merge}" if merge else "")


def remove_job(project: Project, identity: str) -> ArrangeJobs:
    rest = tuple(own for own in project.jobs if own.id != identity)
    return ArrangeJobs(project.jobs, rest, "remove a job")


def change_shop(project: Project, change: Callable[[Shop], Shop], text: str, merge: str = "") -> EditShop:
    """Command that changes the shop."""
    return EditShop(project.shop, change(project.shop), text, f"shop {merge}" if merge else "")


def with_part(job: Job, brief: Brief, candidate: Candidate) -> Job:
    """The job with a part more."""
    identity = new_id("p", {own.id for own in job.parts})
    return replace(job, parts=(*job.parts, part_of(brief, candidate, identity)))


def without_part(job: Job, index: int) -> Job:
    """The job without a part; works no longer wait for it.  Raises OmakaseError while weighings of it are kept."""
    gone = job.parts[index].id
    logged: tuple[WeighIn | ResinUse | BagLog | CureLog, ...] = (*job.weighed, *job.uses, *job.bags, *job.cures)
    if any(own.part == gone for own in logged):
        raise OmakaseError("it has weighings or logs: remove these first")
    works = tuple(replace(own, after=tuple(name for name in own.after if name != gone)) for own in job.works)
    return replace(job, parts=(*job.parts[:index], *job.parts[index + 1 :]), works=works)


def with_work(job: Job) -> Job:
    """The job with a work more, after all parts and works that nothing waits for yet."""
    identity = new_id("w", {own.id for own in job.works})
    waited = {name for own in job.works for name in own.after}
    listed = (*(own.id for own in job.parts), *(own.id for own in job.works))
    after = tuple(name for name in listed if name not in waited)
    return replace(job, works=(*job.works, WorkRecord(identity, "closing bond", after=after, people=2)))


def without_work(job: Job, index: int) -> Job:
    """The job without a work; what waited for it waits for what it waited for."""
    gone = job.works[index]
    works = []
    for own in (*job.works[:index], *job.works[index + 1 :]):
        after: list[str] = []
        for name in own.after:
            after += gone.after if name == gone.id else [name]
        works.append(replace(own, after=tuple(dict.fromkeys(after))))
    return replace(job, works=tuple(works))
