"""The lists of what a computer gives others: data stores, virtual networks, shares, databases, names. See `item.py`."""

from typing import Annotated

from pydantic import Field

from tarn.core.item import Attribute, Count, Item, Name, Text

_Percent = Annotated[int, Field(ge=0, le=100)]


class DataStore(
    Item, section="data_stores", key=("name",), one="data store", many="data stores", heading="Data stores"
):
    """Where a virtual host keeps the disks of its guests."""

    name: Annotated[Name, Attribute("the data store's name", bare=True)]
    path: Annotated[Text, Attribute("where it lies")] = ""
    size: Annotated[Count | None, Attribute("its size in bytes", "bytes")] = None
    full: Annotated[_Percent | None, Attribute("how full it is, to the nearest 5 %", "percent")] = None


class Snapshot(
    Item, section="snapshots", key=("guest", "name"), one="snapshot", many="snapshots", heading="Snapshots of guests"
):
    """A snapshot of a guest that its virtual host keeps."""

    guest: Annotated[Name, Attribute("the guest it is of", bare=True)]
    name: Annotated[Name, Attribute("the snapshot's name")]
    taken: Annotated[int | None, Attribute("when it was taken", "moment")] = None


class VirtualNetwork(
    Item,
    section="virtual_networks",
    key=("guest", "mac"),
    one="virtual port",
    many="virtual ports",
    heading="Virtual networks",
):
    """An interface of a guest and the virtual switch of its host that it is at."""

    guest: Annotated[Name, Attribute("the guest", bare=True)]
    mac: Annotated[Text, Attribute("the guest's hardware address there", label="Hardware address")]
    network: Annotated[Text, Attribute("the bridge or port group it is at", bare=True)] = ""
    sort: Annotated[Text, Attribute("what it is at: a bridge, a virtual network")] = ""


class Share(Item, section="shares", key=("name",), one="share", many="shares", heading="Shares it offers"):
    """What a file server offers others: an NFS export (RFC 8881) by its path, an SMB share by its name."""

    name: Annotated[Name, Attribute("the share's name, or the path that is exported", bare=True)]
    sort: Annotated[Text, Attribute("by which protocol: NFS or SMB", "choice", choices=("NFS", "SMB"))] = ""
    path: Annotated[Text, Attribute("what is offered")] = ""
    offered_to: Annotated[Text, Attribute("to whom it is offered", label="Offered to")] = ""


class ShareUser(
    Item,
    section="share_users",
    key=("share", "client"),
    one="user of a share",
    many="users of shares",
    heading="Users of its shares",
    news=False,
):
    """A computer that had an SMB share open when the file server was read."""

    share: Annotated[Name, Attribute("the share that is open", bare=True)]
    client: Annotated[Text, Attribute("the address or name of the computer that has it open", "addresses")]
    account: Annotated[Text, Attribute("the account it is open by, where the server says so")] = ""


class ClusterPart(
    Item,
    section="cluster_parts",
    key=("cluster", "sort", "name"),
    one="part of a cluster",
    many="parts of clusters",
    heading="Its cluster",
):
    """A node of the cluster a computer is of, or what the cluster keeps running on one of its nodes: an address, a
    guest, another resource."""

    cluster: Annotated[Name, Attribute("the cluster's name", bare=True)]
    sort: Annotated[
        Text,
        Attribute("what it is: a node, an address, a guest, another resource", "choice",
                  choices=("node", "address", "guest", "resource")),
    ]  # fmt: skip
    name: Annotated[Name, Attribute("the node, the address, the guest or the resource")]
    state: Annotated[Text, Attribute("whether a node is online; of which type a resource is")] = ""


class HeldDatabase(
    Item, section="databases", key=("engine", "name"), one="database", many="databases", heading="Databases"
):
    """A database of a server's own catalogue."""

    engine: Annotated[Name, Attribute("the server that has it", bare=True)]
    name: Annotated[Name, Attribute("the database's name", bare=True)]
    version: Annotated[Text, Attribute("the server's release")] = ""
    size: Annotated[Count | None, Attribute("its size in bytes, to two figures", "bytes")] = None


class DnsName(
    Item, section="dns_names", key=("name", "address"), one="DNS name", many="DNS names", heading="DNS names"
):
    """A name that the name service has for one of its addresses (RFC 1035), and whether that leads back to it. `alias`:
    the name is another name of this one (CNAME)."""

    name: Annotated[Name, Attribute("the name", bare=True)]
    address: Annotated[Text, Attribute("the address it leads to", "addresses")]
    alias: Annotated[Text, Attribute("the name it is another name of", label="Another name of")] = ""
    reverse: Annotated[bool | None, Attribute("whether the address leads back to the name", "yes/no")] = None
