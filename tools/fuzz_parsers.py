"""Lets atheris lead the parsers of this engine into their corners, by what of them it has not seen run.

    pip install atheris
    python tools/fuzz_parsers.py "selectors" -max_total_time=600

Without a name it lists the parsers. What is after the name goes to libFuzzer as it is.
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))


def main() -> None:
    import atheris

    with atheris.instrument_imports(include=["fleetquill"]):
        from tests.hostile.parsers import PARSERS, SEEDS, tried

    if len(sys.argv) < 2 or sys.argv[1] not in PARSERS:
        print("\n".join(PARSERS))
        raise SystemExit(2)
    name = sys.argv.pop(1)
    corpus = Path(".fuzz") / name.replace(" ", "-")
    corpus.mkdir(parents=True, exist_ok=True)
    for number, seed in enumerate(SEEDS.get(name, ())):
        (corpus / f"seed-{number}").write_bytes(seed.encode())
    atheris.Setup([*sys.argv, str(corpus)], lambda content: tried(name, content))
    atheris.Fuzz()


if __name__ == "__main__":
    main()
