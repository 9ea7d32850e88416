"""Today as a person goes: a thing that wants a hand is mended and its line is gone; a board of one's own."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_a_line_leads_to_what_it_counts_and_is_gone_once_that_is_mended(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/today")
    line = page.get_by_role("listitem").filter(has_text="devices have software that is barred")
    number = int(line.locator("b").inner_text())
    line.get_by_role("link", name="See which").click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()

    page.goto("/today")
    line = page.get_by_role("listitem").filter(has_text="loans are overdue")
    line.get_by_role("button", name="Put aside").click()
    page.get_by_role("button", name="Not before tomorrow").click()
    expect(line).to_have_count(0)
    page.get_by_text(re.compile("Put aside: 1")).click()
    page.get_by_role("button", name="Show it again").click()
    expect(line).to_have_count(1)
    assert not complaints


def test_a_card_is_narrowed_kept_moved_taken_off_and_found_again(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/today")
    board = page.get_by_role("region", name=re.compile("^Board"))
    contact = board.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Last in contact"))
    expect(contact).to_contain_text("over 30 days")
    expect(board.get_by_text("Counting …")).to_have_count(0)  # what comes in redraws the board, and closes its menus
    contact.get_by_role("button", name="This card").click()
    page.get_by_role("button", name="Change …").click()
    form = page.get_by_role("dialog")
    form.get_by_label("Question").fill("last_seen < now - 30d")
    form.get_by_label("Divided by").select_option("place")
    form.get_by_label("Title").fill("Silent for a month")
    form.get_by_role("button", name="Save").click()
    expect(page.get_by_text("is a board of your own now")).to_be_visible()
    silent = board.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Silent for a month"))
    expect(silent).to_be_visible()
    part = silent.get_by_role("link").first
    number = part.inner_text()
    part.click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()

    page.goto("/today")
    # By the keys alone: taken up, one to the right, put down.
    silent.get_by_role("button", name="Move Silent for a month").focus()
    page.keyboard.press("Space")
    page.wait_for_timeout(300)
    page.keyboard.press("ArrowRight")
    page.wait_for_timeout(300)
    page.keyboard.press("Space")
    expect(board.get_by_role("heading", level=3).nth(1)).to_have_text("Silent for a month")
    # Pulled by its corner, until it takes the field below it as well.
    corner = silent.get_by_role("button", name=re.compile("^Size of Silent"))
    silent.evaluate("card => card.scrollIntoView({block: 'start'})")
    at = corner.bounding_box()
    assert at
    page.mouse.move(at["x"] + 10, at["y"] + 10)
    page.mouse.down()
    page.mouse.move(at["x"] + 10, at["y"] + 160, steps=5)
    with page.expect_response(lambda r: r.request.method == "PUT" and "/api/boards/" in r.url):
        page.mouse.up()
    expect(corner).to_have_accessible_name(re.compile("1 wide, 2 high"))
    silent.get_by_role("button", name="This card").click()
    with page.expect_download() as file:
        page.get_by_role("button", name="As CSV").click()
    assert "Count" in file.value.path().read_text()
    silent.get_by_role("button", name="This card").click()
    page.get_by_role("button", name="Take it off").click()
    expect(silent).to_have_count(0)
    page.get_by_role("button", name="Drawer").click()
    with page.expect_response(lambda r: r.request.method == "PUT" and "/api/boards/" in r.url):
        page.get_by_role("button", name="Put it up: Silent for a month").click()
    expect(silent).to_be_visible()
    page.reload()
    expect(silent).to_be_visible()
    assert not complaints


def test_a_board_is_shared_with_a_role(page: Page, complaints: list[str]) -> None:
    sign_in(page, "sten", to="/today")
    page.get_by_label("Board", exact=True).select_option("The estate")
    expect(page.get_by_role("heading", name="The estate by kind")).to_be_visible()
    page.get_by_role("button", name="This board").click()
    form = page.get_by_role("dialog")
    form.get_by_label("Name").fill("For the helpdesk")
    form.get_by_role("button", name="Make it mine").click()
    expect(page.get_by_label("Board", exact=True)).to_contain_text("For the helpdesk")
    page.get_by_role("button", name="This board").click()
    form.get_by_label("Seen and changed by").select_option("all")
    form.get_by_label("First board of").select_option("operator")
    form.get_by_role("button", name="Save").click()
    expect(form).to_have_count(0)
    page.context.clear_cookies()
    sign_in(page, "wren", to="/today")
    expect(page.get_by_role("region", name="Board: For the helpdesk")).to_be_visible()
    assert not complaints
