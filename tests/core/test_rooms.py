"""How the sources are cut: small rooms, and no circles between them."""

from __future__ import annotations

import ast
from pathlib import Path

import gumboot.core

CORE = Path(gumboot.core.__file__).parent


def test_rooms_stay_small() -> None:
    """No module of the core is longer than 250 lines, no function than 40."""
    for path in CORE.rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        assert len(text.splitlines()) <= 250, path
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef):
                assert (node.end_lineno or 0) - node.lineno < 40, f"{path}: {node.name}"


def test_no_module_imports_itself_by_way_of_others() -> None:
    """Import circles over the whole app, imports for types among them; figure and expression are one idea in two modules."""
    sources = CORE.parents[1]
    modules = {".".join(p.relative_to(sources).with_suffix("").parts).removesuffix(".__init__"): p for p in CORE.parent.rglob("*.py")}
    imports: dict[str, set[str]] = {}
    for name, path in modules.items():
        found = [n for n in ast.walk(ast.parse(path.read_text(encoding="utf-8"))) if isinstance(n, ast.ImportFrom) and n.module]
        named = {f"{n.module}.{a.name}" if f"{n.module}.{a.name}" in modules else str(n.module) for n in found for a in n.names}
        imports[name] = {other for other in named if other in modules and not name.startswith(f"{other}.")}
    imports["gumboot.core.expression"] -= {"gumboot.core.figure"}
    while free := [name for name, needs in imports.items() if not needs & imports.keys()]:
        for name in free:
            del imports[name]
    assert imports == {}
