"""What stands on what as a person goes: a single point, what falls with it, where it is plugged in, what is noise."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def days_ago(days: int) -> str:
    """The day so many days ago."""
    return f"{datetime.now(UTC) - timedelta(days=days):%Y-%m-%d}"


def test_from_a_single_point_to_what_falls_and_to_the_way_back(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/services?tab=singles")
    row = page.get_by_role("row").filter(has=page.get_by_role("link", name="salt-db-01", exact=True))
    stop = row.get_by_role("cell").nth(4).inner_text()
    row.get_by_role("cell").nth(4).get_by_role("link").click()
    expect(page.get_by_text("If salt-db-01 stops")).to_be_visible()
    devices = page.get_by_role("table", name="What stops and what is weakened")
    falls = devices.get_by_role("row").filter(has_text="over port 5432").filter(has_text="stops")
    expect(falls).to_have_count(int(stop))
    expect(page.get_by_role("region", name="Bringing it back").get_by_role("listitem").first).to_have_text("salt-db-01")
    programs = page.get_by_role("table", name="Programs that stop or are weakened")
    expect(programs.get_by_role("row").filter(has_text="it runs on salt-db-01")).to_contain_text("grebe")
    programs.get_by_role("link", name="tixline").first.click()
    expect(page.get_by_text(re.compile("If tixline on salt-tix-0"))).to_be_visible()
    expect(page.get_by_text("Ticketing").first).to_be_visible()
    page.go_back()
    weakened = page.get_by_text(re.compile(r"(is|are) weakened")).get_by_role("link")
    number = weakened.inner_text()
    weakened.click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()

    page.goto("/estate?q=name = salt-db-01")
    page.get_by_role("link", name="salt-db-01").first.click()
    section = page.get_by_role("region", name="Stands on")
    expect(section).to_contain_text("plugged into")
    expect(section).to_contain_text("talks to, port 5432")
    section.get_by_role("link", name="If it stops").click()
    expect(page.get_by_text("If salt-db-01 stops")).to_be_visible()
    assert not complaints


def test_from_an_address_to_the_port_it_is_plugged_into(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/services?tab=links")
    page.get_by_role("textbox").first.fill("name = salt-db-01")
    page.keyboard.press("Enter")
    row = page.get_by_role("row").filter(has_text="salt-db-01").filter(has_text="address learnt")
    expect(row).to_have_count(1)
    expect(row).to_contain_text(re.compile(r"salt-sw-0\d"))
    expect(row).to_contain_text(re.compile(r"port\d+"))
    assert not complaints


def test_talk_said_to_be_noise_is_left_out_until_it_counts_again(page: Page, complaints: list[str]) -> None:
    asked = "/services?tab=stops&q=name = salt-db-01"
    sign_in(page, "piet", to=asked)
    crew = page.get_by_role("row").filter(has_text="its crewroster talks to grebe on salt-db-01")
    expect(crew.first).to_be_visible()
    page.goto("/services?tab=noise")
    page.get_by_role("button", name="Say what is noise").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Port").fill("70000")
    dialog.get_by_label("Why").fill("The roster carries on by paper.")
    dialog.get_by_role("button", name="Leave it out").click()
    expect(dialog).to_contain_text("70000 is no port: 1 to 65,535.")
    dialog.get_by_label("Port").fill("")
    dialog.get_by_label("Process").fill("crewroster")
    dialog.get_by_role("button", name="Leave it out").click()
    said = page.get_by_role("row").filter(has_text="The roster carries on by paper.")
    expect(said).to_be_visible()
    page.goto(asked)
    expect(page.get_by_text("If salt-db-01 stops")).to_be_visible()
    expect(crew).to_have_count(0)
    page.goto("/services?tab=noise")
    said.get_by_role("button", name="Have it count again").click()
    expect(said).to_have_count(0)
    page.goto(asked)
    expect(crew.first).to_be_visible()
    assert not [said for said in complaints if "422" not in said]  # the port that is none


def test_both_plugs_in_one_source_are_seen_and_mended_and_the_past_stays_told(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, "ines", to="/services?tab=racks")
    row = page.get_by_role("row").filter(has_text="salt-store-01")
    expect(row).to_contain_text("both plugs in one source")
    row.get_by_role("link", name="salt-store-01").click()
    page.get_by_role("button", name="Assign or correct").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Rack", exact=True)).to_have_value("Room 1, rack 2")
    dialog.get_by_label("Lowest height unit").fill("a dozen")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).to_contain_text(re.compile("integer|number", re.IGNORECASE))
    dialog.get_by_label("Lowest height unit").fill("12")
    dialog.get_by_label("Fed by").fill("salt-pdu-02 outlet 24")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).not_to_be_visible()
    page.goto("/services?tab=racks&q=name = salt-store-01")
    expect(row).to_contain_text("salt-pdu-02 outlet 24")
    expect(row).not_to_contain_text("both plugs")
    page.goto("/services?tab=stops&q=name = salt-pdu-01")
    expect(page.get_by_role("row").filter(has_text="salt-store-01").first).to_contain_text("weakened")
    page.goto(f"/services?tab=racks&at={days_ago(60)}")
    expect(row).to_contain_text("both plugs in one source")
    assert not [said for said in complaints if "422" not in said]


def test_a_certificate_that_ends_soon_leads_to_the_service_it_would_stop(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/services?tab=certificates")
    row = page.get_by_role("row").filter(has_text="salt-tix-02:443")
    expect(row).to_contain_text(re.compile("in 1[12] days"))
    expect(row).to_contain_text("Skerrivane servers authority, and Skerrivane root of trust above")
    row.get_by_role("link", name="Ticketing").click()
    expect(page.get_by_text("If salt-tix-02 stops")).to_be_visible()
    expect(page.get_by_text("Ticketing").first).to_be_visible()
    assert not complaints
