"""Named sub-stacks that several candidates share: layers that carry the same name change together.

A layer states in ``shared`` the sub-stack it belongs to.  An instance is a run of such layers; all instances of a name
are the same layers, or their mirror image.  An edit to one of them is carried to all others, in every candidate.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from omakase.project.commands import Linked, replace
from omakase.project.edits import mirrored
from omakase.project.model import Candidate, LayerRecord, Project

Layers = tuple[LayerRecord, ...]


def runs(layers: Sequence[LayerRecord]) -> Iterator[tuple[str, int, int]]:
    """(name, start, stop) of each run of layers of one sub-stack."""
    start = 0
    while start < len(layers):
        stop = start + 1
        while stop < len(layers) and layers[stop].shared == layers[start].shared:
            stop += 1
        if layers[start].shared:
            yield layers[start].shared, start, stop
        start = stop


def shared_stacks(project: Project) -> dict[str, Layers]:
    """Each sub-stack of the project by name: its shortest run, since two instances may touch."""
    found: dict[str, Layers] = {}
    for brief in project.briefs:
        for candidate in brief.candidates:
            for name, start, stop in runs(candidate.layers):
                if name not in found or stop - start < len(found[name]):
                    found[name] = candidate.layers[start:stop]
    return found


def instances(layers: Sequence[LayerRecord], name: str, size: int) -> list[tuple[int, int]]:
    """(start, stop) of the instances of a sub-stack of ``size`` layers; a run of several is parted evenly."""
    found = []
    for own, start, stop in runs(layers):
        if own == name:
            step = size if size and (stop - start) % size == 0 else stop - start
            found += [(at, at + step) for at in range(start, stop, step)]
    return found


def healed(old: Candidate, new: Candidate) -> Candidate:
    """A layer put in between two of one instance belongs to it."""
    layers = list(new.layers)
    known = {(a.shared, i) for i, a in enumerate(old.layers)}
    for i in range(1, len(layers) - 1):
        before, after = layers[i - 1].shared, layers[i + 1].shared
        inside = len(layers) == len(old.layers) + 1 and (before, i - 1) in known and (before, i) in known
        if before and before == after and not layers[i].shared and inside:
            layers[i] = replace(layers[i], shared=before)
    return replace(new, layers=tuple(layers))


def linked_edits(
    project: Project, brief_id: str, old: Candidate, new: Candidate, faced: Collection[str]
) -> tuple[Candidate, tuple[Linked, ...]]:
    """(the edited candidate with all its instances brought in line, the same for every other candidate).

    Where an edit leaves an instance that cannot be told from its neighbours, the candidate keeps the layers and no
    longer shares them.
    """
    if not any(layer.shared for layer in old.layers):
        return new, ()
    new = healed(old, new)
    changed: dict[str, list[tuple[Layers, Layers]]] = {}
    for name, stack in shared_stacks(project).items():
        before = instances(old.layers, name, len(stack))
        after = instances(new.layers, name, len(stack))
        if len(before) != len(after):
            if len({stop - start for start, stop in after}) > 1:
                new = released(new, name)
            continue
        for (a, b), (c, d) in zip(before, after, strict=True):
            if old.layers[a:b] != new.layers[c:d]:
                was, now = old.layers[a:b], new.layers[c:d]
                changed[name] = [(was, now), (tuple(mirrored(was, faced)), tuple(mirrored(now, faced)))]
                break
    for name, pairs in changed.items():
        new = _swapped(new, name, pairs)
    others = []
    for brief in project.briefs:
        for candidate in brief.candidates:
            if (brief.id, candidate.id) != (brief_id, old.id):
                other = candidate
                for name, pairs in changed.items():
                    other = _swapped(other, name, pairs)
                if other != candidate:
                    others.append(Linked(brief.id, candidate, other))
    return new, tuple(others)


def _swapped(candidate: Candidate, name: str, pairs: list[tuple[Layers, Layers]]) -> Candidate:
    """Every instance that is as one of the pairs was, as it is now."""
    layers = candidate.layers
    for start, stop in reversed(instances(layers, name, len(pairs[0][0]))):
        for was, now in pairs:
            if layers[start:stop] == was:
                layers = (*layers[:start], *now, *layers[stop:])
                break
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
    layers = tuple(replace(la, shared="") if la.shared == name else la for la in candidate.layers)
    return replace(candidate, layers=layers)


def free_name(project: Project) -> str:
    """The next letter that names no sub-stack."""
    taken = set(shared_stacks(project))
    letters = (chr(ord("A") + i % 26) + (str(i // 26 + 1) if i >= 26 else "") for i in range(26 * 99))
    return next(name for name in letters if name not in taken)
