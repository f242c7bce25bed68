"""Reads and writes one field of a job document by its path, such as ``runs.bat-main.length_m``.

List items are addressed by their ``id`` (or ``channel``), so a path survives re-ordering.
"""

from __future__ import annotations

import copy
from collections.abc import Iterator
from typing import Any

from gumboot.core.errors import GumbootError


class BadPath(GumbootError):
    """The path names no field of the job."""

    def __init__(self, path: str) -> None:
        super().__init__(f"The job has no field '{path}'. Reload the page and try again.")
        self.path = path


def _step(node: Any, part: str, path: str) -> Any:
    if isinstance(node, list):
        for item in node:
            if isinstance(item, dict) and part in (item.get("id"), item.get("channel")):
                return item
        raise BadPath(path)
    if isinstance(node, dict) and part in node:
        return node[part]
    raise BadPath(path)


def read_path(document: dict[str, Any], path: str) -> Any:
    """The value at a path. Raises BadPath."""
    node: Any = document
    for part in path.split("."):
        node = _step(node, part, path)
    return node


def write_path(document: dict[str, Any], path: str, value: Any) -> dict[str, Any]:
    """A copy of the document with one value replaced; ``+`` appends to a list, ``-<id>`` removes from it. Raises BadPath."""
    changed = copy.deepcopy(document)
    set_path(changed, path, value)
    return changed


def leaves(node: Any, path: str = "") -> Iterator[tuple[str, Any]]:
    """Every field of a document that holds no further part, by the path under which an edit addresses it."""
    if isinstance(node, dict):
        for key, value in node.items():
            yield from leaves(value, f"{path}.{key}" if path else key)
    elif isinstance(node, list):
        for item in node:
            key = isinstance(item, dict) and (item.get("id") or item.get("channel"))
            if key:
                yield from leaves(item, f"{path}.{key}")
    else:
        yield path, node


def set_path(document: dict[str, Any], path: str, value: Any) -> None:
    """As write_path, in a document that the caller owns. Raises BadPath and then leaves it as it was."""
    *parents, last = path.split(".")
    node: Any = document
    for part in parents:
        node = _step(node, part, path)
    if isinstance(node, list) and last == "+":
        node.append(value)
    elif isinstance(node, list) and last.startswith("-"):
        node.remove(_step(node, last[1:], path))
    elif isinstance(node, dict) and last in node:
        node[last] = value
    else:
        raise BadPath(path)
