"""A synthetic estate, made by handing sightings through the door: devices × installations, a few years' spread."""

import random
from collections.abc import Iterator
from typing import Any

from tarn.core.sightings import Sighting, read_sighting

START = 1_780_000_000
DAY = 86_400
PLACES = ["Saltholm", "Port Averne", "Grey Ness", "Kittiwake Bay", "Holm of Rusk", "MV Tansy", "MV Marram", "Workshop"]
KINDS = ["server", "workstation", "laptop", "kiosk", "printer", "switch", "camera", "till"]
SYSTEMS = [("Debian GNU/Linux", "12"), ("Debian GNU/Linux", "11"), ("Ubuntu", "22.04"), ("Tallow Linux", "8.10")]
PRODUCTS, INSTALLS, CHANGED = 4000, 150, 3


def document(number: int, round_: int = 0) -> dict[str, Any]:
    """Return a device's sighting; in later rounds CHANGED of its packages have another version."""
    chance = random.Random(number)
    system = chance.choice(SYSTEMS)
    place, kind = chance.choice(PLACES), chance.choices(KINDS, range(len(KINDS), 0, -1))[0]
    picked = chance.sample(range(PRODUCTS), INSTALLS)
    packages = []
    for i, p in enumerate(picked):
        version = chance.randint(1, 5)
        changed = round_ if i < CHANGED else 0
        packages.append(
            {"name": f"product-{p:04d}", "version": f"{version}.{changed}", "publisher": f"Publisher {p % 300}"}
        )
    mac = f"7c:1e:b0:{number >> 16 & 255:02x}:{number >> 8 & 255:02x}:{number & 255:02x}"
    address = f"10.{60 + (number >> 16)}.{number >> 8 & 255}.{number & 255}"

    def reading(section: str, content: Any, collector: str = "ssh") -> dict[str, Any]:
        key = "items" if isinstance(content, list) else "facts"
        return {"section": section, "collector": collector, key: content}

    return {
        "schema": "tarn.sighting/1",
        "id": f"bench-{number}-{round_}",
        "source": {"kind": "sweep", "name": "bench"},
        "at": START + round_ * DAY + number % 3600,
        "address": address,
        "readings": [
            reading(
                "identity",
                {
                    "name": f"{kind[:4]}-{number:06d}",
                    "domain": "skerrivane.example",
                    "serial": f"SN{number:08d}",
                    "manufacturer": "Halberd" if number % 3 else "Orrin",
                    "model": f"M{number % 40}",
                    "uuid": f"5a17c10e-0000-4000-a000-{number:012x}",
                    "macs": [mac],
                },
            ),
            reading(
                "system", {"platform": "Linux", "os_name": system[0], "os_version": system[1], "description": kind}
            ),
            reading(
                "hardware", {"memory": chance.choice([4, 8, 16, 32, 64]) << 30, "cores": 8, "processor": "Halberd Arc"}
            ),
            reading("placement", {"address": address, "mac": mac, "place": place}, "reach"),
            reading("interfaces", [{"name": "eth0", "mac": mac, "speed": 10**9, "up": True}]),
            reading("addresses", [{"address": address, "interface": "eth0", "prefix": 24}]),
            reading("disks", [{"name": "sda", "size": 480 * 10**9, "serial": f"D{number}"}]),
            reading("decision", {"standing": "register", "state": "in use", "kind": kind}, "file"),
            reading("packages", packages),
        ],
    }


def sightings(first: int, last: int, round_: int = 0) -> Iterator[Sighting]:
    """Yield the sightings of devices `first` to `last`, the last left out."""
    for number in range(first, last):
        yield read_sighting(document(number, round_))
