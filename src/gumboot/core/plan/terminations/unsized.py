"""Ends of a circuit that cannot be sized yet: what is known of its conductors is asked of their terminals all the same."""

from __future__ import annotations

from gumboot.core.installation import Circuit, End
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.terminations.landing import check_prepared
from gumboot.core.rules import terminations as rules


def _check_end(ledger: Ledger, circuit: Circuit, run: Run, end: End) -> None:
    """One live end: metal and class of strands always, size where one lies there, strip and lug where they are said."""
    card = ledger.house.cards[end.place]
    terminal = card.terminal(end.port, end.terminal)
    facts = rules.Landing(
        where=f"{end.place} {end.port} {end.terminal}",
        terminal=terminal,
        size=run.installed_size or "",
        wire_class=run.wire_class,
        material=run.material,
        circuit=circuit.id,
        field=f"runs.{circuit.id}.installed_size",
    )
    for rule in rules.LANDED if run.installed_size else rules.SIZELESS:
        ledger.ask(rule, facts)
    check_prepared(ledger, card, end, terminal, run, circuit=circuit)


def check_unsized(ledger: Ledger, circuit: Circuit, run: Run) -> None:
    """Every live end of a circuit whose size waits for an answer: that gap hides no other rule."""
    for core in circuit.cores:
        if core.role != "earth":
            for end in core.ends:
                _check_end(ledger, circuit, run, end)
