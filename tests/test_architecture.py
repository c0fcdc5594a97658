"""The drawing of the import structure in docs/architecture.md is what the code does, and has no circle."""

import ast
import re
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "zembi"


def room(module: str) -> str | None:
    """The part of the tree that a module belongs to: of core its package or module, else the layer."""
    parts = module.split(".")
    if parts[0] != "zembi" or len(parts) < 2:
        return None
    if parts[1] == "core":
        return f"core/{parts[2]}" if len(parts) > 2 else None
    return parts[1]


def edges() -> set[tuple[str, str]]:
    """Which part imports which, read from the code itself."""
    out = set()
    for path in SOURCE.rglob("*.py"):
        inside = ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts)
        here = room(inside)
        for node in ast.walk(ast.parse(path.read_text())):
            names = []
            if isinstance(node, ast.ImportFrom) and node.module:
                # "from zembi.service import cutting" names a module, or something in one.
                names = [node.module, *(f"{node.module}.{a.name}" for a in node.names)]
            elif isinstance(node, ast.Import):
                names = [a.name for a in node.names]
            for name in names:
                target = SOURCE.parent / Path(*name.split("."))
                if not (target.is_dir() or target.with_suffix(".py").exists()):
                    continue
                there = room(name)
                if here and there and here != there:
                    out.add((here, there))
    return out


def drawn() -> set[tuple[str, str]]:
    """The arrows of the drawing."""
    text = (ROOT / "docs" / "architecture.md").read_text()
    (block,) = re.findall(r"```mermaid\n(.*?)```", text, re.DOTALL)
    return set(re.findall(r"^\s*(\S+) --> (\S+)$", block, re.MULTILINE))


def test_the_drawing_of_the_imports_is_true() -> None:
    inside = {(a, b) for a, b in edges() if a.startswith("core/") and b.startswith("core/")}
    quiet = {"core/errors", "core/memory", "core/timebase"}
    told = {(a, b) for a, b in inside if b not in quiet}
    assert drawn() == told, "\n".join(f"  {a} --> {b}" for a, b in sorted(told))


def test_the_layers_and_the_parts_of_core_have_no_circle() -> None:
    after: dict[str, set[str]] = {}
    for a, b in edges():
        after.setdefault(a, set()).add(b)
    waiting = set(after) | {b for targets in after.values() for b in targets}
    while waiting:
        free = {part for part in waiting if not after.get(part, set()) & waiting}
        assert free, f"a circle among {', '.join(sorted(waiting))}"
        waiting -= free
