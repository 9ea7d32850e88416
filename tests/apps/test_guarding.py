"""Who is administrator and how computers are protected: groups resolved, the approved list, states that add up."""

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Phrase
from tarn.apps.estate.software.administrators_and_protection import administrators, protection
from tarn.apps.people.models import Person
from tarn.collect.sources.directory import all_groups
from tests.documents import sighting


@pytest.fixture
def guarded(people, estate):
    """Two servers whose administrators are read, protection of three kinds, and a device nobody read."""
    admins = [{"group": "Administrators", "member": m} for m in ("SK\\Domain Admins", "SK\\uskerry", "local-one")]
    extra = [{"group": "Users", "member": "SK\\nobody"}]
    on = {"name": "Corvid Protect", "on": True, "up_to_date": True}
    old = {"name": "Gull Shield", "on": True, "up_to_date": False}
    off = {"name": "Corvid Protect", "on": False, "up_to_date": True}
    accounts = [{"name": "root", "administrator": True}, {"name": "guest"},
                {"name": "gone", "administrator": True, "enabled": False}]  # fmt: skip
    list(
        take_in(
            [
                sighting("salt-tix-01", 20, identity={"serial": "HB-1001"}, memberships=admins + extra,
                         accounts=accounts, protections=[on, old]),
                sighting("avrn-gate-01", 20, identity={"serial": "HB-1002"}, protections=[off], accounts=accounts),
                sighting("salt-lt-01", 20, identity={"serial": "HB-2001"}, protections=[], accounts=[]),
            ]
        )
    )  # fmt: skip
    Person.objects.create(source="D", key="1", name="Una Skerry", account="uskerry", joined_at=1, last_sync=1)
    Person.objects.create(
        source="D", key="2", name="Nell Stroma", groups=["Harbour IT", "Domain Admins"], joined_at=1, last_sync=1
    )
    return estate


def test_administrators_are_told_by_account_and_groups_by_their_members(guarded):
    Phrase.objects.create(name="approved_administrators", values=["root", "/domain admins$/"])
    found = administrators(question(""))
    rows = {r["name"]: r for r in found["rows"]}
    assert set(rows) == {"root", "SK\\Domain Admins", "SK\\uskerry"}, (
        "switched off, and local members, tell of themselves"
    )
    assert (rows["root"]["devices"], rows["root"]["approved"]) == (2, True)
    assert rows["SK\\Domain Admins"]["members"] == ["Nell Stroma"]
    assert rows["SK\\Domain Admins"]["kind"] == "directory group"
    assert rows["SK\\Domain Admins"]["approved"]
    assert (rows["SK\\uskerry"]["person"], rows["SK\\uskerry"]["approved"]) == ("Una Skerry", False)
    assert all(len(ids(question(r["filter"]))) == r["devices"] for r in found["rows"])
    assert (found["devices"], found["unread"]) == (4, 1)


def test_without_a_list_nobody_is_approved(guarded):
    found = administrators(question(""))
    assert found["phrase"] == ""
    assert not any(r["approved"] for r in found["rows"])


def test_protection_by_state_and_product_adds_up(guarded):
    found = protection(question(""))
    states = {s["label"]: s["devices"] for s in found["states"]}
    assert states == {"on and current": 1, "on, its definitions old": 0, "installed and off": 1}
    none, unread, two = (found[n]["devices"] for n in ("none", "unread", "two"))
    assert (none, unread, two) == (1, 1, 1)
    assert sum(states.values()) + none + unread == found["devices"]
    assert [(p["name"], *(p[n]["devices"] for n in ("there", "on", "current"))) for p in found["products"]] == [
        ("Corvid Protect", 2, 1, 1),
        ("Gull Shield", 1, 1, 0),
    ]
    assert all(len(ids(question(s["filter"]))) == s["devices"] for s in found["states"])


def test_groups_within_groups_are_followed_and_circles_end():
    above = {"cn=a,dc=x": ["cn=B,dc=x"], "cn=b,dc=x": ["cn=A,dc=x", "cn=C,dc=x"]}
    assert all_groups(["cn=A,dc=x"], above) == ("A", "B", "C")


def test_over_http_as_of_a_day_and_with_a_filter(guarded, as_role):
    viewer = as_role("viewer")
    for what in ("administrators", "protection"):
        assert viewer.get(f"/api/software/{what}", {"filter": "kind = server"}).json()["devices"] == 2
        assert viewer.get(f"/api/software/{what}", {"filter": "nonsense >"}).status_code == 422
        assert viewer.get(f"/api/software/{what}", {"as_of": "2026-01-01"}).json()["devices"] == 0
