"""Reading and writing project files: explained refusals, atomic writes, recovery files, locks."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import socket
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import msgspec
import platformdirs

from omakase.core.errors import OmakaseError
from omakase.project.migrations import migrate
from omakase.project.model import FORMAT, VERSION, Project

MAX_BYTES = 20_000_000
SUFFIX = ".omakase.json"


class ReadError(OmakaseError):
    """Why a file cannot be opened, in words for the person who chose it."""


class WriteError(OmakaseError):
    """Why a file could not be written."""


def to_bytes(project: Project) -> bytes:
    """The project as JSON text: UTF-8, SI values, keys in the order of the records, two spaces, final newline."""
    return msgspec.json.format(msgspec.json.encode(project), indent=2) + b"\n"


def _refuse_constant(name: str) -> float:
    raise ReadError(f"it contains {name}, which is not a number JSON allows; replace it by a value or null")


def from_bytes(data: bytes, name: str) -> Project:
    """Project from the text of a file called ``name``.  Raises ReadError saying what is wrong and where."""
    try:
        records: Any = json.loads(data.decode("utf-8"), parse_constant=_refuse_constant)
    except UnicodeDecodeError as error:
        raise ReadError(f"'{name}' is not a text file (byte {error.start} is not UTF-8)") from None
    except json.JSONDecodeError as error:
        raise ReadError(
            f"'{name}' is not complete JSON: line {error.lineno}, column {error.colno}: {error.msg}"
        ) from None
    except ReadError as error:
        raise ReadError(f"'{name}' cannot be read: {error}") from None
    except RecursionError:
        raise ReadError(f"'{name}' is nested too deeply to be a project") from None
    if not isinstance(records, dict) or records.get("format") != FORMAT:
        raise ReadError(f'\'{name}\' is not a project of this program (its "format" should be "{FORMAT}")')
    version = records.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 0:
        raise ReadError(f"'{name}' does not say which version it is")
    if version > VERSION:
        raise ReadError(
            f"'{name}' was written by a newer version of the program (file version {version}, this one reads up to "
            f"{VERSION}). It was left untouched; update the program to open it."
        )
    try:
        return msgspec.convert(migrate(records, version), Project)
    except msgspec.ValidationError as error:
        raise ReadError(f"'{name}' has a wrong entry: {error}") from None


def read_project(path: Path) -> Project:
    """Project from a file.  Raises ReadError; the file is never changed."""
    try:
        size = path.stat().st_size
        if size > MAX_BYTES:
            raise ReadError(
                f"'{path.name}' has {size / 1e6:.0f} MB; a project has at most {MAX_BYTES / 1e6:.0f} MB. "
                "It is probably another kind of file."
            )
        data = path.read_bytes()
    except OSError as error:
        raise ReadError(f"'{path.name}' cannot be read: {error.strerror or error}") from None
    return from_bytes(data, path.name)


def write_atomically(path: Path, data: bytes) -> None:
    """Writes to a temporary file beside ``path``, syncs, and puts it in place.  Raises WriteError."""
    temporary = ""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            os.chmod(temporary, path.stat().st_mode & 0o777)
        else:
            os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise WriteError(f"'{path.name}' could not be written: {error.strerror or error}") from None


def write_project(path: Path, project: Project) -> None:
    """Saves a project.  Raises WriteError, then the old file is as it was."""
    write_atomically(path, to_bytes(project))


def recovery_folder() -> Path:
    """Where unsaved work is kept between autosaves."""
    return Path(platformdirs.user_state_dir("omakase", appauthor=False)) / "recovery"


class Recovery:
    """The recovery file of one running window: written while there is unsaved work, removed on a clean end."""

    def __init__(self, folder: Path | None = None, process: int | None = None) -> None:
        self.folder = folder or recovery_folder()
        self._file = self.folder / f"{process or os.getpid()}-{os.urandom(3).hex()}.json"

    def keep(self, project: Project, path: Path | None) -> None:
        """Writes the present state with the name of the file it belongs to.  Raises WriteError."""
        envelope = {"path": str(path) if path else "", "pid": os.getpid(), "project": msgspec.to_builtins(project)}
        write_atomically(self._file, msgspec.json.encode(envelope))

    def drop(self) -> None:
        """Removes the recovery file: the work is saved or was given up."""
        with contextlib.suppress(OSError):
            self._file.unlink()


class Recovered(msgspec.Struct, frozen=True):
    """Work that a crashed window left behind."""

    file: Path
    path: Path | None
    project: Project


def _is_running(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def left_behind(folder: Path | None = None) -> list[Recovered]:
    """Recovery files of windows that are no longer running, newest first; unreadable ones are skipped, not deleted."""
    found = []
    files: Iterable[Path] = (folder or recovery_folder()).glob("*.json")
    for file in sorted(files, key=lambda f: f.stat().st_mtime, reverse=True):
        try:
            envelope = json.loads(file.read_bytes())
            if _is_running(int(envelope["pid"])) and int(envelope["pid"]) != os.getpid():
                continue
            project = from_bytes(json.dumps(envelope["project"]).encode(), file.name)
        except (OSError, ValueError, KeyError, TypeError):
            continue
        found.append(Recovered(file, Path(envelope["path"]) if envelope["path"] else None, project))
    return found


class Lock:
    """Tells a second window that a file is open.  Advisory: it never keeps anyone from reading."""

    def __init__(self, path: Path) -> None:
        digest = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:16]
        self._file = recovery_folder().parent / "locks" / f"{digest}.lock"

    def holder(self) -> str:
        """Who else has the file open, as text; empty when nobody runs with it."""
        try:
            pid, host = self._file.read_text("utf-8").split(" ", 1)
        except (OSError, ValueError):
            return ""
        if host == socket.gethostname() and (not pid.isdigit() or int(pid) == os.getpid() or not _is_running(int(pid))):
            return ""
        return f"process {pid} on {host}"

    def take(self) -> None:
        """Puts our name on the file."""
        with contextlib.suppress(WriteError):
            write_atomically(self._file, f"{os.getpid()} {socket.gethostname()}".encode())

    def release(self) -> None:
        """Takes our name off again."""
        with contextlib.suppress(OSError, ValueError):
            if self._file.read_text("utf-8").split(" ", 1)[0] == str(os.getpid()):
                self._file.unlink()
