"""Thousands of cases: ``python -m tests.fuzz [count] [reader]``; a failure is told with its seed."""

from __future__ import annotations

import random
import sys
import traceback

from tests.fuzz.campaign import READERS, failure


def main(words: list[str]) -> int:
    count = int(words[0]) if words else 3000
    failed = 0
    for reader in words[1:] or READERS:
        found = [told for seed in range(count) if (told := failure(reader, seed))]
        failed += len(found)
        print(f"{reader}: {count} cases, {len(found)} failed")
        for told in found[:20]:
            print(f"  {told}")
        if found and len(words) > 1:
            try:
                READERS[reader](random.Random(f"{reader} {found[0].split()[1].rstrip(':')}"))
            except Exception:
                traceback.print_exc()
    return int(failed > 0)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
