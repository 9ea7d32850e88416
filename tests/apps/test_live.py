"""What the page is told while it is open: events of a run, what waits at intake, what a person must decide."""

import json

import pytest
from asgiref.sync import async_to_sync

from tarn.apps.discovery.intake.shown import intake
from tarn.apps.discovery.models import Run, RunAddress
from tarn.apps.discovery.sweeps.api import _events
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run
from tarn.apps.discovery.sweeps.shown import run_summary
from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.history import history, ribbon
from tarn.apps.people.roles import MAY, ROLES, NotAllowed, require, role_of
from tests.documents import DAY, START, packages, sighting


async def told(run_id: int, after: int = 0) -> list[tuple[str, object]]:
    """Read a run's events to their end."""
    out = []
    async for piece in _events(run_id, after, frozenset()):
        head, _, data = piece.decode().strip().partition("\n")
        out.append((head.removeprefix("event: "), json.loads(data.removeprefix("data: "))))
    return out


@pytest.fixture
def ended(people, transactional_db):
    """A run that has ended, with one address read."""
    sweep = make_sweep(
        None, SweepIn.model_validate({"name": "night", "ranges": ["10.60.4.1-10.60.4.3"], "route": "lab"})
    )
    run = plan_run(people["operator"], sweep)
    RunAddress.objects.filter(run=run).update(outcome="no answer", stage=5, tick=2)
    RunAddress.objects.filter(run=run, address="10.60.4.2").update(outcome="fully read", tick=7)
    Run.objects.filter(pk=run.pk).update(state="done", tick=7, started_at=run.made_at, ended_at=run.made_at + 2)
    return run


def test_events_bring_what_changed_after_a_tick_and_then_the_end(ended):
    events = async_to_sync(told)(ended.pk, 5)
    assert [name for name, _ in events] == ["run", "addresses", "end"]
    assert [a["address"] for a in events[1][1]] == ["10.60.4.2"]
    assert events[2][1]["state"] == "done"
    everything = async_to_sync(told)(ended.pk, 0)
    assert len(everything[1][1]) == 3


def test_a_run_that_is_gone_says_so(transactional_db):
    assert async_to_sync(told)(99) == [("gone", {})]


def test_a_runs_head_counts_by_outcome_and_stage(ended):
    ended.refresh_from_db()
    head = run_summary(ended)
    assert head["outcomes"] == {"no answer": 2, "fully read": 1}
    assert (head["done"], head["total"], head["seconds"], head["rate"]) == (3, 3, 2, 1.5)
    assert [s["past"] for s in head["stages"]] == [3, 3, 3, 3]
    RunAddress.objects.filter(run=ended, address="10.60.4.3").update(outcome="waiting", stage=3)
    stages = run_summary(ended)["stages"]
    assert [(s["past"], s["inside"]) for s in stages] == [(3, 0), (3, 0), (2, 1), (2, 0)]


@pytest.mark.django_db
def test_intake_groups_what_looks_alike_and_says_why():
    printers = [
        sighting(
            f"salt-prn-0{i}",
            identity={"serial": f"QU-{i}000", "manufacturer": "Quarto", "model": "Folio"},
            system={"description": "Quarto Folio laserprint printer"},
            placement={"place": "Saltholm"},
            ports=[{"protocol": "tcp", "port": 9100}],
        )
        for i in (1, 2)
    ]
    list(take_in([*printers, sighting("thing", identity={"serial": "X-9999"})]))
    found = intake()
    assert found["total"] == 3
    first = found["groups"][0]
    assert (first["kind"], first["manufacturer"], len(first["devices"])) == ("printer", "Quarto", 2)
    assert first["sure"] > 80
    assert any("print" in r for r in first["devices"][0]["reasons"])
    assert found["groups"][1]["kind"] == "device"


@pytest.mark.django_db
def test_intake_shows_both_sides_of_what_is_undecided():
    uuid = "5a17c10e-0000-4000-a000-00000000c10e"
    macs = "7c:1e:b0:00:00:01", "7c:1e:b0:00:00:02"
    list(take_in([sighting("app1", 0, identity={"uuid": uuid, "macs": [macs[0]]})]))
    list(take_in([sighting("app2", 30, identity={"uuid": uuid, "macs": [macs[1]]}, address="10.60.4.7")]))
    [case] = intake()["undecided"]
    assert case["says"]["name"] == "app2"
    assert [c["name"] for c in case["candidates"]] == ["app1"]
    assert case["address"] == "10.60.4.7"
    assert any("differ" in r for r in case["reasons"])


@pytest.mark.django_db
def test_history_tells_items_that_came_went_and_changed():
    disks = (
        [{"name": "sda", "size": 10}],
        [{"name": "sda", "size": 20}, {"name": "sdb", "size": 5}],
        [{"name": "sdb", "size": 5}],
    )
    for day, some in enumerate(disks):
        list(take_in([sighting("h", day, identity={"serial": "S-1000"}, disks=some, packages=packages(a=str(day)))]))
    lines = history(1, START - DAY, START + 9 * DAY)
    told = {(c["section"], c["thing"], c["verb"]) for c in lines}
    assert told == {
        ("disks", "sda", "changed"),
        ("disks", "sdb", "added"),
        ("disks", "sda", "removed"),
        ("software", "a", "updated"),
    }
    assert [c["after"] for c in lines if c["section"] == "software"] == ["2", "1"]
    assert next(c for c in lines if c["verb"] == "changed")["after"] == "size 20 B"
    days = ribbon(1, START - DAY, START + 9 * DAY, zone())
    assert [(d.get("software"), d.get("hardware")) for d in days] == [(1, 2), (1, 1)]
    assert history(1, START + DAY, START + 9 * DAY, most=1) == lines[:1]


@pytest.mark.django_db
@pytest.mark.parametrize("role", ROLES)
def test_each_role_may_what_those_before_it_may(people, role):
    assert role_of(people[role]) == role
    for action, needed in MAY.items():
        if ROLES.index(needed) <= ROLES.index(role):
            require(people[role], action)
        else:
            with pytest.raises(NotAllowed, match=needed):
                require(people[role], action)
