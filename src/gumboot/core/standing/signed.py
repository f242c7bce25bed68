"""Does a signature stand: for the revision and the records that it was given for?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.acts.act import CREW
from gumboot.core.record import AnyRecord, CardNote, SetAside, SignOff, TakenBack


class Signed(NamedTuple):
    """The latest signature, and what has ended it; empty while it stands."""

    record: SignOff | None = None
    ended: str = ""

    @property
    def is_provisional(self) -> bool:
        """Whether something was promised with it."""
        return self.record is not None and self.record.name == "provisional"

    @property
    def stands(self) -> bool:
        """Whether what was signed is what stands."""
        return self.record is not None and not self.ended


def signature(records: Sequence[AnyRecord], revision: int | None) -> Signed:
    """The latest signature among records in the order in which they came in."""
    back = {r.of for r in records if isinstance(r, TakenBack)}
    given = [(at, r) for at, r in enumerate(records) if isinstance(r, SignOff) and r.id not in back]
    if not given:
        return Signed()
    at, last = given[-1]
    if revision is not None and last.revision is not None and revision != last.revision:
        return Signed(last, f"the plan is at revision {revision}; signed was revision {last.revision}")
    # A visit a year later looks at what was signed, and changes nothing of it.
    # What was promised may come; what somebody sets aside who does no acts has changed nothing on site.
    later = [
        r for r in records[at + 1 :] if not isinstance(r, (SignOff, CardNote)) and not (isinstance(r, SetAside) and r.role not in CREW)
    ]
    since = [r for r in later if not r.act.startswith("yearly:") and r.act not in last.promised]
    if since:
        return Signed(last, f"{len(since)} record{'s' if len(since) > 1 else ''} came in since")
    return Signed(last)
