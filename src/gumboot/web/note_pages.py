"""Notes of crews on cards: written at an act, taken for every house or left out by who plans."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.responses import RedirectResponse, Response

from gumboot.core.acts import ident
from gumboot.core.acts.topics import topics_of
from gumboot.core.record import CardNote
from gumboot.store import card_notes
from gumboot.web import urls
from gumboot.web.card_notes import cards_at
from gumboot.web.deciding import EDITORS
from gumboot.web.record_pages import Here, beside_acts
from gumboot.web.rendering import bench
from gumboot.web.security import Author, Db, Text, may

ROUTER = APIRouter()
LEAST, MOST = 10, 300


@ROUTER.post("/jobs/{job_id}/notes/{word}/{name}")
def write_note(job_id: str, word: str, name: str, here: Here) -> Response:
    """Keep what the next crew should know of a card, whether its act may be done now or not."""
    act_id, typed = ident(word, name), here.typed
    view = bench(here.db, here.person, job_id, "wire")
    act = view.standing.acts.get(act_id)
    on = cards_at(view, act) if act is not None else []
    card = typed.get("card") or (on[0].id if on else "")
    text = typed.get("text", "").strip()
    if not LEAST <= len(text) <= MOST:
        raise HTTPException(422, f"text: write the note in {LEAST} to {MOST} characters. Nothing was saved.")
    if not card:
        raise HTTPException(422, "card: this act is done at nothing that has a card. Write the note at another act, or with the record.")
    topic = next(iter(topics_of(act)), "") if act is not None else ""
    kept, head = beside_acts(here, view, act_id, card_notes.KIND, lambda every: CardNote(**every, card=card, topic=topic, text=text))
    if here.by_script:
        return here.told(kept, urls.act_page(job_id, act_id), head)
    return RedirectResponse(urls.act_page(job_id, act_id), 303)


@ROUTER.post(urls.CARDS + "/notes/{record_id}")
def decide_note(record_id: str, db: Db, person: Author, verdict: Text = "", text: Text = "", reason: Text = "") -> Response:
    """Take a note for every house with that card, or leave it out with the reason."""
    may(person, *EDITORS)
    is_taken, words = verdict == "take", text.strip()
    if verdict not in ("take", "leave"):
        raise HTTPException(422, "verdict: take the note, or leave it out.")
    if is_taken and words and not LEAST <= len(words) <= MOST:
        raise HTTPException(422, f"text: a note has {LEAST} to {MOST} characters. Nothing was changed.")
    if not is_taken and len(reason.strip()) < LEAST:
        raise HTTPException(422, f"reason: say in at least {LEAST} characters why it is left out. Nothing was changed.")
    if not card_notes.decide(db, record_id, is_taken=is_taken, by=person.display, text=words[:MOST], reason=reason.strip()[:MOST]):
        raise HTTPException(409, "Somebody decided that note meanwhile, or it is gone. Look at the list as it stands now.")
    return RedirectResponse(urls.CARDS, 303)
