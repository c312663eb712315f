"""Keeps what the pages of tests/kept come to; told a name, prints it.

python -m tools.keep_pages               # after a change that is meant: says what is otherwise, and keeps that
python -m tools.keep_pages NAME          # the whole record of one, to be compared with that of the commit before
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from kept.records import KEPT, all_records, digest  # type: ignore[import-not-found]


def main() -> None:
    records = all_records()
    if sys.argv[1:]:
        print(records[" ".join(sys.argv[1:])]())
        return
    before = json.loads(KEPT.read_text(encoding="utf-8")) if KEPT.is_file() else {}
    after = {name: digest(record()) for name, record in records.items()}
    for name in sorted({*before, *after}):
        if before.get(name) != after.get(name):
            print("new  " if name not in before else "gone " if name not in after else "other", name)
    KEPT.write_text(json.dumps(after, indent=0, ensure_ascii=False) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
