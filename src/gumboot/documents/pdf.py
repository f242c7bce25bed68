"""Turns the pack into PDF. Apart from the rest because its library takes seconds to load: imported when first asked for."""

from __future__ import annotations

from collections.abc import Sequence

from PIL import ImageFile
from weasyprint import HTML, URLFetcher  # type: ignore[import-untyped]

from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord
from gumboot.core.standing import Standing
from gumboot.core.study.label_prints import Medium, Print
from gumboot.core.study.van import Torqued
from gumboot.documents.labels import labels_html
from gumboot.documents.pack import FONTS, Pictures, pack_html, sheet_html, torques_html, van_html
from gumboot.documents.template import Template, template_html
from gumboot.drawing.svg import Canvas

# The library that prints lets pictures be cut short, for the whole process: what is kept of the work is whole, or is refused.
ImageFile.LOAD_TRUNCATED_IMAGES = False


class OwnFilesOnly(URLFetcher):  # type: ignore[misc]
    """Fetches nothing but the shipped fonts and the pictures that the pack carries itself: no address ever leaves the machine."""

    def __init__(self) -> None:
        super().__init__(allowed_protocols=("file", "data"))

    def fetch(self, url: str, headers: dict[str, str] | None = None):  # type: ignore[no-untyped-def]
        """Fetch one of our fonts or a picture of the work; refuse all else."""
        if not url.startswith((FONTS.as_uri() + "/", "data:image/jpeg;base64,")):
            raise ValueError("the pack holds no foreign files")
        return super().fetch(url, headers)


def pack_pdf(
    plan: Plan, standing: Standing, records: Sequence[AnyRecord], revision: int, head: str = "", *, pictures: Pictures | None = None
) -> bytes:
    """The pack as PDF bytes."""
    html = pack_html(plan, standing, records, revision, head, pictures=pictures)
    return bytes(HTML(string=html, url_fetcher=OwnFilesOnly()).write_pdf())


def torques_pdf(torques: Sequence[Torqued], title: str) -> bytes:
    """The paper card of all torques."""
    return bytes(HTML(string=torques_html(torques, title), url_fetcher=OwnFilesOnly()).write_pdf())


def van_pdf(plan: Plan, today: str, title: str) -> bytes:
    """The van list on paper."""
    return bytes(HTML(string=van_html(plan, today, title), url_fetcher=OwnFilesOnly()).write_pdf())


def labels_pdf(prints: Sequence[Print], medium: Medium, title: str) -> bytes:
    """Labels at true size on a tape or on sheets."""
    return bytes(HTML(string=labels_html(prints, medium, title, FONTS.as_uri()), url_fetcher=OwnFilesOnly()).write_pdf())


def template_pdf(template: Template, system: str) -> bytes:
    """A drill template at true size, on as many sheets as it takes."""
    return bytes(HTML(string=template_html(template, system, FONTS.as_uri()), url_fetcher=OwnFilesOnly()).write_pdf())


def sheet_pdf(canvas: Canvas, title: str, foot: str) -> bytes:
    """One drawing on an A3 sheet, landscape, as large as it goes."""
    return bytes(HTML(string=sheet_html(canvas, title, foot), url_fetcher=OwnFilesOnly()).write_pdf())
