"""How an installation is, in words and with the last hour: for those who look after it."""

from types import SimpleNamespace

import pytest
from flask.testing import FlaskClient

from sequor.services.trends import Trends
from sequor.store.failures import DatabaseAway
from sequor.web import state
from sequor.work.engine import Lane, LaneLoad, Load


def figures(client: FlaskClient) -> dict[str, dict]:
    return {one["name"]: one for one in client.get("/api/state").json["figures"]}


def test_figures_are_told_in_words_and_as_they_were(
    browserless: FlaskClient, picture: dict
) -> None:
    trends: Trends = browserless.application.extensions["sequor"].trends
    assert figures(browserless)["Turns in the hand"]["said"] == "nobody has turned a picture yet"
    trends.look()
    for took_s in [0.010] * 96 + [0.2] * 4:
        trends.note_draft(took_s)
    found = figures(browserless)
    hand = found["Turns in the hand"]
    assert (hand["said"], hand["good"]) == ("95 % within 10 ms", True)
    assert hand["series"] == [None, 10.0]
    for _ in range(10):
        trends.note_draft(0.2)
    slow = figures(browserless)["Turns in the hand"]
    assert (slow["said"], slow["good"]) == ("95 % within 200 ms", False)
    assert found["Work that waits"]["said"] == "nothing waits"
    assert found["Pictures"]["said"].startswith("1, ")
    assert found["Exports"]["said"] == "0 wait, 0 done, 0 failed"
    assert found["Free on the disk"]["series"][-1] > 0
    german = browserless.get("/api/state", headers={"Accept-Language": "de"}).json["figures"]
    assert german[0]["said"] == "95 % innerhalb von 200 ms"


def test_the_last_hour_is_kept_and_no_more(browserless: FlaskClient) -> None:
    trends: Trends = browserless.application.extensions["sequor"].trends
    for _ in range(400):
        trends.look()
    told = browserless.get("/api/state").json
    assert told["minutes"] == pytest.approx(60)
    assert {len(one["series"]) for one in told["figures"]} == {0, 361}


def test_what_waits_for_long_and_a_database_that_is_away_are_said(
    browserless: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = browserless.application.extensions["sequor"]
    lanes = {lane: LaneLoad(0, 0, 0.0) for lane in Lane} | {Lane.EXPORT: LaneLoad(3, 1, 90.0)}
    load = Load(3, 1, 100.0, 1000.0, 200.0, lanes, away=True)
    monkeypatch.setattr(type(here.resources.engine), "load", lambda self: load)

    def away(resources: object) -> SimpleNamespace:
        raise DatabaseAway

    monkeypatch.setattr(state, "counted", away)
    told = browserless.get("/api/state").json
    waits = next(one for one in told["figures"] if one["name"] == "Work that waits")
    assert (waits["said"], waits["good"]) == ("3 pieces, the oldest for 90 s", False)
    assert "Pictures" not in {one["name"] for one in told["figures"]}
    assert any("No worker is there" in reason for reason in told["reasons"])
