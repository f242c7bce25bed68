"""Pictures and codes in the hand: made small, without their place, kept without signal, sent after the records; a plate is read by its code."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from io import BytesIO
from pathlib import Path

from PIL import Image, ImageDraw

from gumboot.core.acts import Kind
from tests.browser.conftest import Walker
from tests.browser.hand import stored, until
from tests.browser.test_phone import first_open, rows_of, taken_along
from tests.browser.test_plan_leg import copied

Walk = Callable[..., Walker]
HOUSE = "k10-bungalow"
# Wide (1) and narrow (0) of five bars and the four spaces between: Code 39, ISO/IEC 16388 Table 1.
CODE_39 = {
    "B": "001001001", "N": "000010011", "-": "010000101", "0": "000110100", "1": "100100001", "2": "001100001",
    "4": "000110001", "7": "000100101", "*": "010010100",
}  # fmt: skip


def plate(text: str, path: Path) -> Path:
    """A plate with a bar code, drawn by the table alone."""
    picture = Image.new("L", (1400, 300), 255)
    pen, x = ImageDraw.Draw(picture), 80
    for letter in f"*{text}*":
        for n, wide in enumerate(CODE_39[letter]):
            width = 12 if wide == "1" else 4
            if n % 2 == 0:
                pen.rectangle((x, 60, x + width - 1, 240), fill=0)
            x += width
        x += 4
    picture.save(path)
    return path


def photo(path: Path) -> Path:
    """A picture as a phone takes it: large, lying on its side, with the place in it."""
    told = Image.Exif()
    told[0x8825] = {1: "N", 2: (48.0, 12.0, 0.0)}
    told[0x0112] = 6
    Image.effect_noise((3000, 2000), 60).convert("RGB").save(path, "JPEG", exif=told)
    return path


def test_a_picture_is_made_small_without_its_place_and_leaves_after_the_records(walk: Walk, tmp_path: Path) -> None:
    hand = taken_along(walk, copied(walk, "Pictures", like=HOUSE).job)
    act = first_open(hand, Kind.FIND, Kind.INSIDE)
    hand.signal(False)
    hand.go(act.id)
    hand.page.get_by_role("button", name="Take photo").click()
    # No camera here: said in words, and a picture that was taken otherwise is as good.
    hand.page.wait_for_selector("text=No camera is open here.")
    hand.page.set_input_files(".hand-file input", photo(tmp_path / "lug.jpg"))
    until(hand.page, 1)
    hand.page.wait_for_selector(".hand-photos img")
    hand.told()
    hand.answer_by("main", act.id)
    until(hand.page, 2)
    closed = stored(hand.page, "blobs")
    assert [set(row["keys"]) for row in closed] == [{"id", "blob"}]
    hand.sync()
    mine = [row for row in sorted(rows_of(hand.w), key=lambda row: row["received_at"]) if row["act"] == act.id]
    assert [row["kind"] for row in mine] == ["answer", "photo"]
    kept = hand.page.request.get(f"{hand.w.server}/jobs/{hand.w.job}/photos/{mine[1]['photo']}", max_retries=3).body()
    assert hashlib.sha256(kept).hexdigest() == mine[1]["photo"]
    with Image.open(BytesIO(kept)) as shown:
        assert not dict(shown.getexif())
        # Upright, and no longer than a mark on a lug needs it.
        assert (max(shown.size), shown.width < shown.height) == (1600, True)
    assert stored(hand.page, "blobs") == []


def test_a_serial_number_is_read_off_its_plate_without_signal(walk: Walk, tmp_path: Path) -> None:
    hand = taken_along(walk, copied(walk, "Plates", like=HOUSE).job)
    hand.signal(False)
    hand.page.evaluate("() => { location.hash = '#serial:inverter' }")
    hand.page.get_by_role("button", name="Scan it").click()
    hand.page.set_input_files(".hand-file input", photo(tmp_path / "noise.jpg"))
    hand.page.wait_for_selector("text=No code was found in that picture")
    hand.page.set_input_files(".hand-file input", plate("B4-107", tmp_path / "plate.png"))
    hand.page.wait_for_function("() => document.getElementById('text').value === 'B4-107'")


def test_what_is_no_picture_is_told_and_keeps_nothing(walk: Walk, tmp_path: Path) -> None:
    hand = taken_along(walk, HOUSE)
    act = first_open(hand, Kind.FIND, Kind.INSIDE)
    hand.go(act.id)
    hand.page.get_by_role("button", name="Take photo").click()
    (tmp_path / "none.jpg").write_bytes(b"no picture")
    hand.page.set_input_files(".hand-file input", tmp_path / "none.jpg")
    hand.page.wait_for_selector("text=That is no picture that can be read here")
    until(hand.page, 0)


# A camera that sees one picture, has a light, and can be asked whether it still looks.
CAMERA = """async (bytes) => {
  const seen = await createImageBitmap(new Blob([new Uint8Array(bytes)]));
  const canvas = document.createElement('canvas');
  canvas.width = 1280; canvas.height = 720;
  const pen = canvas.getContext('2d');
  const draw = () => { pen.fillStyle = 'white'; pen.fillRect(0, 0, 1280, 720); pen.drawImage(seen, 40, 240, 1200, 1200 * seen.height / seen.width); };
  draw();
  setInterval(draw, 50);
  window.glasses = [];
  navigator.mediaDevices.getUserMedia = async () => {
    const stream = canvas.captureStream(20);
    const [track] = stream.getVideoTracks();
    track.getCapabilities = () => ({ torch: true });
    track.applyConstraints = async (asked) => { window.torch = asked.advanced[0].torch; };
    window.glasses.push(track);
    return stream;
  };
}"""


def test_a_camera_reads_a_code_by_itself_has_a_light_and_is_dark_however_it_is_left(walk: Walk, tmp_path: Path) -> None:
    hand = taken_along(walk, copied(walk, "Glass", like=HOUSE).job)
    page = hand.page
    page.evaluate(CAMERA, list(plate("B4-107", tmp_path / "plate.png").read_bytes()))
    act = first_open(hand, Kind.FIND, Kind.INSIDE)
    hand.signal(False)

    def dark() -> bool:
        return bool(page.evaluate("() => window.glasses.length > 0 && window.glasses.every((track) => track.readyState === 'ended')"))

    page.evaluate("() => { location.hash = '#serial:inverter' }")
    page.get_by_role("button", name="Scan it").click()
    page.wait_for_function("() => document.getElementById('text').value === 'B4-107'")
    assert dark()
    # Its light, and what it sees as a picture of an act.
    hand.go(act.id)
    page.get_by_role("button", name="Take photo").click()
    page.get_by_role("button", name="Light").click()
    assert page.evaluate("() => window.torch") is True
    page.get_by_role("button", name="Take it", exact=True).click()
    until(page, 1)
    page.wait_for_selector(".hand-photos img")
    assert dark()
    # Left by the header, and by the phone's own key.
    for leave in (page.locator(".hand-where").click, page.go_back):
        hand.go(act.id)
        hand.told()
        page.get_by_role("button", name="Take photo").click()
        page.wait_for_selector(".hand-glass video", state="visible")
        assert not dark()
        leave()
        page.wait_for_function("() => document.body.dataset.screen !== 'camera'")
        assert dark()


def test_a_lug_s_mark_of_yesterday_stands_beside_what_is_seen_today(walk: Walk, tmp_path: Path) -> None:
    hand = taken_along(walk, copied(walk, "Mark", like="d1-saltmarsh").job)
    lug = "inverter.battery.pos.bat-main"
    hand.go(f"torque:{lug}")
    hand.page.get_by_role("button", name="Take photo").click()
    hand.page.set_input_files(".hand-file input", photo(tmp_path / "mark.jpg"))
    until(hand.page, 0)
    hand.page.wait_for_selector(".hand-photos img")
    # It is in the bag: the day after there may be no signal.
    hand.open("outbox")
    hand.page.wait_for_function("() => document.body.dataset.screen === 'outbox'")
    for _ in range(60):
        if [row for row in stored(hand.page, "bags") if row.get("kind") == "photo"]:
            break
        hand.page.wait_for_timeout(100)
    hand.signal(False)
    hand.go(f"recheck:{lug}")
    hand.page.get_by_role("button", name="Take photo").click()
    hand.page.wait_for_function("() => document.querySelector('.hand-before').naturalWidth > 0")
    assert hand.page.is_visible(".hand-before")
