"""Discovery in full, as a person goes: a trial mended, a directory's pick, a source, a file, identity, the estimate."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import Demo, sign_in

pytestmark = pytest.mark.browser


def test_a_credential_fails_its_trial_is_mended_and_passes(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/discovery")
    page.get_by_role("row").filter(has_text="terminal-tills").get_by_role("button", name="Try").click()
    page.get_by_label("Address").fill("10.60.8.76")
    page.get_by_role("button", name="Try it").click()
    steps = page.get_by_role("list", name="Steps")
    failed = steps.get_by_role("listitem").filter(has_text="Does the sign-in work?")
    expect(failed).to_contain_text("the password has expired", timeout=20_000)
    expect(failed).to_contain_text("Renew the password")
    expect(steps.get_by_role("listitem").filter(has_text="What may it read?")).to_contain_text("Not reached")
    page.get_by_label("Password").fill("low-water-43")
    page.get_by_role("button", name="Keep and try again").click()
    expect(page.get_by_text("all steps done: it works")).to_be_visible(timeout=20_000)
    expect(steps.get_by_role("listitem").filter(has_text="What may it read?")).to_contain_text("Reads")
    assert complaints == []


def test_a_sweep_of_the_directorys_workstations_reads_windows(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/discovery")
    page.get_by_role("link", name="Company directory").click()
    page.get_by_role("button", name="workstations").click()
    expect(page.get_by_text(re.compile("computers signed in within 90 days"))).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Make a sweep of them").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Name", exact=True)).to_have_value("workstations of Company directory")
    dialog.get_by_label("Starts").select_option("every day")
    dialog.get_by_label("At", exact=True).fill("01:30")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog).not_to_be_visible()
    page.get_by_role("link", name="Discovery", exact=True).last.click()
    card = page.get_by_role("article").filter(has_text="workstations of Company directory")
    expect(card).to_contain_text("every day at 01:30")
    card.get_by_role("button", name="Start now").click()
    page.wait_for_url("**/discovery/runs/*")
    expect(page.get_by_role("link", name="Decide at intake")).to_be_visible(timeout=90_000)
    reasons = page.get_by_role("region", name="Reasons")
    expect(reasons).to_contain_text("refused the sign-in with “harbour-windows”")
    reasons.get_by_role("button", name="Try it").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("Try “harbour-windows”")
    page.keyboard.press("Escape")
    assert complaints == []


def test_a_source_from_test_to_sync(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/discovery/sources/new")
    page.get_by_label("Name", exact=True).fill("Lanyard once more")
    page.get_by_label("Kind").select_option("device management")
    page.get_by_label("Credential").select_option("lanyard-token")
    page.get_by_label("Route").select_option("lab")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("alert").first).to_contain_text("Say where the service is")
    page.get_by_label("Start from a mapping").select_option("device management, JSON by pages")
    page.get_by_role("button", name="Test", exact=True).click()
    brought = page.get_by_role("region", name="What it would bring")
    expect(brought).to_contain_text("is not trusted here", timeout=20_000)
    key = re.search(r"key it presents is (\S+)\.", brought.inner_text())
    assert key is not None
    page.get_by_label("Key of its certificate").fill(key[1])
    page.get_by_role("button", name="Test", exact=True).click()
    expect(brought).to_contain_text("nothing was stored", timeout=20_000)
    page.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="Sync now").click()
    expect(page.get_by_role("region", name="Syncs")).to_contain_text("found", timeout=30_000)
    assert [c for c in complaints if "422" not in c] == []  # the refusal asked for above


def test_a_zone_of_the_name_service_is_tried_without_a_credential(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/discovery/sources/new")
    page.get_by_label("Name", exact=True).fill("Company names")
    page.get_by_label("Kind").select_option("name zone")
    expect(page.get_by_label("Credential")).to_have_count(0)
    page.get_by_label("Route").select_option("lab")
    page.get_by_label("Address of the name server").fill("10.60.4.53")
    page.get_by_label("Domain", exact=True).fill("elsewhere.example")
    page.get_by_role("button", name="Test", exact=True).click()
    brought = page.get_by_role("region", name="What it would bring")
    expect(brought).to_contain_text("does not hand over the zone “elsewhere.example”: REFUSED")
    page.get_by_label("Domain", exact=True).fill("skerrivane.example")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(brought).to_contain_text("avrn-gate-01.skerrivane.example")
    expect(brought).to_contain_text("nothing was stored")
    assert complaints == []


def test_a_file_with_two_bad_rows(page: Page, tmp_path: Path, complaints: list[str]) -> None:
    rows = ["Host name;Serial number;Manufacturer;Memory (GB);Kind"]
    rows += [f"stores-pc-{n};HZ-55{n};Halberd;16;workstation" for n in range(1, 4)]
    rows += ["stores-pc-9;HZ-559;Halberd;sixteen;workstation", ";;Halberd;8;workstation"]
    file = tmp_path / "stores.csv"
    file.write_text("\n".join(rows), encoding="cp1252")
    sign_in(page, "piet", to="/discovery")
    page.get_by_role("link", name="From a file").click()
    page.get_by_label("File").set_input_files(file)
    page.wait_for_url(re.compile(r"/discovery/imports/\d+"))
    expect(page.get_by_label("Column for Serial number")).to_have_value("Serial number")
    page.get_by_role("button", name="Rehearse").click()
    rehearsal = page.get_by_role("region", name=re.compile("^Rehearsal"))
    expect(rehearsal).to_contain_text("3 created")
    expect(rehearsal).to_contain_text("2 refused")
    expect(rehearsal).to_contain_text("“sixteen” is not a quantity")
    page.get_by_role("button", name="Take in 3 rows").click()
    expect(page.get_by_text("3 rows taken in.")).to_be_visible()
    expect(page.get_by_role("link", name="refused rows with reasons").first).to_be_visible()
    page.get_by_role("link", name="Decide at intake").click()
    expect(page.get_by_text("stores-pc-1").first).to_be_visible()
    assert complaints == []


def test_two_assets_are_held_to_be_one_and_that_is_undone(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/estate?q=name+%3D+salt-lt-11")
    page.get_by_role("grid").get_by_role("link", name="salt-lt-11").click()
    page.get_by_role("button", name="Merge or split").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name, number or serial of the other").fill("salt-lt-12")
    dialog.get_by_role("button", name="Merge").click()
    expect(page.get_by_text(re.compile("is now one with A-"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Undone.")).to_be_visible()
    page.goto("/estate?q=name+%3D+salt-lt-12")
    expect(page.get_by_role("grid").get_by_role("link", name="salt-lt-12")).to_be_visible()
    assert complaints == []


def test_the_cross_check_tells_who_sees_what_why_not_and_what_nobody_has_seen(
    page: Page, demo: Demo, complaints: list[str]
) -> None:
    sign_in(page, to="/estate")
    page.get_by_role("button", name="Cross-check").click()
    page.wait_for_url("**tab=crosscheck*")
    expect(page.get_by_role("region", name="How many has nobody seen?")).to_contain_text("nineteen times in twenty")
    alone = page.get_by_role("button", name=re.compile("seen by Company directory alone"))
    alone.focus()
    page.keyboard.press("Enter")
    devices = page.get_by_role("region", name=re.compile("^Seen by Company directory"))
    expect(devices).to_contain_text("old-pc-01")
    page.get_by_role("button", name="all blind spots").click()
    blind = page.get_by_role("region", name="Unseen by a source that sees most of their kind")
    expect(blind).to_contain_text("not enrolled there")
    expect(page.get_by_role("region", name="Where two sources disagree")).to_contain_text("memory")
    assert complaints == []


def test_a_sweep_over_four_places_one_of_them_by_its_outpost(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/discovery")
    expect(page.get_by_role("row").filter(has_text="MV Tansy outpost")).to_contain_text("at its post")
    page.get_by_role("button", name="New sweep").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Four places")
    dialog.get_by_label("Made for").select_option("Skerrivane Ferries")
    dialog.get_by_label("Ranges").fill(
        "10.60.9.1-10.60.9.12\n10.60.10.1-10.60.10.12\n10.60.11.1-10.60.11.12\n10.60.20.1-10.60.20.34"
    )
    expect(dialog).to_contain_text("70 addresses")
    expect(dialog.get_by_text("trust-linux")).to_have_count(0)
    dialog.get_by_label("Route").select_option("lab")
    dialog.get_by_role("button", name="Save").click()
    page.get_by_role("article").filter(has_text="Four places").get_by_role("button", name="Start now").click()
    page.wait_for_url("**/discovery/runs/*")
    expect(page.get_by_role("link", name="Decide at intake")).to_be_visible(timeout=90_000)
    for place in ("Grey Ness", "Kittiwake Bay", "Holm of Rusk"):
        expect(page.get_by_text(f"{place} terminal")).to_be_visible()
    cut = page.get_by_role("row").filter(has_text="10.60.20.32").filter(has_text="by MV Tansy outpost")
    expect(cut).to_contain_text("closed the connection while reading packages")
    assert complaints == []


def test_an_undecided_case_waits_for_a_person(page: Page, tmp_path: Path, complaints: list[str]) -> None:
    file = tmp_path / "aboard.csv"
    file.write_text("name,mac\ntansy-ws-01.skerrivane.example,34:9f:7a:aa:bb:cc\n")
    sign_in(page, "piet", to="/discovery/imports")
    page.get_by_label("Its devices belong to").select_option("Skerrivane Ferries")
    page.get_by_label("File").set_input_files(file)
    page.wait_for_url(re.compile(r"/discovery/imports/\d+"))
    page.get_by_role("button", name="Rehearse").click()
    expect(page.get_by_role("region", name=re.compile("^Rehearsal"))).to_contain_text("1 waits for a person")
    page.get_by_role("button", name="Take in 1 row").click()
    page.get_by_role("link", name="Decide at intake").click()
    case = page.get_by_role("region", name="Undecided identity")
    expect(case).to_contain_text("the name agrees, but every hardware address is another")
    expect(case.get_by_role("row").filter(has_text="Hardware address")).to_contain_text("differs")
    case.get_by_role("button", name="It is tansy-ws-01").click()
    expect(page.get_by_text("from now on, and its past is told anew")).to_be_visible()
    expect(case).not_to_be_visible()
    assert complaints == []


def test_the_harbour_trust_sees_its_own_and_nothing_else(page: Page, complaints: list[str]) -> None:
    sign_in(page, "tove")
    expect(page.get_by_text("14 assets")).to_be_visible()
    expect(page.get_by_role("grid")).not_to_contain_text("salt-")
    page.goto("/estate?q=name+~+salt")
    expect(page.get_by_text("trust-gw-01")).to_have_count(0)
    page.goto("/discovery")
    expect(page.get_by_role("article")).to_have_count(1)
    expect(page.get_by_text("harbour-linux")).to_have_count(0)
    expect(page.get_by_role("button", name="New network")).to_have_count(0)
    page.goto("/settings")
    expect(page.get_by_text("for Averne Harbour Trust")).to_be_visible()
    expect(page.get_by_role("region", name="People")).to_have_count(0)
    page.goto("/assets/1")
    expect(page.get_by_text("There is no asset 1.")).to_be_visible()
    assert [c for c in complaints if "404" not in c] == []
