"""A small estate in which some things stand on others."""

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.services.models import Noise
from tests.documents import START, sighting

SWITCH, ROUTER, HOST, WEB, DATA, MATE = (f"18:f9:5e:00:00:0{n}" for n in range(1, 7))


def device(name, number, mac, day=0, uuid=None, **sections):
    """A sighting of a device with an address and a hardware address; a guest's UUID ends in its number."""
    return sighting(
        name,
        day,
        identity={"serial": f"HB-{number}", "uuid": f"00000000-0000-4000-8000-0000000000{uuid or number:02}"},
        placement={"address": f"10.60.4.{number}", "place": "Saltholm"},
        interfaces=[{"name": "eth0", "mac": mac}],
        **sections,
    )


def talk(direction, process, peer, port):
    return {"direction": direction, "process": process, "peer": f"10.60.4.{peer}", "port": port}


def calls_data(process="tixline"):
    return [talk("out", process, 5, 5432), talk("out", "sshd", 5, 22), talk("out", "resolved", 77, 53)]


def standing_estate(people):
    """A router, a switch beneath it, a host in its port 3 with two guests; one, web, calls the other, data; and a mate
    in port 4 that called data until the 10th day."""
    guests = [
        {"uuid": f"00000000-0000-4000-8000-0000000000{n:02}", "name": name} for n, name in ((4, "web"), (5, "data"))
    ]
    learnt = [{"mac": m, "vlan": 4, "port": p} for m, p in ((HOST, "port3"), (WEB, "port3"), (MATE, "port4"))]
    documents = [
        device("gate", 1, ROUTER, neighbours=[{"port": "port2", "chassis": SWITCH, "name": "switch", "remote_port": "up"}]),
        device("switch", 2, SWITCH, forwarding=[*learnt, {"mac": ROUTER, "vlan": 4, "port": "up"}],
               neighbours=[{"port": "up", "chassis": ROUTER, "name": "gate", "remote_port": "port2"}]),
        device("host", 3, HOST, guests=guests),
        device("web", 4, WEB, connections=calls_data()),
        device("data", 5, DATA, connections=[talk("in", "heron", 4, 5432), talk("in", "heron", 6, 5432)]),
        device("mate", 6, MATE, connections=calls_data("crewroster")),
        device("mate", 6, MATE, 10, connections=[]),
        device("data", 5, DATA, 10, connections=[talk("in", "heron", 4, 5432)]),
        device("user", 7, "18:f9:5e:00:00:07", 10, connections=[talk("out", "till", 4, 443)]),
    ]  # fmt: skip
    numbers = sorted({t.asset for t in take_in(documents)})
    decide(people["operator"], numbers, {"standing": "register", "state": "in use"}, "adopted", at=START)
    decide(people["operator"], numbers[:1], {"kind": "router"}, "seen")
    Noise.objects.get_or_create(port=22, process="", defaults={"why": "Somebody looks after it.", "made_at": 0})
    return dict(zip(("gate", "switch", "host", "web", "data", "mate", "user"), numbers, strict=True))
