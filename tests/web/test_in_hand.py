"""Several people: who has which box in hand, and what is next for the others."""

from __future__ import annotations

from sqlalchemy import Engine, text

from tests.web.conftest import Crew
from tests.web.test_records import GOOD, fill


def test_a_box_in_hand_is_shown_kept_from_others_and_skipped_by_them(engine: Engine, ivo: Crew, lena: Crew) -> None:
    lena.job = ivo.job
    assert "Next: Plover 6S hybrid inverter unpacked" in lena.get("wire")
    fill(engine, ivo, "rest", "measurement", hours=1)
    assert "Next: inverter" in lena.get("wire")
    assert "in your hands" in ivo.post("in-hand/inverter").text
    page = lena.get("wire")
    assert "in the hands of Ivo Installer" in page
    assert "Next: inverter" not in page
    assert "Next: inverter" in ivo.get("wire")
    refused = lena.post("in-hand/inverter")
    assert refused.status_code == 409
    assert "Ivo Installer has it in hand" in refused.text
    # Another may record there all the same: two people at one box is for them to say.
    answer = lena.post("records/torque/switch-fuse.line.pos.bat-main", fragment=False, **GOOD)
    assert "/wire/inverter" not in str(answer.url)
    assert lena.post("in-hand/inverter/leave").status_code == 200
    assert "in the hands of Ivo" in lena.get("wire")
    ivo.post("in-hand/inverter/leave")
    assert "in your hands" in lena.post("in-hand/inverter").text


def test_a_hand_lapses_an_hour_after_its_last_sign(engine: Engine, ivo: Crew, lena: Crew) -> None:
    lena.job = ivo.job
    ivo.post("in-hand/inverter")

    def hours_ago(hours: float) -> None:
        with engine.begin() as connection:
            connection.execute(
                text("update holdings set at = now() - make_interval(secs => :s) where job_id = :j"), {"s": hours * 3600, "j": ivo.job}
            )

    hours_ago(0.99)
    assert lena.post("in-hand/inverter").status_code == 409
    ivo.post("records/torque/inverter.battery.pos.bat-main", **GOOD)
    hours_ago(1.01)
    assert "in the hands of" not in lena.get("wire")
    assert lena.post("in-hand/inverter").status_code == 200


def test_who_records_nothing_takes_nothing(ivo: Crew, petra: Crew) -> None:
    petra.job = ivo.job
    assert petra.post("in-hand/inverter").status_code == 403
    assert ivo.post("in-hand/nothing").status_code == 404
