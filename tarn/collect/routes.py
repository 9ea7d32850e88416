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
    aboard: int | None = None
    """On the lab's routes: the second number of the loopback addresses its devices have."""

    def dial(self, address: str, port: int) -> tuple[str, int]:
        """Return the host and port to connect to for an address and port of the company."""
        if self.aboard is not None:
            return f"127.{self.aboard}." + address.split(".", 2)[2], port + LAB_OFFSET
        return address, port


DIRECT = Route("direct", pings=True, refusals_tell=True)
LAB = Route("lab", pings=False, refusals_tell=False, aboard=60)
"""The lab lies on loopback, where everything answers pings and refuses what it does not serve."""

ROUTES = {r.name: r for r in (DIRECT, LAB)}


def route_named(name: str) -> Route:
    """Return a route by its name: `direct`, `lab`, or `lab-N`, the lab as seen from within its part N (a ship).

    Raises ValueError.
    """
    if name in ROUTES:
        return ROUTES[name]
    lab, _, number = name.partition("-")
    if lab == "lab" and number.isdigit() and 1 <= int(number) <= 255:
        return Route(name, pings=False, refusals_tell=False, aboard=int(number))
    raise ValueError(f"“{name}” is no route; one of: {', '.join(ROUTES)}, lab-N.")
