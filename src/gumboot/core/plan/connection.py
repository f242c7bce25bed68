"""May these sources be joined to this supply, and what passes the boards, the transfer equipment and the generator input?"""

from __future__ import annotations

from dataclasses import replace

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.loads import LoadsPlan
from gumboot.core.rulebook.common.conductors import drop_v, far_fault_current_a
from gumboot.core.rulebook.iec_family.connection import board_current_a, notification_only
from gumboot.core.rulebook.north_american import connection as nec

BONDS_AT_BOARDS = {"main board": 1, "both boards": 2, "none": 0}


def _output(ledger: Ledger) -> Figure:
    return ledger.read(ledger.card("inverter"), "output_current_a", "I_out", "Inverter's output current", "A")


def _source_output(ledger: Ledger) -> Figure:
    """Current of every source behind the board: the battery inverter's, and that of AC-coupled PV."""
    output = _output(ledger)
    if not ledger.has("pv_inverter"):
        return output
    pv = ledger.read(ledger.card("pv_inverter"), "output_current_a", "I_pv", "PV inverter's output current", "A")
    return ledger.work(
        "circuits.sources_a", "I_src", "Sources together", output.value + pv.value, "A", "arith", "I_out + I_pv", (output, pv)
    )


def _busbar_case(ledger: Ledger) -> nec.BusbarCase:
    site = ledger.job.site
    return site.busbar_case or ("opposite ends" if site.busbar_opposite_end else "sum")


def _busbar_nec(ledger: Ledger, main: Figure, bar: Figure, output: Figure) -> tuple[Figure, Figure]:
    case = _busbar_case(ledger)
    if case == "sum of devices":
        devices = ledger.job.site.board_devices_a
        if not devices:
            ledger.gap(
                "site.board_devices_a", "survey", "Which load and source devices are on the busbar?", "The busbar rule by sum of devices"
            )
        total = ledger.work(
            "circuits.busbar_sum",
            "I_sum",
            "Every device but the main",
            nec.devices_sum_a(devices),
            "A",
            "nec.705.12",
            limits="705.12(B)(3).",
        )
        limit = ledger.work("circuits.busbar_limit", "I_lim", "What the busbar allows", bar.value, "A", "nec.705.12", "I_bus", (bar,))
        return total, limit
    total = ledger.work(
        "circuits.busbar_sum",
        "I_sum",
        "Main device and 125 % of the sources",
        nec.busbar_demand_a(main.value, output.value),
        "A",
        "nec.705.12",
        f"I_main + 1.25 * {output.symbol}",
        (main, output),
    )
    factor = 1.0 if case == "sum" else 1.2
    limit = ledger.work(
        "circuits.busbar_limit",
        "I_lim",
        "What the busbar allows",
        bar.value if case == "sum" else nec.busbar_limit_a(bar.value),
        "A",
        "nec.705.12",
        f"{factor} * I_bus",
        (bar,),
        limits="120 % only with the two feeds at opposite ends or in a centre-fed dwelling board; otherwise the plain rating.",
    )
    ledger.work(
        "circuits.busbar_main_most",
        "I_main_max",
        "Largest main device beside these sources",
        nec.largest_main_a(bar.value, output.value, case),
        "A",
        "nec.705.12",
        f"{factor} * I_bus - 1.25 * {output.symbol}",
        (bar, output),
        limits="What a main-breaker derate must reach.",
    )
    return total, limit


def _main_and_bar(ledger: Ledger) -> tuple[Figure | None, Figure | None]:
    main = ledger.asked(
        "site.service_main_a",
        "I_main",
        "Main device of the supply",
        "A",
        "survey",
        "Main device of the supply?",
        "Whether the inverter may be joined to the main board",
    )
    bar = ledger.asked(
        "site.busbar_a",
        "I_bus",
        "Busbar of the main board",
        "A",
        "survey",
        "Busbar rating of the main board?",
        "Whether the inverter may be joined to the main board",
    )
    return main, bar


def _controlled(ledger: Ledger, bar: Figure) -> None:
    setting = ledger.asked(
        "site.control_setting_a",
        "I_set",
        "Limit held by the power control",
        "A",
        "survey",
        "Which limit does the power control hold?",
        "Whether the controlled source may be joined",
    )
    if setting is not None:
        ledger.verdict(
            "GRID-CONTROLLED",
            nec.controlled_limit_a(bar.value, setting.value) >= 0,
            "main board",
            f"The power control is set to {setting.value:g} A; the busbar is rated {bar.value:g} A.",
            "Lower the setting to the busbar's rating, and lock it.",
            found=setting,
            limit=bar,
            field="site.control_setting_a",
        )


def _busbar(ledger: Ledger) -> tuple[Figure | None, Figure | None]:
    main, bar = _main_and_bar(ledger)
    if main is None or bar is None:
        return None, None
    output, connection = _source_output(ledger), ledger.job.site.connection
    if ledger.book.family == "iec":
        total = ledger.work(
            "circuits.busbar_sum",
            "I_sum",
            "Main device and sources",
            board_current_a(main.value, [output.value]),
            "A",
            "iec.712.main",
            f"I_main + {output.symbol}",
            (main, output),
        )
        limit = ledger.work("circuits.busbar_limit", "I_lim", "What the busbar carries", bar.value, "A", "iec.712.main", "I_bus", (bar,))
        ledger.verdict(
            "GRID-MAIN-SWITCH",
            total.value <= limit.value,
            "main board",
            f"Main device and sources add to {total.value:.1f} A; busbar and main switch carry {limit.value:.1f} A.",
            "Reduce the main device, or connect the inverter ahead of this board.",
            found=total,
            limit=limit,
            field="site.busbar_a",
        )
        return total, limit
    if connection == "supply side":
        most = nec.supply_side_limit_a(main.value)
        ledger.verdict(
            "GRID-SUPPLY-SIDE",
            output.value <= most,
            "main board",
            f"The sources give {output.value:.1f} A; a supply-side connection may not exceed the service's {main.value:g} A.",
            "Choose a smaller inverter or a larger service.",
            found=output,
            limit=main,
            field="site.connection",
        )
        return None, None
    if connection == "controlled":
        _controlled(ledger, bar)
        return None, None
    total, limit = _busbar_nec(ledger, main, bar, output)
    ledger.verdict(
        "BUS-120",
        total.value <= limit.value,
        "main board",
        f"Main device and inverter add to {total.value:.1f} A; the busbar allows {limit.value:.1f} A.",
        "Move the breaker to the far end, reduce the main device, or connect on the supply side.",
        found=total,
        limit=limit,
        field="site.busbar_a",
    )
    return total, limit


def _sub_board(ledger: Ledger) -> None:
    """The backed-up board between two sources: its main and the PV inverter that feeds it from the other end."""
    if not ledger.has("pv_inverter"):
        return
    board = ledger.card("sub_board")
    bar = ledger.read(board, "busbar_a", "I_bus", "Busbar of the backed-up board", "A")
    main = ledger.read(board, "main_device_a", "I_main", "Backed-up board's main device", "A")
    pv = ledger.read(ledger.card("pv_inverter"), "output_current_a", "I_pv", "PV inverter's output current", "A")
    nec_family = ledger.book.family == "nec"
    value = nec.busbar_demand_a(main.value, pv.value) if nec_family else board_current_a(main.value, [pv.value])
    total = ledger.work(
        "circuits.sub_board_sum",
        "I_sum",
        "Backed-up board's main and the PV inverter",
        value,
        "A",
        "nec.705.12" if nec_family else "iec.712.main",
        f"I_main + {'1.25 * ' if nec_family else ''}I_pv",
        (main, pv),
    )
    limit = bar
    if nec_family:
        limit = ledger.work(
            "circuits.sub_board_limit",
            "I_lim",
            "Backed-up board's busbar allows",
            1.2 * bar.value,
            "A",
            "nec.705.12",
            "1.2 * I_bus",
            (bar,),
            limits="The two sources at opposite ends of the busbar.",
        )
    ledger.verdict(
        "BUS-120" if nec_family else "GRID-MAIN-SWITCH",
        total.value <= limit.value,
        "backed-up board",
        f"Its main and the PV inverter add to {total.value:.1f} A; its busbar allows {limit.value:.1f} A.",
        "Choose a board with a larger busbar or a smaller main.",
        found=total,
        limit=limit,
        field="equipment.sub_board",
    )


def _far_fault(ledger: Ledger, plan: CircuitsPlan, fault: Figure) -> None:
    """Fault current at the far end of the grid feed, line to neutral: what its device still must see."""
    sized = plan.sized.get("grid")
    if sized is None:
        return
    volts = ledger.read(ledger.card("inverter"), "leg_v", "U_0", "Voltage to earth", "V")
    ohm = ledger.figures["circuits.grid.ohm_per_km"]
    loop_ohm = 2 * sized.length.value / 1000 * ohm.value / sized.run.sets
    ledger.work(
        "circuits.grid.fault_far_a",
        "I_kf",
        "Least fault current at the inverter's end of the grid feed",
        far_fault_current_a(volts.value, fault.value, loop_ohm),
        "A",
        "iec.43.434" if ledger.book.family == "iec" else "physics",
        f"U_0 / (U_0 / I_kg + 2 * L / 1000 * r{f' / {sized.run.sets}' if sized.run.sets > 1 else ''})",
        (volts, fault, sized.length, ohm),
        limits="Line to neutral, warm conductors, impedances added as numbers.",
    )


def _interrupting(ledger: Ledger, plan: CircuitsPlan) -> None:
    fault = ledger.asked(
        "site.grid_fault_a",
        "I_kg",
        "Prospective fault current at the main board",
        "A",
        "survey",
        "Fault current at the main board?",
        "Whether the breakers can break a grid fault",
    )
    if fault is None:
        return
    _far_fault(ledger, plan, fault)
    rating = ledger.decided("site.main_board_interrupting_a", "I_cu", "Interrupting rating of the breakers fitted", "A")
    series = ledger.job.site.series_rating
    ledger.verdict(
        "GRID-INTERRUPT",
        fault.value <= rating.value or series != "not used",
        "main board",
        f"The grid can push {fault.value:.0f} A; the breakers break {rating.value:.0f} A.",
        "Fit breakers of a higher interrupting rating.",
        found=fault,
        limit=rating,
        field="site.main_board_interrupting_a",
    )
    ledger.verdict(
        "SERIES-RATING",
        series != "unmarked",
        "main board",
        "A series rating is relied on, and no marking names this pair of devices.",
        "Fit devices that break the fault alone, or a pair that is tested and marked together.",
        found=fault,
        limit=rating,
        field="site.series_rating",
    )


def _devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    grid = plan.sized.get("grid")
    if grid and grid.device:
        most = ledger.read(ledger.card("inverter"), "grid_device_max_a", "I_gmax", "Largest device at the inverter's grid port", "A")
        ledger.verdict(
            "DEVICE-OVER-MAKER",
            grid.device.value <= most.value,
            "grid",
            f"The grid breaker is {grid.device.value:.0f} A; the inverter's grid port allows {most.value:.0f} A.",
            f"Fit {most.value:.0f} A or less.",
            found=grid.device,
            limit=most,
            field="runs.grid.device_a",
        )
    if grid and ledger.book.family == "nec" and ledger.card("inverter").role != "off-grid":
        fastened = ledger.job.site.backfed_fastened
        if fastened is None:
            ledger.gap(
                "site.backfed_fastened",
                "survey",
                "Is the inverter's breaker fastened and suitable for back-feed?",
                "Whether the breaker can be pulled off live",
            )
        ledger.verdict(
            "DEVICE-BACKFED",
            fastened is not False,
            "main board",
            "The inverter back-feeds a plug-in breaker that is not fastened or not suitable for back-feed: pulled off, its stab is live.",
            "Fit a breaker suitable for back-feed with its hold-down.",
            field="site.backfed_fastened",
        )
    if ledger.book.family == "iec":
        for cid, sized in plan.sized.items():
            if sized.device is None or sized.circuit.is_dc:
                continue
            warm = ledger.keep(constant("k_h", "Share of its rating that a breaker in a closed box carries for hours", 0.8, "", "cp.heat"))
            cool = ledger.work(
                f"circuits.{cid}.device_cool",
                "I_h",
                "What the device carries for hours in a closed box",
                warm.value * sized.device.value,
                "A",
                "cp.heat",
                "k_h * I_n",
                (warm, sized.device),
            )
            ledger.verdict(
                "DEVICE-HEAT",
                sized.demand.design_a.value <= cool.value + 1e-9,
                cid,
                f"{sized.demand.design_a.value:.1f} A for hours through a {sized.device.value:.0f} A device in a closed box: it runs hot above {cool.value:.1f} A.",
                "Fit the next rating with the conductor for it, leave a space beside it, or use the maker's derating table.",
                found=sized.demand.design_a,
                limit=cool,
                field=f"runs.{sized.run.id}.device_a",
            )


def _network_limits(ledger: Ledger) -> None:
    book, inverter, site = ledger.book, ledger.card("inverter"), ledger.job.site
    output = _source_output(ledger)
    if book.notify_a is not None:
        limit = ledger.keep(constant("I_not", "Connect-and-tell class, per phase", book.notify_a, "A", "en.50549.16"))
        ledger.verdict(
            "GRID-NOTIFY",
            notification_only(output.value, book.notify_a),
            "grid",
            f"The sources give {output.value:.1f} A per phase, above the {book.notify_a:g} A that is only notified.",
            "Ask the network operator before connecting.",
            found=output,
            limit=limit,
        )
    if book.imbalance_a is not None and site.supply == "three phase" and inverter.output == "single phase":
        limit = ledger.keep(constant("I_unb", "Difference between phases at most", book.imbalance_a, "A", book.imbalance_source))
        ledger.verdict(
            "GRID-IMBALANCE",
            output.value <= book.imbalance_a,
            "grid",
            f"A single-phase source of {output.value:.1f} A unbalances the three phases by more than {book.imbalance_a:g} A.",
            "Share the sources between phases, or choose a three-phase inverter.",
            found=output,
            limit=limit,
            source=book.imbalance_source,
        )


def _rise(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Voltage rise at full export, each segment from the source to the point of supply, and their sum."""
    parts: list[Figure] = []
    for i, cid in enumerate(("pv-ac", "through", "grid")):
        sized = plan.sized.get(cid)
        if sized is None:
            continue
        amps = _source_output(ledger) if cid == "grid" else sized.demand.design_a if cid == "pv-ac" else _output(ledger)
        ohm = ledger.figures[f"circuits.{cid}.ohm_per_km"]
        b = "3 ** 0.5" if sized.demand.flow == "three-phase" else "2"
        rise = drop_v(amps.value, sized.length.value, ohm.value / sized.run.sets, circuit=sized.demand.flow)
        over = f" / {sized.run.sets}" if sized.run.sets > 1 else ""
        parts.append(
            ledger.work(
                f"circuits.{cid}.rise_pct",
                f"dr_{i}",
                f"Voltage rise at full export, {sized.circuit.title.lower()}",
                100 * rise / sized.demand.volts.value,
                "%",
                ledger.book.rise_source,
                f"100 * {b} * L / 1000 * r{over} * {amps.symbol} / {sized.demand.volts.symbol}",
                (sized.length, ohm, amps, sized.demand.volts),
                limits="Unity power factor, warm conductor.",
            )
        )
    if not parts or "grid" not in plan.sized:
        return
    total = ledger.work(
        "circuits.rise_pct",
        "dr",
        "Voltage rise from source to supply",
        sum(f.value for f in parts),
        "%",
        ledger.book.rise_source,
        " + ".join(f.symbol for f in parts),
        tuple(parts),
    )
    limit = ledger.keep(constant("dr_max", "Voltage rise at most", ledger.book.rise_limit_pct, "%", ledger.book.rise_source))
    ledger.verdict(
        "RISE-OVER",
        total.value <= limit.value,
        "grid",
        f"The voltage rises by {total.value:.2f} % at full export; {limit.value:g} % is the most.",
        "Shorten the run, pull a larger conductor, or lower the export.",
        found=total,
        limit=limit,
        field="runs.grid.length_m",
    )


def _leg_drop(ledger: Ledger, plan: CircuitsPlan, loads: LoadsPlan) -> None:
    """Drop of the heavier leg to neutral on a split-phase feed: its own wire and the neutral's share, kept apart."""
    sized = plan.sized.get("backup")
    if sized is None or sized.demand.flow != "split-phase":
        return
    volts = ledger.read(ledger.card("inverter"), "leg_v", "V_leg", "Voltage of one leg", "V")
    heavy, light = sorted(loads.running.values(), key=lambda f: -f.value)
    heavy, light = replace_symbol(heavy, "P_heavy"), replace_symbol(light, "P_light")
    ohm = ledger.figures["circuits.backup.ohm_per_km"]
    neutral = ledger.work(
        "circuits.backup.neutral_a",
        "I_N",
        "Neutral current of the backed-up feed",
        (heavy.value - light.value) / volts.value,
        "A",
        "physics",
        "(P_heavy - P_light) / V_leg",
        (heavy, light, volts),
        limits="The difference of the legs; 240 V loads do not use the neutral.",
    )
    ledger.work(
        "circuits.backup.leg_drop_pct",
        "dv_leg",
        "Drop of the heavier leg to neutral",
        100 * sized.length.value / 1000 * ohm.value * (heavy.value / volts.value + neutral.value) / volts.value,
        "%",
        "physics",
        "100 * L / 1000 * r * (P_heavy / V_leg + I_N) / V_leg",
        (sized.length, ohm, heavy, volts, neutral),
    )


def replace_symbol(figure: Figure, symbol: str) -> Figure:
    """The same figure under another symbol, where a formula needs two of one kind."""
    return figure.renamed(symbol=symbol)


def _total_drop(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Drop from the main board to the backed-up board through every segment, against the book's limit from the origin."""
    parts = [plan.sized[cid].drop_pct.renamed(symbol=f"dv_{i}") for i, cid in enumerate(("grid", "through", "backup")) if cid in plan.sized]
    if len(parts) < 2:
        return
    total = ledger.work(
        "circuits.drop_total_pct",
        "dv_sum",
        "Drop from main board to backed-up board",
        sum(f.value for f in parts),
        "%",
        ledger.book.drop_source,
        " + ".join(f.symbol for f in parts),
        tuple(parts),
        limits="Each segment at its own design current: more than flows at once.",
    )
    limit = ledger.keep(constant("dv_all", "Drop from the origin at most", ledger.book.drop_total_pct, "%", ledger.book.drop_source))
    ledger.verdict(
        "DROP-TOTAL",
        total.value <= limit.value,
        "backup",
        f"{total.value:.2f} % is lost from the main board to the backed-up board; {limit.value:g} % is the most.",
        "Pull a larger conductor in the longest segment.",
        found=total,
        limit=limit,
        field="runs.grid.length_m",
    )


def _export(ledger: Ledger) -> None:
    """Whether what the network permits can be held: by the inverter's size, or by a limit that it can be set to."""
    permit = ledger.job.site.export_limit_w
    inverter = ledger.card("inverter")
    if permit is None:
        return
    limit = ledger.decided("site.export_limit_w", "P_exp", "Export the utility permits", "W")
    output = ledger.read(inverter, "output_w", "P_inv", "Inverter output", "W")
    settable = any(r.key == "export_w" and r.low <= permit for r in inverter.settings)
    ledger.verdict(
        "GRID-EXPORT",
        output.value <= limit.value or settable,
        "grid",
        f"The inverter can export {output.value:.0f} W; {limit.value:.0f} W are permitted, and its card names no export limit to set.",
        "Choose an inverter that holds an export limit, or ask for a larger permit.",
        found=output,
        limit=limit,
        field="site.export_limit_w",
    )


def _generator(ledger: Ledger, loads: LoadsPlan) -> None:
    if not ledger.has("generator"):
        return
    card, inverter = ledger.card("generator"), ledger.card("inverter")
    watts = ledger.read(card, "power_w", "P_gen", "Generator power", "W")
    amps = ledger.decided("settings.grid_charge_a", "I_gc", "Charge current from grid or generator", "A")
    top = bank_volts(ledger, "v_max")
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    need = ledger.work(
        "circuits.generator_need",
        "P_need",
        "Backed-up loads and charger together",
        loads.running_total.value + amps.value * top.value / eta.value,
        "W",
        "cp.generator",
        "P_run + I_gc * V_max / eta",
        (loads.running_total, amps, top, eta),
        limits="At the site's altitude and heat a generator gives less: use its derated power.",
    )
    ledger.verdict(
        "GEN-SMALL",
        watts.value >= need.value,
        "generator",
        f"Loads and charger ask {need.value:.0f} W; the generator gives {watts.value:.0f} W.",
        "Charge more slowly, back up less while it runs, or choose a larger generator.",
        found=need,
        limit=watts,
        field="settings.grid_charge_a",
    )
    device = ledger.read(card, "device_a", "I_g", "Generator's own device", "A")
    own = card.neutral_bonded
    bonds = own + (inverter.neutral_bond == "fixed in gateway") + BONDS_AT_BOARDS[ledger.job.site.neutral_bond]
    ledger.verdict(
        "BOND-GENERATOR",
        bonds == 1,
        "generator",
        f"{bonds} neutral-earth bonds while the generator feeds: {'its own' if own else 'none of its own'}, and what stands in the boards.",
        "Take the generator's own bond out, or keep the only one there.",
        field="site.neutral_bond",
    )
    most = ledger.read(inverter, "generator_input_a", "I_gi", "Largest device at the generator input", "A")
    ledger.verdict(
        "GEN-INPUT",
        device.value <= most.value,
        "generator",
        f"The generator's device is {device.value:g} A; the input bears {most.value:g} A.",
        "Fit a smaller device in the generator feed.",
        found=device,
        limit=most,
        field="equipment.generator",
    )


def _transfer(ledger: Ledger, plan: CircuitsPlan) -> None:
    if not ledger.has("transfer"):
        return
    rated = ledger.read(ledger.card("transfer"), "rated_a", "I_tr", "Rating of the transfer equipment", "A")
    through = [plan.sized[c].demand.design_a for c in ("grid", "through", "backup") if c in plan.sized]
    most = max(through, key=lambda f: f.value, default=None)
    if most is not None:
        ledger.verdict(
            "TRANSFER-CAPACITY",
            most.value <= rated.value,
            "transfer",
            f"{most.value:.1f} A pass through the transfer equipment; it is rated {rated.value:g} A.",
            "Choose larger transfer equipment or back up less.",
            found=most,
            limit=rated,
            field="equipment.transfer",
        )


def _behind(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every bar and transfer switch against the device ahead of it."""
    backup, grid = plan.sized.get("backup"), plan.sized.get("grid")
    rows: list[tuple[str, str, Figure, Figure | None]] = []
    if ledger.has("sub_board"):
        board = ledger.card("sub_board")
        bar = ledger.read(board, "busbar_a", "I_bar", "Bar of the backed-up board", "A")
        own = ledger.read(board, "main_device_a", "I_bm", "Backed-up board's main device", "A") if board.main_device_a is not None else None
        ahead = [f for f in (own, backup.device if backup else None) if f is not None]
        rows.append(("backed-up board", "equipment.sub_board", bar, min(ahead, key=lambda f: f.value, default=None)))
    if ledger.has("transfer"):
        rated = ledger.read(ledger.card("transfer"), "rated_a", "I_tr", "Rating of the transfer equipment", "A")
        rows.append(("transfer", "equipment.transfer", rated, grid.device if grid else None))
    if ledger.job.site.supply != "none" and ledger.job.site.busbar_a is not None and ledger.job.site.service_main_a is not None:
        main = ledger.decided("site.service_main_a", "I_main", "Main device of the supply", "A")
        rows.append(("main board", "site.busbar_a", ledger.decided("site.busbar_a", "I_bus", "Busbar of the main board", "A"), main))
    for where, field, bar, device in rows:
        if device is not None:
            ledger.verdict(
                "BUS-DEVICE",
                device.value <= bar.value + 1e-9,
                where,
                f"{where.capitalize()}: rated {bar.value:g} A, behind a device of {device.value:g} A.",
                "Choose a larger bar or switch, or a smaller device ahead of it.",
                found=device,
                limit=bar,
                field=field,
            )


def _sources_apart(ledger: Ledger) -> None:
    inverter, job = ledger.card("inverter"), ledger.job
    ledger.verdict(
        "GRID-NO-INTERLOCK",
        job.backup.bypass != "breaker without interlock",
        "backed-up board",
        "A bypass breaker can close the grid onto the board that the inverter feeds: two sources meet out of step and the inverter is destroyed.",
        "Take the bypass out, or fit an interlock or transfer switch.",
        field="backup.bypass",
    )
    off_grid, at_boards = job.site.supply == "none", BONDS_AT_BOARDS[job.site.neutral_bond]
    with_grid = at_boards + (inverter.neutral_bond == "fixed in gateway")
    ledger.verdict(
        "BOND-GRID",
        off_grid or with_grid == 1,
        "neutral",
        f"{with_grid} neutral-earth bonds while the grid is present.",
        "Keep exactly one: at the main board, or fixed in the gateway and then at no board.",
        field="site.neutral_bond",
    )
    opens = ledger.card("transfer").neutral_switched if ledger.has("transfer") else inverter.island_opens_neutral
    # A neutral that is not opened keeps the main board's bond on the backed-up side through an outage.
    lost = job.site.neutral_bond != "none" and opens is True and not off_grid
    known = off_grid or opens is not None
    island = at_boards - lost + (inverter.neutral_bond != "none")
    ledger.verdict(
        "BOND-ISLAND",
        known and island == 1,
        "neutral",
        f"The card of {inverter.title} does not say whether it opens the neutral in an outage: the bonds cannot be counted."
        if not known
        else f"{island} neutral-earth bonds on the backed-up side in an outage: "
        + (f"the neutral {'is opened' if opens else 'stays joined'} to the grid's, " if not off_grid else "")
        + {
            "relay": "and the inverter bonds by a relay.",
            "fixed in gateway": "and the gateway holds a fixed bond.",
            "none": "and the inverter makes none.",
        }[inverter.neutral_bond],
        "Exactly one: the main board's where the neutral stays joined; else the inverter's relay or a fixed bond, never both.",
        field="site.neutral_bond",
    )


def _supply_kind(ledger: Ledger) -> None:
    """Whether the network brings the live conductors that the inverter's grid terminals ask for."""
    inverter, supply = ledger.card("inverter"), ledger.job.site.supply
    ledger.verdict(
        "GRID-SUPPLY",
        supply == inverter.output or (inverter.output, supply) == ("single phase", "three phase"),
        "inverter",
        f"{inverter.title} is made for {inverter.output}; the network brings {supply}.",
        "Correct the survey's answer, or choose an inverter for this supply.",
        field="site.supply",
    )


def plan_connection(ledger: Ledger, plan: CircuitsPlan, loads: LoadsPlan) -> CircuitsPlan:
    """Check what joins this system to the grid, to a generator and to its boards."""
    _devices(ledger, plan)
    _sources_apart(ledger)
    _behind(ledger, plan)
    _sub_board(ledger)
    _generator(ledger, loads)
    _transfer(ledger, plan)
    _leg_drop(ledger, plan, loads)
    _total_drop(ledger, plan)
    if ledger.job.site.supply == "none":
        return plan
    _supply_kind(ledger)
    _interrupting(ledger, plan)
    if ledger.card("inverter").role == "off-grid":
        # It takes from the grid and gives nothing back: a load like any other.
        return plan
    total, limit = _busbar(ledger)
    _network_limits(ledger)
    _export(ledger)
    _rise(ledger, plan)
    return replace(plan, busbar_sum=total, busbar_limit=limit)
