"""Add new cards and new revisions to the list of shipped ones. What is listed stays: a changed card needs a new revision."""

from __future__ import annotations

import sys

from gumboot.catalogue import shelf
from gumboot.catalogue.shipped import LIST, digest, faults, listed


def main() -> int:
    """Append what is not listed; fail where a listed revision has other content."""
    shipped = listed() if LIST.exists() else {}
    rows = {**{(c.id, c.revision): digest(c) for c in shelf().values()}, **shipped}
    lines = [f"{card},{revision},{sha}\n" for (card, revision), sha in sorted(rows.items())]
    LIST.write_text("id,revision,sha256\n" + "".join(lines), encoding="utf-8")
    wrong = faults(shelf(), listed())
    print("\n".join(wrong) or f"{len(rows)} revisions listed")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
