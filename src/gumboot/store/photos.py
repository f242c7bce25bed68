"""Pictures of the work, kept by the hash of their content."""

from __future__ import annotations

import hashlib
from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError
from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.store.models import PhotoRow

MOST_BYTES = 8_000_000
# A phone's picture has 12 to 50 million points; more is no picture of the work, and takes the memory of many.
MOST_POINTS = 60_000_000
# As large as a mark on a lug needs it; phones shrink theirs to this before they send them.
LONGEST_SIDE, QUALITY = 1600, 85
# What a page prints of it, three beside each other.
PRINTED_SIDE, PRINTED_QUALITY = 640, 75
# What a picture begins with, and what it is then.
KINDS = ((b"\xff\xd8\xff", "image/jpeg"), (b"\x89PNG\r\n\x1a\n", "image/png"))


class BadPhoto(Exception):
    """It is no picture that is kept; the text says why and what to do."""


def kind_of(content: bytes) -> str:
    """The kind of a picture by its first bytes. Raises BadPhoto."""
    if len(content) > MOST_BYTES:
        raise BadPhoto(f"The picture is larger than {MOST_BYTES // 1_000_000} MB: take it in a smaller size.")
    for begins, kind in KINDS:
        if content.startswith(begins):
            return kind
    raise BadPhoto("That is no JPEG or PNG picture." if content else "Choose a picture.")


def cleaned(content: bytes) -> tuple[str, bytes]:
    """Kind and content of a picture without what tells where it was taken, no larger than needed. Raises BadPhoto.

    One that carries nothing beside its points and is small enough is kept as it is, to the byte: its hash is then that of who took it.
    """
    kind = kind_of(content)
    try:
        with Image.open(BytesIO(content)) as picture:
            if picture.width * picture.height > MOST_POINTS:
                raise BadPhoto(f"The picture has more than {MOST_POINTS // 1_000_000} million points: take it in a smaller size.")
            picture.load()
            told = (
                dict(picture.getexif())
                or {"exif", "xmp", "XML:com.adobe.xmp", "comment"} & set(picture.info)
                or getattr(picture, "text", {})
            )
            if not told and max(picture.size) <= LONGEST_SIDE:
                return kind, content
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except BadPhoto:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise BadPhoto("The picture cannot be read: it is cut short or none. Take it again.") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    written = BytesIO()
    # Points only: neither place nor camera nor the thumbnail that a camera hides in its notes.
    Image.frombytes("RGB", upright.size, upright.tobytes()).save(written, "JPEG", quality=QUALITY)
    return "image/jpeg", written.getvalue()


def small(content: bytes) -> bytes:
    """A kept picture for print, as a small JPEG."""
    with Image.open(BytesIO(content)) as picture:
        shown = picture.convert("RGB")
    shown.thumbnail((PRINTED_SIDE, PRINTED_SIDE))
    written = BytesIO()
    shown.save(written, "JPEG", quality=PRINTED_QUALITY)
    return written.getvalue()


def keep(db: Session, job_id: str, content: bytes) -> str:
    """Keep a picture of a house, once however often it is sent. Gives its hash. Raises BadPhoto."""
    kind, content = cleaned(content)
    name = hashlib.sha256(content).hexdigest()
    row = {"job_id": job_id, "hash": name, "kind": kind, "content": content}
    db.execute(insert(PhotoRow).values(**row).on_conflict_do_nothing(index_elements=["job_id", "hash"]))
    return name


def photo(db: Session, job_id: str, name: str) -> tuple[str, bytes] | None:
    """Kind and content of a picture of a house; None where there is none of that hash."""
    row = db.execute(select(PhotoRow.kind, PhotoRow.content).where(PhotoRow.job_id == job_id, PhotoRow.hash == name)).first()
    return (row.kind, row.content) if row else None
