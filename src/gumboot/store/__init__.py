"""Accounts, jobs with their revisions, and append-only records. The only place that knows SQL."""
