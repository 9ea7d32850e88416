"""What is ordered, received, and ends: an order into assets, a contract's notices in the mailbox, what to decide."""

import re
from datetime import date, timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def day(ahead: int) -> str:
    return (date.today() + timedelta(days=ahead)).isoformat()


def test_an_order_is_received_into_assets_with_a_warranty(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/lifecycle?tab=orders")
    page.get_by_role("button", name="Enter an order").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Number").fill("PO-9001")
    dialog.get_by_label("Supplier").fill("Quayside Hardware")
    dialog.get_by_label("Ordered").fill(day(-10))
    dialog.get_by_label("Maker").fill("Halberd")
    dialog.get_by_label("Model").fill("L16")
    dialog.get_by_label("How many").fill("3")
    dialog.get_by_label("Price of one").fill("985")
    dialog.get_by_role("button", name="Save").click()
    order = page.get_by_role("region", name="Order PO-9001")
    order.get_by_role("button", name="Receive laptop of PO-9001").click()
    dialog.get_by_label("Serial numbers").fill("HLX-90011\nHLX-90012\nhlx-90011")
    dialog.get_by_role("button", name="Receive", exact=True).click()
    expect(dialog.get_by_role("alert")).to_contain_text("HLX-90011 is there twice. Nothing was received.")
    dialog.get_by_label("Serial numbers").fill("HLX-90011\nHLX-90012")
    dialog.get_by_label("Place").fill("Saltholm")
    dialog.get_by_role("button", name="Receive", exact=True).click()
    expect(dialog).not_to_be_visible()
    expect(order.get_by_role("row").nth(1)).to_contain_text(re.compile(r"3\s*2\s*985 EUR"))
    order.get_by_role("link", name="Its assets").click()
    expect(page.get_by_text("2 of ")).to_be_visible()
    page.get_by_role("grid").get_by_role("link").first.click()
    expect(page.get_by_role("region", name="Acquisition")).to_contain_text("985 EUR")
    expect(page.get_by_role("region", name="Acquisition")).to_contain_text("Quayside Hardware")
    assert [c for c in complaints if "422" not in c] == []


def test_a_contract_is_entered_told_of_in_the_mailbox_and_decided(page: Page, complaints: list[str]) -> None:
    """44 days before its end the notices of 90 and 45 days are due; the watch that ships writes them."""
    sign_in(page, "piet", to="/lifecycle")
    page.get_by_role("button", name="Enter a contract").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Scanner upkeep")
    dialog.get_by_label("Provider").fill("Quarto Imaging")
    dialog.get_by_label("Begins").fill(day(-300))
    dialog.get_by_label("First term ends").fill(day(44))
    dialog.get_by_label("Goes on by, months").fill("12")
    dialog.get_by_label("Notice, days before the end").fill("20")
    dialog.get_by_label("Covers the devices that answer").fill("kind = scaner")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Did you mean scanner?")
    dialog.get_by_label("Covers the devices that answer").fill("kind = scanner")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Scanner upkeep")).to_be_visible()
    expect(page.get_by_text(re.compile(r"notice by .*, 24 days"))).to_be_visible()

    page.goto("/reports?tab=watches")
    watch = page.get_by_role("listitem").filter(has_text="What ends").or_(
        page.locator("section, article, li").filter(has_text="Notices of what ends")
    ).last  # fmt: skip
    watch.get_by_role("button", name="Send it to me").click()
    page.goto("/reports?tab=mailbox")
    page.get_by_text("What ends").first.click()
    letter = page.locator("main")
    expect(letter).to_contain_text("Scanner upkeep")
    expect(letter).to_contain_text("90")
    expect(letter).to_contain_text("45")

    page.goto("/lifecycle?tab=contracts")
    page.get_by_role("link", name="Scanner upkeep").click()
    page.get_by_role("button", name="Decide").click()
    dialog.get_by_label("It is").select_option("let go")
    dialog.get_by_label("Why").fill("The new ones come with it")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text("piet decided to let go: The new ones come with it")).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []
