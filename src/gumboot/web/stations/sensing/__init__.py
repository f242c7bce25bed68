"""Sensing: where each CT sits, and whether it tells the truth."""
