"""A studio: an owner, somebody who is invited, a client with a link, each in a browser."""

import json
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.conftest import ROOT
from tests.running import Application, running
from tests.ui.conftest import SIZE, TIMEOUT_MS
from tests.ui.hands import horizon_file
from tests.ui.test_access import violations

PASSWORD = "quiet harbour before nine"


@pytest.fixture(scope="module")
def studio(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """An application of its own: with accounts every page is a little other."""
    with running(tmp_path_factory.mktemp("studio") / "var", "--empty") as application:
        made = subprocess.run(
            [ROOT / "bin" / "sequor", "user", "add", "Ida", "--role=owner", "--password-stdin"],
            env=application.environment,
            input=PASSWORD,
            capture_output=True,
            text=True,
            check=True,
        )
        assert "Ida" in made.stdout
        yield application


def opened(context: BrowserContext, address: str) -> Page:
    page = context.new_page()
    page.set_default_timeout(TIMEOUT_MS)
    page.goto(address)
    return page


def sign_in(page: Page, name: str) -> None:
    page.get_by_label("Name").fill(name)
    password = page.get_by_label("Password")
    expect(password).to_have_attribute("type", "password")
    expect(password).to_have_attribute("autocomplete", "current-password")
    password.fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()


def test_a_studio_invites_shares_and_shows(
    studio: Application, browser: Browser, tmp_path: Path
) -> None:
    contexts = [browser.new_context(viewport=SIZE) for _ in range(3)]
    ida = opened(contexts[0], f"{studio.url}/storage")
    assert violations(ida) == {}
    sign_in(ida, "Ida")
    ida.wait_for_url(f"{studio.url}/storage")  # where she wanted to go
    # A set of hers, with a picture.
    ida.goto(f"{studio.url}/")
    ida.get_by_label("Name of a new set").fill("Quay")
    ida.get_by_role("button", name="Begin").click()
    ida.get_by_role("heading", name="Quay").wait_for()
    ida.get_by_label("Picture files").set_input_files(horizon_file(tmp_path, 1.3))
    expect(ida.get_by_role("link", name=re.compile("horizon"))).to_be_visible()
    # Somebody is invited, and makes an account.
    ida.get_by_role("link", name="People").click()
    ida.get_by_role("button", name="Make a link").click()
    invitation = ida.get_by_label("The link", exact=True).input_value()
    assert violations(ida) == {}
    ole = opened(contexts[1], invitation)
    ole.get_by_label("Your name, as others see it").fill("Ole")
    ole.get_by_label(re.compile("A password of at least")).fill(PASSWORD)
    assert violations(ole) == {}
    ole.get_by_role("button", name="Make my account").click()
    expect(ole.get_by_role("link", name="Ole")).to_be_visible()
    expect(ole.get_by_role("link", name="Quay")).to_have_count(0)
    # The set is shared with him, and shown to a client.
    ida.goto(f"{studio.url}/sets/1")
    ida.get_by_role("button", name="The set…").click()
    ida.get_by_role("button", name=re.compile("Share it")).click()
    ida.get_by_role("button", name="Share", exact=True).click()
    expect(ida.get_by_label("What Ole may do")).to_be_visible()
    ida.get_by_label("For whom the link is").fill("Harbour board")
    ida.get_by_role("button", name="Make a link").click()
    link = ida.get_by_label("The link", exact=True).input_value()
    client = opened(contexts[2], link)
    client.get_by_role("button", name="horizon.png is a favourite").click()
    expect(client.get_by_text("1 favourite, 1 picture")).to_be_visible()
    assert violations(client) == {}
    client.get_by_role("button", name="Look at horizon.png").click()
    # By keys alone: the place is moved by arrows.
    client.get_by_role("group", name=re.compile("The picture")).focus()
    client.keyboard.press("ArrowRight")
    client.get_by_label("Words for this place").fill("A little more sky, please")
    client.get_by_role("button", name="Leave this note").click()
    expect(client.get_by_role("listitem").get_by_text("A little more sky")).to_be_visible()
    assert violations(client) == {}
    # He looks, sees what was said, and answers; a guest of the set works on nothing.
    ole.goto(f"{studio.url}/sets/1")
    expect(ole.get_by_role("button", name="Add pictures")).to_have_count(0)
    ole.get_by_role("checkbox", name="Choose horizon.png").check(force=True)
    chosen = ole.get_by_role("group", name="Chosen pictures")
    expect(chosen.get_by_role("button")).to_have_text(["Choose none"])
    ole.goto(f"{studio.url}/pictures/1")
    ole.wait_for_url("**/pictures/1/notes")  # there is nothing for him on the bench
    expect(ole.get_by_text("A little more sky")).to_be_visible()
    expect(ole.get_by_role("link", name="To the bench")).to_have_count(0)
    ole.goto(f"{studio.url}/sets/1")
    ole.get_by_role("link", name=re.compile("A favourite of Harbour board, 1 note")).click()
    expect(ole.get_by_text("A little more sky")).to_be_visible()
    ole.wait_for_function("() => document.querySelector('main img')?.naturalWidth > 0")
    box = ole.get_by_role("group", name=re.compile("The picture")).bounding_box()
    ole.mouse.click(box["x"] + box["width"] / 3, box["y"] + box["height"] / 3)
    ole.get_by_label("Words for this place").fill("There is some left above")
    ole.get_by_role("button", name="Leave this note").click()
    expect(ole.get_by_role("listitem")).to_have_count(2)
    assert violations(ole) == {}
    client.reload()
    client.get_by_role("button", name="Look at horizon.png").click()
    expect(client.get_by_role("listitem")).to_have_count(1)  # and not what others said
    # The set becomes his.
    ida.get_by_role("button", name="Give it away…").click()
    expect(ida.get_by_text(re.compile("Only Ole or an owner"))).to_be_visible()
    assert violations(ida) == {}
    ida.get_by_role("button", name="Give it to Ole").click()
    expect(ida.get_by_role("dialog")).to_have_count(0)
    ole.goto(f"{studio.url}/sets/1")
    expect(ole.get_by_role("button", name="The set…")).to_be_visible()
    # Who did what, and out.
    ida.goto(f"{studio.url}/people")
    expect(ida.get_by_text("left a note on a picture").first).to_be_visible()
    # How it all is.
    ida.get_by_role("button", name="How it is").click()
    expect(ida.get_by_text("Turns in the hand", exact=True)).to_be_visible()
    expect(ida.get_by_text(re.compile(r"^\d+, \d+ of them not read yet$"))).to_be_visible()
    assert violations(ida) == {}
    ida.keyboard.press("Escape")
    ida.wait_for_url("**/people")
    ida.goto(f"{studio.url}/account")
    expect(ida.get_by_text("here", exact=True)).to_be_visible()
    assert violations(ida) == {}
    ida.get_by_role("button", name="Sign out").click()
    ida.wait_for_url("**/sign-in")
    ida.goto(f"{studio.url}/sets/1")
    ida.wait_for_url(re.compile("sign-in"))
    for context in contexts:
        context.close()


def made_account(studio: Application, name: str) -> int:
    """A member's account, by a link of who looks after the machine."""
    _, invitation = studio.post("/api/invitations", {"role": "member"})
    token = invitation["path"].rsplit("/", 1)[1]
    body = {"name": name, "password": PASSWORD}
    status, me = studio.post(f"/api/invitations/{token}/use", body)
    assert status == 201, me
    return me["person"]["id"]


def turned(one: Page, other: Page, key: str) -> None:
    """One turns the picture, and the other has it so, too."""
    slider = one.get_by_role("slider", name="Roll", exact=True)
    before = slider.get_attribute("aria-valuenow")
    slider.press(key)
    expect(slider).not_to_have_attribute("aria-valuenow", before)
    now = slider.get_attribute("aria-valuenow")
    theirs = other.get_by_role("slider", name="Roll", exact=True)
    expect(theirs).to_have_attribute("aria-valuenow", now)


def test_two_people_at_one_picture(studio: Application, browser: Browser, tmp_path: Path) -> None:
    una, kai = made_account(studio, "Una"), made_account(studio, "Kai")
    _, made = studio.post("/api/sets", {"name": "Pier"})
    for person in (una, kai):
        body = json.dumps({"right": "work"}).encode()
        status, _ = studio.send("PUT", f"/api/sets/{made['id']}/shares/{person}", body)
        assert status == 200
    content = horizon_file(tmp_path, 1.3).read_bytes()
    _, added = studio.upload(made["id"], "horizon.png", content)
    address = f"{studio.url}/pictures/{added['picture']['id']}"
    contexts = [browser.new_context(viewport=SIZE) for _ in range(2)]
    hers, his = (opened(context, address) for context in contexts)
    for page, name in ((hers, "Una"), (his, "Kai")):
        sign_in(page, name)
        page.wait_for_url(address)
    expect(hers.get_by_text("Also here: Kai")).to_be_visible()
    # What one keeps the other sees by itself.
    turned(his, hers, "ArrowRight")
    turned(hers, his, "ArrowLeft")
    # They may not export, and are told so before they try.
    hers.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    expect(hers.get_by_text(re.compile("for working, not for exporting"))).to_be_visible()
    expect(hers.get_by_role("button", name="Export", exact=True)).to_be_disabled()
    ledger = [
        (one["author"], one["what"])
        for one in studio.send("GET", f"/api{address.removeprefix(studio.url)}/history")[1][
            "entries"
        ]
    ]
    assert [author for author, _ in ledger] == ["", "Kai", "Una"]
    contexts[1].close()
    expect(hers.get_by_text("Also here")).to_have_count(0)
    contexts[0].close()
