"""Writes the JSON Schemas of manuscripts as plain data, and of briefs, beside the code that reads them.

Usage: python tools/make_schema.py
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from fleetquill.authoring.schema import manuscript_schema
from fleetquill.briefs.schema import brief_schema

ROOT = Path(__file__).parent.parent / "src/fleetquill"
TARGET = ROOT / "authoring/manuscript.schema.json"
BRIEF = ROOT / "briefs/brief.schema.json"


def written(schema: dict[str, Any] | None = None) -> str:
    return json.dumps(manuscript_schema() if schema is None else schema, indent=1, ensure_ascii=False) + "\n"


def main() -> None:
    TARGET.write_text(written(), encoding="utf-8")
    BRIEF.write_text(written(brief_schema()), encoding="utf-8")
    print(f"{TARGET.name}: {TARGET.stat().st_size} bytes; {BRIEF.name}: {BRIEF.stat().st_size} bytes")


if __name__ == "__main__":
    main()
