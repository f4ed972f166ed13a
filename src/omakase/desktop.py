"""The program in the desktop of one user: menu entry, icon, kind of file, description, man page and completion.

What is put where follows the XDG base directories.  Everything is taken away again by the same names.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from omakase import __version__
from omakase.core.errors import OmakaseError
from omakase.project.disk import write_atomically
from omakase.shipped import shipped

ID = "local.omakase.Omakase"
PLACES = {
    "omakase.desktop": f"applications/{ID}.desktop",
    "omakase.svg": f"icons/hicolor/scalable/apps/{ID}.svg",
    "omakase-mime.xml": f"mime/packages/{ID}.xml",
    "omakase.metainfo.xml": f"metainfo/{ID}.metainfo.xml",
}
MAN, COMPLETION = "man/man1/omakase.1", "bash-completion/completions/omakase"
REFRESH = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))


def data_home() -> Path:
    """$XDG_DATA_HOME, or ~/.local/share."""
    stated = os.environ.get("XDG_DATA_HOME", "")
    return Path(stated) if os.path.isabs(stated) else Path.home() / ".local/share"


def executable() -> str:
    """Path of the program as it was started.  Raises OmakaseError where that is no file."""
    found = shutil.which(sys.argv[0]) or shutil.which("omakase")
    if found is None:
        raise OmakaseError("the program omakase is not on the path: install it first, for example with pipx")
    return os.path.abspath(found)


def quoted(path: str) -> str:
    """A path as an argument of a desktop entry's Exec (Desktop Entry Specification 1.5, The Exec key)."""
    for sign in '\\"`$':
        path = path.replace(sign, f"\\{sign}")
    return '"' + path.replace("%", "%%") + '"'


def files(program: str, parser: argparse.ArgumentParser) -> dict[str, bytes]:
    """What is installed below the data folder, by its path there."""
    folder = shipped("data/desktop")
    made = {place: folder.joinpath(name).read_bytes() for name, place in PLACES.items()}
    entry = made[PLACES["omakase.desktop"]].decode()
    entry = entry.replace("TryExec=@EXEC@", f"TryExec={program}").replace("@EXEC@", quoted(program))
    # backslashes of a string value are doubled once more in the file
    made[PLACES["omakase.desktop"]] = entry.replace("\\", "\\\\").encode()
    made[MAN] = man_page(parser).encode()
    made[COMPLETION] = completion(parser).encode()
    return made


def integrate(parser: argparse.ArgumentParser, home: Path | None = None, program: str = "") -> list[Path]:
    """Installs all files for this user; their paths.  Raises OmakaseError where one cannot be written."""
    base = home or data_home()
    written = []
    for place, data in files(program or executable(), parser).items():
        target = base / place
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise OmakaseError(f"'{target.parent}' cannot be made: {error.strerror}") from None
        write_atomically(target, data)
        written.append(target)
    _refresh(base)
    return written


def withdraw(home: Path | None = None) -> list[Path]:
    """Takes away what ``integrate`` has put there; the paths of what was there."""
    base = home or data_home()
    gone = []
    for place in (*PLACES.values(), MAN, COMPLETION):
        target = base / place
        if target.exists():
            target.unlink()
            gone.append(target)
    _refresh(base)
    return gone


def _refresh(base: Path) -> None:
    """Lets the desktop know, where it has the usual tools for that."""
    for tool, folder in REFRESH:
        if shutil.which(tool) and (base / folder).is_dir():
            subprocess.run([tool, str(base / folder)], check=False, capture_output=True)


# --- man page and completion, from the parser ---------------------------------------------------------------------


def _commands(parser: argparse.ArgumentParser) -> dict[str, tuple[str, argparse.ArgumentParser]]:
    """(help, parser) of each command."""
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            said = {choice.dest: choice.help or "" for choice in action._choices_actions}
            return {name: (said.get(name, ""), own) for name, own in action.choices.items()}
    return {}


def _roff(text: str) -> str:
    """Text that troff shows as it is."""
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text.startswith((".", "'")) else text


def man_page(parser: argparse.ArgumentParser) -> str:
    """The page in section 1, in troff's man macros."""
    lines = [
        f'.TH OMAKASE 1 "" "omakase {__version__}" "User Commands"', ".SH NAME",
        f"omakase \\- {_roff((parser.description or '').rstrip('.'))}", ".SH SYNOPSIS", ".B omakase", "[FILE]", ".br",
        ".B omakase", "COMMAND [OPTIONS]", ".SH DESCRIPTION",
        "Without a command the window opens, with a project file where one is named.", ".SH COMMANDS",
    ]  # fmt: skip
    for name, (said, own) in _commands(parser).items():
        words = [action.metavar or action.dest.upper() for action in own._actions if not action.option_strings]
        lines += [".TP", f".B {_roff(' '.join((name, *map(str, words))))}", _roff(said[:1].upper() + said[1:] + ".")]
        for action in own._actions:
            if action.option_strings and action.dest != "help":
                option = " ".join((*action.option_strings, *([] if action.nargs == 0 else [action.dest.upper()])))
                lines += [".RS", ".TP", f".B {_roff(option)}", _roff(str(action.help or "")), ".RE"]
    lines += [
        ".SH EXIT STATUS", "0 success, 1 findings (something fails, differs or is wrong), 2 could not be done.",
        ".SH NOTES", _roff("Sizing aid only. Certification rules, local codes and a licensed engineer decide on "
                           "load-bearing parts of aircraft and vehicles."),
    ]  # fmt: skip
    return "\n".join(lines) + "\n"


def completion(parser: argparse.ArgumentParser) -> str:
    """Completion for bash: commands, their options, and file names."""
    commands = _commands(parser)
    cases = []
    for name, (_, own) in commands.items():
        options = " ".join(option for action in own._actions for option in action.option_strings if len(option) > 2)
        cases.append(f'    {name}) options="{options}" ;;')
    first = " ".join((*commands, "--version", "--help"))
    return "\n".join((
        "# bash completion for omakase", "_omakase() {",
        '  local word="${COMP_WORDS[COMP_CWORD]}" options=""', '  if [ "$COMP_CWORD" = 1 ]; then',
        f'    mapfile -t COMPREPLY < <(compgen -W "{first}" -- "$word"; compgen -f -X "!*.json" -- "$word")',
        "    return", "  fi", '  case "${COMP_WORDS[1]}" in', *cases, "  esac",
        '  if [ "${word#-}" != "$word" ]; then', '    mapfile -t COMPREPLY < <(compgen -W "$options" -- "$word")',
        "  else", '    mapfile -t COMPREPLY < <(compgen -f -- "$word")', "  fi", "}",
        "complete -o filenames -F _omakase omakase", "",
    ))  # fmt: skip


def told(paths: list[Path], say: Callable[[str], object] = print) -> None:
    """Says which files they are."""
    for path in paths:
        say(str(path))
