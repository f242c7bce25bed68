"""What torque, where the maker gives none?"""

from __future__ import annotations

from typing import Literal, cast

from gumboot.core.errors import NotInTable
from gumboot.core.rulebook.loader import read_table
from gumboot.core.rulebook.north_american.conductors import conductor
from gumboot.core.units import NM_PER_LBF_IN

OfTable1 = Literal["slot_small", "slot_large", "split_bolt", "hex_head"]
OfTable2 = Literal[
    "socket 1/8",
    "socket 5/32",
    "socket 3/16",
    "socket 7/32",
    "socket 1/4",
    "socket 5/16",
    "socket 3/8",
    "socket 1/2",
    "socket 9/16",
]
Screw = Literal[OfTable1, OfTable2]
_SCREW = read_table("north_american/tables/torque_screw.csv")
_SOCKET = {r["socket_across_flats_in"]: float(r["lbf_in"]) for r in read_table("north_american/tables/torque_socket.csv")}


def screw_torque_nm(size: str, screw: OfTable1) -> float:
    """Torque in N m for a connector without a marked value, by conductor size and screw (Informative Annex I, Table I.1).

    A fallback only: 110.14(D) asks for the maker's value. Raises NotInTable where the table is empty.
    """
    for row in _SCREW:
        if conductor(size).ordinal <= conductor(row["size_max"]).ordinal:
            if row[f"{screw}_lbf_in"]:
                return float(row[f"{screw}_lbf_in"]) * NM_PER_LBF_IN
            break
    raise NotInTable(
        "conductor size and screw", f"{size}, {screw}", "the rows of Table I.1", "NEC 2023 Annex I", "Ask the maker for the torque."
    )


def fallback_torque_nm(size: str, screw: Screw) -> float:
    """Torque in N m by the kind of screw, ``socket 1/4`` for a recessed hexagon. Raises NotInTable where Annex I is silent: it speaks of
    trade sizes alone, whatever the screw."""
    conductor(size)
    kind, _, flats = screw.partition(" ")
    return socket_torque_nm(flats) if kind == "socket" else screw_torque_nm(size, cast(OfTable1, screw))


def socket_torque_nm(across_flats_in: str) -> float:
    """Torque in N m for a recessed hexagon screw without a marked value, by its width across flats (Annex I, Table I.2). Raises NotInTable."""
    try:
        return _SOCKET[across_flats_in] * NM_PER_LBF_IN
    except KeyError:
        raise NotInTable(
            "socket", across_flats_in, ", ".join(_SOCKET), "NEC 2023 Annex I Table I.2", "Choose a size in the table."
        ) from None
