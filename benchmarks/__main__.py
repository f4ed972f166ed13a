"""Speed as figures and ratios of one run: ./run bench
[plate|editing|members|details|building|library|sizing|testing|starting|memory].

Machines are shared and noisy, so that a ratio to something measured beside it says more than seconds do.
"""

from __future__ import annotations

import os
import sys

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def main(names: list[str]) -> int:
    from benchmarks import building, details, editing, library, members, memory, plate, sizing, starting, testing

    missed = 0
    for module in (plate, editing, members, details, building, library, sizing, testing, starting, memory):
        name = module.__name__.rsplit(".", 1)[1]
        if names and name not in names:
            continue
        print(f"\n{(module.__doc__ or '').splitlines()[0]}")
        for line in module.measure():
            print(f"  {line}", flush=True)
            missed += not line.met
    print(f"\n{missed} figures miss their target" if missed else "\nall figures meet their targets")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
