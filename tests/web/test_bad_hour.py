"""Jobs in the services room as people do them: the bad hour, a service from proposal to what stops, an unknown program
made known, a hardware address followed to its port, and any picture as of sixty days ago."""

import datetime as dt
import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_from_an_address_to_the_quiet_connection_to_whom_to_tell(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/services?tab=inquiry")
    page.get_by_label("Look into").fill("10.60.4.22")
    page.keyboard.press("Enter")
    expect(page.get_by_text("is salt-tix-02")).to_be_visible()
    expect(page.get_by_text("salt-tix-02 is not heard talking to salt-db-01:5432 any more")).to_be_visible()
    page.get_by_role("button", name="Why these").click()
    expect(page.get_by_text("somebody it talked to is not heard any more (88)")).to_be_visible()
    beside = page.get_by_role("table", name="Devices side by side")
    talk = beside.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Talk"))
    expect(talk).to_contain_text(re.compile(r"calls salt-db-01:5432 quiet since"))
    page.get_by_role("button", name="+ salt-db-01").click()
    expect(beside.get_by_role("columnheader").filter(has_text="salt-db-01")).to_be_visible()
    tell = beside.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Who to tell"))
    expect(tell.get_by_role("cell").nth(1)).to_contain_text("Ines Kallas")
    expect(tell.get_by_role("cell").nth(1)).to_contain_text("owns Ticketing")

    page.get_by_role("button", name="Note", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What was found or done").fill("The database answers; the pool is to be restarted.")
    dialog.get_by_role("button", name="Note it").click()
    expect(page.get_by_role("region", name="Notes")).to_contain_text("the pool is to be restarted")
    with page.expect_download() as sheet:
        page.get_by_role("link", name="Sheet (HTML)").click()
    text = sheet.value.path().read_text()
    assert "the pool is to be restarted" in text
    assert "salt-tix-02 is not heard talking to salt-db-01:5432 any more" in text

    talk.get_by_role("link", name="salt-db-01").first.click()
    page.wait_for_url("**/assets/*")
    expect(page.get_by_role("heading", name="salt-db-01").first).to_be_visible()
    section = page.get_by_role("region", name="Stands on")
    expect(section).to_contain_text("quiet")
    section.get_by_role("link", name="Look into it").click()
    expect(page.get_by_role("table", name="Devices side by side")).to_contain_text("salt-db-01")
    page.goto("/services?tab=inquiry")
    page.get_by_role("button", name="10.60.4.22, salt-db-01").click()
    expect(page.get_by_role("region", name="Notes")).to_contain_text("the pool is to be restarted")
    assert not complaints


def test_a_service_from_proposal_to_its_members_to_what_stops(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/services")
    proposed = page.get_by_role("region", name="Proposed").get_by_role("row").filter(has_text="Storekeeper")
    expect(proposed).to_contain_text("call salt-store-01 on port 80")
    proposed.get_by_role("button", name="Make it a service").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Devices for which").first).to_have_value("ports[port = 80 and process = storekeeper]")
    dialog.get_by_label("Name").fill("Stores")
    dialog.get_by_label("Owner").fill("Sten Ravell")
    dialog.get_by_label("Back within, in hours").fill("8")
    dialog.get_by_role("button", name="Try the rules").click()
    expect(dialog.get_by_text("comes").first).to_be_visible()
    dialog.get_by_role("button", name="Keep it").click()
    page.wait_for_url(re.compile(r"/services/\d+"))
    expect(page.get_by_role("heading", name="Stores")).to_be_visible()
    members = page.get_by_role("region", name="Members")
    expect(members.get_by_role("row").filter(has_text="salt-store-01")).to_contain_text("listens on 80")
    expect(page.get_by_role("region", name="How it stands")).to_contain_text("it needs salt-store-01 alone")

    members.get_by_role("row").filter(has_text="salt-store-01").get_by_role("button", name="Take out").click()
    dialog.get_by_label("Why").fill("It is being rebuilt.")
    dialog.get_by_role("button", name="Take out").click()
    expect(members).to_contain_text("taken out")
    members.get_by_role("button", name="Leave it to the rules").click()
    expect(members).not_to_contain_text("taken out")

    page.get_by_role("link", name="If its devices stop").click()
    hit = page.get_by_role("list", name="Services that stop or are weakened")
    expect(hit).to_contain_text("Stores")
    expect(hit).to_contain_text("nothing is left of it")
    expect(hit).to_contain_text("back within 8 hours; ask Sten Ravell")
    assert not complaints


def test_an_unknown_program_is_made_known_with_its_instances_and_whom_they_call(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, "ines", to="/services?tab=programs")
    page.get_by_role("button", name=re.compile("rota-feed.jar")).click()
    made = page.get_by_role("region", name="Make it known as")
    expect(made.get_by_label("Name")).to_have_value("Rota feed")
    expect(made).to_contain_text("nothing else fits it")
    expect(page.get_by_role("region", name="Samples").locator("mark").first).to_be_visible()
    made.get_by_label("The rule, as read from its samples").fill("command ~ java")
    made.get_by_role("button", name="Try it").click()
    expect(made).to_contain_text("It fits others as well: label-print")
    made.get_by_label("The rule, as read from its samples").fill("command ~ rota-feed.jar")
    made.get_by_role("button", name="Put in force").click()
    expect(page.get_by_role("button", name=re.compile("rota-feed.jar"))).to_have_count(0)
    page.get_by_role("button", name=re.compile("Known by a rule")).click()
    row = page.get_by_role("row").filter(has_text="Rota feed")
    expect(row).to_contain_text("salt-db-01")
    number = row.get_by_role("cell").nth(2).inner_text()
    row.get_by_role("cell").nth(2).get_by_role("link").click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()
    assert not complaints


def test_a_hardware_address_is_followed_to_its_port(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/estate?q=name = salt-db-01")
    page.get_by_role("link", name="salt-db-01").first.click()
    page.wait_for_url("**/assets/*")
    asset = page.url.rsplit("/", 1)[1].split("?")[0]
    mac = re.search(r"([0-9a-f]{2}:){5}[0-9a-f]{2}", page.request.get(f"/api/assets/{asset}").text())
    assert mac
    page.goto(f'/services?tab=links&q=interfaces[mac = "{mac[0]}"]')
    port = page.get_by_role("button", name=re.compile(r"^salt-sw-0\d port\d+: salt-db-01$"))
    port.focus()
    page.keyboard.press("Enter")
    name = port.get_attribute("aria-label") or ""
    chosen = page.get_by_role("region", name=name.split(":")[0].replace(" ", ", "))
    expect(chosen).to_contain_text("salt-db-01")
    expect(chosen).to_contain_text("address learnt")
    with page.expect_download() as drawn:
        page.get_by_role("button", name="SVG").click()
    assert "salt-sw-0" in drawn.value.path().read_text()
    with page.expect_download() as drawn:
        page.get_by_role("button", name="PNG").click()
    assert drawn.value.path().read_bytes().startswith(b"\x89PNG")
    assert not complaints


@pytest.mark.parametrize("tab", ["links", "subnets", "talk"])
def test_any_picture_is_of_sixty_days_ago_as_well(page: Page, complaints: list[str], tab: str) -> None:
    day = (dt.datetime.now(dt.UTC) - dt.timedelta(days=60)).date().isoformat()
    sign_in(page, "ines", to=f"/services?tab={tab}&at={day}")
    expect(page.get_by_role("table").first).to_be_visible()
    page.get_by_role("button", name="Two days").click()
    expect(page.get_by_text(f"to {day}")).to_be_visible()
    page.goto("/services?tab=between")
    expect(page.get_by_text(re.compile(r"\d+ came, \d+ went, \d+ moved"))).to_be_visible()
    moved = page.get_by_role("row").filter(has_text="salt-build-01")
    expect(moved).to_contain_text("moved")
    expect(moved).to_contain_text("salt-hv-01")
    assert not complaints
