"""Thin handlers, templates and static files. No rule and no arithmetic lives here."""
