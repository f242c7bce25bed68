"""Is the time of an act over, as all that it comes before is done?"""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.acts import Act, Acts, Kind
from gumboot.core.record import AnyRecord, CouldNot


def is_overtaken(acts: Acts, last: Mapping[str, AnyRecord], act: Act, kind: Kind) -> bool:
    """Whether every act of a kind that an act comes before is done, and counts: so it is in houses begun in an earlier version.

    ``last`` is the latest record of each act.
    """
    done = [last.get(after.id) for after in acts.behind(act.id) if after.kind is kind]
    return bool(done) and all(record is not None and not record.defects and not isinstance(record, CouldNot) for record in done)
