"""The station Bank."""

from __future__ import annotations

from gumboot.web.stations.opening import opened

ROUTER = opened("bank")
