"""Loads: what is backed up, and how long it lasts."""
