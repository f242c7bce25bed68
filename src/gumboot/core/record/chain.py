"""The chain of a job's records: each link is a hash of the link before and of the record, in the order in which they were received."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

# What the first record of a job is chained to.
START = "0" * 64


class Link(NamedTuple):
    """A link of the chain: which record, at which place, and its hash."""

    place: int
    record: str
    hash: str


def content(row: Mapping[str, Any]) -> bytes:
    """A record as bytes that are the same wherever they are made: names sorted, no spaces, in UTF-8."""
    return json.dumps(row, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str).encode()


def linked(before: str, row: Mapping[str, Any]) -> str:
    """Hash of a record behind the link before it."""
    return hashlib.sha256(before.encode() + content(row)).hexdigest()


def faults(links: Iterable[Link], rows: Mapping[str, Mapping[str, Any]]) -> list[str]:
    """What is wrong with a chain, in words: a link that is missing or doubled, a record that was changed, taken out or never chained."""
    found, before, place, chained = list[str](), START, 0, set[str]()
    for link in sorted(links):
        place += 1
        if link.place != place:
            found.append(f"link {place} is missing; the next is link {link.place}")
            place = link.place
        row = rows.get(link.record)
        if row is None:
            found.append(f"record {link.record} of link {link.place} is gone")
        elif linked(before, row) != link.hash:
            found.append(f"record {link.record} of link {link.place} is not what was received")
        if link.record in chained:
            found.append(f"record {link.record} is chained twice")
        chained.add(link.record)
        before = link.hash
    found += [f"record {name} stands outside the chain" for name in rows if name not in chained]
    return found
