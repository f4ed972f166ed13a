"""How far long work has come, and its end on demand.

Whatever takes long calls ``working_on`` with words for what comes next; whoever waits for it listens with ``watched``
in the thread that does the work, and ends it by raising ``StoppedError`` from there.  Without a listener
``working_on`` does nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from omakase.core.errors import OmakaseError


class StoppedError(OmakaseError):
    """The work was given up by whoever waited for it."""


_listener: ContextVar[Callable[[str], object] | None] = ContextVar("listener", default=None)


def working_on(what: str) -> None:
    """Says what comes next.  Raises StoppedError where the work is to end."""
    listener = _listener.get()
    if listener is not None:
        listener(what)


@contextmanager
def watched(listener: Callable[[str], object]) -> Iterator[None]:
    """Hears the steps of what this thread does inside; ``listener`` may raise StoppedError."""
    token = _listener.set(listener)
    try:
        yield
    finally:
        _listener.reset(token)
