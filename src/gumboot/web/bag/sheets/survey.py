"""Survey in the hand: each question, each place for equipment, each run."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.web.bag.pictures import LINE, Look
from gumboot.web.bag.sheets.parts import Fact, Field, Sheet
from gumboot.web.stations.survey.view import Asked, view_of
from gumboot.web.view import Bench

# Where a question is about something that can be seen.
SEEN = {"Climate": "roof", "Supply": LINE}


def _looks(group: str, path: str) -> tuple[Look, ...]:
    if group == "Wall":
        return (Look(f"wall-{path.split('.')[1]}", ()),)
    picture = SEEN.get(group, "")
    return (Look(picture, ("main-board", "grid-breaker", "meter", "inverter") if picture == LINE else ()),) if picture else ()


def _asked(b: Bench, group: str, asked: Asked) -> Sheet:
    question = asked.question
    own = Field(question.path, question.text, question.options or None)
    besides = [Field(path, words) for path, words in asked.besides if b.has(path)]
    together = (Fact("with charging, on the fullest line", asked.together),) if asked.together else ()
    return Sheet(
        name=question.path,
        title=question.text,
        says="not answered" if asked.is_open else b.as_shown(question.path, b.value(question.path)),
        see=f"{'Holds up' if asked.is_open else 'Unlocks'} {question.unlocks}." if question.unlocks else "",
        group=group,
        facts=together,
        fields=(own, *besides),
        looks=_looks(group, question.path),
        is_open=asked.is_open,
    )


def _of_thing(b: Bench, thing: str) -> tuple[Look, ...]:
    return (Look(LINE, (thing,)), *(Look(f"wall-{wall.id}", (thing,)) for wall in b.job.walls))


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Survey."""
    v = view_of(b)
    for group, rows in v.groups:
        yield from (_asked(b, group, asked) for asked in rows)
    for gear in v.gears:
        named = tuple(Fact(join.words, None, str(b.value(join.path) or join.empty)) for join in gear.place.joins if b.has(join.path))
        yield Sheet(
            name=gear.place.path,
            title=gear.place.title,
            says=gear.stands,
            see=f"{gear.ratings}. Chosen at the bench." if gear.ratings else "Chosen at the bench.",
            group="Equipment",
            facts=named,
            is_open=not gear.is_filled and not gear.place.optional,
            looks=_of_thing(b, gear.place.thing) if gear.is_filled else (),
        )
    for route in v.routes:
        laid = (("length_m", "One way"), ("ambient_c", "Hottest air along it"), (v.together_field, v.together.capitalize()))
        yield Sheet(
            name=route.at,
            title=route.title,
            says=b.as_shown(f"{route.at}.length_m", b.value(f"{route.at}.length_m")),
            group="Route lengths",
            facts=(Fact("Along the wall", route.on_the_wall),) if route.on_the_wall else (),
            fields=tuple(Field(f"{route.at}.{name}", words) for name, words in laid),
            looks=(Look(LINE, (route.id,)),),
            is_open=b.value(f"{route.at}.length_m") is None,
        )
