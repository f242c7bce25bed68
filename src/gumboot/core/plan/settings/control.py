"""Can each bank be controlled as is chosen, and has timed working something to go by?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank
from gumboot.core.rules import tariffs as rules


def check_control(ledger: Ledger, banks: Sequence[OneBank]) -> None:
    """Whether each bank can be controlled as is chosen, and whether timed working has its windows."""
    settings = ledger.job.settings
    for bank in banks:
        facts = rules.Control(
            comms=settings.comms,
            bank=bank.id,
            linked=bank.is_docked or bool(bank.card.data_ports),
            has_volts=bank.card.open_loop is not None,
            mode=settings.work_mode,
            windows=len(settings.tariff),
        )
        ledger.ask(rules.controlled_by_what_is_there, facts)
        if bank is banks[0]:
            ledger.ask(rules.timed_by_windows, facts)
