"""Acting on the estate, as a person does: a strange product found, kept as a set, uninstalled, seen gone."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_a_strange_product_is_found_kept_uninstalled_and_seen_gone(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/software")
    page.get_by_role("link", name="driftshare", exact=True).click()
    # The button in the head; what changed of it lately, further down, may count two devices as well.
    page.get_by_role("link", name="2 devices").first.click()
    expect(page.get_by_text("2 of ")).to_be_visible()
    page.get_by_role("button", name="Keep as a set").click()
    page.get_by_label("Name of the set").fill("Shares by itself")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("holds 2 assets now")).to_be_visible()
    page.get_by_role("button", name="Run a task").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What is to be done").select_option("Uninstall a product")
    dialog.get_by_label("Product").select_option("driftshare (2)")
    expect(dialog.get_by_role("region", name="What would run where")).to_contain_text("dpkg --remove driftshare")
    dialog.get_by_label("Why").fill("Nobody permitted it")
    dialog.get_by_role("button", name="Run on 2 devices").click()
    page.wait_for_url(re.compile(r"/tasks/\d+"))
    expect(page.get_by_role("status", name="How it fares")).to_have_text(
        "2 worked · 2 seen by a reading since", timeout=90_000
    )
    page.goto("/estate?q=in+set+%22Shares+by+itself%22")
    expect(page.get_by_text("No asset answers this.")).to_be_visible()
    assert complaints == []


def test_a_restart_of_many_waits_for_a_second_person(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/estate?q=kind+%3D+kiosk")
    page.get_by_role("button", name="Run a task").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("waits until a second person approves")
    dialog.get_by_role("button", name="Ask for approval").click()
    expect(dialog.get_by_label("Why")).to_be_focused()
    dialog.get_by_label("Why").fill("New screens")
    dialog.get_by_role("button", name="Ask for approval").click()
    page.wait_for_url(re.compile(r"/tasks/\d+"))
    expect(page.get_by_text("waits for a second person")).to_be_visible()
    expect(page.get_by_role("button", name="Approve and run")).to_have_count(0)
    where = page.url
    page.context.clear_cookies()
    sign_in(page, "ines", to=where[where.index("/tasks") :])
    page.get_by_role("button", name="Refuse").click()
    expect(page.get_by_text("refused", exact=True).first).to_be_visible()
    assert complaints == []


def test_a_question_is_built_counted_and_asked_then_read_back(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/estate?q=kind+in+(workstation,+laptop)")
    page.get_by_role("button", name="Build", exact=True).click()
    builder = page.get_by_role("region", name="Build the question")
    expect(builder.get_by_label("Value").first).to_have_value("workstation, laptop")
    for product in ("Berthwright Planner", "Crewroster"):
        builder.get_by_label("Add a list").last.select_option("software")
        builder.get_by_label("How many of them").last.select_option("no")
        builder.get_by_role("button", name="+ condition").nth(-2).click()
        builder.get_by_label("Field").last.select_option("Product")
        with page.expect_response(lambda r, p=product: "/api/assets?" in r.url and p.split()[0] in r.url):  # type: ignore[misc]
            builder.get_by_label("Value").last.fill(product)
    expect(builder.locator("code")).to_have_text(
        'kind in (workstation, laptop) and no software[product = "Berthwright Planner"] '
        "and no software[product = Crewroster]"
    )
    expect(builder.get_by_role("status")).to_have_text(re.compile(r"^\d+ assets?$"))
    counted = builder.get_by_role("status").inner_text()
    builder.get_by_role("button", name="Ask this").click()
    expect(page.get_by_text(re.compile(f"^{counted.split()[0]} of "))).to_be_visible()
    builder.get_by_role("button", name="+ condition").last.click()
    builder.get_by_label("Field").last.select_option("Memory")
    builder.get_by_label("Value").last.fill("lots")
    expect(builder.get_by_role("alert")).to_contain_text("“lots” is no value for memory")
    builder.get_by_role("button", name="Take it out").last.click()
    expect(builder.get_by_role("alert")).to_have_count(0)
    assert [c for c in complaints if "422" not in c] == []  # the refusal asked for above


def test_a_fill_rule_from_rehearsal_to_force_to_withdrawal(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/fill-rules")
    page.get_by_role("button", name="New rule").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Note of the till's number")
    dialog.get_by_label("When an asset answers").fill("kind = till")
    dialog.get_by_label("Fill", exact=True).select_option("note")
    dialog.get_by_label("Pattern over it").fill("-till-([0-9")
    dialog.get_by_role("button", name="Rehearse", exact=True).click()
    expect(dialog.get_by_text("The pattern cannot be read")).to_be_visible()
    dialog.get_by_label("Pattern over it").fill("-till-(?P<n>[0-9]+)")
    dialog.get_by_label("Composed as").fill("till number {n}")
    dialog.get_by_role("button", name="Rehearse", exact=True).click()
    expect(dialog.get_by_role("region", name="Rehearsal")).to_contain_text("till number 01")
    dialog.get_by_role("button", name="Save").click()
    row = page.get_by_role("row").filter(has_text="Note of the till's number")
    expect(row).to_contain_text("not in force")
    row.get_by_role("button", name="Put in force").click()
    expect(page.get_by_text("is in force.")).to_be_visible()
    page.goto("/estate?q=note+=+%22till+number+01%22")
    page.get_by_role("grid").get_by_role("link").first.click()
    expect(page.get_by_text("“till number 01”")).to_be_visible()
    page.goto("/fill-rules")
    row.get_by_role("button", name="Take out of force").click()
    expect(page.get_by_text("its values are taken back")).to_be_visible()
    page.goto("/estate?q=note+~+%22till+number%22")
    expect(page.get_by_text("No asset answers this.")).to_be_visible()
    assert [c for c in complaints if "422" not in c] == []  # the pattern that cannot be read


def test_an_asset_is_entered_by_hand_and_found_in_the_register(page: Page, complaints: list[str]) -> None:
    sign_in(page, "wren")
    page.get_by_role("button", name="Enter one").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Kind").select_option("camera")
    dialog.get_by_label("Name").fill("salt-cam-77")
    dialog.get_by_label("Serial number").fill("QC-770077")
    dialog.get_by_role("button", name="Enter it").click()
    expect(dialog).not_to_be_visible()
    page.goto("/estate?q=QC-770077")
    expect(page.get_by_role("grid").get_by_role("link")).to_have_text("salt-cam-77")
    assert complaints == []


def test_a_kind_of_ones_own_from_designer_to_file_to_register(
    page: Page, tmp_path: Path, complaints: list[str]
) -> None:
    sign_in(page, "piet", to="/kinds")
    page.get_by_role("button", name="New kind").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Sounder")
    dialog.get_by_label("Stands below").select_option("building gear")
    dialog.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="New field").click()
    dialog.get_by_label("Name", exact=True).fill("Depth")
    dialog.get_by_label("Holds", exact=True).select_option("number")
    dialog.get_by_label("Unit").fill("m")
    dialog.get_by_label("Only on these kinds").fill("sounder")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_role("row").filter(has_text="sounder").first).to_contain_text("Depth")
    # The till that waits at intake will be found by its serial number: the file speaks of it before a sweep does.
    file = tmp_path / "sounders.csv"
    file.write_text(
        "Name,Serial number,Manufacturer,Kind,Depth\nsounder-1,SD-1,Kittle,sounder,40\nsounder-2,SD-2,Kittle,sounder,deep\n"
    )
    page.goto("/discovery/imports")
    page.get_by_label("Its devices belong to").select_option("Skerrivane Ferries")
    page.get_by_label("File").set_input_files(file)
    page.wait_for_url(re.compile(r"/discovery/imports/\d+"))
    expect(page.get_by_label("Column for Depth")).to_have_value("Depth")
    page.get_by_role("button", name="Rehearse").click()
    rehearsal = page.get_by_role("region", name=re.compile("^Rehearsal"))
    expect(rehearsal).to_contain_text("“deep” is not a number of m")
    page.get_by_role("button", name="Take in 1 row").click()
    page.get_by_role("link", name="Decide at intake").click()
    page.get_by_role("row").filter(has_text="sounder-1").first.wait_for()
    sounder = page.locator("section,article,div.sheet").filter(has_text="sounder-1").last
    sounder.get_by_role("button", name="Adopt 1").click()
    page.goto("/estate?q=kind+=+sounder+and+field(%22Depth%22)+%3E+30")
    page.get_by_role("grid").get_by_role("link", name="sounder-1").click()
    expect(page.get_by_role("region", name="Your own fields")).to_contain_text("40 m")
    page.get_by_role("button", name="Assign or correct").click()
    page.get_by_role("dialog").get_by_label("Depth (m)").fill("shallow")
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(page.get_by_role("dialog")).to_contain_text("“shallow” is not a number of m")
    assert [c for c in complaints if "422" not in c] == []  # the value refused above


def test_what_a_file_brings_and_a_sweep_finds_later_are_one_asset(
    page: Page, tmp_path: Path, complaints: list[str]
) -> None:
    # The lab has this workstation, and no sweep of the demo's past has met it.
    file = tmp_path / "desks.csv"
    file.write_text("Name,Serial number,Manufacturer,Kind\nGate desk,HA4Y-50248,Halberd,building gear\n")
    sign_in(page, "piet", to="/discovery/imports")
    page.get_by_label("Its devices belong to").select_option("Skerrivane Ferries")
    page.get_by_label("File").set_input_files(file)
    page.wait_for_url(re.compile(r"/discovery/imports/\d+"))
    page.get_by_role("button", name="Rehearse").click()
    page.get_by_role("button", name="Take in 1 row").click()
    page.get_by_role("link", name="Decide at intake").click()
    box = page.locator("section,article,div.sheet").filter(has_text="Gate desk").last
    box.get_by_role("button", name="Adopt 1").click()
    expect(page.get_by_text("1 device adopted into the register.")).to_be_visible()
    page.goto("/discovery")
    page.get_by_role("button", name="New sweep").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("The new gate")
    dialog.get_by_label("Made for").select_option("Skerrivane Ferries")
    dialog.get_by_label("Ranges").fill("10.60.5.45")
    expect(dialog.get_by_label("harbour-linux")).to_be_checked()
    dialog.get_by_label("Route").select_option("lab")
    dialog.get_by_role("button", name="Save").click()
    card = page.get_by_role("article").filter(has_text="The new gate")
    card.get_by_role("button", name="Start now").click()
    page.wait_for_url("**/discovery/runs/*")
    expect(page.get_by_text(re.compile("^done")).first).to_be_visible(timeout=60_000)
    page.goto("/estate?q=serial+=+HA4Y-50248")
    expect(page.get_by_text("1 of ")).to_be_visible()
    page.get_by_role("grid").get_by_role("link").first.click()
    expect(page.locator("#evidence")).to_contain_text("The new gate")
    expect(page.locator("#evidence")).to_contain_text("desks")
    assert complaints == []


def test_standing_in_a_branch_narrows_room_after_room_and_papers_stay_with_a_device(
    page: Page, tmp_path: Path, complaints: list[str]
) -> None:
    sign_in(page, "piet", to="/branches")
    page.get_by_role("button", name="Move Holm of Rusk").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Lies under").fill("Grey Ness")
    dialog.get_by_role("button", name="Move", exact=True).click()
    expect(page.get_by_text("Holm of Rusk lies under Grey Ness.")).to_be_visible()
    page.get_by_role("button", name="Move Grey Ness").click()
    dialog.get_by_label("Lies under").fill("Holm of Rusk")
    dialog.get_by_role("button", name="Move", exact=True).click()
    expect(dialog.get_by_role("alert")).to_contain_text("circle")
    dialog.get_by_role("button", name="Leave").click()
    page.get_by_role("button", name="Stand here: Grey Ness").click()
    page.get_by_role("link", name="Estate", exact=True).first.click()
    places = page.get_by_role("grid").get_by_role("row")
    expect(places.filter(has_text="Holm of Rusk").first).to_be_visible()
    expect(page.get_by_role("grid")).not_to_contain_text("Saltholm")
    expect(page.get_by_text(re.compile(r"^\d\d assets"))).to_be_visible()
    page.get_by_role("link", name="Reports").click()
    expect(page.get_by_role("button", name="Standing in Grey Ness")).to_be_visible()
    page.goto("/reports/by-place?in=place%3AGrey+Ness")
    expect(page.get_by_text("within Grey Ness")).to_be_visible()
    expect(page.get_by_role("table")).not_to_contain_text("Port Averne")
    page.get_by_role("button", name="Standing in Grey Ness").click()
    page.get_by_role("button", name="Everywhere", exact=True).click()
    expect(page.get_by_role("table")).to_contain_text("Port Averne")
    page.goto("/estate?q=name+=+avrn-gate-01")
    page.get_by_role("grid").get_by_role("link", name="avrn-gate-01").click()
    papers = page.locator("#papers")
    manual = tmp_path / "manual.txt"
    manual.write_text("Turn it off and on.")
    papers.get_by_label("Note").fill("Its manual")
    papers.get_by_label("File").set_input_files(manual)
    papers.get_by_role("button", name="Keep").click()
    with page.expect_download() as awaited:
        papers.get_by_role("link", name="manual.txt").click()
    assert awaited.value.path().read_text() == "Turn it off and on."
    papers.get_by_role("button", name="Take away manual.txt").click()
    expect(papers).not_to_contain_text("Its manual")
    assert [c for c in complaints if "422" not in c] == []  # the circle refused above


def test_assets_are_picked_by_hand_and_by_key(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/estate?q=kind+%3D+printer")
    page.get_by_label("Pick salt-prn-01").check()
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("x")
    expect(page.get_by_text("2 assets ticked")).to_be_visible()
    page.get_by_role("button", name="Only these").click()
    expect(page.get_by_text("2 of ")).to_be_visible()
    page.get_by_role("button", name="Keep as a set").click()
    expect(page.get_by_role("dialog")).to_contain_text("number in (A-")
    assert complaints == []
