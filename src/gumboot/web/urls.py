"""All addresses of the app, in one place."""

from __future__ import annotations

from urllib.parse import quote

from gumboot.web.scripts import MARK

HOME = "/"
SIGN_IN = "/sign-in"
SIGN_OUT = "/sign-out"
HEALTH = "/healthz"
RULES = "/rules"
SUMS = "/sums"
NEW_JOB = "/new"
COMPARE = "/compare"
CARDS = "/cards"
DUE = "/due"
ME = "/api/me"
HAND = "/hand"
WORKER = "/sw.js"
MANIFEST = "/manifest.webmanifest"
# The cookie that says in which posture somebody wants the stations.
POSTURE = "gumboot_posture"


def static(name: str) -> str:
    """A shipped file, under the mark of what is shipped."""
    return f"/static/{MARK}/{name}"


def station(job_id: str, station_id: str) -> str:
    """A station's page."""
    return f"/jobs/{quote(job_id)}/{station_id}"


def hand(job_id: str, place: str = "") -> str:
    """A house in the hand, at a station or an act."""
    return f"/jobs/{quote(job_id)}/hand{'#' + quote(place, safe=':') if place else ''}"


def act(job_id: str, verb: str) -> str:
    """Where a form of this job is sent: ``edit``, ``undo``, ``redo``, ``records/<kind>``."""
    return f"/jobs/{quote(job_id)}/{verb}"


def sum_page(name: str) -> str:
    """A quick sum's page."""
    return f"{SUMS}/{quote(name)}"


def part(job_id: str, name: str) -> str:
    """A part of a station's page that is asked for after the rest stands."""
    return f"/jobs/{quote(job_id)}/part/{quote(name)}"


def card(card_id: str) -> str:
    """A card's page."""
    return f"{CARDS}/{quote(card_id)}"


def compare(first: str, second: str) -> str:
    """Two designs side by side."""
    return f"{COMPARE}?a={quote(first)}&b={quote(second)}"


def working(job_id: str, key: str) -> str:
    """The working of one figure."""
    return f"/jobs/{quote(job_id)}/working?figure={quote(key)}"


def termination(job_id: str, termination_id: str) -> str:
    """The card of one termination."""
    return f"/jobs/{quote(job_id)}/wire/{quote(termination_id)}"


def events(job_id: str) -> str:
    """The stream of what is recorded at a house."""
    return f"/jobs/{quote(job_id)}/events"


def is_stream(path: str) -> bool:
    """Whether a path is that of a stream."""
    return path.startswith("/jobs/") and path.endswith("/events") and path.count("/") == 3


def feed(token: str) -> str:
    """The path of a calendar."""
    return f"/feeds/{quote(token)}.ics"


def record(job_id: str, act_id: str) -> str:
    """Where a record of an act is sent."""
    word, _, name = act_id.partition(":")
    return f"/jobs/{quote(job_id)}/records/{quote(word)}/{quote(name)}"


def photo(job_id: str, name: str) -> str:
    """A picture of a house."""
    return f"/jobs/{quote(job_id)}/photos/{quote(name)}"


def notes_of(job_id: str, act_id: str) -> str:
    """Where a crew's note on the card of an act goes."""
    word, _, name = act_id.partition(":")
    return f"/jobs/{job_id}/notes/{word}/{quote(name)}"


def note(record_id: str) -> str:
    """Where it is decided whether a note of a crew stands on its card."""
    return f"{CARDS}/notes/{record_id}"


def photos_of(job_id: str, act_id: str) -> str:
    """Where a picture of an act is sent."""
    word, _, name = act_id.partition(":")
    return f"/jobs/{quote(job_id)}/photos/{quote(word)}/{quote(name)}"


def act_page(job_id: str, act_id: str) -> str:
    """The history, gate and conditions of one act."""
    word, _, name = act_id.partition(":")
    return f"/jobs/{quote(job_id)}/acts/{quote(word)}/{quote(name)}"


def download(job_id: str, name: str) -> str:
    """A file of this job."""
    return f"/jobs/{quote(job_id)}/download/{quote(name)}"
