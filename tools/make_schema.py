"""Writes the JSON Schema of manuscripts as plain data: python tools/make_schema.py"""

from __future__ import annotations

import json
from pathlib import Path

from fleetquill.authoring.schema import manuscript_schema

TARGET = Path(__file__).parent.parent / "src" / "fleetquill" / "authoring" / "manuscript.schema.json"


def written() -> str:
    """The text of the schema."""
    return json.dumps(manuscript_schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    TARGET.write_text(written(), encoding="utf-8")
