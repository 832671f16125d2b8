"""Accounts over HTTP. What is checked follows OWASP ASVS 5.0.0, level 1 (docs/security.md has the
table); the numbers of its requirements, from memory, stand beside the tests.
"""

import io
from datetime import timedelta

import numpy as np
import pytest
from flask.testing import FlaskClient
from sqlalchemy import select, text, update
from sqlalchemy.exc import DBAPIError

from sequor.core.errors import UnusableInput
from sequor.services import passwords
from sequor.services.fairness import check_exports
from sequor.store import people
from sequor.store.acting import Actor, acting
from sequor.store.models import now
from sequor.store.people_models import Person, SignIn
from sequor.web.who import HEADER
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.conftest import send
from tests.web.people import (
    PASSWORD,
    account,
    cheap_hashes,
    cookie_of,
    make_account,
    name_it,
    resources_of,
    signed_in,
    stranger,
)

OTHER = "a gull asleep on seven ropes"


@pytest.fixture(autouse=True)
def _cheap(monkeypatch: pytest.MonkeyPatch) -> None:
    cheap_hashes(monkeypatch)


@pytest.fixture
def ida(browserless: FlaskClient) -> FlaskClient:
    """The owner, signed in."""
    return account(browserless, "Ida", "owner")


def read(client: FlaskClient, query):
    with resources_of(client).database.reading() as session, acting(None):
        return session.execute(query).all()


def test_without_accounts_nothing_is_asked(browserless: FlaskClient) -> None:
    me = browserless.get("/api/me").json
    assert (me["served"], me["everything"], me["person"]) == (False, True, None)
    assert browserless.post("/api/sets", json={"name": "Quay"}).status_code == 201
    assert read(browserless, text("SELECT COUNT(*) FROM deeds"))[0][0] == 0


def test_without_accounts_a_stranger_is_answered_nothing(browserless: FlaskClient) -> None:
    other = stranger(browserless)
    for path in ("/", "/api/me", "/api/sets", "/sign-in"):
        assert other.get(path).status_code == 403
    body = {"name": "Ida", "password": PASSWORD}
    assert other.post("/api/sign-in", json=body).status_code == 403


def test_somebody_signs_in_and_out(browserless: FlaskClient, ida: FlaskClient) -> None:
    me = ida.get("/api/me").json
    assert (me["person"]["name"], me["person"]["role"], me["everything"]) == ("Ida", "owner", True)
    assert ida.get("/api/sets").status_code == 200
    kept = ida.get_cookie(next(c.key for c in ida._cookies.values())).value
    assert ida.post("/api/sign-out").status_code == 200
    assert ida.get("/api/sets").status_code == 401
    # 7.4.1: what was signed out lets nobody in, whoever kept it.
    again = stranger(browserless)
    again.set_cookie(cookie_of(again), kept)
    assert again.get("/api/sets").status_code == 401


def test_the_cookie_is_for_this_site_and_no_script(ida: FlaskClient) -> None:
    """3.3.1; Secure and its prefix where the connection is encrypted."""
    body = {"name": "Ida", "password": PASSWORD}
    plain = stranger(ida).post("/api/sign-in", json=body).headers["Set-Cookie"]
    assert "HttpOnly" in plain
    assert "SameSite=Lax" in plain
    other = stranger(ida)
    encrypted = other.post("/api/sign-in", json=body, base_url="https://127.0.0.1:8700")
    cookie = encrypted.headers["Set-Cookie"]
    assert cookie.startswith(f"__Host-{cookie_of(ida)}=")
    assert {"Secure", "HttpOnly", "Path=/", "SameSite=Lax"} <= set(cookie.split("; "))
    # What came without encryption is not believed with it.
    stolen = stranger(ida)
    stolen.set_cookie(cookie_of(stolen), cookie.split("=")[1].split(";")[0])
    assert stolen.get("/api/sets", base_url="https://127.0.0.1:8700").status_code == 401


def test_a_wrong_password_and_no_such_name_are_answered_alike(ida: FlaskClient) -> None:
    other = stranger(ida)
    one = other.post("/api/sign-in", json={"name": "Ida", "password": "wrong"})
    two = other.post("/api/sign-in", json={"name": "Nobody", "password": "wrong"})
    assert one.status_code == two.status_code == 401
    assert one.json["problem"] == two.json["problem"]
    refused = read(ida, text("SELECT who FROM deeds WHERE what = 'sign_in_refused' ORDER BY id"))
    assert [who for (who,) in refused] == ["Ida", "Nobody"]


def test_guessing_is_slowed_down(ida: FlaskClient) -> None:
    """6.3.1: by name from anywhere, and by address for any name; who knows it is let in else."""
    other = stranger(ida)
    body = {"name": "Ida", "password": "wrong"}
    answers = [other.post("/api/sign-in", json=body).status_code for _ in range(12)]
    assert answers == [401] * 10 + [429] * 2
    far = stranger(ida)
    far.environ_base["REMOTE_ADDR"] = "192.0.2.7"
    assert far.post("/api/sign-in", json=body).status_code == 429
    make_account(ida, "Ole", "member")
    right = {"name": "Ole", "password": PASSWORD}
    assert [far.post("/api/sign-in", json=right).status_code for _ in range(30)] == [200] * 30


@pytest.mark.parametrize("given", ["short one", "passwordpassword", "aaaaaaaaaaaaaaaa", "x" * 200])
def test_passwords_that_are_soon_guessed_are_refused(given: str) -> None:
    """6.2.1, 6.2.4."""
    with pytest.raises(UnusableInput):
        passwords.check(given, "Ida")


def test_no_rules_of_composition() -> None:
    """6.2.5: whatever letters there are."""
    for good in (PASSWORD, "Ölnebel über fünf Kähnen", "七つの海と古い灯台を見ている人たち"):
        passwords.check(good, "Ida")


def test_another_password_needs_the_old_one_and_ends_other_sign_ins(ida: FlaskClient) -> None:
    """6.2.2, 6.2.3; and 7.4.3, of level 2."""
    elsewhere = signed_in(ida, "Ida")
    wrong = ida.post("/api/me/password", json={"old": "wrong", "new": OTHER})
    assert wrong.status_code == 401
    weak = ida.post("/api/me/password", json={"old": PASSWORD, "new": "password1234"})
    assert weak.status_code == 422
    assert elsewhere.get("/api/sets").status_code == 200
    done = ida.post("/api/me/password", json={"old": PASSWORD, "new": OTHER})
    assert done.status_code == 200
    assert elsewhere.get("/api/sets").status_code == 401
    assert ida.get("/api/sets").status_code == 200
    assert signed_in(ida, "Ida", OTHER).get("/api/sets").status_code == 200


def test_sign_ins_are_seen_and_ended(ida: FlaskClient) -> None:
    """7.5.2, of level 2."""
    phone = signed_in(ida, "Ida")
    listed = ida.get("/api/me/sign-ins").json["sign_ins"]
    assert sorted(one["here"] for one in listed) == [False, True]
    (other,) = [one["id"] for one in listed if not one["here"]]
    left = ida.delete(f"/api/me/sign-ins/{other}").json["sign_ins"]
    assert [one["here"] for one in left] == [True]
    assert phone.get("/api/sets").status_code == 401
    ole = account(ida, "Ole", "member")
    assert ole.delete(f"/api/me/sign-ins/{left[0]['id']}").status_code == 404
    assert ida.get("/api/sets").status_code == 200


@pytest.mark.parametrize(
    ("column", "age"), [("seen_at", people.IDLE), ("made_at", people.LONGEST)], ids=["idle", "old"]
)
def test_a_sign_in_does_not_last_for_ever(ida: FlaskClient, column: str, age: timedelta) -> None:
    """7.3.1, 7.3.2, of level 2."""
    then = {column: now() - age - timedelta(minutes=1)}
    resources_of(ida).database.write(lambda s: s.execute(update(SignIn).values(then)))
    assert ida.get("/api/sets").status_code == 401


def test_only_hashes_are_stored(ida: FlaskClient) -> None:
    """11.4.2, of level 2, and 7.2.3: nothing in the tables lets anybody in."""
    (stored,) = read(ida, select(Person.password))[0]
    assert stored.startswith("$argon2id$")
    cookie = next(iter(ida._cookies.values())).value
    token = cookie.rsplit(".", 1)[0]
    (kept,) = read(ida, select(SignIn.token_hash))[0]
    assert token not in kept
    assert people.hash_of(token) == kept


def test_a_cookie_that_was_not_given_out_here_is_none(ida: FlaskClient) -> None:
    value = next(iter(ida._cookies.values())).value
    for forged in (("A" if value[0] != "A" else "B") + value[1:], "x.y", "", "é" * 40):
        other = stranger(ida)
        other.set_cookie(cookie_of(other), forged)
        assert other.get("/api/sets").status_code == 401


def test_changes_name_the_token_a_second_time(ida: FlaskClient) -> None:
    """3.5.1 (cross-site request forgery)."""
    del ida.environ_base[f"HTTP_{HEADER.upper().replace('-', '_')}"]
    refused = ida.post("/api/sets", json={"name": "Quay"})
    assert refused.status_code == 403
    assert ida.get("/api/sets").json["sets"] == []
    ole = account(ida, "Ole", "member")
    name_it(ida, ole.get("/api/me").json["csrf"])  # that of another sign-in
    assert ida.post("/api/sets", json={"name": "Quay"}).status_code == 403
    name_it(ida, ida.get("/api/me").json["csrf"])
    assert ida.post("/api/sets", json={"name": "Quay"}).status_code == 201
    foreign = ida.post("/api/sets", json={"name": "B"}, headers={"Origin": "http://evil.example"})
    assert foreign.status_code == 403


def test_an_invitation_works_once(ida: FlaskClient) -> None:
    """6.4.1: made by the system, used once, soon too old."""
    made = ida.post("/api/invitations", json={"role": "guest"}).json
    about, use = (
        f"/api/invitations/{made['path'].rsplit('/', 1)[1]}/{w}" for w in ("about", "use")
    )
    other = stranger(ida)
    assert other.get(about).json["role"] == "guest"
    assert other.post(use, json={"name": "Ida", "password": OTHER}).status_code == 422  # taken
    assert other.post(use, json={"name": "Una", "password": "short"}).status_code == 422
    done = other.post(use, json={"name": "Una", "password": OTHER})
    assert (done.status_code, done.json["person"]["role"]) == (201, "guest")
    name_it(other, done.json["csrf"])
    assert other.get("/api/me").json["person"]["name"] == "Una"
    late = stranger(ida)
    assert late.get(about).status_code == 404
    assert late.post(use, json={"name": "Eve", "password": OTHER}).status_code == 404


def test_an_invitation_is_withdrawn_or_too_old(ida: FlaskClient) -> None:
    made = [ida.post("/api/invitations", json={"role": "member"}).json for _ in range(2)]
    left = ida.delete(f"/api/invitations/{made[0]['id']}").json["invitations"]
    assert [one["id"] for one in left] == [made[1]["id"]]
    old = text("UPDATE invitations SET until = NOW() - INTERVAL 1 MINUTE")
    resources_of(ida).database.write(lambda s: s.execute(old))
    for one in made:
        about = f"/api/invitations/{one['path'].rsplit('/', 1)[1]}/about"
        assert stranger(ida).get(about).status_code == 404


def test_a_forgotten_password_is_replaced_by_a_link(ida: FlaskClient) -> None:
    ole = account(ida, "Ole", "member")
    number = ole.get("/api/me").json["person"]["id"]
    path = ida.post(f"/api/people/{number}/reset").json["path"]
    use = f"/api/invitations/{path.rsplit('/', 1)[1]}/use"
    done = stranger(ida).post(use, json={"name": "Somebody Else", "password": OTHER})
    assert done.json["person"] == {**done.json["person"], "id": number, "name": "Ole"}
    assert ole.get("/api/sets").status_code == 401
    refused = stranger(ida).post("/api/sign-in", json={"name": "Ole", "password": PASSWORD})
    assert refused.status_code == 401


def test_roles_change_at_once_and_an_owner_stays(ida: FlaskClient) -> None:
    ole = account(ida, "Ole", "member")
    number = ole.get("/api/me").json["person"]["id"]
    own = ida.get("/api/me").json["person"]["id"]
    assert ole.get("/api/people").status_code == 403
    for act in (
        ida.patch(f"/api/people/{own}", json={"role": "member"}),
        ida.delete(f"/api/people/{own}"),
    ):
        assert act.status_code == 422
        assert "only owner" in act.json["problem"]
    ida.patch(f"/api/people/{number}", json={"role": "owner"})
    assert ole.get("/api/people").status_code == 200
    assert ida.patch(f"/api/people/{own}", json={"role": "member"}).status_code == 200
    assert ida.get("/api/people").status_code == 403


def test_who_is_removed_is_let_in_no_more_and_the_name_is_free(ida: FlaskClient) -> None:
    ole = account(ida, "Ole", "member")
    made = ole.post("/api/sets", json={"name": "Boats"}).json["id"]
    number = ole.get("/api/me").json["person"]["id"]
    left = ida.delete(f"/api/people/{number}").json["people"]
    assert [one["name"] for one in left] == ["Ida"]
    assert ole.get("/api/sets").status_code == 401
    assert ida.get(f"/api/sets/{made}").status_code == 200  # what was made stays
    again = account(ida, "Ole", "member")
    assert again.get(f"/api/sets/{made}").status_code == 404  # and is not the new one's


def test_the_key_opens_its_own_machine_only(browserless: FlaskClient, ida: FlaskClient) -> None:
    assert browserless.get("/api/people").status_code == 200
    afar = browserless.get("/api/people", environ_overrides={"REMOTE_ADDR": "192.0.2.7"})
    assert afar.status_code == 401
    forwarded = browserless.get("/api/people", headers={"X-Forwarded-For": "192.0.2.7"})
    assert forwarded.status_code == 401


def test_the_log_of_deeds_names_who_and_stays(browserless: FlaskClient, ida: FlaskClient) -> None:
    made = ida.post("/api/sets", json={"name": "Quay"}).json["id"]
    browserless.patch(f"/api/sets/{made}", json={"name": "Pier"})
    found = ida.get("/api/deeds").json["deeds"]
    assert [(one["who"], one["what"], one["set_id"]) for one in found[:3]] == [
        ("at the machine itself", "set_changed", made),
        ("Ida", "set_made", None),
        ("Ida", "signed_in", None),
    ]
    for act in ("UPDATE deeds SET who = 'Eve'", "DELETE FROM deeds"):
        with (
            pytest.raises(DBAPIError, match="audit log"),
            resources_of(ida).database._engine.begin() as c,
        ):
            c.execute(text(act))
    refused = ida.post("/api/sets", json={"name": ""})
    assert refused.status_code == 422
    assert ida.get("/api/deeds").json["deeds"][0]["what"] == "set_changed"  # what failed is none


def test_the_log_of_deeds_says_to_what(browserless: FlaskClient, ida: FlaskClient) -> None:
    set_id = ida.post("/api/sets", json={"name": "Quay"}).json["id"]
    contents = [as_png(horizon_picture(2.0, 60 + place, 40)) for place in range(2)]
    one, other = (
        send(ida, set_id, f"quay-{place}.png", content).json["picture"]["id"]
        for place, content in enumerate(contents)
    )
    ida.post("/api/exports", json={"picture_ids": [one, other]})
    ida.post(f"/api/pictures/{one}/exports", json={})
    first, second, *_ = ida.get("/api/deeds").json["deeds"]
    assert (first["words"], first["about"]) == ("exported", "quay-0.png, Quay")
    assert (second["words"], second["about"]) == ("exported", "2 pictures, Quay")


def test_what_a_link_lets_in_is_not_in_the_log(
    ida: FlaskClient, caplog: pytest.LogCaptureFixture
) -> None:
    """16.2.5, of level 2."""
    path = ida.post("/api/invitations", json={"role": "guest"}).json["path"]
    token = path.rsplit("/", 1)[1]
    with caplog.at_level("INFO"):
        stranger(ida).get(f"/api/invitations/{token}/about")
    assert "invitations" in caplog.text
    assert token not in caplog.text


def test_each_person_has_so_much_space_and_so_many_exports(
    ida: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    ole = account(ida, "Ole", "member")
    own = resources_of(ida)
    limited = own.settings.model_copy(update={"space_each_mb": 1, "exports_each": 2})
    monkeypatch.setitem(own.__dict__, "settings", limited)
    made = ole.post("/api/sets", json={"name": "Boats"}).json["id"]
    noise = np.random.default_rng(1).integers(0, 255, (400, 600, 3), np.uint8)
    first = send(ole, made, "a.png", as_png(noise))
    assert first.status_code == 201
    noise[0, 0] += 1
    second = send(ole, made, "b.png", as_png(noise))
    assert second.status_code == 422
    assert "1 MB" in second.json["problem"]
    archive = ole.get(f"/api/sets/{made}/archive.zip").data
    brought = ole.post("/api/archives", data={"file": (io.BytesIO(archive), "a.zip")})
    assert brought.status_code == 422
    assert "1 MB" in brought.json["problem"]
    picture = first.json["picture"]["id"]
    # Hers are not counted among his.
    hers = ida.post("/api/sets", json={"name": "Quay"}).json["id"]
    assert send(ida, hers, "b.png", as_png(noise)).status_code == 201
    ida.application.extensions["sequor"].exports.stop()  # what is queued stays so
    queued = text(
        "INSERT INTO exports (picture_id, entry_id, format, quality, state, created_at, author_id) "
        "SELECT id, head_id, 'png', 90, :state, NOW(), :author FROM pictures WHERE id = :picture"
    )
    number = ole.get("/api/me").json["person"]["id"]
    with own.database._engine.begin() as connection:
        for state, author in (("queued", 1), ("queued", 1), ("queued", number), ("done", number)):
            values = {"state": state, "author": author, "picture": picture}
            connection.execute(queued, values)
    with acting(Actor("Ole", number, "member")):
        check_exports(own, 1)
        with pytest.raises(UnusableInput, match="1 of your exports wait"):
            check_exports(own, 2)
    refused = ida.post(f"/api/pictures/{picture}/exports", json={"format": "png"})
    assert refused.status_code == 422
