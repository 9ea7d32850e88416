"""People and their devices: leavers who still hold some, what was held before, who signs in where."""

import time

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.people.persons import people as everybody
from tarn.apps.estate.people.persons import person
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import Person
from tests.documents import DAY, START, sighting


@pytest.fixture
def staff(people, estate):
    """Una is there in two systems; Nell has left one and the other; Asa left one of two."""
    now = int(time.time())
    for source, name, left in (
        ("Keel", "Una Skerry", None), ("Directory", "Una Skerry", None),
        ("Keel", "Nell Stroma", now - 20 * DAY), ("Directory", "Nell Stroma", now - 10 * DAY),
        ("Keel", "Asa Windrow", now - DAY), ("Directory", "Asa Windrow", None),
    ):  # fmt: skip
        Person.objects.create(
            source=source, key=name, name=name, department="Crewing" if source == "Keel" else "", left_at=left,
            account=f"{name[0]}{name.split()[1]}".lower(), joined_at=1_700_000_000, last_sync=1,
        )  # fmt: skip
    decide(people["operator"], estate[:1], {"person": "Una Skerry"}, "decided")
    decide(people["operator"], estate[1:3], {"person": "Nell Stroma"}, "decided")
    decide(people["operator"], estate[3:], {"person": "Nobody Known"}, "decided")
    return estate


def test_leavers_who_still_hold_devices_come_first(staff):
    rows = everybody(None)
    assert rows[0]["name"] == "Nell Stroma"
    assert (rows[0]["holds"], bool(rows[0]["left_at"])) == (2, True)
    by_name = {r["name"]: r for r in rows}
    assert by_name["Asa Windrow"]["left_at"] is None, "one system still knows them"
    assert by_name["Una Skerry"]["sources"] == ["Directory", "Keel"]
    assert by_name["Una Skerry"]["department"] == "Crewing"
    assert (by_name["Nobody Known"]["holds"], by_name["Nobody Known"]["sources"]) == (1, [])


def test_a_persons_page_tells_what_they_hold_use_and_held(staff, people):
    now = (time.time() - START) / DAY
    seen = sighting(
        "salt-tix-01",
        now,
        identity={"serial": "HB-1001"},
        system={"last_user": "SK\\USkerry"},
        installs=[{"name": "Tern Notes", "user": "uskerry"}],
    )
    list(take_in([seen]))
    time.sleep(1.05)
    decide(people["operator"], staff[:1], {"person": "Asa Windrow"}, "decided")
    una = person("Una Skerry", None)
    assert una["held"] == []
    assert [(u["name"], u["theirs"]) for u in una["used"]] == [("salt-tix-01", False)]
    assert [(b["id"], b["until"] is not None) for b in una["before"]] == [(staff[0], True)]
    assert una["software"] == [{"name": "Tern Notes", "devices": 1}]
    assert [d["id"] for d in person("Asa Windrow", None)["held"]] == staff[:1]
    assert person("Never Heard", None) is None


def test_over_http_nobody_of_that_name_is_a_404(staff, as_role):
    viewer = as_role("viewer")
    assert viewer.get("/api/persons").status_code == 200
    answer = viewer.get("/api/persons/one", {"name": "Never Heard"})
    assert (answer.status_code, "Nobody called" in answer.json()["detail"]) == (404, True)
