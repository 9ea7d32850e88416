"""The cross-check: overlaps against a plain count, reasons for blind spots, disagreements, and the estimate."""

import time
from collections import Counter

import pytest
from django.test.utils import CaptureQueriesContext

from tarn.apps.discovery.models import Network, Run, RunAddress, Source, Sweep, Sync
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db


def doc(name, source, kind, **rest):
    day = (time.time() - START) / DAY - 1
    return sighting(
        name, day, source=source, kind=kind, identity={"serial": f"HB-{name}", "manufacturer": "Halberd"}, **rest
    )


@pytest.fixture
def known(people):
    """Sixty servers: the sweep sees all but ten, the list all but fifteen."""
    documents = []
    for n in range(60):
        name = f"srv-{n:02d}"
        if n % 6:
            documents.append(
                doc(name, "night", "sweep", placement={"address": f"10.60.4.{n}"}, hardware={"memory": 8 << 30})
            )
        if n % 4:
            documents.append(doc(name, "list", "file", decision={"memory": (8 if n % 7 else 16) << 30}))
    assets = sorted({t.asset for t in take_in(documents)})
    decide(people["operator"], assets, {"standing": "register", "kind": "server"}, "adopted")
    return assets


def asked(client, **query):
    return client.get("/api/crosscheck", query).json()


def test_overlaps_are_those_of_a_plain_count(as_role, known):
    found = asked(as_role("viewer"))
    expected = Counter((n % 6 > 0, n % 4 > 0) for n in range(60))
    expected.pop((False, False))
    names = [s["name"] for s in found["sources"]]
    told = {("Sweeps" in (m := {names[i] for i in p["members"]}), "list" in m): p["count"] for p in found["patterns"]}
    assert told == dict(expected)
    assert found["total"] == sum(expected.values())


def test_the_estimate_is_chapmans_and_shown_by_kind(as_role, known):
    found = asked(as_role("viewer"))
    sweeps, listed = sum(1 for n in range(60) if n % 6), sum(1 for n in range(60) if n % 4)
    both = sum(1 for n in range(60) if n % 6 and n % 4)
    total = (sweeps + 1) * (listed + 1) / (both + 1) - 1
    assert found["estimate"]["unseen"] == pytest.approx(total - found["total"], abs=0.06)
    assert found["by_kind"][0]["label"] == "server"
    assert "Chapman" in found["by_kind"][0]["method"]


def test_a_selection_has_its_own_overlaps_and_the_past_its_own(as_role, known):
    narrowed = asked(as_role("viewer"), filter="address in 10.60.4.0/28")
    assert 0 < narrowed["total"] < 16
    assert asked(as_role("viewer"), as_of="2020-01-01")["total"] == 0


def test_each_blind_spot_has_its_reason(as_role, known, people):
    run = Run.objects.create(
        sweep=Sweep.objects.create(name="night", ranges=["10.60.4.0/26"], exclusions=["10.60.4.12"]),
        state="done",
        made_at=1,
    )
    cases = {
        "srv-54": ("10.60.9.7", "no range covers 10.60.9.0/24"),
        "srv-06": ("10.60.4.6", "silent at the last 1 sweeps"),
        "srv-18": ("10.60.4.18", "answered, but: SSH refused"),
        "srv-30": ("10.60.21.9", "10.60.21.0/24 must never be probed"),
        "srv-42": ("10.60.4.12", "leaves out 10.60.4.12"),
    }
    Network.objects.create(range="10.60.21.0/24", name="bridge", never_probe=True)
    RunAddress.objects.create(run=run, position=0, address="10.60.4.6", outcome="no answer")
    RunAddress.objects.create(
        run=run, position=1, address="10.60.4.18", outcome="answered", reason="SSH refused it.", remedy="Try it"
    )
    list(
        take_in(
            doc(name, "inventory", "inventory", placement={"address": address}) for name, (address, _) in cases.items()
        )
    )
    rows = {r["name"]: r for r in as_role("viewer").get("/api/crosscheck/devices").json()}
    for name, (_, says) in cases.items():
        blind = next(u for u in rows[name]["unseen_by"] if u["name"] == "Sweeps")
        assert says in blind["reason"], name
    assert rows["srv-04"]["unseen_by"][0]["reason"] == "“list” has no row for it"


@pytest.fixture
def systems(people):
    """A directory that knows Windows, and a device management; each has seen all but a few."""
    made = []
    for n in range(40):
        name = f"ws-{n:02d}"
        windows = {"system": {"platform": "Windows"}}
        made.append(doc(name, "night", "sweep", placement={"address": f"10.60.5.{n + 1}"}, **windows))
        if n > 2:
            made.append(doc(name, "dir", "directory"))
        if n > 1:
            made.append(doc(name, "lanyard", "device management"))
    assets = sorted({t.asset for t in take_in(made)})
    decide(people["operator"], assets, {"standing": "register", "kind": "workstation"}, "adopted")
    return assets


def blind_spots(client, source):
    rows = client.get("/api/crosscheck/devices").json()
    return {r["name"]: u for r in rows for u in r["unseen_by"] if u["name"] == source}


def test_why_a_directory_does_not_know_a_device(as_role, systems):
    source = Source.objects.create(name="dir", kind="directory", settings={"address": "x"})
    list(take_in([doc("ws-01", "old list", "inventory", management={"disabled": True})]))
    told = blind_spots(as_role("viewer"), "dir")
    assert told["ws-01"]["reason"] == "its account is disabled there"
    assert told["ws-02"]["reason"].startswith("no account of its name")
    assert told["ws-02"]["where"] == f"/discovery/sources/{source.pk}"


def test_why_a_system_of_record_does_not_know_a_device(as_role, systems):
    client = as_role("viewer")
    assert blind_spots(client, "lanyard")["ws-01"]["reason"].startswith("it is not enrolled there")
    source = Source.objects.create(name="lanyard", kind="device management", settings={})
    Sync.objects.create(source=source, state="failed", message="it refused the token", made_at=1)
    told = blind_spots(client, "lanyard")["ws-01"]
    assert told["reason"] == "the last sync failed: it refused the token"
    assert told["where"] == f"/discovery/sources/{source.pk}"


def test_clicking_a_part_gives_exactly_its_devices(as_role, known):
    client = as_role("viewer")
    for pattern in asked(client)["patterns"]:
        rows = client.get("/api/crosscheck/devices", {"mask": pattern["mask"]}).json()
        assert len(rows) == pattern["count"]
        assert {len(r["known_to"]) for r in rows} == {len(pattern["members"])}


def test_disagreements_are_counted_by_field_and_pair(as_role, known):
    rows = as_role("viewer").get("/api/crosscheck/disagreements").json()
    wrong = [n for n in range(60) if n % 6 and n % 4 and n % 7 == 0]
    assert [(r["field"], {r["first"], r["second"]}, r["count"]) for r in rows] == [
        ("memory", {"Sweeps", "list"}, len(wrong))
    ]


def test_statements_do_not_grow_with_the_devices(as_role, known, django_assert_max_num_queries):
    from django.db import connection

    client = as_role("viewer")
    with CaptureQueriesContext(connection) as few:
        client.get("/api/crosscheck/devices", {"filter": "address in 10.60.4.0/29"})
    with CaptureQueriesContext(connection) as many:
        client.get("/api/crosscheck/devices")
    assert len(many) <= len(few) + 1
