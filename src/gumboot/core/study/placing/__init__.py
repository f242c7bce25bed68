"""Where could everything hang? ``spots`` are the places worth a look, ``search`` sets boxes on them by the rules of the wall and the cable between them."""

from gumboot.core.study.placing.parts import Proposal, Spot, Why, with_spots
from gumboot.core.study.placing.search import propose

__all__ = ["Proposal", "Spot", "Why", "propose", "with_spots"]
