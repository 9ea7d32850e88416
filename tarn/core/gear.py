"""The lists of what network gear and power gear tell of their ports and outlets. See `item.py`."""

from typing import Annotated

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
    `discards`: among a million frames since its counters began (RFC 2863), to one figure; null where it has carried
    none."""

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
        Attribute("frames with errors in a million, since its counters began", "number", unit="in a million"),
    ] = None
    discards: Annotated[
        Count | None, Attribute("frames dropped in a million, since its counters began", "number", unit="in a million")
    ] = None


class Outlet(Item, section="outlets", key=("name",), one="outlet", many="outlets", heading="Outlets"):
    """An outlet of a power distributor or supply (RFC 6933, an energy object) and what was written on it
    (entPhysicalAlias); `load`: watts by its sensor, to the nearest ten (RFC 3433)."""

    name: Annotated[Name, Attribute("the outlet's name", bare=True)]
    feeds: Annotated[Text, Attribute("what is written on it: whom it feeds", bare=True)] = ""
    load: Annotated[Count | None, Attribute("what is drawn from it, to the nearest ten", "number", unit="W")] = None
