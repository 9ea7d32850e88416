"""The ports of a device that were met from outside, and what goes over them in clear."""

import asyncio

from tarn.collect import clear
from tarn.collect.looked import Look
from tarn.collect.routes import Route
from tarn.core.items import Port
from tarn.core.sightings import make_reading


async def pages(found: Look, route: Route, seconds: float) -> None:
    """Ask what is served in clear whether it has people sign in."""
    ports = [p for p in clear.WEB_PORTS if p in found.ports]
    asked = (clear.web_sign_in(route, found.address, p, seconds) for p in ports)
    for port, told in zip(ports, await asyncio.gather(*asked), strict=True):
        if told:
            found.clear["tcp", port] = told


def tell(found: Look) -> None:
    """Add the ports that were met: they count where the machine itself has not listed its own; what goes over them in
    clear is told of both."""
    told = {("tcp", p): what for p, what in clear.BY_PORT.items() if p in found.ports} | found.clear
    for n, reading in enumerate(found.readings):
        if reading.section == "ports":
            items = [p.model_copy(update={"clear": told.get((p.protocol, p.port), "")}) for p in reading.items]
            found.readings[n] = reading.model_copy(update={"items": items})
            return
    seen = {("tcp", p) for p in found.ports} | found.clear.keys()
    if seen:
        ports = [Port(protocol=kind, port=p, clear=told.get((kind, p), "")) for kind, p in sorted(seen)]
        found.readings.append(make_reading("ports", ports, "reach"))
