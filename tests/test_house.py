"""The house: which room may know which. Imports are read from the source, those of types and late ones included."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

import fleetquill as fq

ROOT = Path(fq.__file__).parent
CORE = ("tree", "style", "text", "drawing", "layout", "structure", "paint", "output", "graphics")
ABOVE = ("authoring", "intake", "bindery", "fleet", "serve", "cli", "demo", "press", "job", "edition", "api")
NEVERS = {  # DESIGN: data goes one way
    "pdf": (*CORE, *ABOVE),
    "tree": ("text", "drawing", "graphics", "layout", "structure", "paint", "output", *ABOVE),
    "style": ("tree", "text", "drawing", "graphics", "layout", "structure", "paint", "output", *ABOVE),
    "text": ("drawing", "graphics", "layout", "structure", "paint", "output", *ABOVE),
    "drawing": ("graphics", "layout", "structure", "paint", "output", *ABOVE),
    "graphics": ("layout", "structure", "paint", "output", *ABOVE),
    "layout": ("structure", "paint", "output", *ABOVE),
    "structure": ("paint", "output", *ABOVE),
    "paint": ("output", *ABOVE),
    "output": ("layout", "paint", *ABOVE),  # what flows, and rows, it has from structure
    "intake": ("text", "drawing", "layout", "structure", "paint", "output", "authoring", "press", "serve", "cli"),
    "authoring": ("text", "drawing", "layout", "structure", "paint", "output", "press", "serve", "cli"),
    "press": ("bindery", "fleet", "serve", "cli"),
}
OUTSIDE = {  # modules of the world outside, which the core does not ask
    "argparse", "click", "rich", "socket", "ssl", "http", "urllib.request", "time", "logging", "asyncio", "subprocess",
    "getpass", "platform", "webbrowser", "locale",
}  # fmt: skip
CALLS = {"print", "input", "os.getenv", "datetime.now", "datetime.today", "date.today", "datetime.datetime.now"}
ATTRIBUTES = {"sys.argv", "sys.stdout", "sys.stderr", "sys.stdin", "os.environ"}


def modules() -> dict[str, Path]:
    found = {}
    for path in ROOT.rglob("*.py"):
        parts = [*path.relative_to(ROOT).parent.parts, path.stem]
        found[".".join(["fleetquill", *parts]).removesuffix(".__init__")] = path
    return found


MODULES = modules()
TREES = {name: ast.parse(path.read_text(encoding="utf-8")) for name, path in MODULES.items()}


def imports_of(name: str) -> set[str]:
    """The modules of the package that one imports, wherever the import stands."""
    found = set()
    for node in ast.walk(TREES[name]):
        if isinstance(node, ast.ImportFrom) and node.module:
            for alias in node.names:
                inner = f"{node.module}.{alias.name}"
                found.add(inner if inner in MODULES else node.module)
        elif isinstance(node, ast.Import):
            found.update(alias.name for alias in node.names)
    return {module for module in found if module in MODULES and module != name}


def room(name: str) -> str:
    """The folder of a module, or the module itself where it stands on the landing."""
    parts = name.split(".")
    return parts[1] if len(parts) > 1 else parts[0]


def circles(graph: dict[str, set[str]]) -> list[list[str]]:
    """What is left of a graph when everything that leads nowhere has been taken off, again and again."""
    left = {node: set(targets) for node, targets in graph.items()}
    while ends := [node for node, targets in left.items() if not targets & left.keys()]:
        for node in ends:
            del left[node]
    return [[node, *sorted(targets & left.keys())] for node, targets in sorted(left.items())]


def test_circles_are_seen():
    assert circles({"a": {"b"}, "b": {"c"}, "c": {"b"}, "d": set()}) == [["a", "b"], ["b", "c"], ["c", "b"]]
    assert circles({"a": {"b"}, "b": set()}) == []


def test_no_module_imports_itself_around_a_corner():
    assert circles({name: imports_of(name) for name in MODULES}) == []


def test_no_room_knows_one_that_knows_it():
    graph: dict[str, set[str]] = {}
    for name in MODULES:
        graph.setdefault(room(name), set()).update(room(inner) for inner in imports_of(name))
    lobby = {"fleetquill", "demo", "__main__"}  # the public names, and what is written against them
    rooms = {name: {inner for inner in targets if inner not in {name, *lobby}} for name, targets in graph.items()}
    assert circles({name: targets for name, targets in rooms.items() if name not in lobby}) == []


@pytest.mark.parametrize("knower", sorted(NEVERS))
def test_the_nevers(knower):
    wrong = [
        f"{name} imports {inner}"
        for name in MODULES
        if room(name) == knower
        for inner in sorted(imports_of(name))
        if room(inner) in NEVERS[knower]
    ]
    assert wrong == []


def test_nothing_but_the_command_line_knows_serve_bindery_and_fleet():
    rooms = {"serve", "bindery", "fleet"}
    lobby = {"fleetquill", "demo", "testing"}  # the public names, and what is written against them
    wrong = [
        f"{name} imports {inner}"
        for name in MODULES
        for inner in imports_of(name)
        if room(inner) in rooms and room(name) not in {*rooms, *lobby, "cli"}
    ]
    assert wrong == []


def dotted(node: ast.expr) -> str:
    if isinstance(node, ast.Attribute):
        return f"{dotted(node.value)}.{node.attr}"
    return node.id if isinstance(node, ast.Name) else ""


def talk(tree: ast.AST) -> Iterator[str]:
    """What a module asks of, or says to, the world outside."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names if alias.name in OUTSIDE)
        elif isinstance(node, ast.ImportFrom) and node.module in OUTSIDE:
            yield str(node.module)
        elif isinstance(node, ast.Call) and dotted(node.func) in CALLS:
            yield dotted(node.func)
        elif isinstance(node, ast.Attribute) and dotted(node) in ATTRIBUTES:
            yield dotted(node)


def test_the_core_is_silent():
    """It never prints, reads arguments, opens sockets, or looks at the clock or the environment."""
    found = {name: sorted(set(talk(TREES[name]))) for name in MODULES if room(name) in CORE}
    assert {name: words for name, words in found.items() if words} == {}
    assert sorted(talk(ast.parse("import time, os\nprint(os.environ)\nfrom http import client"))) == [
        "http", "os.environ", "print", "time",
    ]  # fmt: skip


def test_every_name_of_the_public_face_is_there():
    assert [name for name in fq.__all__ if getattr(fq, name, None) is None] == []
