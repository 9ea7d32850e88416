"""What Tarn says stands on what, and which programs it recognises, against what the lab knows is there."""

from datetime import UTC, datetime

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.services.inputs import RecogniserIn
from tarn.apps.services.models import Noise
from tarn.apps.services.programs.applications import instances
from tarn.apps.services.programs.change import keep
from tarn.apps.services.programs.shown import group, groups
from tarn.apps.services.standing.edges import graph
from tarn.core.standing.falling import stops
from tarn.lab.scenario import BOTH_IN_ONE
from tarn.lab.standing import running, stands_on
from tarn.lab.timeline import World
from tarn.site.demo import past

DAYS = (390, 396)
ANCHOR = datetime(2026, 8, 3, 9, 0, tzinfo=UTC)
AT = int(past.instant(ANCHOR, DAYS[-1], 6).timestamp())
"""The morning after the second night."""


@pytest.fixture
def night(db):
    """Two nights of the lab, taken in: by asset which real device it is, and the devices read in the second."""
    world, who, read = World(), {}, []
    for day in DAYS:
        told = list(past.sightings_of(day, ANCHOR, world))
        for (device, _), taken in zip(told, take_in([s for _, s in told]), strict=True):
            who[taken.asset] = device.identity
        read = [d for d, _ in told]
    for port in (22, 123, 161, 514, 5985, 5986):
        Noise.objects.get_or_create(port=port, process="", defaults={"why": "somebody looks after it", "made_at": 0})
    return who, {d.identity: d for d in read}


def told(who, kind):
    return {
        (who[e.stands], who[e.on], e.kind, e.over): e
        for e in graph(AT).edges
        if e.kind == kind and e.stands in who and e.on in who
    }


def whole(device):
    """Whether a computer is read to the end: what cannot be read tells of no talk."""
    return device.ssh == "yes" and device.fault in ("", "loop")


def test_plugs_are_those_of_the_plan(night):
    who, read = night
    real = {e for e in stands_on(DAYS[-1]) if e[2] == "plugged into" and e[0] in read and e[1] in read}
    found = {
        e
        for e in told(who, "plugged into")
        if e[0] in read and e[1] in read and read[e[0]].kind not in ("switch", "router")
    }
    right = len(found & real)
    assert right / len(found) >= 0.99, sorted(found - real)[:5]
    assert right / len(real) >= 0.99, sorted(real - found)[:5]


def test_guests_are_on_their_hosts_clones_told_apart(night):
    who, read = night
    real = {e for e in stands_on(DAYS[-1]) if e[2] == "guest of" and e[0] in read}
    assert set(told(who, "guest of")) >= real
    assert len({e[0] for e in real}) == 2


def test_what_power_comes_from_is_exact_and_both_plugs_in_one_are_no_two_means(night):
    who, read = night
    real = {e for e in stands_on(DAYS[-1]) if e[2] == "powered by" and e[0] in read}
    assert set(told(who, "powered by")) == real
    named = {identity: asset for asset, identity in who.items()}
    fates = {who[f.asset]: f.fate for f in stops(graph(AT), [named["salt-ups-01"]])}
    assert fates["salt-pdu-01"] == fates[BOTH_IN_ONE] == "stops"
    assert fates["salt-mail-01"] == "weakened", "the other distributor still feeds it"


def test_who_mounts_what_of_whom_is_exact(night):
    who, read = night
    real = {e for e in stands_on(DAYS[-1]) if e[2] == "mounts" and e[0] in read and e[1] in read}
    # Who mounts NFS says so; of SMB its server says who has it open.
    real = {e for e in real if whole(read[e[0 if e[3].startswith("/") else 1]])}
    found = told(who, "mounts")
    assert {e for e, edge in found.items() if not edge.quiet and e[0] in read} == real
    assert len({e for e in real if e[3].startswith("/")}) == 3
    assert len({e for e in real if e[3] == "crew-papers"}) == 7


def test_who_calls_whom_is_exact_and_what_went_quiet_is_said(night):
    who, read = night
    real = {
        e for e in stands_on(DAYS[-1])
        if e[2] == "talks to" and e[0] in read and e[1] in read and (whole(read[e[0]]) or whole(read[e[1]]))
    }  # fmt: skip
    edges = told(who, "talks to")
    found = {
        k for k, e in edges.items() if not e.quiet and k[0] in read and k[1] in read and read[k[0]].family != "windows"
    }
    assert found == real
    quiet = {k for k, e in edges.items() if e.quiet}
    assert ("salt-tix-02", "salt-db-01", "talks to", "5432") in quiet
    assert quiet <= stands_on(DAYS[0]) - stands_on(DAYS[-1]), "only what is there no more is said to be quiet"
    assert any(e.quiet is False and e.sure == 100 for e in edges.values()), "some talk is told of by both its ends"


def test_a_guest_its_cluster_keeps_may_move_to_the_other_host(night):
    who, read = night
    assert (
        set(told(who, "may move to"))
        == {e for e in stands_on(DAYS[-1]) if e[2] == "may move to" and {e[0], e[1]} <= read.keys()}
        == {("salt-app-02", "salt-hv-01", "may move to", "")}
    )
    named = {identity: asset for asset, identity in who.items()}
    fallen = {who[f.asset]: f.fate for f in stops(graph(AT), [named["salt-hv-02"]])}
    assert fallen["salt-app-02"] == "weakened", "it is started on the other"
    fallen = {who[f.asset]: f.fate for f in stops(graph(AT), [named["salt-hv-01"], named["salt-hv-02"]])}
    assert fallen["salt-app-02"] == "stops"


def test_who_calls_a_pair_falls_back_on_the_other(night):
    who, _ = night
    assert ("avrn-gate-01", "salt-tix-02", "falls back on", "80") in told(who, "falls back on")
    named = {identity: asset for asset, identity in who.items()}
    fallen = {who[f.asset]: f for f in stops(graph(AT), [named["salt-tix-01"]])}
    assert (fallen["avrn-gate-01"].fate, fallen["avrn-gate-01"].left) == ("weakened", (named["salt-tix-02"],))


def test_the_companys_own_application_is_recognised_exactly_in_all_its_spellings(night, people):
    who, read = night
    real = {(d, ports) for d, ports in running(DAYS[-1], "rota-feed.jar") if d in read and whole(read[d])}
    (key,) = [g.key for g in groups(None) if g.stem == "rota-feed"]
    made = group(key, None)
    assert len({s.command for g in groups(None) if g.key == key for s in g.members}) == 3
    keep(people["manager"], RecogniserIn(**{n: made[n] for n in ("name", "rule", "version", "instance")}))
    found = {(who[i.asset], i.ports) for i in instances(None) if i.application == made["name"]}
    assert {f for f in found if f[0] in read} == real
    assert {i.version for i in instances(None) if i.application == made["name"]} == {"", "2.3", "2.4"}
