"""The open document: the current project, its undo history, and who wants to hear of changes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from omakase.project.commands import MERGING, Change, Command, replace
from omakase.project.gate import Gate, GateError
from omakase.project.model import Project

MAX_HISTORY = 1000


class Signal:
    """A list of listeners; knows no toolkit."""

    def __init__(self) -> None:
        self._listeners: list[Callable[..., None]] = []

    def connect(self, listener: Callable[..., None]) -> None:
        self._listeners.append(listener)

    def emit(self, *values: object) -> None:
        for listener in list(self._listeners):
            listener(*values)


class Document:
    """A project that changes by commands only.

    ``changed`` is emitted with a Change after every command, undo and redo; ``state`` when the path, the modified
    mark or what can be undone may have changed; ``reset`` after another project was put in place.
    ``refused`` says with a text why a command was not done: it would have put in what could not be saved and read.
    ``revision`` counts changes, so that results of long jobs can be matched or dropped.
    """

    def __init__(self, project: Project, path: Path | None = None) -> None:
        self.project = project
        self.path = path
        self.revision = 0
        self.changed, self.state, self.reset, self.refused = Signal(), Signal(), Signal(), Signal()
        self._gate = Gate()
        self._done: list[Command] = []
        self._undone: list[Command] = []
        self._clean: int | None = 0

    def do(self, command: Command) -> None:
        """Applies a command; one with the merge key of the last becomes part of it."""
        try:
            self.project = self._gate.passed(command.apply(self.project))
        except GateError as error:
            self.refused.emit(str(error))
            return
        last = self._done[-1] if self._done else None
        self._undone.clear()
        if self._clean is not None and self._clean > len(self._done):
            self._clean = None
        if (
            isinstance(last, MERGING)
            and type(command) is type(last)
            and command.merge_key
            and command.merge_key == last.merge_key
            and self._clean != len(self._done)
        ):
            self._done[-1] = last.merged(command)
        else:
            self._done.append(command)
            if len(self._done) > MAX_HISTORY:
                self._done.pop(0)
                self._clean = None if not self._clean else self._clean - 1
        self._announce(command.change)

    def undo(self) -> None:
        """Takes the last command back, if there is one."""
        if self._done:
            command = self._done.pop()
            self._undone.append(command)
            self.project = command.revert(self.project)
            self._announce(command.change)

    def redo(self) -> None:
        """Does the last undone command again, if there is one."""
        if self._undone:
            command = self._undone.pop()
            self._done.append(command)
            self.project = self._gate.passed(command.apply(self.project))
            self._announce(command.change)

    @property
    def undo_text(self) -> str:
        return self._done[-1].text if self._done else ""

    @property
    def redo_text(self) -> str:
        return self._undone[-1].text if self._undone else ""

    @property
    def modified(self) -> bool:
        return self._clean != len(self._done)

    def end_merging(self) -> None:
        """The next command starts a step of its own (a field was left, a drag ended)."""
        if self._done:
            last = self._done[-1]
            if isinstance(last, MERGING) and last.merge_key:
                self._done[-1] = replace(last, merge_key="")

    def mark_saved(self, path: Path) -> None:
        """The state on disk at ``path`` is the present one."""
        self.path = path
        self._clean = len(self._done)
        self.state.emit()

    def open(self, project: Project, path: Path | None, modified: bool = False) -> None:
        """Puts another project in place and forgets the history."""
        self.project, self.path = project, path
        self._done.clear()
        self._undone.clear()
        self._clean = None if modified else 0
        self.revision += 1
        self.reset.emit()
        self.state.emit()

    def _announce(self, change: Change) -> None:
        self.revision += 1
        self.changed.emit(change)
        self.state.emit()
