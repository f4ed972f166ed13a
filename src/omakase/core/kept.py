"""What is kept of the last answers for the edits that follow them, and released together when something else is looked
at: grids, meshes, points on them, and what checks have worked out."""

from __future__ import annotations

from collections.abc import Callable
from functools import _lru_cache_wrapper, lru_cache
from typing import TypeVar

Answer = TypeVar("Answer")

_releases: list[Callable[[], None]] = []


def keep_last(most: int) -> Callable[[Callable[..., Answer]], _lru_cache_wrapper[Answer]]:
    """Keeps the last ``most`` answers of a function, by its arguments, until ``release``."""

    def keeping(function: Callable[..., Answer]) -> _lru_cache_wrapper[Answer]:
        kept = lru_cache(maxsize=most)(function)
        _releases.append(kept.cache_clear)
        return kept

    return keeping


def released_with_it(release_own: Callable[[], None]) -> None:
    """Has ``release`` call this too, of what is not kept by arguments."""
    _releases.append(release_own)


def release() -> None:
    """Forgets everything that is kept; whoever asks again waits for some 20 to 300 ms."""
    for release_own in _releases:
        release_own()
