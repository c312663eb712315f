"""Gives the press made-up and damaged inputs for a while, and tells which crash it or keep it busy for too long.

    python tools/fuzz.py --minutes 60
    python tools/fuzz.py --kind font --seed 4711

CI runs the first seeds of each kind (tests/hostile/test_made_up.py); this goes on where they end, from a seed of the
day unless one is given. What it finds becomes a row of those tests.
"""

from __future__ import annotations

import argparse
import multiprocessing
import resource
import sys
import tempfile
import time
import traceback
from datetime import date
from pathlib import Path
from typing import Final

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.hostile.making import MAKERS, run

import fleetquill as fq

MOST_SECONDS: Final = 10.0
MOST_KILOBYTES: Final = 1_000_000
PRESSES: Final = {"trusted": fq.Press(), "strangers": fq.Press(policy=fq.Policy(strangers=True))}


def tried(kind: str, seed: int) -> str:
    """What is wrong with how the press took an input; '' where nothing is."""
    start = time.monotonic()
    try:
        with tempfile.TemporaryDirectory() as folder:
            run(PRESSES["strangers" if seed % 2 else "trusted"], kind, seed, Path(folder))
    except Exception:
        return traceback.format_exc(limit=-4)
    seconds, size = time.monotonic() - start, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    if seconds > MOST_SECONDS:
        return f"took {seconds:.1f} s"
    return f"took {size // 1000} MB" if size > MOST_KILOBYTES else ""


def _work(job: tuple[str, int]) -> tuple[str, int, str]:
    return (*job, tried(*job))


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--minutes", type=float, default=60.0)
    parser.add_argument("--kind", choices=sorted(MAKERS))
    parser.add_argument("--seed", type=int)
    asked = parser.parse_args()
    kinds = [asked.kind] if asked.kind else list(MAKERS)
    if asked.kind and asked.seed is not None:
        print(tried(asked.kind, asked.seed) or "nothing is wrong")
        return 0
    first = asked.seed if asked.seed is not None else date.today().toordinal() * 1_000_000
    end = time.monotonic() + asked.minutes * 60
    count = found = 0
    with multiprocessing.Pool(maxtasksperchild=200) as pool:
        while time.monotonic() < end:
            jobs = [(kind, first + count + number) for number in range(100) for kind in kinds]
            for kind, seed, wrong in pool.imap_unordered(_work, jobs):
                if wrong:
                    found += 1
                    print(f"--kind {kind} --seed {seed}: {wrong}", flush=True)
            count += 100
    print(f"{count * len(kinds)} inputs, {found} of them wrong")
    return bool(found)


if __name__ == "__main__":
    raise SystemExit(main())
