"""Routes: how an address of the company is dialled from here."""

import os
from dataclasses import dataclass

LAB_OFFSET = int(os.environ.get("TARN_LAB_OFFSET", "20000"))
"""How far the lab's ports are raised; several labs can run on one machine."""


@dataclass(frozen=True, slots=True)
class Route:
    """A way to devices. `pings`: echo requests mean something on it; `refusals_tell`: a refused
    connection proves that something is there."""

    name: str
    pings: bool
    refusals_tell: bool

    def dial(self, address: str, port: int) -> tuple[str, int]:
        """Return the host and port to connect to for an address and port of the company."""
        if self.name == "lab":
            return "127." + address.split(".", 1)[1], port + LAB_OFFSET
        return address, port


DIRECT = Route("direct", pings=True, refusals_tell=True)
LAB = Route("lab", pings=False, refusals_tell=False)
"""The lab lies on loopback, where everything answers pings and refuses what it does not serve."""

ROUTES = {r.name: r for r in (DIRECT, LAB)}
