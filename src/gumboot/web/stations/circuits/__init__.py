"""Circuits: every run sized, with what decided it."""
