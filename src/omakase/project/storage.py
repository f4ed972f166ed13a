"""Reading and writing project files: explained refusals, atomic writes, recovery files, locks."""

from __future__ import annotations

import contextlib
import json
import os
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote_to_bytes

import msgspec
import platformdirs

from omakase.project.disk import ReadError, WriteError, read_bytes, sha256, shown_name, write_atomically
from omakase.project.gate import Gate, GateError, clean, clean_text, read_integer
from omakase.project.migrations import migrate
from omakase.project.model import FORMAT, VERSION, Project

MAX_BYTES = 20_000_000
SUFFIX = ".omakase.json"


def to_bytes(project: Project) -> bytes:
    """The project as JSON text: UTF-8, SI values, keys in the order of the records, two spaces, final newline.

    Raises WriteError for what could not be read again.
    """
    try:
        project = Gate().passed(project)
    except GateError as error:
        raise WriteError(f"the project cannot be written: {error}") from None
    return msgspec.json.format(msgspec.json.encode(project), indent=2) + b"\n"


def _refuse_constant(name: str) -> float:
    raise ReadError(f"it contains {name}, which is not a number JSON allows; replace it by a value or null")


def from_bytes(data: bytes, name: str) -> Project:
    """Project from the text of a file called ``name``.  Raises ReadError saying what is wrong and where."""
    try:
        records: Any = json.loads(data.decode("utf-8"), parse_constant=_refuse_constant, parse_int=read_integer)
    except UnicodeDecodeError as error:
        raise ReadError(f"'{name}' is not a text file (byte {error.start} is not UTF-8)") from None
    except json.JSONDecodeError as error:
        raise ReadError(
            f"'{name}' is not complete JSON: line {error.lineno}, column {error.colno}: {error.msg}"
        ) from None
    except (ReadError, GateError) as error:
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
        return msgspec.convert(migrate(clean(records), version), Project)
    except (msgspec.ValidationError, GateError) as error:
        raise ReadError(f"'{name}' has a wrong entry: {clean_text(str(error))}") from None


def read_project(path: Path) -> Project:
    """Project from a file.  Raises ReadError; the file is never changed."""
    return from_bytes(read_bytes(path, MAX_BYTES, "a project"), shown_name(path))


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
        self._process = process or os.getpid()
        self._file = self.folder / f"{self._process}-{os.urandom(3).hex()}.json"

    def keep(self, project: Project, path: Path | None, content: str = "") -> None:
        """Writes the present state with the name of the file it belongs to.  Raises WriteError.

        ``content`` : ``fingerprint`` of that file when it was opened or saved last.
        """
        envelope = {
            "path": quote(os.fsencode(path)) if path else "",
            "content": content,
            "pid": self._process,
            "started": started_at(self._process),
            "project": msgspec.to_builtins(Gate().passed(project)),
        }
        with contextlib.suppress(OSError):  # whether it can be written is reported below
            self.folder.mkdir(parents=True, exist_ok=True)
            self.folder.chmod(0o700)
        write_atomically(self._file, msgspec.json.encode(envelope), 0o600)

    def drop(self) -> None:
        """Removes the recovery file: the work is saved or was given up."""
        with contextlib.suppress(OSError):
            self._file.unlink()


class Recovered(msgspec.Struct, frozen=True):
    """Work that a crashed window left behind.  ``saved_since`` : its file has other content than it had then."""

    file: Path
    path: Path | None
    project: Project
    content: str = ""

    @property
    def saved_since(self) -> bool:
        return bool(self.path and self.content and self.path.exists() and fingerprint(self.path) != self.content)


def fingerprint(path: Path | None) -> str:
    """SHA-256 of a file's content; empty where it cannot be read or is no project's size."""
    try:
        return "" if path is None else sha256(read_bytes(path, MAX_BYTES, "a project"))
    except ReadError:
        return ""


def started_at(pid: int) -> str:
    """When a process started, by the clock of this boot: two processes of one number differ in it; empty if unknown."""
    try:
        ticks = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[19]
        return f"{Path('/proc/sys/kernel/random/boot_id').read_text().strip()} {ticks}"
    except (OSError, IndexError):
        return ""


def is_running(pid: int, started: str = "") -> bool:
    """Whether a process runs, the one that ``started`` then where that is known."""
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:
        pass
    now = started_at(pid)
    return not started or not now or now == started


def left_behind(folder: Path | None = None) -> list[Recovered]:
    """Recovery files of windows that are no longer running, newest first; unreadable ones are skipped, not deleted."""
    recovered = []
    for file in (folder or recovery_folder()).glob("*.json"):
        try:
            envelope = json.loads(read_bytes(file, 2 * MAX_BYTES, "a recovery file"), parse_int=read_integer)
            pid = int(envelope["pid"])
            if pid != os.getpid() and is_running(pid, str(envelope.get("started", ""))):
                continue
            project = from_bytes(json.dumps(envelope["project"]).encode(), file.name)
            path = Path(os.fsdecode(unquote_to_bytes(envelope["path"]))) if envelope["path"] else None
            recovered.append((file.stat().st_mtime, Recovered(file, path, project, str(envelope.get("content", "")))))
        except (OSError, ValueError, ArithmeticError, KeyError, TypeError, AttributeError, RecursionError):
            continue
    return [item for _, item in sorted(recovered, key=lambda entry: entry[0], reverse=True)]


class Lock:
    """Tells a second window that a file is open.  Advisory: it never keeps anyone from reading."""

    def __init__(self, path: Path) -> None:
        digest = sha256(str(path.resolve()).encode())[:16]
        self._file = recovery_folder().parent / "locks" / f"{digest}.lock"

    def holder(self) -> str:
        """Who else has the file open, as text; empty when nobody runs with it."""
        try:
            pid, host = self._file.read_text("utf-8").split(" ", 1)
        except (OSError, ValueError):
            return ""
        if host == os.uname().nodename and (not pid.isdigit() or int(pid) == os.getpid() or not is_running(int(pid))):
            return ""
        return f"process {pid} on {host}"

    def take(self) -> None:
        """Puts our name on the file."""
        with contextlib.suppress(WriteError):
            write_atomically(self._file, f"{os.getpid()} {os.uname().nodename}".encode())

    def release(self) -> None:
        """Takes our name off again."""
        with contextlib.suppress(OSError, ValueError):
            if self._file.read_text("utf-8").split(" ", 1)[0] == str(os.getpid()):
                self._file.unlink()
