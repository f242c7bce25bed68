"""Accounts: made, changed, switched off; tries that cannot pass the limit together; what the database's roles may do."""

from __future__ import annotations

import threading
import uuid

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from gumboot.store import accounts
from gumboot.store.demo import DEMO_PASSWORD
from gumboot.store.engine import open_engine
from gumboot.store.models import SignInFailure
from gumboot.store.rights import GRANTS, excess, grant

PASSWORD = "reed-and-sedge-7"


@pytest.fixture
def name(owner: Engine) -> str:
    """An account of this test alone."""
    made = f"u-{uuid.uuid4().hex[:8]}"
    with Session(owner) as db:
        assert accounts.add_user(db, made, "Una User", "installer", PASSWORD)
        db.commit()
    return made


def test_sign_in_and_out(db: Session, name: str) -> None:
    token = accounts.sign_in(db, f" {name.upper()} ", PASSWORD)
    assert token
    db.flush()
    person = accounts.who(db, token)
    assert person is not None
    assert (person.name, person.role) == (name, "installer")
    accounts.sign_out(db, token)
    assert accounts.who(db, token) is None
    assert accounts.who(db, None) is None


def test_failures_are_throttled_even_for_the_right_password(db: Session, name: str) -> None:
    for _ in range(accounts.MOST_FAILURES):
        assert accounts.sign_in(db, name, "wrong") is None
    with pytest.raises(accounts.Throttled):
        accounts.sign_in(db, name, PASSWORD)


def test_a_good_sign_in_takes_the_counts_away(db: Session, name: str) -> None:
    for _ in range(accounts.MOST_FAILURES - 1):
        accounts.sign_in(db, name, "wrong")
    assert accounts.sign_in(db, name, PASSWORD)
    assert accounts.sign_in(db, name, PASSWORD)


def test_tries_in_parallel_do_not_pass_the_limit(engine: Engine, name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    checked: list[str] = []

    def verified(_hash: str, password: str) -> bool:
        checked.append(password)
        return False

    monkeypatch.setattr(accounts, "verified", verified)

    def guess(n: int) -> None:
        with Session(engine) as db:
            try:
                accounts.sign_in(db, name, f"guess {n}")
            except accounts.Throttled:
                db.rollback()

    threads = [threading.Thread(target=guess, args=(n,)) for n in range(14)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(checked) == accounts.MOST_FAILURES


def test_passwords_are_checked_a_few_at_a_time(monkeypatch: pytest.MonkeyPatch) -> None:
    inside, most, lock = [0], [0], threading.Lock()

    class Slow:
        def verify(self, _hash: str, _password: str) -> bool:
            with lock:
                inside[0] += 1
                most[0] = max(most[0], inside[0])
            threading.Event().wait(0.02)
            with lock:
                inside[0] -= 1
            return True

    monkeypatch.setattr(accounts, "HASHER", Slow())
    threads = [threading.Thread(target=accounts.verified, args=("", "")) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert most[0] == accounts.CHECKS_AT_ONCE


def test_when_no_check_is_free_in_time_it_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(accounts, "_CHECKS", threading.BoundedSemaphore(1))
    monkeypatch.setattr(accounts, "CHECK_PATIENCE_S", 0.01)
    with accounts._CHECKS, pytest.raises(accounts.Busy):
        accounts.verified("", "")


def test_counts_of_names_that_nobody_has_are_not_kept_for_ever(db: Session, owner: Engine) -> None:
    with owner.begin() as connection:
        connection.execute(text("insert into sign_in_failures (user_name, at) values ('ghost', now() - interval '1 hour')"))
    accounts.sign_in(db, "nobody", "wrong")
    assert db.query(SignInFailure).filter_by(user_name="ghost").count() == 0


def test_an_unknown_name_is_refused_alike(db: Session) -> None:
    assert accounts.sign_in(db, f"nobody-{uuid.uuid4().hex[:6]}", DEMO_PASSWORD) is None


def test_a_disabled_account_is_out_at_once_and_a_password_brings_it_back(db: Session, owner: Engine, name: str) -> None:
    token = accounts.sign_in(db, name, PASSWORD)
    db.commit()
    with Session(owner) as own:
        accounts.disable(own, name)
        own.commit()
    db.expire_all()
    assert accounts.who(db, token) is None
    assert accounts.sign_in(db, name, PASSWORD) is None
    with Session(owner) as own:
        accounts.set_password(own, name, "another-tide-9")
        own.commit()
    db.expire_all()
    assert accounts.sign_in(db, name, PASSWORD) is None
    assert accounts.sign_in(db, name, "another-tide-9")


def test_a_published_password_opens_nothing(db: Session, name: str) -> None:
    with pytest.raises(accounts.Published):
        accounts.sign_in(db, name, PASSWORD, never=PASSWORD)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": "Ada Admin"}, "no name for an account"),
        ({"name": ""}, "no name for an account"),
        ({"role": "boss"}, "is no role"),
        ({"display": " "}, "as records show it"),
        ({"password": "short"}, "10 to 200"),
        ({"password": "x" * 201}, "10 to 200"),
    ],
)
def test_a_bad_account_is_refused_in_words(db: Session, change: dict[str, str], words: str) -> None:
    asked = {"name": "ada", "display": "Ada", "role": "planner", "password": PASSWORD, **change}
    with pytest.raises(accounts.BadAccount, match=words):
        accounts.add_user(db, **asked)


def test_the_demo_password_is_no_new_password(owner: Engine, name: str) -> None:
    with Session(owner) as db, pytest.raises(accounts.BadAccount, match="published"):
        accounts.set_password(db, name, DEMO_PASSWORD, never=DEMO_PASSWORD)


def test_the_application_role_holds_to_its_word(engine: Engine, owner: Engine) -> None:
    assert excess(engine) == ()
    assert any("owns records" in words or "superuser" in words for words in excess(owner))


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ("update on records", "may update records"),
        ("delete on revisions", "may delete revisions"),
        ("update (author) on cards", "update columns of cards"),
        ("delete on jobs", "delete jobs"),
    ],
)
def test_a_right_too_many_is_found_and_taken_away(engine: Engine, owner: Engine, given: str, words: str) -> None:
    role = engine.url.username or ""
    with owner.begin() as connection:
        connection.execute(text(f"grant {given} to {role}"))
    try:
        assert any(words in found for found in excess(engine))
    finally:
        grant(owner, role)
    assert excess(engine) == ()


def test_every_table_has_its_rights_written_down(owner: Engine) -> None:
    with owner.connect() as connection:
        tables = set(connection.scalars(text("select tablename from pg_tables where schemaname = 'public'")))
    assert tables == set(GRANTS)


def test_who_finds_no_connection_is_told_so_soon(engine: Engine) -> None:
    small = open_engine(engine.url, 1)
    assert small.pool.timeout() == 2  # type: ignore[attr-defined]
    assert small.hide_parameters
    small.dispose()
