"""Gumboot: derives, checks, draws and records a residential storage installation."""

__version__ = "0.1.0"
