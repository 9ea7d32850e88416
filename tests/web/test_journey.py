"""From sign-in to dossier, as a person goes: sweep, watch, decide, ask, open, turn the dial."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import Demo, sign_in

pytestmark = pytest.mark.browser


def ask(page: Page, text: str) -> None:
    """Type a filter and ask it."""
    page.wait_for_selector("[data-ask-line] .cm-content")
    line = page.get_by_label("Ask the register")
    line.click()
    page.keyboard.press("Control+a")
    page.keyboard.type(text)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Ask", exact=True).click()


def test_from_sign_in_to_dossier(page: Page, complaints: list[str]) -> None:
    sign_in(page)
    page.get_by_role("link", name=re.compile("Discovery")).click()
    card = page.get_by_role("article").filter(has_text="Saltholm and Port Averne")
    expect(card).to_contain_text("harbour-linux")
    card.get_by_role("button", name="Start now").click()

    page.wait_for_url("**/discovery/runs/*")
    expect(page.get_by_text("being looked at").first).to_be_visible()
    expect(page.get_by_role("link", name="Decide at intake")).to_be_visible(timeout=60_000)
    head_office = page.get_by_label("10.60.5.0/24 Saltholm head office")
    expect(head_office).to_contain_text("65 found")
    row = page.get_by_role("row").filter(has_text="10.60.5.35")
    expect(row).to_contain_text("SSH refused the sign-in with “harbour-linux”")
    expect(row).to_contain_text("Check the name and the secret")

    page.get_by_role("link", name="Decide at intake").click()
    kiosks = page.get_by_role("region", name="Kiosks at Port Averne")
    expect(kiosks).to_contain_text("avrn-kiosk-17")
    kiosks.get_by_label("Choose avrn-kiosk-15").uncheck()
    kiosks.get_by_role("button", name="Adopt 3").click()
    expect(page.get_by_text("3 devices adopted into the register.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Undone.")).to_be_visible()
    expect(kiosks.get_by_role("button", name="Adopt 4")).to_be_visible()
    kiosks.get_by_label("Choose avrn-kiosk-15").uncheck()
    kiosks.get_by_role("button", name="Adopt 3").click()
    expect(kiosks).not_to_be_visible()
    left = page.get_by_role("region", name="avrn-kiosk-15")
    left.get_by_role("button", name="Set aside").click()
    page.get_by_label("Why").fill("Belongs to the harbour trust")
    page.get_by_role("dialog").get_by_role("button", name="Set aside").click()
    expect(left).not_to_be_visible()

    page.get_by_role("link", name="Estate").click()
    ask(page, "kind = kiosk and software[name = tixline-kiosk] and name ~ kiosk-1")
    expect(page.get_by_text("assets whose kind is kiosk, with some piece of software")).to_be_visible()
    grid = page.get_by_role("grid", name="Register")
    expect(grid.get_by_role("link", name="avrn-kiosk-17")).to_be_visible()
    expect(grid.get_by_role("link", name="avrn-kiosk-15")).to_have_count(0)
    grid.get_by_role("link", name="avrn-kiosk-17").click()

    expect(page.get_by_role("heading", name="avrn-kiosk-17")).to_be_visible()
    page.get_by_role("button", name=re.compile("Why kind")).click()
    expect(page.get_by_text("says ines")).to_be_visible()
    history = page.get_by_role("region", name="History")
    expect(history).to_contain_text("intake → register")
    assert complaints == []


def test_what_changed_since_the_last_sweep_and_the_past(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/estate?q=name+%3D+salt-berth-01")
    page.get_by_role("grid").get_by_role("link", name="salt-berth-01").click()
    expect(page.get_by_role("heading", name="salt-berth-01")).to_be_visible()
    history = page.get_by_role("region", name="History")
    expect(history.get_by_role("row").filter(has_text="Berthwright Planner").first).to_contain_text("7.4")
    hardware = page.get_by_role("region", name="Hardware and system")
    expect(hardware).to_contain_text("32 GB")
    page.get_by_role("slider", name="Drag to see it as it was").focus()
    for _ in range(3):
        page.keyboard.press("PageDown")
    expect(page.get_by_role("button", name=re.compile("^as of "))).to_be_visible()
    expect(hardware).to_contain_text("16 GB")
    expect(page.get_by_role("button", name="Assign or correct")).not_to_be_visible()
    page.go_back()
    page.go_back()
    page.go_back()
    expect(hardware).to_contain_text("32 GB")
    assert complaints == []


def test_narrowing_is_in_the_address_bar(signed_in: Page) -> None:
    page = signed_in
    strata = page.get_by_role("region", name="Strata")
    strata.get_by_role("button", name=re.compile("^Saltholm")).click()
    page.wait_for_url("**q=place*")
    strata.get_by_role("button", name=re.compile("^Server")).click()
    expect(page.get_by_text("assets whose place is Saltholm and whose kind is server")).to_be_visible()
    page.go_back()
    expect(page.get_by_text("assets whose place is Saltholm.")).to_be_visible()
    strata.get_by_role("button", name=re.compile("^Saltholm")).click()
    expect(page.get_by_text("in the register")).to_be_visible()
    strata.get_by_role("button", name=re.compile("^Kiosk")).click(modifiers=["Alt"])
    expect(page.get_by_text("not (whose kind is kiosk)")).to_be_visible()


def test_a_wrong_filter_says_where_and_offers_the_right_word(signed_in: Page) -> None:
    page = signed_in
    ask(page, "knid = server")
    expect(page.get_by_role("alert")).to_contain_text("There is no field “knid”")
    page.get_by_role("button", name="Use kind").click()
    expect(page.get_by_text("assets whose kind is server")).to_be_visible()


def test_the_keyboard_alone(signed_in: Page) -> None:
    page = signed_in
    expect(page.get_by_role("row").nth(3)).to_be_visible()
    page.keyboard.press("a")
    page.keyboard.type("name ~ salt-tix", delay=20)
    page.keyboard.press("Escape")
    page.keyboard.press("Enter")
    expect(page.get_by_text("2 of ")).to_be_visible()
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Space")
    expect(page.get_by_label("Peek").get_by_text("salt-tix-02")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="salt-tix-02")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()


def test_columns_are_chosen_and_remembered_and_the_selection_exported(signed_in: Page) -> None:
    page = signed_in
    ask(page, "kind = server")
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Serial number").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("columnheader", name="Serial number")).to_be_visible()
    page.reload()
    expect(page.get_by_role("columnheader", name="Serial number")).to_be_visible()
    page.get_by_role("columnheader", name="Memory").get_by_role("button").click()
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as started:
        page.get_by_role("link", name="CSV").click()
    lines = started.value.path().read_text().splitlines()
    assert "Serial number" in lines[0]
    assert len(lines) == 1 + int(page.get_by_text(re.compile(r"^\d+ of ")).inner_text().split()[0])


def test_a_viewer_looks_and_changes_nothing(page: Page) -> None:
    sign_in(page, "oona", "/discovery")
    expect(page.get_by_role("heading", name="Discovery")).to_be_visible()
    expect(page.get_by_role("button", name="Start now")).to_have_count(0)
    expect(page.get_by_role("button", name="New credential")).to_have_count(0)
    page.goto("/discovery/intake")
    expect(page.get_by_role("heading", name="Intake")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Adopt"))).to_have_count(0)


def test_a_wrong_password_is_refused_in_words(page: Page, demo: Demo) -> None:
    page.goto("/estate?q=kind+%3D+server")
    page.wait_for_url("**/sign-in*")
    page.get_by_label("Name").fill("wren")
    page.get_by_label("Password").fill("wrong")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("not right")
    page.get_by_label("Password").fill("low-water-wren")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_text("assets whose kind is server")).to_be_visible()


def test_a_new_sweep_and_credential_are_checked_while_typed(signed_in: Page) -> None:
    page = signed_in
    page.goto("/discovery")
    page.get_by_role("button", name="New sweep").click()
    page.get_by_label("Name").fill("Workshop")
    page.get_by_label("Ranges").fill("10.60.4.1/24")
    expect(page.get_by_text("did you mean 10.60.4.0/24")).to_be_visible()
    page.get_by_label("Ranges").fill("10.60.30.1-10.60.30.20")
    expect(page.get_by_text("20 addresses from 10.60.30.1 to 10.60.30.20")).to_be_visible()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Workshop")).to_be_visible()
    page.get_by_role("button", name="New network").click()
    page.get_by_label("Range", exact=True).fill("10.60.30.0/24")
    page.get_by_label("Name").fill("Workshop floor")
    page.get_by_label("Never probe it").check()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("row").filter(has_text="Workshop floor")).to_contain_text("never probe")
    page.get_by_role("button", name="New credential").click()
    page.get_by_label("Name").fill("slipway")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("user name")
    page.get_by_label("User").fill("reader")
    page.get_by_label("Password", exact=True).fill("ebb-and-flow-9")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("cell", name="slipway", exact=True)).to_be_visible()


def test_a_holder_is_assigned_and_taken_back(signed_in: Page) -> None:
    page = signed_in
    page.goto("/estate?q=name+%3D+salt-store-01")
    page.get_by_role("grid").get_by_role("link", name="salt-store-01").click()
    page.get_by_role("button", name="Assign or correct").click()
    page.get_by_label("Holder").fill("Una Skerry")
    page.get_by_role("button", name="Save").click()
    people = page.get_by_role("region", name="People and place")
    expect(people).to_contain_text("Una Skerry")
    page.get_by_role("button", name="Undo").click()
    expect(people).not_to_contain_text("Una Skerry")
