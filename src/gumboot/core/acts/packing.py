"""The acts of packing: each load into the van, line by line. Nobody waits for them; what is not there is seen before the drive."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.plan.derive import Plan
from gumboot.core.study.packing import loads_of

VAN = "van"


def tick_of(line: str) -> str:
    """The name under which a line is ticked: the same wherever that line stands."""
    return f"in-{hashlib.sha256(line.encode()).hexdigest()[:10]}"


def packing_acts(plan: Plan) -> Iterator[Act]:
    """Each load of the van."""
    for load in loads_of(plan):
        yield Act(
            id=ident("pack", load.name),
            kind=Kind.PACK,
            station="wire",
            title=f"In the van: {load.title}",
            thing=VAN,
            see="Each line as it is packed.",
            band=Band(lines=load.lines),
            guards="paper",
            is_optional=True,
        )
