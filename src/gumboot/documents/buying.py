"""Cut list and material list as CSV and XLSX."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from openpyxl import Workbook as Book
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from gumboot.core.study.materials import Materials
from gumboot.core.study.van import Van
from gumboot.core.units import feet_from_m

CUT_HEAD = ("run", "title", "core", "colour", "size", "material", "insulation", "wire_class", "pieces", "length_m", "length_ft")
ITEM_HEAD = ("group", "item", "quantity", "unit", "where")


def safe(text: str) -> str:
    """Text that no spreadsheet reads as a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


VAN_HEAD = ("group", "item", "for", "missing")
LEAD_HEAD = ("lead", "from", "to", "cable", "length_m", "core", "signal", "pin_from", "pin_to")


def van_csv(found: Van) -> str:
    """What comes along: tools, meters, what lifts; then the leads to make, core by core."""
    rows = [(row.group, safe(row.item), safe(row.use), row.missing) for row in found.rows]
    return _csv(VAN_HEAD, rows)


def leads_csv(found: Van) -> str:
    """The leads to make at the bench, a row for each core."""
    return _csv(
        LEAD_HEAD,
        [
            (
                safe(lead.title),
                safe(lead.ends[0].title),
                safe(lead.ends[1].title),
                lead.cable,
                round(lead.length.value, 2) if lead.length is not None else "",
                wire.colour,
                safe(wire.signal),
                wire.first,
                wire.second,
            )
            for lead in found.leads
            for wire in lead.wires
        ],
    )


def cut_rows(found: Materials) -> list[Sequence[str | float]]:
    """The cut list as rows, lengths in m and ft."""
    return [
        (
            safe(c.circuit),
            safe(c.title),
            c.role,
            c.colour,
            c.size,
            c.material,
            c.insulation,
            c.wire_class,
            c.count,
            round(c.length.value, 2),
            round(feet_from_m(c.length.value), 1),
        )
        for c in found.cuts
    ]


def item_rows(found: Materials) -> list[Sequence[str | float]]:
    """The material list as rows."""
    return [(i.group, safe(i.item), i.quantity, i.unit, safe(i.where)) for i in found.items]


def _csv(head: Sequence[str], rows: Sequence[Sequence[str | float]]) -> str:
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(head)
    write.writerows([f"{v:g}" if isinstance(v, float) else v for v in row] for row in rows)
    return out.getvalue()


def cut_list_csv(found: Materials) -> str:
    """The cut list as CSV."""
    return _csv(CUT_HEAD, cut_rows(found))


def materials_csv(found: Materials) -> str:
    """The material list as CSV."""
    return _csv(ITEM_HEAD, item_rows(found))


def materials_xlsx(found: Materials, title: str) -> bytes:
    """Both lists as a workbook of two sheets."""
    book = Book()
    first = book.active
    assert first is not None  # noqa: S101 - a new workbook has a sheet
    for sheet, name, head, rows in (
        (first, "Material", ITEM_HEAD, item_rows(found)),
        (book.create_sheet(), "Cut list", CUT_HEAD, cut_rows(found)),
    ):
        sheet.title = name
        sheet.append([title])
        sheet.append(list(head))
        for row in rows:
            sheet.append(list(row))
        for cell in (*sheet[1], *sheet[2]):
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A3"
        for k in range(len(head)):
            width = max([len(str(head[k])), *(len(str(row[k])) for row in rows)], default=8)
            sheet.column_dimensions[get_column_letter(k + 1)].width = min(60, width + 2)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
