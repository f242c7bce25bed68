"""How the sources are cut: small rooms, and no circles between them."""

from __future__ import annotations

import ast
import re
from collections import Counter
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


def test_what_is_given_by_place_can_be_told_apart() -> None:
    """No function of the core takes more than five values by place; the rest has names."""
    for path in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.FunctionDef):
                placed = [a.arg for a in (*node.args.posonlyargs, *node.args.args) if a.arg not in ("self", "cls")]
                assert len(placed) <= 5, f"{path}: {node.name}"


def test_plans_and_studies_know_the_types_of_everything() -> None:
    for path in (*CORE.joinpath("plan").rglob("*.py"), *CORE.joinpath("study").rglob("*.py")):
        assert not re.search(r"\bAny\b", path.read_text(encoding="utf-8")), path


def test_nothing_in_the_core_waits_for_an_asker() -> None:
    """What the product never names beside its definition is a second place of a rule, or of nothing: pydantic asks validators, the
    register its rules."""
    root = CORE.parent
    texts = {p: p.read_text(encoding="utf-8") for kind in ("*.py", "*.html") for p in root.rglob(kind)}
    named = Counter(word for text in texts.values() for word in re.findall(r"\w+", text))
    for path in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(texts[path])):
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("__"):
                asked = [
                    d
                    for d in node.decorator_list
                    if isinstance(d, ast.Call) and ast.unparse(d.func) in ("rule", "model_validator", "field_validator")
                ]
                assert asked or named[node.name] > 1, f"{path}: {node.name}"


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
