"""Exposure as a person goes: a feed's document arrives, it touches us, why, what to do first, what is none and accepted."""

import json
import re
from datetime import date, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests import advisories as made
from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser
NAME = "CVE-2026-99400900"


def told(path: Path) -> Path:
    """Write a notice that touches every till of Gannet Linux."""
    below = [{"introduced": "0"}, {"fixed": "99-1"}]
    package = {"ecosystem": "Gannet Linux:4", "name": "secure-shell-server"}
    notice = made.osv("GNT-900", package=package, events=below, aliases=[NAME], summary="the till may be opened")
    path.write_text(json.dumps([notice, {"id": "no date"}]))
    return path


def test_a_notice_arrives_touches_us_and_is_followed_to_its_end(
    page: Page, context: BrowserContext, complaints: list[str], tmp_path: Path
) -> None:
    sign_in(page, "piet", to="/exposure/feeds")
    page.get_by_label("A file of documents").set_input_files(told(tmp_path / "gannet.json"))
    expect(page.get_by_text("2 documents read: 1 new, 0 changed, 1 refused.")).to_be_visible(timeout=30_000)
    page.get_by_role("link", name="By hand").click()
    page.get_by_text("1 thing refused or left aside").click()
    expect(page.get_by_text("it is of no format we read")).to_be_visible()

    page.goto("/exposure?tab=advisories")
    row = page.get_by_role("row").filter(has_text=NAME)
    expect(row).to_contain_text("the till may be opened")
    devices = int(row.get_by_role("cell").nth(3).inner_text())
    assert devices > 10
    row.get_by_role("link", name=NAME).click()
    expect(page.get_by_text(re.compile("below 99-1 in the distribution's own order")).first).to_be_visible()
    expect(page.get_by_text("GNT-900").first).to_be_visible()
    page.get_by_role("link", name=f"{devices} devices").first.click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{devices} of "))).to_be_visible()

    page.goto("/exposure")
    page.get_by_role("button", name=re.compile("Update secure-shell-server to")).click()
    expect(page.get_by_role("complementary")).to_contain_text("Why secure-shell-server comes")

    page.goto("/reports?tab=mailbox")
    expect(page.get_by_text("A new advisory touches us").first).to_be_visible(timeout=150_000)

    page.goto(f"/exposure/advisories/{NAME}")
    page.get_by_role("button", name="Not affected").first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("How far it goes").select_option("product")
    dialog.get_by_label("In your own words").fill("The tills have no shell that answers.")
    dialog.get_by_role("button", name="Say so").click()
    expect(page.get_by_text("No device is open to it.")).to_be_visible()
    expect(page.get_by_text("The tills have no shell that answers.").first).to_be_visible()
    page.get_by_role("button", name="Take back").click()
    expect(page.get_by_text("are open to it.")).to_be_visible()

    page.get_by_role("button", name="Accept for a while").click()
    dialog.get_by_label("Why").fill("They are exchanged in spring.")
    dialog.get_by_label("Until").fill((date.today() + timedelta(days=120)).isoformat())
    dialog.get_by_role("button", name="Accept").click()
    expect(page.get_by_text("No device is open to it.")).to_be_visible()
    page.goto("/exposure?tab=accepted")
    accepted = page.get_by_role("row").filter(has_text=NAME)
    expect(accepted).to_contain_text("They are exchanged in spring.")
    accepted.get_by_role("button", name="Take back").click()
    expect(accepted).to_contain_text("taken back")

    assert complaints == []


def test_a_feed_is_tested_and_read_over_the_wire_and_the_past_stays_told(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/exposure/feeds")
    page.get_by_role("link", name="Register of vulnerabilities").click()
    page.get_by_role("button", name="Test").click()
    expect(page.get_by_text(re.compile("documents looked at"))).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Read now").click()
    expect(page.get_by_role("region", name="Readings").get_by_text("done")).to_have_count(2, timeout=60_000)
    page.goto("/exposure/advisories/CVE-2026-99350002")
    expect(page.get_by_text("No device is open to it.")).to_be_visible()
    expect(page.get_by_text("withdrawn").first).to_be_visible()
    week = (date.today() - timedelta(days=45)).isoformat()
    page.goto(f"/exposure/advisories/CVE-2026-99350002?at={week}")
    expect(page.get_by_text("open to it.")).to_be_visible()
    expect(page.get_by_role("button", name="Not affected")).to_have_count(0)
    page.goto(f"/exposure?at={week}")
    expect(page.get_by_text("advisories touch")).to_be_visible()
    assert complaints == []


def test_a_product_is_told_what_it_is_called_outside(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/exposure?tab=names")
    mail = page.get_by_role("row").filter(has_text="merlin-mail")
    expect(mail).to_contain_text("95 % alike, 1 advisory.")
    mail.get_by_role("button", name="It is this one").click()
    page.get_by_role("button", name="Said by a person 1").click()
    expect(mail).to_contain_text("said piet")

    page.goto("/exposure/advisories/CVE-2026-99370001")
    expect(page.get_by_role("row").filter(has_text="merlin-mail").first).to_contain_text("fixed")

    page.goto("/exposure?tab=names")
    page.get_by_role("button", name="Said by a person 1").click()
    mail.get_by_role("button", name="Take back").click()
    page.get_by_role("button", name="With a proposal").click()
    mail.get_by_role("button", name="Name it").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Its name outside").fill("pkg:")
    dialog.get_by_role("button", name="Name it").click()
    expect(dialog.get_by_text("is no package URL")).to_be_visible()
    dialog.get_by_label("Its name outside").fill("cpe:2.3:a:nortquill:merlin_mail:*:*:*:*:*:*:*:*")
    dialog.get_by_role("button", name="Name it").click()
    page.get_by_role("button", name="Said by a person 1").click()
    mail.get_by_role("button", name="Nobody knows it").click()
    expect(mail).to_contain_text("nobody knows it")
    assert [c for c in complaints if "422" not in c] == []
