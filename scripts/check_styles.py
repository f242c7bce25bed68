"""Fails when the built style sheet is older than what it is built from.

The build writes a stamp of its inputs; this compares the stamp, so running the app and its tests needs no Node.
Run ``scripts/build_styles`` after changing templates or frontend/app.css.
"""

import hashlib
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BUILT = ROOT / "src/gumboot/web/static/app.css"
STAMP = ROOT / "frontend/built.sha256"


def digest() -> str:
    """Digest of every input of the build and of its output."""
    inputs = [
        ROOT / "frontend/app.css",
        *sorted((ROOT / "frontend/styles").glob("*.css")),
        ROOT / "frontend/package-lock.json",
        *sorted((ROOT / "src/gumboot/web/templates").rglob("*.html")),
        *sorted((ROOT / "src/gumboot/web/stations").rglob("*.html")),
        *sorted((ROOT / "src/gumboot/web/bag").rglob("*.html")),
        BUILT,
    ]
    total = hashlib.sha256()
    for path in inputs:
        total.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes() + b"\0")
    return total.hexdigest()


if __name__ == "__main__":
    if "--write" in sys.argv:
        STAMP.write_text(digest() + "\n")
    elif not STAMP.exists() or STAMP.read_text().strip() != digest():
        sys.exit("The built styles are stale. Remedy: run scripts/build_styles (needs Node) and commit the result.")
    else:
        print("built styles are current")
