"""Steps, hand-overs, cover, the refresh plan and money, gone through as users do."""

import re
from datetime import date, timedelta

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.web.conftest import Demo, sign_in

pytestmark = pytest.mark.browser


def day(ahead: int) -> str:
    return (date.today() + timedelta(days=ahead)).isoformat()


def test_a_loan_from_the_dossier_is_acknowledged_through_its_link_and_taken_back(
    page: Page, browser: Browser, demo: Demo, complaints: list[str]
) -> None:
    sign_in(page, "wren", to="/estate?q=name+%3D+salt-nb-04")
    page.get_by_role("grid").get_by_role("link", name="salt-nb-04").click()
    # The register has a button of the same name, and stands until the page has been loaded.
    expect(page.get_by_role("button", name="Assign or correct")).to_be_visible()
    page.get_by_role("button", name="Take a step").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Step").select_option("lend")
    dialog.get_by_role("button", name="Lend").click()
    expect(dialog.get_by_role("alert")).to_contain_text("“lend” needs who gets it")
    dialog.get_by_label("Person").fill("Asa Tolland")
    dialog.get_by_label("Back by").fill(day(-1))
    dialog.get_by_role("button", name="Lend").click()
    expect(dialog.get_by_role("alert")).to_contain_text("is over; say a day to come")
    dialog.get_by_label("Back by").fill(day(14))
    dialog.get_by_role("button", name="Lend").click()
    link = dialog.get_by_text(re.compile("/acknowledge/")).inner_text()
    dialog.get_by_role("button", name="Done").click()
    life = page.get_by_role("region", name="Life")
    expect(life).to_contain_text("In the hands of Asa Tolland")
    expect(life).to_contain_text("not acknowledged yet")

    # Whoever received it has no sign-in.
    stranger = browser.new_context(base_url=demo.url).new_page()
    stranger.goto(link)
    expect(stranger.get_by_role("heading", name="Have you received this?")).to_be_visible()
    stranger.get_by_label("Your name").fill("Asa Tolland")
    stranger.get_by_role("button", name="I have received it").click()
    expect(stranger.get_by_text("Asa Tolland has acknowledged this.")).to_be_visible()
    stranger.goto(link + "x")
    expect(stranger.get_by_role("alert")).to_contain_text("There is nothing to acknowledge here")
    stranger.context.close()

    page.goto("/lifecycle?tab=hand-overs")
    row = page.get_by_role("row").filter(has_text="salt-nb-04")
    expect(row).to_contain_text("Asa Tolland")
    row.get_by_role("button", name="Take back salt-nb-04").click()
    dialog.get_by_label("Condition").fill("a scratch on the lid")
    dialog.get_by_role("button", name="Take back").click()
    expect(row).to_have_count(0)
    page.goto("/estate?q=name+%3D+salt-nb-04+and+state+%3D+%22in+stock%22")
    expect(page.get_by_text("1 of ")).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []


def test_replace_rather_than_mend_is_a_filter_and_cover_is_put_before_the_person(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, to="/estate?q=warranty.end+%3C+today+and+tickets.open+%3E+0")
    expect(page.get_by_text(re.compile(r"^\d+ of \d+ assets$"))).to_be_visible()
    page.get_by_role("grid").get_by_role("link").first.click()
    expect(page.get_by_role("region", name=re.compile("^Tickets, "))).to_contain_text("SD-")
    link = page.get_by_role("link", name=re.compile("^SD-")).first
    assert (link.get_attribute("href") or "").startswith("http://desk.skerrivane.example/tickets/SD-")
    page.get_by_role("button", name="Take a step").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Step").select_option("send to repair")
    expect(dialog.get_by_role("status")).to_contain_text("Out of cover since")
    dialog.get_by_role("button", name="Leave").click()
    page.goto("/reports/replace")
    expect(page.get_by_role("heading", name="Replace rather than mend")).to_be_visible()
    expect(page.get_by_role("row").nth(1)).to_be_visible()
    assert complaints == []


def test_the_refresh_plan_is_drawn_anew_for_another_budget_and_kept_beside_the_first(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, "piet", to="/lifecycle?tab=refresh")
    page.get_by_role("button", name="As the budget stands").click()
    quarters = page.get_by_role("region", name="By quarter")
    expect(quarters.get_by_role("listitem")).to_have_count(8)
    expect(quarters.get_by_title("Budget 18,000")).to_have_count(8)
    before = quarters.inner_text()
    page.get_by_label("Budget a quarter").fill("6000")
    expect(quarters.get_by_title("Budget 6,000")).to_have_count(8)
    expect(page.get_by_text("otherwise than in “As the budget stands”")).to_be_visible()
    assert quarters.inner_text() != before
    for item in quarters.get_by_role("listitem").all():
        spent = item.locator("b").inner_text().replace(",", "")
        assert int(spent) <= 6000
    expect(page.get_by_role("region", name="Device by device")).to_contain_text("months of life, bought in")
    page.get_by_role("button", name="Keep this scenario").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog.get_by_role("alert")).to_contain_text("There is a scenario “As the budget stands” already")
    dialog.get_by_label("Name").fill("Six thousand a quarter")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog).not_to_be_visible()
    beside = page.get_by_role("row").filter(has_text="Six thousand a quarter")
    expect(beside).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="As the budget stands")).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []


def test_book_values_follow_a_rule_and_say_why(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/lifecycle?tab=money&q=kind+%3D+server")
    expect(page.get_by_text("EUR book value")).to_be_visible()
    rules = page.get_by_role("region", name="How it is written down")
    rules.get_by_role("button", name="Change Servers and virtual hosts").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Useful life, months").fill("0")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("A useful life is 1 to 1200 months, not 0")
    dialog.get_by_label("Useful life, months").fill("48")
    dialog.get_by_label("Method").select_option("straight line")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).not_to_be_visible()
    page.get_by_role("region", name="Device by device").get_by_role("link", name="salt-berth-01").click()
    money = page.get_by_role("region", name="Money")
    expect(money).to_contain_text("Worth")
    money.get_by_text(re.compile("^Why: 5,200 over 48 months")).click()
    expect(money).to_contain_text("Straight line, by full month")
    expect(money).to_contain_text("by the rule “Servers and virtual hosts”", ignore_case=True)
    page.goto("/estate?q=kind+%3D+server&tab=money")
    expect(page.get_by_role("region", name="By department")).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []


def test_what_is_short_is_put_right_by_steps_and_hiring_is_reckoned(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/licences?tab=remedy")
    expect(page.get_by_role("listitem").filter(has_text="Buy 20 of “Grebe database”")).to_contain_text("15,500 EUR")
    page.get_by_role("button", name="Warnings", exact=True).click()
    expect(page.get_by_role("row").filter(has_text="Pellucid Reader, yearly")).to_contain_text("renew fewer")
    page.get_by_role("button", name="Idle", exact=True).click()
    expect(page.get_by_role("row").nth(1)).to_contain_text(re.compile("not used for|has left"))
    page.get_by_role("button", name="Next year", exact=True).click()
    hiring = page.get_by_role("region", name="If a department hires")
    hiring.get_by_label("Department").fill("Nowhere")
    hiring.get_by_role("button", name="Reckon").click()
    expect(hiring.get_by_role("alert")).to_contain_text("Nobody of “Nowhere” has a device")
    hiring.get_by_label("Department").fill("Ticketing")
    hiring.get_by_role("button", name="Reckon").click()
    expect(hiring).to_contain_text("12 newcomers in Ticketing")
    assert [c for c in complaints if "422" not in c] == []
