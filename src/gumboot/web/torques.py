"""The torque of an end as it is read off and said, for its card at the bench and in the hand."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.plan.terminations import Termination
from gumboot.core.units import lbf_ft_from_nm
from gumboot.drawing import show
from gumboot.web.view import Bench

PROVE_DEAD = "Prove dead before you touch: measure, do not trust a switch."


@dataclass(frozen=True, slots=True)
class Torque:
    """The torque to reach: as it is set on the tool, its unit, its band, and the same in the other units; the band's ends in N m."""

    digits: str = ""
    unit: str = ""
    band: str = ""
    others: tuple[str, ...] = ()
    low_nm: float | None = None
    high_nm: float | None = None


def torque_of(b: Bench, term: Termination) -> Torque:
    """The torque of an end in the units of the job; without digits where none is known or none is needed."""
    is_us = b.system == "US"
    unit = "lbf in" if is_us else "N m"
    low, high = (end.value if end is not None else None for end in (term.torque_low, term.torque_high))
    if term.torque is None:
        return Torque(unit=unit, low_nm=low, high_nm=high)
    nm = term.torque.value
    return Torque(
        digits=show.quantity(nm, "N m", b.system).split(" ")[0],
        unit=unit,
        band=" to ".join(show.in_system(end, "N m", b.system)[0] for end in (low, high) if end is not None),
        others=(show.quantity(nm, "N m", "SI" if is_us else "US"), f"{show.plain(lbf_ft_from_nm(nm), 'lbf ft')} lbf ft"),
        low_nm=low,
        high_nm=high,
    )


def caution_of(term: Termination) -> str:
    """What to mind at an end: how one that stays live is landed, what its card says, else that it is proved dead."""
    return term.live_method or term.terminal.caution or ("" if term.role == "earth" else PROVE_DEAD)
