"""The lists of what network gear and power gear tell of their ports and outlets. See `item.py`."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import StringConstraints

from tarn.core.item import Attribute, Count, Item, Name, Text

STP_ROLES = ("root", "designated", "alternate", "disabled")
STP_STATES = ("forwarding", "blocking", "listening", "learning", "disabled", "broken")
DUPLEX = ("full", "half")
POE = ("delivering", "searching", "off", "fault")


class SwitchPort(
    Item,
    section="switch_ports",
    key=("name",),
    one="switch port",
    many="switch ports",
    heading="Ports of the switch",
    news=False,
):
    """How a port of a bridge stands. `duplex`: RFC 3635; `role` and `spanning`: its part in the spanning tree
    (RFC 4188), the role worked out from it (IEEE 802.1D, 17.7); `aggregate`: the link it is one of (IEEE 802.1AX);
    `untagged` and `tagged`: its VLANs (RFC 4363); `poe`: whether it feeds what is plugged in (RFC 3621); `errors` and
    `discards`: among a million frames since the reading before (RFC 2863), to one figure; null where it has carried
    none. They are reckoned of `counted` as a reading comes in: frames carried, with errors, dropped."""

    name: Annotated[Name, Attribute("the port's name", bare=True)]
    duplex: Annotated[Text, Attribute("full, or half where both ends take turns", "choice", choices=DUPLEX)] = ""
    role: Annotated[
        Text, Attribute("its part in the spanning tree", "choice", choices=STP_ROLES, label="Spanning-tree role")
    ] = ""
    spanning: Annotated[
        Text, Attribute("what the spanning tree lets it do", "choice", choices=STP_STATES, label="Spanning tree")
    ] = ""
    aggregate: Annotated[Text, Attribute("the aggregated link it is one of")] = ""
    untagged: Annotated[Text, Attribute("the VLAN that needs no tag here")] = ""
    tagged: Annotated[Text, Attribute("the VLANs that go over it tagged, parted by spaces")] = ""
    poe: Annotated[
        Text, Attribute("whether it feeds what is plugged in", "choice", choices=POE, label="Power over Ethernet")
    ] = ""
    errors: Annotated[
        Count | None,
        Attribute("frames with errors in a million, since the reading before", "number", unit="in a million"),
    ] = None
    discards: Annotated[
        Count | None, Attribute("frames dropped in a million, since the reading before", "number", unit="in a million")
    ] = None
    counted: Annotated[
        Annotated[str, StringConstraints(pattern=r"^(\d{1,20} \d{1,20} \d{1,20})?$")],
        Attribute("its counters as they were read: frames, errors, drops", asked=False, shown=False),
    ] = ""


def as_rates(before: Sequence[SwitchPort], now: Sequence[SwitchPort]) -> list[SwitchPort]:
    """Return ports with what they lost since the reading before in the place of their counters. Counters that are lower
    than before have begun anew, and so they have where there is no reading before."""
    known = {port.name: port.counted for port in before if port.counted}
    return [_rated(port, known.get(port.name, "")) if port.counted else port for port in now]


def _rated(port: SwitchPort, before: str) -> SwitchPort:
    counts, old = [int(n) for n in port.counted.split()], [int(n) for n in before.split()] or [0, 0, 0]
    if any(n < o for n, o in zip(counts, old, strict=True)):
        old = [0, 0, 0]
    frames, errors, discards = (n - o for n, o in zip(counts, old, strict=True))
    carried = frames + errors + discards
    lost = {"errors": errors, "discards": discards}
    told = {name: _in_a_million(n, carried) if carried else None for name, n in lost.items()}
    return port.model_copy(update={"counted": "", **told})


def _in_a_million(lost: int, frames: int) -> int:
    """Return a share to one figure: a rate that hardly moves is no news, and what is lost at all is at least one."""
    share = lost * 1_000_000 / frames
    figure: int = 10 ** (len(str(int(share))) - 1)
    return max(1, round(share / figure) * figure) if lost else 0


class Outlet(Item, section="outlets", key=("name",), one="outlet", many="outlets", heading="Outlets", news=False):
    """An outlet of a power distributor or supply (RFC 6933, an energy object) and what was written on it
    (entPhysicalAlias); `load`: watts by its sensor, to the nearest fifty (RFC 3433)."""

    name: Annotated[Name, Attribute("the outlet's name", bare=True)]
    feeds: Annotated[Text, Attribute("what is written on it: whom it feeds", bare=True)] = ""
    load: Annotated[Count | None, Attribute("what is drawn from it, to the nearest fifty", "number", unit="W")] = None
