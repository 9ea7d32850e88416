"""Two servers that share a virtual address, and the lab's lease file."""

import datetime as dt
from pathlib import Path

from tarn.collect.credentials import SshCredential
from tarn.collect.look import LookSettings, look
from tarn.collect.routes import LAB
from tarn.collect.sources.files import rows, shape_of
from tarn.core.identifiers import identifiers
from tarn.core.sightings import effective
from tarn.lab import scenario
from tarn.lab.leases import leases
from tarn.lab.serve import serving
from tarn.lab.timeline import World

SSH = SshCredential("ssh", scenario.SSH_USER, password=scenario.SSH_PASSWORD, timeout=5)


async def test_what_answers_at_a_shared_address_is_the_server_that_holds_it():
    with serving({"salt-tix-01", "salt-tix-02"}):
        settings = LookSettings(LAB, (SSH,), frozenset({"ssh"}), patience=1)
        found = {a: await look(a, settings) for a in (scenario.PAIR_ADDRESS, "10.60.4.21", "10.60.4.22")}
    keys = {}
    for address, one in found.items():
        identity = effective(one.sighting(("sweep", "s")))["identity"].facts
        keys[address] = {i.key for i in identifiers(identity)}
    assert keys[scenario.PAIR_ADDRESS] == keys["10.60.4.21"]
    assert not keys["10.60.4.21"] & keys["10.60.4.22"], "the shared hardware address identifies neither"


async def test_a_certificate_is_asked_where_the_machine_says_it_listens():
    with serving({"salt-mail-01"}):
        found = await look("10.60.4.26", LookSettings(LAB, (SSH,), frozenset({"ssh", "tls"}), patience=1))
    assert 993 not in found.ports, "that port is not tried from outside"
    items = next(r.items for r in found.readings if r.section == "certificates")
    assert [c.port for c in items] == [443, 993]
    offers = {o.collector: (o.ran, o.why) for o in found.offers}
    assert offers["tls"] == (True, "")
    assert offers["snmp"] == (False, "this sweep does not use it")


def test_the_lease_file_is_read_as_one(tmp_path: Path):
    path = tmp_path / "dhcpd.leases"
    devices = World().on(400)
    path.write_text(leases(devices, dt.datetime.now(dt.UTC)))
    shape = shape_of(path, "dhcpd.leases")
    held = {r["host name"]: r for _, r in rows(path, shape)}
    laptop = next(d for d in devices if d.kind == "laptop")
    assert held[laptop.name]["hardware address"] == laptop.interfaces[0].mac
    assert len(held) > 90
