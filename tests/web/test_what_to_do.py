"""What is open is ended as a person does it: a task and the next reading; a rule of our own; given, refused, accepted
until it runs out; graded otherwise; handed on and read back."""

import re
import sqlite3
import time
from datetime import date, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import Demo, sign_in

pytestmark = pytest.mark.browser
ASKED = "/exposure?q=name+%3D+salt-berth-01"


def test_a_change_is_made_by_a_task_and_the_next_reading_ends_it(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to=ASKED)
    change = page.get_by_role("button", name=re.compile("^Update bosun-tools to"))
    change.click()
    panel = page.get_by_role("complementary")
    expect(panel).to_contain_text("1 device, 1 can be done from here.")
    panel.get_by_role("button", name="Make it a task").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("apt-get install --only-upgrade bosun-tools")
    dialog.get_by_label("Why").fill("what to do first")
    dialog.get_by_role("button", name="Run on 1 device").click()
    page.wait_for_url("**/tasks/*")
    expect(page.get_by_text(re.compile("bosun-tools .* →"))).to_be_visible(timeout=120_000)
    page.goto(ASKED)
    expect(page.get_by_role("table")).to_be_visible()
    expect(change).to_have_count(0)
    page.goto("/exposure?tab=promises&q=name+%3D+salt-berth-01")
    page.get_by_role("button", name=re.compile("ended late")).first.click()
    expect(page.get_by_role("region", name="Findings that ended")).to_contain_text("updated")
    assert complaints == []


def test_a_rule_of_our_own_finds_is_given_accepted_until_it_runs_out(
    page: Page, demo: Demo, complaints: list[str]
) -> None:
    sign_in(page, "piet", to="/exposure?tab=own")
    page.get_by_role("button", name="New rule").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("A camera without a place")
    dialog.get_by_label("What fits is a finding").fill("kind = camera and plase = none")
    dialog.get_by_role("button", name="Try it").click()
    expect(dialog.get_by_text("Did you mean place?")).to_be_visible()
    dialog.get_by_label("What fits is a finding").fill("kind = camera and address != none")
    dialog.get_by_role("button", name="Try it").click()
    found = dialog.get_by_text(re.compile(r"It finds \d+ devices"))
    expect(found).to_be_visible()
    number = int(re.search(r"It finds (\d+)", found.inner_text())[1])  # type: ignore[index]
    dialog.get_by_label("It asks for").select_option("this week")
    dialog.get_by_label("… what").fill("cameras by the book")
    dialog.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="Made here 1").click()
    row = page.get_by_role("row").filter(has_text="A camera without a place")
    row.get_by_role("link", name=str(number)).click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()

    page.goto("/exposure")
    page.get_by_role("button", name=re.compile("cameras by the book")).click()
    panel = page.get_by_role("complementary")
    panel.get_by_role("button", name="Give it to someone").click()
    dialog.get_by_label("How").select_option("ticket")
    dialog.get_by_role("button", name="Give it").click()
    given = page.get_by_role("region", name="Given to be done")
    expect(given).to_contain_text("ticket SD-")
    expect(given).to_contain_text(f"{number} of {number}")

    panel.get_by_role("button", name="Accept instead").click()
    dialog.get_by_label("Why").fill("They are exchanged in spring.")
    dialog.get_by_label("Until").fill((date.today() + timedelta(days=30)).isoformat())
    dialog.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("cameras by the book"))).to_have_count(0)
    with sqlite3.connect(demo.home / "tarn.sqlite3") as db:  # thirty days go by
        db.execute("UPDATE exposure_acceptance SET until = ? WHERE rule_id IS NOT NULL", [int(time.time()) - 1])
        db.execute("UPDATE estate_counter SET number = number + 1 WHERE name = 'advisories'")
    page.goto("/exposure?tab=accepted")
    expect(page.get_by_role("row").filter(has_text="A camera without a place")).to_contain_text("over")
    page.goto("/exposure")
    expect(page.get_by_role("button", name=re.compile("cameras by the book"))).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []  # the filter that was misspelt


def test_a_change_is_refused_another_put_first_and_the_best_few_are_marked(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/exposure")
    change = page.get_by_role("button", name=re.compile("^Update Quill Office"))
    change.click()
    panel = page.get_by_role("complementary")
    panel.get_by_role("button", name="Refuse it").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Why").fill("Not before the season is over.")
    dialog.get_by_role("button", name="Refuse").click()
    expect(change).to_contain_text("refused")
    expect(panel).to_contain_text("Not before the season is over.")
    panel.get_by_role("button", name="Propose it again").click()
    expect(change).not_to_contain_text("refused")
    panel.get_by_role("button", name="Put it first").click()
    expect(page.get_by_role("row").nth(1)).to_contain_text("put first")
    page.get_by_label("How many changes there is time for").fill("3")
    expect(page.get_by_text(re.compile("The best 3 end"))).to_be_visible()
    expect(page.get_by_text("in the best")).to_have_count(3)
    panel.get_by_role("button", name="No longer first").click()
    expect(change).not_to_contain_text("put first")
    assert complaints == []


def test_grades_are_rehearsed_and_a_past_day_is_told_both_ways(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/exposure/grading")
    page.get_by_label("At first", exact=True).select_option("watch")
    page.get_by_role("button", name="Rehearse on what is open").click()
    expect(page.get_by_role("region", name="Rehearsal")).to_contain_text("would move from")
    page.get_by_role("button", name="Back to the tree that ships").click()
    page.get_by_label("Act now").fill("-1")
    page.get_by_role("button", name="Rehearse on what is open").click()
    expect(page.get_by_text("out of bounds")).to_be_visible()

    day = (date.today() - timedelta(days=25)).isoformat()
    page.goto(f"/exposure?tab=advisories&at={day}")
    page.get_by_role("button", name="as is now known of that day").click()
    row = page.get_by_role("row").nth(1)
    devices = row.get_by_role("cell").nth(3).get_by_role("link")
    number = devices.inner_text()
    devices.click()
    page.wait_for_url("**/estate*")
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []


def test_what_is_said_of_a_device_is_handed_on_and_reads_back(
    page: Page, complaints: list[str], tmp_path: Path
) -> None:
    sign_in(page, "piet", to=ASKED)
    for words, name in (("OpenVEX", "out.json"), ("Bill of materials (CycloneDX 1.6)", "bom.json")):
        expect(
            page.get_by_role("table", name="What to do first")
        ).to_be_visible()  # a page that is drawn anew closes its menus
        page.get_by_role("button", name="Hand on").click()
        with page.expect_download() as awaited:
            page.get_by_role("link", name=words).click()
        awaited.value.save_as(tmp_path / name)
        page.reload()
    page.goto("/exposure/feeds")
    page.get_by_label("A file of documents").set_input_files(tmp_path / "out.json")
    expect(page.get_by_text(re.compile("1 document read: 1 new"))).to_be_visible(timeout=60_000)
    page.goto("/exposure?tab=support")
    expect(page.get_by_role("row").filter(has_text="Storekeeper").first).to_contain_text("over for")
    assert complaints == []
