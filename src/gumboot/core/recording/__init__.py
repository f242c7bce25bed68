"""May this record be made, by this person, now? One rule for page, phone, command line and import.

``inputs`` says what an act asks for, ``tools`` what speaks against a tool for it, ``terms`` what is right of what is answered, ``drafts``
makes a record of what was typed (``linked`` of leads and displays), ``plausible`` asks about a value that looks like a slip, ``contents`` looks at what a kind of record says,
``may`` puts it together.
"""

from gumboot.core.recording.draft import Draft
from gumboot.core.recording.drafts import Doing, drafted, said
from gumboot.core.recording.inputs import Input, could_not_inputs, inputs_of
from gumboot.core.recording.may import Person, Verdict, may_record, receive
from gumboot.core.recording.refused import Refused
from gumboot.core.recording.terms import Term, terms_of
from gumboot.core.recording.tools import against

__all__ = [
    "Doing",
    "Draft",
    "Input",
    "Person",
    "Refused",
    "Term",
    "Verdict",
    "against",
    "could_not_inputs",
    "drafted",
    "inputs_of",
    "may_record",
    "receive",
    "said",
    "terms_of",
]
