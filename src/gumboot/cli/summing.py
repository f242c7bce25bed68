"""``./gumboot sum``: one question on the command line."""

from __future__ import annotations

import argparse
import json

from gumboot.cli.trouble import Trouble
from gumboot.core.errors import GumbootError
from gumboot.core.rulebook.loader import source
from gumboot.core.sums import SUMS, ask_sum
from gumboot.core.sums.ask import Answer
from gumboot.drawing.show import figure_text, pretty, substituted
from gumboot.web.asking import answer_json, read_question


def _list() -> int:
    for entry in SUMS.values():
        print(f"{entry.name:20}{entry.question}")
        for name, info in entry.asks.model_fields.items():
            extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
            needed = "" if info.is_required() else "  (may be left out)"
            print(f"    {name:24}{info.title} {('in ' + str(extra['unit'])) if extra.get('unit') else ''}{needed}")
    return 0


def _print(answer: Answer) -> None:
    print(f"{answer.figure.name}: {figure_text(answer.figure)}")
    for line in answer.lines:
        print(f"  {line}")
    for figure in answer.figures:
        if figure.is_input:
            continue
        shown = (
            f"  {figure.symbol} = {pretty(figure.formula)} = {pretty(substituted(figure))} = "
            if figure.formula
            else f"  {figure.symbol} = "
        )
        print(f"{shown}{figure_text(figure)}   {figure.name}; {source(figure.source).citation}")
    for finding in answer.findings:
        print(f"  {finding.level}: {finding.code} {finding.text} {finding.act}")
    print("To be checked by a licensed person against the local code and the makers' manuals, which win.")


def run(args: argparse.Namespace) -> int:
    """List the sums, or work one out; exit 1 when a rule says stop. Raises Trouble with the field and the remedy."""
    if args.name is None:
        return _list()
    if args.name not in SUMS:
        raise Trouble(f"There is no quick sum '{args.name}'. Remedy: ./gumboot sum lists them.")
    raw: dict[str, str] = {}
    for part in args.given:
        key, equals, value = part.partition("=")
        if not equals:
            raise Trouble(f"'{part}' is not key=value. Remedy: write for example current='45 A'.")
        raw[key.strip()] = value
    try:
        entry = SUMS[args.name]
        answer = ask_sum(args.name, read_question(entry, raw))
    except GumbootError as refused:
        raise Trouble(f"{refused} Remedy: ./gumboot sum lists what each sum asks for.") from None
    if args.json:
        print(json.dumps(answer_json(entry, answer), indent=1, ensure_ascii=False))
    else:
        _print(answer)
    return 1 if any(f.level == "stop" for f in answer.findings) else 0
