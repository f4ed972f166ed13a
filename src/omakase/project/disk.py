"""Files as bytes: read within bounds, written whole or not at all, names shown as they can be."""

from __future__ import annotations

import contextlib
import os
import re
import stat
from pathlib import Path

from omakase.core.errors import OmakaseError

TEMPORARY = re.compile(r"\.omakase-(\d+)-[0-9a-f]+\.tmp")


class ReadError(OmakaseError):
    """Why a file cannot be opened, in words for the person who chose it."""


class WriteError(OmakaseError):
    """Why a file could not be written."""


def sha256(data: bytes) -> str:
    """The SHA-256 of bytes, hexadecimal."""
    import hashlib  # not before it is needed: the window starts without it

    return hashlib.sha256(data).hexdigest()


def shown_name(path: Path) -> str:
    """The file's name for a sentence, bytes that are no text replaced and long ones cut."""
    name = os.fsencode(path.name).decode("utf-8", "replace")
    return name if len(name) <= 80 else f"{name[:60]}…{name[-15:]}"


def read_bytes(path: Path, most: int, what: str) -> bytes:
    """Content of an ordinary file of at most ``most`` bytes; ``what`` it should be, with an article.

    Raises ReadError: a pipe or device would be waited for, or read, without an end.
    """
    name = shown_name(path)
    try:
        # without O_NONBLOCK opening a pipe waits for someone to write into it
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        try:
            state = os.fstat(handle)
            if not stat.S_ISREG(state.st_mode):
                kind = "a folder" if stat.S_ISDIR(state.st_mode) else "a pipe or device"
                raise ReadError(f"'{name}' is {kind}, not a file")
            with open(handle, "rb", closefd=False) as file:
                data = file.read(most + 1) if state.st_size <= most else b""
        finally:
            os.close(handle)
    except OmakaseError:
        raise
    except OSError as error:
        raise ReadError(f"'{name}' cannot be read: {error.strerror or error}") from None
    except ValueError:
        raise ReadError(f"'{name}' is not a name that a file can have") from None
    if state.st_size > most or len(data) > most:
        size = max(state.st_size, len(data)) / 1e6
        raise ReadError(
            f"'{name}' has {size:.0f} MB; {what} has at most {most / 1e6:.0f} MB. It is probably another kind of file."
        )
    return data


def write_atomically(path: Path, data: bytes, mode: int = 0o666) -> None:
    """Writes to a temporary file beside ``path``, syncs, and puts it in place.  Raises WriteError.

    A symbolic link is written through.  A new file gets ``mode`` less the umask; an old one keeps its mode, and is not
    replaced where it is write-protected or belongs to another user whom the new file could not be given to.
    """
    name = shown_name(path)
    temporary = None
    try:
        target = Path(os.path.realpath(path))
        target.parent.mkdir(parents=True, exist_ok=True)
        _sweep(target.parent)
        old = _old_state(target, name)
        temporary = target.parent / f".omakase-{os.getpid()}-{os.urandom(4).hex()}.tmp"
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, mode)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            if old is not None:
                _take_over(handle, old, name)
            os.fsync(handle)
        os.replace(temporary, target)
        temporary = None
        _sync_folder(target.parent)
    except OmakaseError:
        raise
    except OSError as error:
        raise WriteError(f"'{name}' could not be written: {error.strerror or error}") from None
    except ValueError:
        raise WriteError(f"'{name}' is not a name that a file can have") from None
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink()


def _old_state(target: Path, name: str) -> os.stat_result | None:
    """State of the file that would be replaced; None where there is none.  Raises WriteError."""
    try:
        old = target.stat()
    except FileNotFoundError:
        return None
    if not stat.S_ISREG(old.st_mode):
        raise WriteError(f"'{name}' is not an ordinary file and is not replaced")
    if not old.st_mode & 0o222 or not os.access(target, os.W_OK):
        raise WriteError(f"'{name}' is write-protected: save under another name, or allow writing to it first")
    return old


def _take_over(handle: int, old: os.stat_result, name: str) -> None:
    """Gives the new file the old one's owner and mode.  Raises WriteError where the owner cannot be kept."""
    new = os.fstat(handle)
    if old.st_uid != new.st_uid:
        try:
            os.fchown(handle, old.st_uid, old.st_gid)
        except OSError:
            raise WriteError(f"'{name}' belongs to another user: save under another name") from None
    elif old.st_gid != new.st_gid:
        with contextlib.suppress(OSError):
            os.fchown(handle, -1, old.st_gid)
    os.fchmod(handle, stat.S_IMODE(old.st_mode))


def _sync_folder(folder: Path) -> None:
    """Makes the new name last through a power cut; some file systems cannot."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _sweep(folder: Path) -> None:
    """Removes temporary files of writers that were killed."""
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder):
            match = TEMPORARY.fullmatch(entry.name)
            if match and not Path(f"/proc/{match[1]}").exists():
                with contextlib.suppress(OSError):
                    os.unlink(entry.path)
