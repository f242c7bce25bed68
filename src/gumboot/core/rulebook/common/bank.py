"""How do batteries in parallel share, what can they push into a fault, and what flows when they are joined?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Amount, natural_log, square_root, total

if TYPE_CHECKING:
    import numpy as np


def busbar_shares_a(whole_a: Amount, lead_ohm: Sequence[Amount], cell_ohm: Sequence[Amount]) -> tuple[Amount, ...]:
    """Current in A of each battery on stout busbars: the conductances of its lead and cells share the total. Shape (n,).

    All batteries stand at one voltage; any unit of resistance, one for all. Raises OutOfRange for a path without resistance.
    """
    paths = [cell + lead for lead, cell in zip(lead_ohm, cell_ohm, strict=True)]
    if min(float(p) for p in paths) <= 0:
        smallest = min(float(p) for p in paths)
        raise OutOfRange(
            "resistance of a battery's path", f"{smallest} ohm", "above 0 ohm", "Ohm's law", "Give the lead and the cell resistance."
        )
    conductances = [1.0 / path for path in paths]
    whole = total(conductances, conductances[0])
    return tuple(whole_a / path / whole for path in paths)


def chain_shares_a(total_a: float, cell_ohm: Sequence[float], link_ohm: Sequence[float], diagonal: bool) -> tuple[float, ...]:
    """Current in A of each battery of a daisy chain. Shape (n,).

    ``link_ohm`` has n - 1 entries: one link of the positive chain, its twin in the negative one. The positive take-off is
    at the first battery; the negative one there too, or at the last battery when ``diagonal``. The network is solved
    node by node (Kirchhoff), all batteries at one voltage.
    """
    n = len(cell_ohm)
    if len(link_ohm) != n - 1 or min([*cell_ohm, *link_ohm], default=1.0) <= 0:
        wanted = f"{n - 1} resistances above 0 ohm"
        raise OutOfRange("links of the chain", list(link_ohm), wanted, "Kirchhoff's laws", "Give one link between neighbours.")
    import numpy as np

    # Positive nodes 0..n-1, then negative nodes 0..n-1; the negative take-off is the reference. All batteries at one voltage give
    # no current of their own, so the load alone drives the network.
    matrix, feed = _conductances(cell_ohm, link_ohm), np.zeros(2 * n)
    out = n + (n - 1 if diagonal else 0)
    feed[0], feed[out] = -total_a, total_a
    keep = [i for i in range(2 * n) if i != out]
    nodes = np.zeros(2 * n)
    nodes[keep] = np.linalg.solve(matrix[np.ix_(keep, keep)], feed[keep])
    return tuple(float(-(nodes[k] - nodes[n + k]) / cell_ohm[k]) for k in range(n))


def _conductances(cell_ohm: Sequence[float], link_ohm: Sequence[float]) -> np.ndarray:
    """Conductance matrix of the chain in S: cells between positive and negative nodes, links along both. Shape (2n, 2n)."""
    import numpy as np

    n = len(cell_ohm)
    matrix = np.zeros((2 * n, 2 * n))
    joins = [(k, n + k, cell_ohm[k]) for k in range(n)]
    joins += [(side + k, side + k + 1, link_ohm[k]) for k in range(n - 1) for side in (0, n)]
    for a, b, ohm in joins:
        for i, j, sign in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
            matrix[i, j] += sign / ohm
    return matrix


def inner_mohm(open_v: Amount, fault_a: Amount) -> Amount:
    """Resistance in mohm inside a bank whose prospective fault current at one open-circuit voltage is known."""
    return 1000.0 * open_v / fault_a


def fault_current_a(open_v: Amount, within_mohm: Amount, main_mohm: Amount) -> Amount:
    """Prospective fault current in A of a bank through its main cable, at one open-circuit voltage."""
    return 1000.0 * open_v / (within_mohm + main_mohm)


def equalising_current_a(difference_v: Amount, cells_mohm: Amount, lead_mohm: Amount) -> Amount:
    """Current in A at the moment two batteries of unlike voltage are joined; ``cells_mohm`` is the resistance inside both together."""
    return 1000.0 * abs(difference_v) / (cells_mohm + lead_mohm)


def precharge_time_s(resistance_ohm: Amount, capacitance_uf: Amount, reached: Amount) -> Amount:
    """Time in s until the capacitor reaches a share of the source: -RC ln(1 - share). Raises OutOfRange for a share outside 0 to 1."""
    if not 0 < float(reached) < 1:
        raise OutOfRange("share reached", float(reached), "above 0, below 1", "charging law", "Give 0.99, say.")
    return -resistance_ohm * capacitance_uf * 1e-6 * natural_log(1.0 - reached)


def precharge_five_s(resistance_ohm: Amount, capacitance_uf: Amount) -> Amount:
    """Five time constants in s: within 1 % of the source's voltage."""
    return 5.0 * resistance_ohm * capacitance_uf * 1e-6


def precharge_energy_j(voltage_v: Amount, capacitance_uf: Amount) -> Amount:
    """Energy in J that the resistor takes: as much as the capacitor holds, whatever the resistor."""
    return 0.5 * capacitance_uf * 1e-6 * voltage_v**2


def ripple_rms_a(dc_a: Amount) -> Amount:
    """RMS in A of a battery current that follows single-phase power without smoothing: I sqrt(1.5), the safe side of any ripple."""
    return square_root(1.5 * dc_a**2)


def longest_lead_m(drop_limit_v: Amount, current_a: Amount, r_ohm_per_km: Amount) -> Amount:
    """Longest one-way battery lead in m for a drop in V."""
    return drop_limit_v / (2.0 * current_a * r_ohm_per_km / 1000.0)
