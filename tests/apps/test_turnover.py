"""What changes beside software: parts that come and go, starts, sign-ins; over many devices in one line."""

import time

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
GIB = 1 << 30


def reading(name, day, *, memory, disks, slots, up=True, booted, account):
    return sighting(
        name,
        day,
        identity={"serial": f"S-{name}"},
        hardware={"memory": memory * GIB},
        system={"platform": "Linux", "booted": booted},
        disks=[{"name": n, "size": s * 10**9} for n, s in disks.items()],
        memory_modules=[{"slot": s, "size": 8 * GIB, "speed": 2400} for s in slots],
        interfaces=[{"name": "eth0", "speed": 10**9, "up": up}],
        signins=[{"account": account, "at": booted + 60}],
    )


@pytest.fixture
def two(people):
    documents = []
    for name in ("pc-1", "pc-2"):
        before = {"memory": 8, "disks": {"sda": 480, "sdb": 960}, "slots": ["A1"]}
        documents.append(reading(name, 0, **before, booted=START - DAY, account="SALT\\wren"))
        after = {"memory": 16, "disks": {"sda": 480}, "slots": ["A1", "A2"]}
        documents.append(reading(name, 5, **after, up=False, booted=START + 4 * DAY, account="oona"))
    assets = sorted({t.asset for t in take_in(documents)})
    decide(people["operator"], assets, {"standing": "register", "kind": "workstation"}, "adopted")
    return assets


def lines(client, about, **query):
    days = int((time.time() - START) // DAY) + 2
    answer = client.get("/api/software/changes", {"about": about, "days": min(days, 400), **query})
    assert answer.status_code == 200, answer.content
    return {(w["thing"], w["verb"]): w for w in answer.json()["waves"]}


def test_parts_that_came_and_went_are_one_line_a_change(as_role, two):
    found = lines(as_role("viewer"), "hardware")
    told = {key: (w["before"], w["after"], w["devices"]) for key, w in found.items()}
    assert told == {
        ("disk sdb", "removed"): (["960 GB"], None, 2),
        ("memory module A2", "added"): ([], "8 GB 2400 MT/s", 2),
        ("memory", "changed"): (["8 GB"], "16 GB", 2),
    }, "a link that went down is no part that changed, and first readings are none"
    assert len(found["disk sdb", "removed"]["numbers"]) == 2
    assert lines(as_role("viewer"), "hardware", filter="name = pc-1")["disk sdb", "removed"]["devices"] == 1
    assert lines(as_role("viewer"), "hardware", filter="name = nothing") == {}


def test_starts_and_sign_ins_count_when_they_were(as_role, two):
    found = lines(as_role("viewer"), "activity")
    assert found["the device", "started"]["devices"] == 2
    assert found["oona", "signed in"]["first"] == time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(START + 4 * DAY + 60))
    assert ("wren", "signed in") in found


def test_two_tellings_of_one_start_are_one(as_role, two):
    list(
        take_in(
            [
                sighting(
                    "pc-1",
                    5,
                    source="other",
                    identity={"serial": "S-pc-1"},
                    system={"booted": START + 4 * DAY + 30},
                )
            ]
        )
    )
    changes = as_role("viewer").get("/api/software/changes", {"about": "activity", "days": 400}).json()["changes"]
    assert changes == 2 * 2 + 2 * 2, "two starts of each device, one of them told twice, and two sign-ins"


def test_an_asset_s_own_history_tells_the_same(as_role, two):
    history = as_role("viewer").get(f"/api/assets/{two[0]}/history", {"days": 400}).json()
    assert {(h["section"], h["thing"], h["verb"]) for h in history} >= {
        ("disks", "sdb", "removed"),
        ("memory_modules", "A2", "added"),
        ("interfaces", "eth0", "changed"),
    }
