"""One clear line and a remedy instead of a traceback."""

from __future__ import annotations


class Trouble(Exception):
    """Something a person can mend. The message is one line: what is wrong, and what to do."""
