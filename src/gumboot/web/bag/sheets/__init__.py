"""The stations of the plan in the hand: each thing that was decided or is asked as a sheet of its own, with its picture and its fields.

``parts`` says what a sheet is, one module a station takes its sheets from that station's own view, ``all`` puts findings and open
questions to them and brings what is to mend to the top.
"""

from gumboot.web.bag.sheets.all import sheets_of

__all__ = ["sheets_of"]
