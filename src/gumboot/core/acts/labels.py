"""The acts of labelling: each label in its place, each string marked at both its ends."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.marks import string_marks
from gumboot.core.plan.prove import Lasts


def slug(text: str) -> str:
    """A name for ids: small letters, figures and hyphens."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")


def _stuck(act: str, station: str, title: str, thing: str, words: str) -> Act:
    """One label or set of marks, with the words that the plan gives it now."""
    return Act(
        id=act,
        kind=Kind.LABEL,
        station=station,
        title=title,
        thing=thing,
        see=words,
        band=Band(words=words, choices=("yes", "no")),
        guards="paper",
        lasts=Lasts(rests=words),
    )


def label_acts(plan: Plan) -> Iterator[Act]:
    """Each label in its place."""
    nth: Counter[str] = Counter()
    for label in plan.labels:
        at = slug(label.place)
        nth[at] += 1
        name = ident("label", at if nth[at] == 1 else f"{at}-{nth[at]}")
        yield _stuck(name, "live-checks", f"Label: {label.place}", label.at or label.place, label.text)


def mark_act(string: str) -> str:
    """The id of the act of marking a string."""
    return ident("label", f"string.{string}")


def string_acts(plan: Plan) -> Iterator[Act]:
    """Each string marked at both ends, before its conductors are landed at their source: exchanged strings are found by their marks alone."""
    for string in plan.job.strings:
        hangs = plan.strings.of(string.id) if plan.strings is not None else None
        marks = string_marks((string,), plan.strings)
        ends = dict.fromkeys(mark.where.removeprefix(f"String {string.id} ") for mark in marks)
        words = "; ".join(f"{end}: {' and '.join(mark.text for mark in marks if mark.where.endswith(end))}" for end in ends)
        thing = hangs.place if hangs is not None else string.face
        yield _stuck(mark_act(string.id), "wire", f"String {string.id} marked at both ends", thing, f"{words[:1].upper()}{words[1:]}.")


def marks_of_circuits(plan: Plan) -> dict[str, tuple[str, ...]]:
    """By the circuit that comes down to an input: the acts of marking its strings."""
    inputs = plan.strings.trackers if plan.strings is not None else ()
    return {each.circuit: tuple(mark_act(string.id) for string in each.strings) for each in inputs}
