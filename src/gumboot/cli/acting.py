"""``acts``: every act of one house in the order of the work, with its gates, as text and as a drawing."""

from __future__ import annotations

import argparse
from pathlib import Path

from gumboot.cli.checking import plan_of
from gumboot.cli.trouble import Trouble
from gumboot.core.acts import Act, Acts, acts
from gumboot.drawing.acts import gates_drawing


def _band(act: Act) -> str:
    band = act.band
    if band.low is not None and band.high is not None:
        return f"{band.low.value:.4g} to {band.high.value:.4g} {band.unit}"
    if band.low is not None or band.high is not None:
        return (
            f"at least {band.low.value:.4g} {band.unit}"
            if band.low is not None
            else f"at most {band.high.value:.4g} {band.unit}"
            if band.high
            else ""
        )
    if band.expected is not None:
        return f"{band.expected.value:.4g} {band.unit}"
    return band.words or " or ".join(band.choices)


def why(of: Acts, act: Act) -> list[str]:
    """One act in full: what it must show, who does it, until when it is true, and everything before it."""
    rows = [f"{act.id}  {act.title}", f"  station   {act.station}", f"  guards    {act.guards}", f"  by        {' or '.join(act.who)}"]
    rows += [f"  prepare   {act.prepare}"] if act.prepare else []
    rows += [f"  see       {act.see}"] if act.see else []
    rows += [f"  band      {band}"] if (band := _band(act)) else []
    rows += [f"  lasts     {lasts}"] if (lasts := act.lasts.words) else []
    if act.makes_safe:
        return [*rows, "  gate      none: it makes safe"]
    direct = {*act.needs, *act.heeds}
    before = of.before(act.id)
    rows.append(f"  gate      {len(direct)} acts, {len(before)} with what comes before them" if direct else "  gate      none")
    for other in before:
        mark = "heeds" if other.id in act.heeds and other.id not in act.needs else "needs" if other.id in direct else ""
        rows.append(f"    {mark:6}{other.id}  {other.title}")
    return rows


def listed(of: Acts) -> list[str]:
    """Every act, station by station, with what it needs at once."""
    rows, station = [], ""
    for act in of.values():
        if act.station != station:
            station = act.station
            rows.append(station)
        few = act.needs[:3]
        more = f" and {len(act.needs) - 3} more" if len(act.needs) > 3 else ""
        rows.append(f"  {act.id}  {act.title}" + (f"  [after {', '.join(few)}{more}]" if few else ""))
    return rows


def run(args: argparse.Namespace) -> int:
    """Print the acts, or why one of them waits; with ``--svg`` write the drawing as well."""
    plan = plan_of(Path(args.file))
    of = acts(plan)
    if args.svg:
        try:
            Path(args.svg).write_text(gates_drawing(of, plan.job.title).file(), encoding="utf-8")
        except OSError as failure:
            raise Trouble(f"{args.svg} cannot be written: {failure.strerror}. Remedy: name a file in a folder you own.") from None
    if not args.why:
        print("\n".join(listed(of)))
        return 0
    act = of.get(args.why)
    if act is None:
        near = [i for i in of if args.why.split(":")[-1] in i][:5]
        raise Trouble(f"{args.why} is no act of this house. Remedy: name one of {', '.join(near) or 'those that ./gumboot acts lists'}.")
    print("\n".join(why(of, act)))
    return 0
