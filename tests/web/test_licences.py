"""A licence from purchase through keys, assignment, over-use and cure to a position as of a past day with its why."""

import re
from datetime import date, timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def day(ago: int) -> str:
    return (date.today() - timedelta(days=ago)).isoformat()


def test_a_licence_from_purchase_to_a_past_position_with_its_why(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/licences")
    row = page.get_by_role("row").filter(has_text="ostler-client")
    expect(row).to_contain_text(re.compile(r"\d+ short"))
    expect(row).to_contain_text("no price")
    page.get_by_role("button", name="Enter a licence").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Ostler client, by activation")
    dialog.get_by_label("Covers", exact=True).fill("ostler-client")
    dialog.get_by_label("Counted by").select_option("activation")
    dialog.get_by_label("Begins").fill("2026-05-01")
    dialog.get_by_label("Ends").fill("2026-04-01")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("ends before it begins")
    dialog.get_by_label("Begins").fill("")
    dialog.get_by_label("Ends").fill("")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Ostler client, by activation")).to_be_visible()

    page.get_by_role("button", name="Add a purchase").click()
    dialog.get_by_label("Day").fill(day(60))
    dialog.get_by_label("How many").fill("3")
    dialog.get_by_label("Price of one").fill("80.005")
    dialog.get_by_role("button", name="Add").click()
    expect(dialog.get_by_role("alert")).to_contain_text("finer than EUR goes")
    dialog.get_by_label("Price of one").fill("80")
    dialog.get_by_role("button", name="Add").click()
    expect(page.get_by_role("region", name="Who draws on it").get_by_role("row")).to_have_count(4)

    page.get_by_role("button", name="Add keys").click()
    dialog.get_by_label("Keys").fill("OST-AAAA-00001; OST-BBBB-00002\nost-aaaa-00001")
    dialog.get_by_label("Activations a key").fill("1")
    dialog.get_by_role("button", name="Add").click()
    expect(page.get_by_text("keys 1 and 3")).to_be_visible()
    expect(dialog).not_to_be_visible()

    page.get_by_role("link", name="Licences", exact=True).first.click()
    page.get_by_role("button", name="Keys", exact=True).click()
    entered = page.get_by_role("row").filter(has_text="Ostler client, by activation").first
    expect(entered).to_contain_text("0 of 1")
    page.get_by_role("button", name="Show the key that ends in 01").click()
    expect(page.get_by_text("OST-AAAA-00001")).to_be_visible()

    page.get_by_role("button", name="Positions", exact=True).click()
    row.get_by_role("button", name="ostler-client").click()
    why = page.get_by_role("complementary", name=re.compile("Why ostler-client is"))
    expect(why).to_contain_text("all 3 are taken")
    expect(why).to_contain_text(re.compile(r"Buy \d+ at 80 EUR"))
    short = int(re.search(r"(\d+) short", row.inner_text())[1])  # type: ignore[index]
    why.get_by_role("button", name=re.compile("Say of")).first.click()
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("an auditor will ask")
    dialog.get_by_label("Why").fill("test bench")
    dialog.get_by_role("button", name="Save").click()
    expect(row).to_contain_text(f"{short - 1} short")
    expect(why).to_contain_text("1 exempt: test bench")

    page.goto(f"/licences?at={day(90)}")
    expect(row).to_contain_text("activation")
    row.get_by_role("button", name="ostler-client").click()
    expect(why).to_contain_text("1 purchases are dated after this day and do not count")
    expect(why).not_to_contain_text("exempt")
    assert [c for c in complaints if "422" not in c] == []


def test_a_key_that_is_on_more_devices_than_it_may_be_is_named(page: Page, complaints: list[str]) -> None:
    """The key that many computers share is read on one's page and entered for five."""
    sign_in(page, "piet", to="/licences?tab=keys")
    shared = page.get_by_role("row").filter(has_text="Corvid Protect").filter(has_text="on two devices or more")
    expect(shared).to_contain_text("found, not entered")
    tail = re.search(r"… (\S+)", shared.inner_text())[1]  # type: ignore[index]
    shared.get_by_role("link", name=re.compile("-pc-|-win-|-nb-")).first.click()
    key = page.get_by_text(re.compile(rf"(?:\w{{5}}-){{3}}\w*{tail}")).first.inner_text()
    page.goto("/licences?tab=owned")
    page.get_by_role("link", name="Corvid Protect", exact=True).click()
    page.get_by_role("button", name="Add keys").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Keys").fill(key)
    dialog.get_by_label("Activations a key").fill("5")
    dialog.get_by_role("button", name="Add").click()
    expect(dialog).not_to_be_visible()
    page.goto("/licences?tab=keys")
    expect(page.get_by_role("row").filter(has_text=tail)).to_contain_text(re.compile(r"over-used: on \d+ of at most 5"))
    assert complaints == []
