"""Runs a finite-element solver that is installed on this machine, and reads what it printed."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError

PROGRAM = "ccx"
HOW_TO_GET = (
    "The solver 'ccx' (CalculiX) is not installed; on Debian and Ubuntu: sudo apt-get install calculix-ccx. The deck "
    "can also be run on another machine."
)
LONGEST = 1800.0  # s
POLL = 0.1
NO_BALANCE = ("too many cutbacks", "increment size smaller than minimum")  # how it says so


class Printed(msgspec.Struct, frozen=True, eq=False):
    """What a solver printed.  ``displacements`` : of each load case, m by node number.  ``stresses`` : of each load
    case, (points, 9) x, y, z in m with σ_x, σ_y, σ_z, τ_xy, τ_xz, τ_yz in Pa there.  ``frequencies`` Hz; ``buckling`` :
    factors on the loads.
    """

    displacements: tuple[dict[int, np.ndarray], ...]
    stresses: tuple[np.ndarray, ...]
    frequencies: tuple[float, ...]
    buckling: tuple[float, ...]


def installed() -> bool:
    """Whether the solver is on the path."""
    return shutil.which(PROGRAM) is not None


def solve(
    deck: str, told: Callable[[float], None] | None = None, stopped: Callable[[], bool] = lambda: False
) -> Printed:  # fmt: skip
    """Runs a deck in a folder of its own.  ``told`` : called with the seconds gone by; ``stopped`` : asked whether to
    give up.  Raises OmakaseError where the solver is missing, fails, or is stopped."""
    if not installed():
        raise OmakaseError(HOW_TO_GET)
    with tempfile.TemporaryDirectory(prefix="omakase-deck-") as folder:
        (Path(folder) / "deck.inp").write_text(deck, encoding="utf-8")
        with (Path(folder) / "log.txt").open("w") as log:
            process = subprocess.Popen([PROGRAM, "-i", "deck"], cwd=folder, stdout=log, stderr=subprocess.STDOUT)
            start = time.monotonic()
            while process.poll() is None:
                time.sleep(POLL)
                gone = time.monotonic() - start
                if told is not None:
                    told(gone)
                if stopped() or gone > LONGEST:
                    process.kill()
                    process.wait()
                    raise OmakaseError("stopped" if stopped() else f"the solver took more than {LONGEST / 60:.0f} min")
        output = Path(folder) / "deck.dat"
        words = (Path(folder) / "log.txt").read_text(errors="replace")
        if not output.exists() or "*ERROR" in words:
            errors = [line.strip() for line in words.splitlines() if "ERROR" in line]
            if any(sign in error for error in errors for sign in NO_BALANCE):
                raise OmakaseError(
                    "the solver found no equilibrium: the member moves too far under a load for its steps"
                )
            raise OmakaseError(f"the solver gave up: {errors[0] if errors else 'it printed nothing'}")
        return read_printed(output.read_text(errors="replace"))


ROW = re.compile(r"^\s*(\d+)\s+(\S+)\s+(\S+)\s+(\S+)\s*$")


def read_printed(text: str) -> Printed:
    """The printed tables of displacements, stresses, natural frequencies and buckling factors."""
    displacements: list[dict[int, np.ndarray]] = []
    stresses: list[list[list[float]]] = []
    places: list[list[list[float]]] = []
    frequencies: list[float] = []
    factors: list[float] = []
    table = ""
    for line in text.splitlines():
        squeezed = line.replace(" ", "")
        if "displacements(vx,vy,vz)" in squeezed:
            table = "displacements"
            displacements.append({})
            stresses.append([])
            places.append([])
        elif squeezed.startswith("stresses(elem"):
            table = "stresses"
        elif squeezed.startswith("globalcoordinates(elem"):
            table = "places"
        elif "EIGENVALUEOUTPUT" in squeezed:
            table = "frequencies"
        elif "BUCKLINGFACTOROUTPUT" in squeezed:
            table = "buckling"
        elif "OUTPUT" in squeezed or "PARTICIPATION" in squeezed or "EFFECTIVE" in squeezed:
            table = ""
        elif table == "displacements" and (match := ROW.match(line)):
            displacements[-1][int(match[1])] = np.array([float(match[k]) for k in (2, 3, 4)])
        elif table in ("stresses", "places"):
            parts = line.split()
            if len(parts) >= 5 and parts[0].isdigit():
                own = stresses if table == "stresses" else places
                own[-1].append([float(part) for part in parts[2 : 8 if table == "stresses" else 5]])
        elif table in ("frequencies", "buckling"):
            parts = line.split()
            if parts and parts[0].isdigit():
                if table == "frequencies" and len(parts) >= 4:
                    frequencies.append(float(parts[3]))
                elif table == "buckling" and len(parts) >= 2:
                    factors.append(float(parts[1]))
    points = tuple(
        np.concatenate([np.array(at).reshape(-1, 3), np.array(own).reshape(-1, 6)], axis=1)
        if len(at) == len(own) else np.zeros((0, 9))
        for at, own in zip(places, stresses, strict=True)
    )  # fmt: skip
    return Printed(tuple(displacements), points, tuple(frequencies), tuple(factors))
