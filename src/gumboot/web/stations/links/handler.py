"""The station Links."""

from __future__ import annotations

from gumboot.web.stations.opening import opened

ROUTER = opened("links")
