"""What the station Hand over is drawn from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gumboot.core.acts import Act
from gumboot.core.record import SignOff
from gumboot.core.recording.files import Taken
from gumboot.core.standing.history import Failure, failures
from gumboot.web import urls
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class HandOverView:
    """The station Hand over: who signed, what is missing, and what leaves the house."""

    signed: SignOff | None
    ended: str
    missing: Sequence[str]
    may_sign: bool
    sign_off: Act
    # The hand-over with promises, where nothing but what comes a day later is missing.
    provisional: Act | None
    files: list[tuple[str, str]]
    pack_href: str
    taken: list[Taken]
    # Everything that was ever found wrong, with where its history stands.
    failures: list[tuple[Failure, str]]


def _only_promised(missing: Sequence[str]) -> bool:
    return bool(missing) and all("24 h check" in line for line in missing)


def view_of(b: Bench) -> HandOverView:
    """The station as its page needs it."""
    job, standing = b.job.id, b.standing
    return HandOverView(
        signed=standing.signed,
        ended=standing.ended,
        missing=standing.missing,
        failures=[(found, urls.act_page(job, found.record.act)) for found in failures(b.plan, standing.acts, b.records)],
        may_sign=b.who.role in standing.acts["sign-off:job"].who,
        sign_off=standing.acts["sign-off:job"],
        provisional=standing.acts["sign-off:provisional"] if _only_promised(standing.missing) else None,
        files=[
            ("Job file", urls.download(job, "job.gumboot.json")),
            ("Terminations, CSV", urls.download(job, "terminations.csv")),
            ("Records, CSV", urls.download(job, "records.csv")),
            ("What comes due, ICS", urls.act(job, "due.ics")),
            ("Records, JSON Lines", urls.download(job, "records.jsonl")),
        ],
        pack_href=urls.download(job, "pack.pdf"),
        taken=b.taken,
    )
