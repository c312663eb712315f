"""docs/support.md says what the engine's own tables say."""

import importlib.util
from pathlib import Path

TOOL = Path(__file__).parent.parent / "tools" / "make_support_table.py"


def test_the_table_of_support_is_that_of_the_engine():
    spec = importlib.util.spec_from_file_location("make_support_table", TOOL)
    tool = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(tool)
    assert tool.FILE.read_text(encoding="utf-8") == tool.support(), "Run tools/make_support_table.py."
