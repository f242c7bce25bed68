"""The Strings station: every input with what hangs on it."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.installation import Input
from gumboot.core.job.model import String
from gumboot.core.ledger import Ledger
from gumboot.core.plan.strings import currents, optimised, voltages
from gumboot.core.plan.strings.faces import array_power, check_faces
from gumboot.core.plan.strings.parts import Hanging, StringsPlan, TrackerPlan
from gumboot.core.plan.strings.several_faces import faces_lost
from gumboot.core.plan.strings.voltages import strictest
from gumboot.core.rules import connection
from gumboot.core.rules import strings as rules
from gumboot.core.seats import InverterSeat


def _others(ledger: Ledger, at: Input) -> tuple[str, ...]:
    """Strings on the input whose terminal the maker's bridge would take."""
    beside = [i for i in ledger.house.inputs if i.place == at.place and i.tracker.id == at.tracker.bridge_with]
    return tuple(s.id for i in beside for s in ledger.house.strings_on(i))


def _through_roof_box(ledger: Ledger, h: Hanging, cold: Figure, maximum: Figure) -> None:
    box = ledger.house.roof_box_of(h.at.place)
    if box is not None:
        ledger.ask(rules.isolator, currents.isolator(ledger, h.place, box.card, cold, maximum), f"things.{box.id}")


def _check_fuses(ledger: Ledger, h: Hanging, strung: rules.Fuse) -> None:
    """The rating of string fuses, and what those in the box of this input break."""
    ledger.ask(rules.string_fuse, strung)
    box = ledger.house.roof_box_of(h.at.place)
    if box is not None and (asked := currents.breaking(ledger, box.id, box.card, strung, f"things.{box.id}.card")):
        says, breaks = asked
        ledger.ask(connection.card_states, says)
        if breaks is not None:
            ledger.ask(rules.fuse_breaks, breaks, f"things.{box.id}")


def _check_currents(ledger: Ledger, facts: rules.Amps) -> None:
    for rule in rules.CURRENTS:
        ledger.ask(rule, facts)


def _check_labels(ledger: Ledger, h: Hanging, first: String) -> None:
    pairs = [(s.label_top, s.label_bottom) for s in h.strings]
    ledger.ask(rules.labelled_alike, rules.Labels(place=h.place, pairs=pairs, field=f"strings.{first.id}.label_bottom"))


def _amps(ledger: Ledger, h: Hanging, flows: tuple[Figure, Figure], held: bool) -> rules.Amps:
    return currents.amps(
        ledger,
        h.place,
        h.at.converter,
        h.at.tracker,
        flows,
        bridged=any(s.bridge for s in h.strings),
        others=_others(ledger, h.at),
        held=held,
        field=f"strings.{h.strings[0].id}.bridge",
    )


def _rise(ledger: Ledger, h: Hanging) -> Figure:
    """How much warmer than the air the cells of an input become, at most."""
    hottest = max(h.faces(ledger.job.faces), key=lambda face: face.cell_rise_k, default=h.face)
    return ledger.decided_of(hottest, f"faces.{hottest.id}.cell_rise_k")


def _lays(ledger: Ledger, strings: Sequence[String]) -> list[tuple[int, str, str]]:
    """Length, face and module of each string; of a face that has none yet, no name."""
    cards = {s.face: ledger.seats.module_or_none(s.face) for s in strings}
    return [(s.modules, s.face, card.id if (card := cards[s.face]) else "") for s in strings]


def _plan_plain(ledger: Ledger, h: Hanging, air: voltages.Weather) -> TrackerPlan:
    module, key, longest = ledger.seats.module_on(h.face.id), h.key, h.longest
    count, field = ledger.decided_of(longest, f"strings.{longest.id}.modules"), f"strings.{longest.id}.modules"
    hung = voltages.Hung(
        place=h.place,
        module=module,
        longest=count,
        shortest=ledger.decided_of(h.shortest, f"strings.{h.shortest.id}.modules"),
        cell_rise=_rise(ledger, h),
        field=field,
        building=strictest(h.faces(ledger.job.faces)),
    )
    v = voltages.volts(ledger, key, hung, h.at.converter, h.at.tracker, air=air)
    ledger.ask(rules.works_at_full_power, voltages.full_power(ledger, key, hung, h.at.converter, h.at.tracker, air=air))
    voltages.tabulated(ledger, key, h.place, count, module, coldest=air.coldest)
    today = air.today and voltages.open_voltage(
        ledger, f"{key}.today_v", f"Open-circuit voltage expected today, {h.place}", count, module, cell=air.today, source="physics"
    )
    parallel = currents.parallel(ledger, key, len(h.strings))
    flows = currents.of_modules(ledger, key, module, parallel)
    _check_currents(ledger, _amps(ledger, h, flows, held=False))
    chosen = ledger.decided("string_fuse_a") if ledger.job.string_fuse_a is not None else None
    _check_fuses(ledger, h, currents.fuse(ledger, key, h.place, module, parallel, chosen=chosen))
    _through_roof_box(ledger, h, v.cold, flows[1])
    for rule in rules.VOLTAGES:
        ledger.ask(rule, v)
    laid = rules.Laid(place=h.place, lays=_lays(ledger, h.strings), field=field, lost=faces_lost(ledger, h, air.summer))
    ledger.ask(rules.alike, laid)
    ledger.ask(rules.one_face, laid)
    _check_labels(ledger, h, longest)
    return _planned(h, longest.modules, v, flows, today, most=v.most or count, fewest=v.fewest or count)


def _planned(
    h: Hanging, modules: int, v: rules.Volts, flows: tuple[Figure, Figure], today: Figure | None, *, most: Figure, fewest: Figure
) -> TrackerPlan:
    return TrackerPlan(
        name=h.at.name,
        tracker=h.at.tracker,
        place=h.at.place,
        strings=h.strings,
        face=h.face,
        modules=modules,
        cold_v=v.cold,
        hot_v=v.hot,
        limit_v=v.limit,
        window_low_v=v.low,
        start_v=v.start,
        operating_a=flows[0],
        maximum_a=flows[1],
        count_most=most,
        count_least=fewest,
        today_v=today,
        optimised=v.held,
    )


def _plan_optimised(ledger: Ledger, h: Hanging) -> TrackerPlan | None:
    card, module = ledger.seats.optimiser, ledger.seats.module_on(h.face.id)
    if card is None:
        return None
    for s in h.strings:
        field = f"strings.{s.id}.modules"
        facts = optimised.string(ledger, f"strings.{s.id}", s.id, ledger.decided(field), module, card=card, field=field)
        ledger.ask(rules.optimiser_count, facts)
        ledger.ask(rules.optimiser_power, facts)
    where = strictest(h.faces(ledger.job.faces))
    v = optimised.volts(ledger, h.key, (h.place, module, where), card, converter=h.at.converter, tracker=h.at.tracker)
    amps = optimised.maximum(ledger, h.key, currents.parallel(ledger, h.key, len(h.strings)), card)
    ledger.ask(rules.cold_voltage, v)
    _check_currents(ledger, _amps(ledger, h, (amps, amps), held=True))
    _through_roof_box(ledger, h, v.cold, amps)
    _check_labels(ledger, h, h.strings[0])
    # Before the inverter commands them, optimisers give about one volt each: that is what a meter finds at the dead tests.
    return _planned(h, h.strings[0].modules, v, (amps, amps), None, most=facts.most, fewest=facts.fewest)


def _check_mode(ledger: Ledger, inverter: InverterSeat) -> None:
    """Independent or parallel inputs as the strings really land."""
    own = [s for at in ledger.house.inputs if at.place == inverter.id for s in ledger.house.strings_on(at)]
    if own:
        laid = rules.Laid(place="inputs" if inverter is ledger.house.lead else f"inputs of {inverter.id}", lays=_lays(ledger, own))
        ledger.ask(rules.input_mode, rules.Mode(mode=ledger.job.pv_mode, modes=inverter.card.pv_modes, laid=laid))


def _check_monitors(ledger: Ledger) -> None:
    """Whether each inverter with strings on it watches residual current and insulation, where the book asks so."""
    if not ledger.book.strings.asks_monitor:
        return
    holding = {at.place: at.converter for at in ledger.house.inputs if ledger.house.strings_on(at)}
    for place, card in holding.items():
        facts = rules.Monitored(where=place, title=card.title, monitors=card.source.residual_monitor, field=f"things.{place}.card")
        ledger.ask(rules.watched_inside, facts)


def _check_shutdown(ledger: Ledger) -> None:
    if not ledger.book.strings.asks_rapid_shutdown:
        return
    fitted = ledger.job.site.rapid_shutdown
    if fitted is None:
        ledger.gap("site.rapid_shutdown", "survey", "Is rapid shutdown of the array fitted?", "Whether a fire crew can make the roof dead")
    ledger.ask(rules.rapid_shutdown, rules.Shutdown(fitted=fitted))


def _hanging(ledger: Ledger, at: Input) -> Hanging | None:
    """What hangs on an input; None where nothing does, or while its face is not known."""
    strings = ledger.house.strings_on(at)
    if not strings:
        return None
    face = next((f for f in ledger.job.faces if f.id == strings[0].face), None)
    if face is None:
        ledger.gap("faces", "strings", f"Which roof face does {strings[0].id} lie on?", f"Voltage of {at.name}")
        return None
    return Hanging(at=at, strings=strings, face=face)


def _check_one_label(ledger: Ledger) -> None:
    """Each label once over the house: a label is read by people, to whom A1 and a1 are one."""
    carrying: dict[str, dict[str, str]] = {}
    for s in ledger.job.strings:
        for label in (s.label_top, s.label_bottom):
            if label.strip():
                carrying.setdefault(label.strip().casefold(), {}).setdefault(s.id, label.strip())
    for strings in carrying.values():
        ledger.ask(rules.labelled_once, rules.OneLabel(label=next(iter(strings.values())), strings=list(strings)))


def plan_strings(ledger: Ledger) -> StringsPlan | None:
    """Work out the Strings station; None without strings, or while a temperature is missing."""
    if not ledger.job.strings:
        if ledger.seats.module is not None or ledger.seats.of_faces:
            waits = "Voltage and current of the strings; choose no module if there is no PV"
            ledger.gap("strings", "strings", "Which modules are joined to which tracker?", waits)
        return None
    coldest, summer = ledger.asked("site.record_low_c"), ledger.asked("site.summer_high_c")
    today = ledger.asked("site.cell_today_c")
    check_faces(ledger)
    found = ledger.house.inputs
    for s in ledger.job.strings:
        known = frozenset(i.tracker.id for i in found if s.inverter in (None, i.place))
        ledger.ask(rules.tracker_exists, rules.Lands(string=s.id, tracker=s.tracker, known=known))
    for inverter in ledger.seats.inverters:
        _check_mode(ledger, inverter)
    _check_shutdown(ledger)
    _check_monitors(ledger)
    _check_one_label(ledger)
    if coldest is None or summer is None:
        return None
    air = voltages.Weather(coldest=coldest, summer=summer, today=today)
    plans = []
    for at in found:
        if h := _hanging(ledger, at):
            plan = _plan_optimised(ledger, h) if ledger.seats.optimiser else _plan_plain(ledger, h, air)
            plans += [plan] if plan else []
    return StringsPlan(trackers=tuple(plans), power=array_power(ledger))
