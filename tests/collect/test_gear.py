"""What switches, power gear, virtual hosts and servers tell of themselves, read over real sockets from the lab."""

import asyncio

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.collect.look import LookSettings
from tarn.collect.routes import LAB
from tarn.collect.snmp.ports import ports_of
from tarn.collect.sweep import sweep
from tarn.core.gear import SwitchPort, as_rates
from tarn.core.sightings import effective
from tarn.lab.links import FAILING, VLANS
from tarn.lab.scenario import BOTH_IN_ONE
from tarn.lab.serve import Lab
from tarn.lab.tables import _port_list
from tarn.lab.timeline import World
from tests.collect.test_lab import CREDENTIALS

WANTED = ("salt-sw-03", "salt-sw-11", "salt-sw-12", "salt-pdu-01", "salt-ups-01", "salt-hv-01", "salt-file-01", "salt-db-01",
          "salt-mon-01", "salt-tix-02")  # fmt: skip


@pytest.fixture(scope="module")
def told():
    """What was read of a few devices: by name, the items of each section by their key's last part, or its facts."""
    world = {d.name: d for d in World().on(400)}
    names = {d.address: d.name for d in world.values()}
    looks = asyncio.run(read([world[name].address for name in WANTED]))
    return world, {names[k.address]: effective(k.sighting(("sweep", "lab"))) for k in looks}


async def read(addresses):
    lab = Lab(400)
    await lab.start(set(WANTED))
    try:
        return [k async for k in sweep(addresses, LookSettings(LAB, CREDENTIALS, patience=0.5), at_once=8)]
    finally:
        await lab.stop()


def items(told, name, section):
    return {getattr(i, i.section.key[-1]): i for i in told[1][name][section].items}


def test_ports_of_a_switch_with_what_the_spanning_tree_lets_them_do(told):
    world, _ = told
    ports = items(told, "salt-sw-03", "switch_ports")
    last = ports[world["salt-sw-03"].interfaces[-1].name]
    assert (last.spanning, last.role) == ("blocking", "alternate"), "the second way is held back"
    assert (ports["port1"].spanning, ports["port1"].role) == ("forwarding", "root")
    assert {p.role for p in ports.values() if p.spanning == "forwarding" and p.name != "port1"} == {"designated"}
    assert [ports["port1"].untagged, *ports["port1"].tagged.split()] == [str(v) for v, _ in VLANS], "the way up has all"


def test_ports_tell_their_vlan_what_they_feed_and_lose(told):
    world, _ = told
    switch = next(d for d in world.values() if d.links and d.links.failing)
    ports = items(told, switch.name, "switch_ports")
    behind = {m: switch.interfaces[port - 1].name for m, _, port in switch.links.forwarding}
    bad = ports[behind[next(d for d in world.values() if d.identity == FAILING).interfaces[0].mac]]
    assert (bad.counted, bad.duplex) == ("16000000000 1120000 0", "half")
    assert {p.counted.split()[1] for p in ports.values() if p is not bad} == {"0"}
    phones = {behind.get(d.interfaces[0].mac) for d in world.values() if d.kind == "desk phone"} & ports.keys()
    assert {(p.untagged, p.poe) for n, p in ports.items() if n in phones} <= {("20", "delivering")}


def test_outlets_with_what_is_written_on_them_and_the_load_of_a_supply(told):
    outlets = items(told, "salt-pdu-01", "outlets")
    assert len(outlets) == 24
    assert [o.load for o in outlets.values() if o.feeds == BOTH_IN_ONE] == [100, 100]
    condition = told[1]["salt-ups-01"]["condition"].facts
    assert condition.feeding_from == "mains"
    assert condition.load % 5 == 0 < condition.load
    assert [o.feeds for o in items(told, "salt-ups-01", "outlets").values()] == ["salt-pdu-01"]


def test_what_a_virtual_host_keeps(told):
    assert {s.name for s in items(told, "salt-hv-01", "data_stores").values()} == {"images", "spare"}
    assert all(s.full % 5 == 0 for s in items(told, "salt-hv-01", "data_stores").values())
    assert {s.guest for s in items(told, "salt-hv-01", "snapshots").values()} <= {"salt-old-tix", "salt-build-01"}
    assert {n.network for n in items(told, "salt-hv-01", "virtual_networks").values()} == {"br0"}


def test_the_cluster_a_virtual_host_is_of(told):
    parts = told[1]["salt-hv-01"]["cluster_parts"].items
    assert {(p.cluster, p.sort, p.name, p.state) for p in parts} == {
        ("salt-hosts", "node", "salt-hv-01", "online"), ("salt-hosts", "node", "salt-hv-02", "online"),
        ("salt-hosts", "guest", "salt-app-02", ""), ("salt-hosts", "resource", "images", "Filesystem"),
    }  # fmt: skip


def test_what_servers_offer(told):
    shares = items(told, "salt-file-01", "shares")
    assert [(s.sort, s.path, s.offered_to) for s in shares.values()] == [
        ("NFS", "/srv/files", "10.60.4.0/24"),
        ("SMB", "/srv/files/crew", "@crewing"),
    ]
    held = items(told, "salt-db-01", "databases")
    assert {n: d.size >> 30 for n, d in held.items()} == {"archive": 642, "crew": 17, "tickets": 214}, "two figures"
    (kept,) = items(told, "salt-mon-01", "databases").values()
    assert (kept.engine, kept.name, kept.size) == ("MariaDB", "heron", 3_200_000_000)
    assert {u.share for u in told[1]["salt-file-01"]["share_users"].items} == {"crew-papers"}, (
        "not what SMB has for itself"
    )
    assert items(told, "salt-mon-01", "containers")["heron-web"].ports.startswith("0.0.0.0:80->8080/tcp")


def test_the_chain_a_port_presents(told):
    issued = items(told, "salt-tix-02", "certificates")[443]
    assert issued.names == "salt-tix-02.skerrivane.example"
    assert (issued.issuer, issued.chain) == (
        "Skerrivane servers authority",
        "Skerrivane servers authority; Skerrivane root of trust",
    )


COUNTS = st.tuples(*[st.integers(0, 10**9)] * 3)


@given(COUNTS, COUNTS)
def test_what_is_lost_is_reckoned_from_one_reading_to_the_next(first, more):
    def port(counts):
        return SwitchPort(name="p", counted=" ".join(map(str, counts)))

    later = tuple(a + b for a, b in zip(first, more, strict=True))
    (told,) = as_rates([port(first)], [port(later)])
    carried, counted = sum(more), told.counted
    assert counted == "", "counters themselves are no news"
    for lost, rate in zip(more[1:], (told.errors, told.discards), strict=True):
        assert (rate is None) == (carried == 0)
        if carried:
            share = lost * 1_000_000 / carried
            assert abs(rate - share) <= max(1, share / 2)
    (anew,) = as_rates([port(later)], [port(first)])
    if any(more):
        assert anew == as_rates([], [port(first)])[0], "lower than before: begun anew"
    assert as_rates([], [told]) == [told], "what has no counters says its rates itself"


@given(st.sets(st.integers(1, 96)))
def test_a_list_of_ports_is_read_as_it_was_written(ports):
    assert ports_of(_port_list(ports, 96)) == ports
