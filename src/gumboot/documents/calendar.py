"""What comes due, as a calendar."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from icalendar import Calendar, Event

from gumboot.core.standing.due import Due

# How long a visit for what is due is set down for.
VISIT = timedelta(minutes=30)


def calendar(houses: Iterable[tuple[str, str, Iterable[Due]]], now: datetime) -> bytes:
    """The calendar of houses, each with its id, title and what comes due; one event for each, under an id that stays."""
    made = Calendar()
    made.add("prodid", "-//Gumboot//due//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", "Gumboot")
    for job_id, title, rows in houses:
        for due in rows:
            event = Event()
            event.add("uid", f"{job_id}-{due.name}@gumboot.invalid")
            event.add("dtstamp", now)
            event.add("dtstart", due.at)
            event.add("dtend", due.at + VISIT)
            event.add("summary", f"{title}: {due.title}")
            made.add_component(event)
    return bytes(made.to_ical())
