"""What people do on site, from the first hole to the signature, as one kind of thing: an act, with what comes before it.

``act`` is one act; ``graph`` is all of them with their order and gates; ``fit``, ``start`` and ``finish`` say which there are at the
stations of a leg, ``build`` puts them together, ``equipment`` tells with which cards each is done. Nothing here knows a record: how acts
stand is a question of ``standing``.
"""

from gumboot.core.acts.act import YES_OR_NO, Act, Band, Guards, Kind, ident, names_in
from gumboot.core.acts.build import acts
from gumboot.core.acts.graph import PLAN, Acts, Gates, Stands, State, Trouble
from gumboot.core.acts.packing import tick_of

__all__ = [
    "PLAN",
    "YES_OR_NO",
    "Act",
    "Acts",
    "Band",
    "Gates",
    "Guards",
    "Kind",
    "Stands",
    "State",
    "Trouble",
    "acts",
    "ident",
    "names_in",
    "tick_of",
]
