"""Where this checkout is."""

from __future__ import annotations

from pathlib import Path

CHECKOUT = Path(__file__).resolve().parents[3]
