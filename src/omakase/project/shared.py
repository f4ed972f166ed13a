"""Named sub-stacks that several candidates share: layers that carry the same name change together.

A layer states in ``shared`` the sub-stack it belongs to.  An instance is a run of such layers; all instances of a name
are the same layers, or their mirror image, which ``mirrored`` tells.  An edit to one of them is carried to all others,
in every candidate.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from omakase.project.commands import Linked, replace
from omakase.project.edits import mirrored
from omakase.project.model import Candidate, LayerRecord, Project

Layers = tuple[LayerRecord, ...]


def runs(layers: Sequence[LayerRecord]) -> Iterator[tuple[str, int, int]]:
    """(name, start, stop) of each run of layers of one sub-stack, all of them mirrored or none."""
    start = 0
    while start < len(layers):
        stack = (layers[start].shared, layers[start].mirrored)
        stop = start + 1
        while stop < len(layers) and (layers[stop].shared, layers[stop].mirrored) == stack:
            stop += 1
        if stack[0]:
            yield stack[0], start, stop
        start = stop


def upright(instance: Layers, faced: Collection[str]) -> Layers:
    """An instance, or what it is the mirror image of."""
    return tuple(mirrored(instance, faced)) if instance[0].mirrored else instance


def shared_stacks(project: Project, faced: Collection[str]) -> dict[str, Layers]:
    """Each sub-stack of the project by name: its shortest run, since two instances may touch."""
    stacks: dict[str, Layers] = {}
    for brief in project.briefs:
        for candidate in brief.candidates:
            if not any(layer.shared for layer in candidate.layers):
                continue
            for name, start, stop in runs(candidate.layers):
                if name not in stacks or stop - start < len(stacks[name]):
                    stacks[name] = upright(candidate.layers[start:stop], faced)
    return stacks


def instances(layers: Sequence[LayerRecord], name: str, size: int) -> list[tuple[int, int]]:
    """(start, stop) of the instances of a sub-stack of ``size`` layers; a run of several is parted evenly."""
    places = []
    for stack, start, stop in runs(layers):
        if stack == name:
            step = size if size and (stop - start) % size == 0 else stop - start
            places += [(at, at + step) for at in range(start, stop, step)]
    return places


def healed(old: Candidate, new: Candidate) -> Candidate:
    """A layer put in between two of one instance belongs to it."""
    layers = list(new.layers)
    if len(layers) != len(old.layers) + 1:
        return new
    for i in range(1, len(layers) - 1):
        before, after = layers[i - 1], layers[i + 1]
        neighbours = old.layers[i - 1].shared == old.layers[i].shared == before.shared == after.shared
        if before.shared and neighbours and before.mirrored == after.mirrored and not layers[i].shared:
            layers[i] = replace(layers[i], shared=before.shared, mirrored=before.mirrored)
    return replace(new, layers=tuple(layers))


def linked_edits(
    project: Project, brief_id: str, old: Candidate, new: Candidate, faced: Collection[str]
) -> tuple[Candidate, tuple[Linked, ...]]:
    """(the edited candidate with all its instances brought in line, the same for every other candidate).

    Where an edit leaves an instance that looks like its neighbours, the candidate keeps the layers and no
    longer shares them.
    """
    if not any(layer.shared for layer in old.layers):
        return new, ()
    new = healed(old, new)
    changed: dict[str, tuple[int, Layers]] = {}  # size before, and the sub-stack now
    for name, stack in shared_stacks(project, faced).items():
        before = instances(old.layers, name, len(stack))
        after = instances(new.layers, name, len(stack))
        if len(before) != len(after):
            if len({stop - start for start, stop in after}) > 1:
                new = released(new, name)
            continue
        for (a, b), (c, d) in zip(before, after, strict=True):
            if old.layers[a:b] != new.layers[c:d]:
                changed[name] = len(stack), upright(new.layers[c:d], faced)
                break
    others = []
    for brief in project.briefs:
        for candidate in brief.candidates:
            if (brief.id, candidate.id) != (brief_id, old.id):
                other = _in_line(candidate, changed, faced)
                if other != candidate:
                    others.append(Linked(brief.id, candidate, other))
    return _in_line(new, changed, faced), tuple(others)


def _in_line(candidate: Candidate, changed: dict[str, tuple[int, Layers]], faced: Collection[str]) -> Candidate:
    """A candidate with every instance of the changed sub-stacks as it is now."""
    layers = candidate.layers
    for name, (size, now) in changed.items():
        for start, stop in reversed(instances(layers, name, size)):
            image = tuple(mirrored(now, faced)) if layers[start].mirrored else now
            layers = (*layers[:start], *image, *layers[stop:])
    return replace(candidate, layers=layers)


def share(candidate: Candidate, rows: Sequence[int], name: str) -> Candidate:
    """Layers side by side become a sub-stack of that name.  Raises ValueError for rows with gaps or shared already."""
    chosen = sorted(rows)
    if not chosen or chosen != list(range(chosen[0], chosen[-1] + 1)):
        raise ValueError("choose layers side by side")
    if any(candidate.layers[i].shared for i in chosen):
        raise ValueError("some of them belong to a sub-stack already")
    layers = tuple(replace(la, shared=name) if i in chosen else la for i, la in enumerate(candidate.layers))
    return replace(candidate, layers=layers)


def released(candidate: Candidate, name: str) -> Candidate:
    """The candidate's layers without that sub-stack's name: they stay and go their own way."""
    layers = tuple(replace(la, shared="", mirrored=False) if la.shared == name else la for la in candidate.layers)
    return replace(candidate, layers=layers)


def free_name(project: Project) -> str:
    """The next letter that names no sub-stack."""
    taken = {la.shared for brief in project.briefs for candidate in brief.candidates for la in candidate.layers}
    letters = (chr(ord("A") + i % 26) + (str(i // 26 + 1) if i >= 26 else "") for i in range(26 * 99))
    return next(name for name in letters if name not in taken)
