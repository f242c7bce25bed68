"""The command line without a server; the cluster when things go wrong."""

from __future__ import annotations

import io
import json
import os
import re
import shutil
import signal
import socket
import ssl
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from gumboot.catalogue import HERE
from gumboot.cli import cluster as clusters
from gumboot.cli.checkout import CHECKOUT
from gumboot.cli.cluster import APP, OWNER, Cluster, port_free
from gumboot.cli.main import main, run
from gumboot.cli.serving import Listening, listening, wanted_port
from gumboot.cli.trouble import Trouble
from gumboot.core.plan.steps import STEPS
from gumboot.documents.rule_reference import rule_reference
from tests.helpers import BAD, GOOD

HOUSES = HERE / "houses"


def test_check_passes_the_good_house(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["check", str(HOUSES / f"{GOOD}.gumboot.json")]) == 0
    assert "0 stops" in capsys.readouterr().out


def test_check_stops_at_the_mistaken_house(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["check", str(HOUSES / f"{BAD}.gumboot.json"), "--json"]) == 1
    report = json.loads(capsys.readouterr().out)
    assert report["stops"] == 10
    assert report["figures"]["strings.PV1.cold_v"]["given"]["n"] == "in.strings.S1.modules"


def test_check_plans_with_the_cards_that_a_file_carries(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = (HOUSES / f"{GOOD}.gumboot.json").read_text().replace('"cobble-5"', '"nobodys-5"')
    path = tmp_path / "a.gumboot.json"
    path.write_text(text)
    with pytest.raises(Trouble, match="nobodys-5"):
        run(["check", str(path)])
    card = {**json.loads((HERE / "cards" / "cobble-5.json").read_text()), "id": "nobodys-5"}
    path.write_text(json.dumps({**json.loads(text), "carries": [card]}))
    assert run(["check", str(path)]) == 0
    assert "0 stops" in capsys.readouterr().out


def test_a_check_wakes_neither_database_nor_server() -> None:
    """It begins in well under two seconds on a slow machine because of what it leaves asleep."""
    said = "import gumboot.cli.checking, sys; print({'sqlalchemy', 'fastapi', 'numpy', 'scipy', 'pvlib'} & set(sys.modules))"
    found = subprocess.run(
        [sys.executable, "-c", said], capture_output=True, text=True, check=True, env={"PYTHONPATH": str(CHECKOUT / "src")}
    )
    assert found.stdout == "set()\n"


def test_acts_are_told_and_drawn(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    house = str(HOUSES / f"{GOOD}.gumboot.json")
    assert run(["acts", house, "--svg", str(tmp_path / "a.svg")]) == 0
    told = capsys.readouterr().out
    assert "step:grid-breaker  Close the grid breaker  [after plan:clear, step:small-load" in told
    assert "Gates of Saltmarsh Cottage" in (tmp_path / "a.svg").read_text()
    assert run(["acts", house, "--why", "check:dead-dc"]) == 0
    why = capsys.readouterr().out
    assert "band      at most 5 V" in why
    assert "lasts     12 h, until a switch is moved" in why
    assert "gate      none" in why
    assert run(["acts", house, "--why", "step:pv-switch"]) == 0
    assert "needs meter:ct-test" in capsys.readouterr().out
    assert run(["acts", house, "--why", "off:all.switches"]) == 0
    assert "it makes safe" in capsys.readouterr().out
    with pytest.raises(Trouble, match="step:grid-breaker"):
        run(["acts", house, "--why", "grid-breaker"])
    with pytest.raises(Trouble, match="cannot be written"):
        run(["acts", house, "--svg", str(tmp_path / "no" / "a.svg")])


def test_steps_are_told_and_drawn(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["steps", "--svg", str(tmp_path / "bare.svg")]) == 0
    bare = capsys.readouterr().out
    assert "needs strings, supply, loads.running" in bare
    assert "figures" not in bare
    assert run(["steps", str(HOUSES / f"{GOOD}.gumboot.json"), "--svg", str(tmp_path / "a.svg")]) == 0
    told = capsys.readouterr().out
    assert re.search(r"\d+ figures, 0 findings, 0 gaps, \d+ fields read", told)
    assert not re.search(r"\b1 (figures|findings|gaps|fields)", told)
    drawn = (tmp_path / "a.svg").read_text()
    assert all(f">{step.name}<" in drawn for step in STEPS)
    assert "Steps of Saltmarsh Cottage" in drawn
    with pytest.raises(Trouble, match="cannot be written"):
        run(["steps", "--svg", str(tmp_path / "no" / "a.svg")])


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (None, "cannot be read"),
        ("{", "is not a job"),
        ('{"format": "gumboot.job/1"}', "site: Field required"),
        ("\xff\xfe", "is not a job"),
    ],
)
def test_check_names_what_is_wrong_with_a_file(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, content: str | None, words: str
) -> None:
    path = tmp_path / "x.gumboot.json"
    if content is not None:
        path.write_text(content)
    monkeypatch.setattr(sys, "argv", ["gumboot", "check", str(path)])
    assert main() == 2
    out = capsys.readouterr()
    assert words in out.err
    assert "Remedy" in out.err
    assert "Traceback" not in out.err


def test_check_names_an_unknown_card(tmp_path: Path) -> None:
    document = json.loads((HOUSES / f"{GOOD}.gumboot.json").read_text())
    document["banks"][0]["card"] = "pebble-9"
    path = tmp_path / "x.gumboot.json"
    path.write_text(json.dumps(document))
    with pytest.raises(Trouble, match=r"banks\.bank\.card names the card 'pebble-9'"):
        run(["check", str(path)])


def test_schema_prints_both(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["schema"]) == 0
    schemas: dict[str, Any] = json.loads(capsys.readouterr().out)
    assert "banks" in schemas["job"]["properties"]
    assert "InverterCard" in schemas["card"]["$defs"]
    assert "Landing" in schemas["record"]["$defs"]


def test_the_rules_and_the_mistakes_are_printed(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["rules"]) == 0
    assert capsys.readouterr().out == rule_reference()
    assert run(["rules", "--mistakes"]) == 0
    assert capsys.readouterr().out == (CHECKOUT / "docs/mistakes.md").read_text()


@pytest.mark.parametrize("value", ["0", "abc", "70000"])
def test_a_bad_port_is_named(monkeypatch: pytest.MonkeyPatch, value: str) -> None:
    monkeypatch.setenv("GUMBOOT_PORT", value)
    with pytest.raises(Trouble, match="no port"):
        wanted_port()


def test_a_taken_port_is_named(monkeypatch: pytest.MonkeyPatch) -> None:
    with socket.socket() as busy:
        busy.bind(("127.0.0.1", 0))
        busy.listen()
        port = busy.getsockname()[1]
        assert not port_free(port)
        monkeypatch.setenv("GUMBOOT_PORT", str(port))
        with pytest.raises(Trouble, match="is taken"):
            wanted_port()


def test_a_full_disk_is_named(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(clusters, "LEAST_FREE_BYTES", 2**62)
    with pytest.raises(Trouble, match="MB are free"):
        Cluster(tmp_path).start()


def test_a_missing_right_is_named(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    def refuse(*_: object, **__: object) -> None:
        raise PermissionError

    monkeypatch.setattr(Path, "mkdir", refuse)
    with pytest.raises(Trouble, match="GUMBOOT_DATA"):
        Cluster(tmp_path / "x").start()


def test_an_old_data_directory_is_named(tmp_path: Path) -> None:
    made = Cluster(tmp_path)
    made.data.mkdir()
    (made.data / "PG_VERSION").write_text("9\n")
    (tmp_path / "secrets.json").write_text('{"owner": "a", "app": "b"}')
    with pytest.raises(Trouble, match="made by PostgreSQL 9"):
        made.start()


def test_a_database_that_does_not_answer_is_one_line(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        free = probe.getsockname()[1]
    monkeypatch.setenv("GUMBOOT_PORT", str(free))
    monkeypatch.setenv("DATABASE_URL", "postgresql://nobody:x@127.0.0.1:1/none")
    monkeypatch.setattr(sys, "argv", ["gumboot", "serve"])
    assert main() == 2
    err = capsys.readouterr().err
    assert "DATABASE_URL" in err
    assert len(err.strip().splitlines()) == 1


@pytest.fixture(scope="module")
def own() -> Iterator[Cluster]:
    home = Path(tempfile.mkdtemp(prefix="gumboot-cli-"))
    home.chmod(0o755)
    made = Cluster(home)
    made.start()
    yield made
    made.stop()
    shutil.rmtree(home, ignore_errors=True)


def test_data_and_secrets_are_for_the_owner_only(own: Cluster) -> None:
    assert own.data.stat().st_mode & 0o077 == 0
    assert (own.home / "secrets.json").stat().st_mode & 0o077 == 0
    pid = int((own.data / "postmaster.pid").read_text().splitlines()[0])
    uid = next(line for line in Path(f"/proc/{pid}/status").read_text().splitlines() if line.startswith("Uid:")).split()[1]
    assert uid != "0"


def test_the_cluster_listens_on_loopback_only_and_asks_for_a_password(own: Cluster) -> None:
    listening = Path("/proc/net/tcp").read_text()
    rows = [r.split()[1] for r in listening.splitlines()[1:] if r.split()[1].endswith(f":{own.port:04X}")]
    assert rows
    assert all(r.startswith("0100007F") for r in rows)
    done = subprocess.run(
        own.tool("psql", "-w", "-c", "select 1", "postgres"),
        env={**os.environ, "PGPASSWORD": "wrong"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode != 0
    assert "password authentication failed" in done.stderr


def test_a_second_start_finds_it_running(own: Cluster) -> None:
    port = own.port
    own.start()
    assert own.port == port


def test_recovers_after_kill_9(own: Cluster) -> None:
    from sqlalchemy import text

    from gumboot.store.engine import migrate, open_engine

    migrate(own.url(OWNER))
    engine = open_engine(own.url(OWNER))
    with engine.begin() as connection:
        connection.execute(text("insert into jobs (id, title, head) values ('kept', 'Kept', 1) on conflict do nothing"))
    os.kill(int((own.data / "postmaster.pid").read_text().splitlines()[0]), signal.SIGKILL)
    for _ in range(40):
        if not own.running():
            break
        time.sleep(0.1)
    own.start()
    engine.dispose()
    # Where something holds the old port still, the new one is another.
    again = open_engine(own.url(OWNER))
    with again.connect() as connection:
        assert connection.scalar(text("select title from jobs where id = 'kept'")) == "Kept"
    again.dispose()


def test_the_chain_of_every_job_is_checked(own: Cluster, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    from sqlalchemy import text

    from gumboot.store.engine import migrate, open_engine

    monkeypatch.setenv("GUMBOOT_DATA", str(own.home))
    migrate(own.url(OWNER))
    engine = open_engine(own.url(OWNER))
    with engine.begin() as connection:
        connection.execute(text("insert into jobs (id, title, head) values ('whole', 'Whole', 1), ('forged', 'Forged', 1)"))
        for row, job in (("r-1", "whole"), ("r-2", "forged")):
            connection.execute(
                text(
                    "insert into records (id, job_id, kind, subject, value, by, role)"
                    " values (:r, :j, 'done', 'start-dead', '{\"ok\": true}', 'Ivo', 'installer')"
                ),
                {"r": row, "j": job},
            )
    engine.dispose()
    assert run(["check-records", "forged"]) == 1
    assert "record r-2 stands outside the chain" in capsys.readouterr().out
    assert run(["check-records"]) == 1
    with pytest.raises(Trouble, match="no job nowhere"):
        run(["check-records", "nowhere"])


def test_records_are_taken_in_by_the_same_rule_as_on_the_pages(
    own: Cluster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    from sqlalchemy import text
    from sqlalchemy.orm import Session

    from gumboot.catalogue import demo_house
    from gumboot.store import accounts, cards, jobs
    from gumboot.store.engine import migrate, open_engine

    monkeypatch.setenv("GUMBOOT_DATA", str(own.home))
    migrate(own.url(OWNER))
    engine = open_engine(own.url(OWNER))
    with Session(engine) as db:
        cards.sync_catalogue(db)
        jobs.create_job(db, demo_house("k10-bungalow"), "Petra")
        for name, role in (("ivo", "installer"), ("abel", "apprentice")):
            accounts.add_user(db, name, name.title(), role, "low-tide-42")
        db.commit()
    engine.dispose()
    table = tmp_path / "tester.csv"
    table.write_text("check,value,unit\ndead-grid,0.4,V\nno-such,1,V\n")
    take = ["take-records", "k10-bungalow", str(table), "--by"]
    assert run([*take, "abel"]) == 1
    assert "does this; you are apprentice" in capsys.readouterr().out
    assert run([*take, "ivo"]) == 1
    told = capsys.readouterr().out
    assert "line 2: kept" in told
    assert "line 3: refused, 'no-such' is no check of this house" in told
    table.write_text("check,value,unit,time\ndead-grid,0.4,V,2026-11-27 09:00\n")
    assert run([*take, "ivo"]) == 1
    assert "does not say by which clock" in capsys.readouterr().out
    assert run(["check-records", "k10-bungalow"]) == 0
    assert "k10-bungalow: 1 record, head" in capsys.readouterr().out
    for wrong, words in (
        ([*take, "nobody"], "no account nobody"),
        (["take-records", "nowhere", str(table), "--by", "ivo"], "no job nowhere"),
    ):
        with pytest.raises(Trouble, match=words):
            run(wrong)
    with pytest.raises(Trouble, match="cannot be read"):
        run(["take-records", "k10-bungalow", str(tmp_path / "none.csv"), "--by", "ivo"])
    (tmp_path / "empty.jsonl").write_text("")
    with pytest.raises(Trouble, match="this one is empty"):
        run(["take-records", "k10-bungalow", str(tmp_path / "empty.jsonl"), "--by", "ivo"])
    engine = open_engine(own.url(OWNER))
    with engine.begin() as connection:
        connection.execute(text("delete from users"))
    engine.dispose()


def test_backup_and_restore(own: Cluster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    from sqlalchemy import text

    from gumboot.store.engine import migrate, open_engine

    monkeypatch.setenv("GUMBOOT_DATA", str(own.home))
    migrate(own.url(OWNER))
    dump = tmp_path / "a.dump"
    assert run(["db", "backup", str(dump)]) == 0
    assert dump.stat().st_mode & 0o777 == 0o600
    engine = open_engine(own.url(OWNER))
    with engine.begin() as connection:
        connection.execute(text("insert into jobs (id, title, head) values ('later', 'Later', 1)"))
    assert run(["db", "restore", str(dump)]) == 0
    with engine.connect() as connection:
        assert connection.scalar(text("select count(*) from jobs where id = 'later'")) == 0
    engine.dispose()
    assert "before-restore.dump" in capsys.readouterr().out
    assert (own.home / "before-restore.dump").stat().st_mode & 0o777 == 0o600
    with pytest.raises(Trouble, match="Nothing was restored"):
        run(["db", "restore", __file__])
    with pytest.raises(Trouble, match="Name the dump"):
        run(["db", "restore"])


def test_status_and_stop(own: Cluster, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setenv("GUMBOOT_DATA", str(own.home))
    assert run(["db", "status"]) == 0
    assert run(["db", "stop"]) == 0
    assert run(["db", "status"]) == 3
    assert run(["db", "start"]) == 0
    assert "answers on 127.0.0.1" in capsys.readouterr().out


@pytest.fixture
def people(own: Cluster, monkeypatch: pytest.MonkeyPatch) -> Callable[..., int]:
    """``./gumboot user``, with what is typed at the password's question."""
    monkeypatch.setenv("GUMBOOT_DATA", str(own.home))
    monkeypatch.delenv("DATABASE_URL", raising=False)
    own.start()

    def act(*words: str, typed: str = "") -> int:
        monkeypatch.setattr(sys, "stdin", io.StringIO(typed + "\n"))
        return run(["user", *words])

    return act


def test_the_first_account_and_its_life(people: Callable[..., int], own: Cluster, capsys: pytest.CaptureFixture[str]) -> None:
    from sqlalchemy.orm import Session

    from gumboot.store import accounts
    from gumboot.store.engine import open_engine

    assert people("list") == 0
    assert "no account yet" in capsys.readouterr().out
    assert people("add", "Una", "--role", "installer", "--display", "Una User", typed="reed-and-sedge-7") == 0
    assert people("role", "una", "--role", "licence holder") == 0
    assert people("password", "una", typed="another-tide-9") == 0
    people("list")
    assert "licence holder" in capsys.readouterr().out
    engine = open_engine(own.url())
    with Session(engine) as db:
        assert accounts.sign_in(db, "una", "reed-and-sedge-7") is None
        assert accounts.sign_in(db, "una", "another-tide-9")
        db.commit()
    assert people("disable", "una") == 0
    with Session(engine) as db:
        assert accounts.sign_in(db, "una", "another-tide-9") is None
        db.commit()
    engine.dispose()


@pytest.mark.parametrize(
    ("words", "typed", "said"),
    [
        (("add", "x"), "", "--role is missing"),
        (("add", "Ada Admin", "--role", "planner"), "reed-and-sedge-7", "no name for an account"),
        (("add", "ada", "--role", "planner"), "short", "10 to 200"),
        (("add", "ada", "--role", "planner"), "low-tide-42", "published"),
        (("password", "nobody"), "reed-and-sedge-7", "no account 'nobody'"),
        (("disable",), "", "name is missing"),
    ],
)
def test_what_cannot_be_done_to_an_account_is_one_line(people: Callable[..., int], words: tuple[str, ...], typed: str, said: str) -> None:
    with pytest.raises(Trouble, match=said):
        people(*words, typed=typed)


def test_an_account_is_not_added_twice(people: Callable[..., int]) -> None:
    people("add", "twin", "--role", "planner", typed="reed-and-sedge-7")
    with pytest.raises(Trouble, match="already"):
        people("add", "twin", "--role", "planner", typed="reed-and-sedge-8")


def served(own: Cluster, *words: str, **environment: str) -> tuple[subprocess.Popen[str], int]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = int(probe.getsockname()[1])
    env = {**os.environ, "PYTHONPATH": str(CHECKOUT / "src"), "GUMBOOT_DATA": str(own.home), "GUMBOOT_PORT": str(port), **environment}
    app = subprocess.Popen(
        [sys.executable, "-m", "gumboot.cli", *words], env=env, cwd=CHECKOUT, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
    )
    return app, port


def line_of(app: subprocess.Popen[str], words: str) -> str:
    assert app.stdout is not None
    for line in app.stdout:
        if words in line:
            return line
    return ""


def test_serve_on_an_empty_database_says_how_to_begin_and_keeps_the_demo_out(own: Cluster) -> None:
    from sqlalchemy import text
    from sqlalchemy.orm import Session

    from gumboot.store.demo import load_demo
    from gumboot.store.engine import migrate, open_engine

    own.start()
    migrate(own.url(OWNER), APP)
    engine = open_engine(own.url(OWNER))
    with engine.begin() as connection:
        connection.execute(text("delete from users"))
    app, _ = served(
        own,
        "serve",
        DATABASE_URL=own.url().render_as_string(hide_password=False),
        DATABASE_OWNER_URL=own.url(OWNER).render_as_string(hide_password=False),
    )
    try:
        assert "./gumboot user add" in line_of(app, "no account yet")
    finally:
        app.terminate()
        app.communicate()
    with Session(engine) as db:
        load_demo(db)
    engine.dispose()
    app, port = served(
        own,
        "serve",
        DATABASE_URL=own.url().render_as_string(hide_password=False),
        DATABASE_OWNER_URL=own.url(OWNER).render_as_string(hide_password=False),
    )
    try:
        assert "./gumboot user password" in line_of(app, "published password")
        assert line_of(app, "Gumboot is at")
        line_of(app, "Uvicorn running")
        answer = httpx.post(f"http://127.0.0.1:{port}/sign-in", data={"name": "petra", "password": "low-tide-42"})
        assert answer.status_code == 403
        assert "published password" in answer.text
    finally:
        app.terminate()
        app.communicate()


def certificate(folder: Path) -> tuple[str, str]:
    """A certificate for loopback and its key, as docs/phones.md makes them."""
    cert, key = folder / "gumboot.crt", folder / "gumboot.key"
    words = "req -x509 -newkey ec -pkeyopt ec_paramgen_curve:P-256 -nodes -days 2 -subj /CN=localhost -addext subjectAltName=IP:127.0.0.1"
    subprocess.run(["openssl", *words.split(), "-keyout", str(key), "-out", str(cert)], check=True, capture_output=True)
    return str(cert), str(key)


def test_beyond_loopback_a_certificate_is_asked_for_and_looked_at(tmp_path: Path) -> None:
    cert, key = certificate(tmp_path)
    assert listening("127.0.0.1", None, None).scheme == "http"
    assert listening("192.168.1.20", cert, key) == Listening("192.168.1.20", cert, key)
    for host, one, other, words in (
        ("192.168.1.20", None, None, "needs a certificate"),
        ("0.0.0.0", None, None, "needs a certificate"),
        ("127.0.0.1", cert, None, "belong together"),
        ("127.0.0.1", None, key, "belong together"),
        ("192.168.1.20", cert, cert, "cannot be used"),
        ("192.168.1.20", cert, str(tmp_path / "none.key"), "cannot be used"),
    ):
        with pytest.raises(Trouble, match=words):
            listening(host, one, other)


def test_served_with_a_certificate_the_cookie_goes_over_https_only(own: Cluster, tmp_path: Path) -> None:
    cert, key = certificate(tmp_path)
    own.start()
    app, port = served(
        own,
        *("serve", "--cert", cert, "--key", key, "--host", "127.0.0.1"),
        DATABASE_URL=own.url().render_as_string(hide_password=False),
        DATABASE_OWNER_URL=own.url(OWNER).render_as_string(hide_password=False),
    )
    try:
        assert f"https://127.0.0.1:{port}" in line_of(app, "Gumboot is at")
        line_of(app, "Uvicorn running")
        trusted = ssl.create_default_context(cafile=cert)
        assert httpx.get(f"https://127.0.0.1:{port}/healthz", verify=trusted).json()["database"] == "ready"
        assert httpx.get(f"https://127.0.0.1:{port}/sw.js", verify=trusted).headers["content-type"].startswith("text/javascript")
    finally:
        app.terminate()
        app.communicate()


@pytest.mark.parametrize("words", [("serve",), ("demo",)])
def test_a_role_that_could_change_records_is_not_served_with(own: Cluster, words: tuple[str, ...]) -> None:
    own.start()
    app, _ = served(own, *words, DATABASE_URL=own.url(OWNER).render_as_string(hide_password=False))
    out = app.communicate(timeout=60)[0]
    assert app.returncode == 2
    assert "could change records" in out
    assert "DATABASE_OWNER_URL" in out
    assert "--single-role" in out


def test_a_single_role_is_served_with_when_that_is_said(own: Cluster) -> None:
    own.start()
    app, _ = served(own, "serve", "--single-role", DATABASE_URL=own.url(OWNER).render_as_string(hide_password=False))
    try:
        assert line_of(app, "does not keep records from being changed")
        assert line_of(app, "Gumboot is at")
    finally:
        app.terminate()
        app.communicate()


def test_another_database_on_our_port_is_not_taken_for_ours(own: Cluster) -> None:
    assert own.running()
    pid = own.data / "postmaster.pid"
    kept = pid.read_text()
    try:
        # Ours is still on its way while the other answers.
        pid.write_text(kept.replace("ready", "starting"))
        assert not own.running()
        lines = kept.splitlines()
        pid.write_text("\n".join([*lines[:3], str(own.port + 1), *lines[4:]]) + "\n")
        assert not own.running()
    finally:
        pid.write_text(kept)
    assert own.running()
