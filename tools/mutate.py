"""Changes one small thing of the code at a time, and asks the tests that run it whether they notice.

    python -m pytest --cov=fleetquill --cov-branch --cov-context=test
    python -m tools.mutate --count 300

A change is a comparison, a sign or a number off by one, `and` for `or`, a `not` left out, or a call that is not made.
Each is tried in a copy of the project, with the tests that ran its line. What survives is printed with its place; the
last lines say how many were noticed in each room.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice
from pathlib import Path
from queue import SimpleQueue
from typing import Final, NamedTuple

ROOT: Final = Path(__file__).parent.parent
SOURCE: Final = ROOT / "src" / "fleetquill"
COPIED: Final = (
    "src",
    "tests",
    "tools",
    "benchmarks",
    "examples",
    "docs",
    "pyproject.toml",
    "README.md",
    "CHANGELOG.md",
    "mkdocs.yml",
    "editor",
)
COMPARISONS: Final = {
    ast.Lt: ("<", "<="), ast.LtE: ("<=", "<"), ast.Gt: (">", ">="), ast.GtE: (">=", ">"), ast.Eq: ("==", "!="),
    ast.NotEq: ("!=", "=="), ast.Is: ("is", "is not"), ast.IsNot: ("is not", "is"), ast.In: ("in", "not in"),
    ast.NotIn: ("not in", "in"),
}  # fmt: skip
OPERATORS: Final = {
    ast.Add: ("+", "-"),
    ast.Sub: ("-", "+"),
    ast.Mult: ("*", "/"),
    ast.Div: ("/", "*"),
    ast.FloorDiv: ("//", "/"),
}
CONNECTIONS: Final = {ast.And: ("and", "or"), ast.Or: ("or", "and")}
TEXTS: Final = (ast.JoinedStr, ast.List, ast.ListComp, ast.Tuple)  # joined, not added: any change of that is an error
FIRST: Final = 80  # tests that are asked at once
MOST_OWN: Final = 200  # of its own room
MOST_KEPT: Final = 120  # of what is kept
MOST: Final = 320  # tests that are asked in all, of those that ran a line
SECONDS: Final = 600  # for one question: what hangs is noticed


class Change(NamedTuple):
    """A piece of a file, by its offsets, and what stands there instead."""

    path: Path
    line: int
    start: int
    stop: int
    new: str
    kind: str

    @property
    def room(self) -> str:
        """The folder of the file, or its name where it stands in none."""
        return self.path.relative_to(SOURCE).parts[0].removesuffix(".py")

    def told(self) -> str:
        """Where the change is, and what it is."""
        text = self.path.read_text(encoding="utf-8")
        begin, end = text.rfind("\n", 0, self.start) + 1, text.find("\n", self.stop)
        changed = text[begin : self.start] + self.new + text[self.stop : end]
        where = f"{self.path.relative_to(ROOT)}:{self.line} {self.kind}"
        return f"{where}\n    - {text[begin:end].strip()}\n    + {changed.strip()}"


class _Finder(ast.NodeVisitor):
    """All changes of one file."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.text = path.read_text(encoding="utf-8")
        lines = self.text.splitlines(keepends=True)
        self._bytes = [line.encode() for line in lines]
        self._begins = [0]
        for line in lines:
            self._begins.append(self._begins[-1] + len(line))
        self.found: list[Change] = []
        self.visit(ast.parse(self.text))

    def _offset(self, line: int, column: int) -> int:
        return self._begins[line - 1] + len(self._bytes[line - 1][:column].decode())

    def _start(self, node: ast.expr | ast.stmt) -> int:
        return self._offset(node.lineno, node.col_offset)

    def _stop(self, node: ast.expr | ast.stmt) -> int:
        assert node.end_lineno is not None and node.end_col_offset is not None
        return self._offset(node.end_lineno, node.end_col_offset)

    def _add(self, start: int, stop: int, new: str, kind: str) -> None:
        line = self.text.count("\n", 0, start) + 1
        self.found.append(Change(self.path, line, start, stop, new, kind))

    def _between(self, left: ast.expr, right: ast.expr, words: tuple[str, str], kind: str) -> None:
        """Another word where one stands between two operands."""
        start, stop = self._stop(left), self._start(right)
        place = self.text.find(words[0], start, stop)
        if place >= 0:
            self._add(place, place + len(words[0]), words[1], kind)

    def visit_Compare(self, node: ast.Compare) -> None:
        for left, operator, right in zip([node.left, *node.comparators], node.ops, node.comparators, strict=False):
            self._between(left, right, COMPARISONS[type(operator)], "compared otherwise")
        self.generic_visit(node)

    def visit_BinOp(self, node: ast.BinOp) -> None:
        is_text = any(
            isinstance(side, TEXTS) or isinstance(getattr(side, "value", None), (str, bytes))
            for side in (node.left, node.right)
        )
        if type(node.op) in OPERATORS and not is_text:
            self._between(node.left, node.right, OPERATORS[type(node.op)], "another sign")
        self.generic_visit(node)

    def visit_BoolOp(self, node: ast.BoolOp) -> None:
        for left, right in zip(node.values, node.values[1:], strict=False):
            self._between(left, right, CONNECTIONS[type(node.op)], "and for or")
        self.generic_visit(node)

    def visit_UnaryOp(self, node: ast.UnaryOp) -> None:
        if isinstance(node.op, ast.Not):
            self._add(self._start(node), self._start(node.operand), "", "not left out")
        self.generic_visit(node)

    def visit_Constant(self, node: ast.Constant) -> None:
        if isinstance(node.value, bool):
            self._add(self._start(node), self._stop(node), str(not node.value), "true for false")
        elif isinstance(node.value, (int, float)):
            self._add(self._start(node), self._stop(node), repr(node.value + 1), "off by one")

    def visit_Expr(self, node: ast.Expr) -> None:
        if isinstance(node.value, ast.Call):
            self._add(self._start(node), self._stop(node), "pass", "left out")
        if not isinstance(node.value, ast.Constant):
            self.generic_visit(node)

    def visit_AugAssign(self, node: ast.AugAssign) -> None:
        self._add(self._start(node), self._stop(node), "pass", "left out")
        self.generic_visit(node)

    def visit_If(self, node: ast.If) -> None:
        if ast.unparse(node.test) != "TYPE_CHECKING":
            self.generic_visit(node)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self.visit(node.value)

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        """Places within them are not told by every Python."""

    def visit_Assert(self, node: ast.Assert) -> None:
        """What is asserted tells the type checker."""


class Covered:
    """Which tests ran which lines: the arcs of branch coverage, as its database has them."""

    def __init__(self, path: Path, root: Path) -> None:
        self._data = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
        self._names: dict[int, str] = dict(self._data.execute("SELECT id, context FROM context"))
        self._root = root

    def tests(self, change: Change) -> list[str]:
        """The tests that ran a line; where that is when the file is loaded, all that ran anything in it."""
        name = str(self._root / change.path.relative_to(ROOT))
        found = self._asked(name, "AND (fromno = ? OR tono = ?)", change.line, change.line)
        return sorted(found - {""} or (self._asked(name, "") - {""} if found else ()))

    def _asked(self, name: str, where: str, *values: int) -> set[str]:
        file = self._data.execute("SELECT id FROM file WHERE path = ?", (name,)).fetchone()
        if file is None:
            return set()
        query = f"SELECT DISTINCT context_id FROM arc WHERE file_id = ? {where}"
        return {self._names[one].split("|")[0] for (one,) in self._data.execute(query, (*file, *values))}


def all_changes(room: str) -> Iterator[Change]:
    """All changes of a room, or of every one."""
    for path in sorted(SOURCE.rglob("*.py")):
        if not room or path.relative_to(SOURCE).parts[0].removesuffix(".py") == room:
            yield from _Finder(path).found


def notices(folder: Path, change: Change, tests: list[str], chance: random.Random) -> bool:
    """Whether any test fails in a copy of the project that has the change."""
    chance.shuffle(tests)
    kept = [test for test in tests if test.startswith("tests/test_kept_pages.py")]
    own = [test for test in tests if test.startswith((f"tests/{change.room}/", f"tests/test_{change.room}"))]
    others = [test for test in tests if test not in {*kept, *own}]
    tests = [*kept[:FIRST], *own[:MOST_OWN], *kept[FIRST:MOST_KEPT], *others][:MOST]
    path = folder / change.path.relative_to(ROOT)
    text = change.path.read_text(encoding="utf-8")
    path.write_text(text[: change.start] + change.new + text[change.stop :], encoding="utf-8")
    try:
        return any(
            _fails(folder, asked) for asked in (tests[:FIRST], tests[FIRST : 4 * FIRST], tests[4 * FIRST :]) if asked
        )
    finally:
        path.write_text(text, encoding="utf-8")


def _fails(folder: Path, tests: list[str]) -> bool:
    (folder / "asked").write_text("\n".join(tests), encoding="utf-8")
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-n0",
        "-x",
        "-q",
        "-p",
        "no:cacheprovider",
        "-p",
        "no:randomly",
        "@asked",
    ]
    environment = {**os.environ, "PYTHONPATH": str(folder / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def copied(folder: Path) -> Path:
    """A copy of the project."""
    for name in COPIED:
        if (ROOT / name).is_dir():
            shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "node_modules"))
        else:
            shutil.copy(ROOT / name, folder / name)
    return folder


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m tools.mutate", description=__doc__.partition("\n")[0])
    parser.add_argument("--count", type=int, default=100, metavar="N", help="how many changes are tried")
    parser.add_argument("--room", default="", help="a folder of the package; all where none is given")
    parser.add_argument("--seed", type=int, default=1, help="which of all changes")
    parser.add_argument("--coverage", type=Path, default=ROOT / ".coverage", metavar="FILE", help="what the tests ran")
    parser.add_argument(
        "--measured", type=Path, default=ROOT, metavar="FOLDER", help="the project as that was measured"
    )
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    arguments = parser.parse_args()
    covered = Covered(arguments.coverage, arguments.measured.resolve())
    chance = random.Random(arguments.seed)
    changes = list(all_changes(arguments.room))
    chance.shuffle(changes)
    chosen = islice(((change, tests) for change in changes if (tests := covered.tests(change))), arguments.count)
    tried: Counter[str] = Counter()
    survived: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as place, ThreadPoolExecutor(arguments.workers) as pool:
        folders: SimpleQueue[Path] = SimpleQueue()
        for number in range(arguments.workers):
            folders.put(copied(Path(place, str(number))))

        def ask(change: Change, tests: list[str]) -> bool:
            folder = folders.get()
            try:
                return notices(folder, change, tests, random.Random(change.start))
            finally:
                folders.put(folder)

        asked = [(change, pool.submit(ask, change, tests)) for change, tests in chosen]
        for number, (change, answer) in enumerate(asked, 1):
            tried[change.room] += 1
            if not answer.result():
                survived[change.room] += 1
                print(f"{number}: {change.told()}", flush=True)
    for room, count in sorted(tried.items()):
        print(f"{room:12} {count - survived[room]:4} of {count:4} noticed, {1 - survived[room] / count:.0%}")
    total = tried.total()
    print(f"{'all':12} {total - survived.total():4} of {total:4} noticed, {1 - survived.total() / max(1, total):.0%}")


if __name__ == "__main__":
    main()
