"""The lists of what a computer is doing: services, tasks, processes, connections, containers. See `item.py`."""

from typing import Annotated

from pydantic import StringConstraints

from tarn.core.item import Attribute, Count, Item, Name, PortNumber, Text


class Scheduled(
    Item, section="scheduled", key=("name",), one="scheduled task", many="scheduled tasks", heading="Scheduled tasks"
):
    """A task that a system runs by itself: what it runs, as whom, and whether it is switched on."""

    name: Annotated[Name, Attribute("the scheduled task's name", bare=True)]
    runs: Annotated[Text, Attribute("what the task runs")] = ""
    account: Annotated[Text, Attribute("the account the task runs as")] = ""
    enabled: Annotated[bool | None, Attribute("whether the task is switched on", "yes/no")] = None


class Service(Item, section="services", key=("name",), one="service", many="services", heading="Services"):
    """A service or daemon the system manages."""

    name: Annotated[Name, Attribute("the service's name", bare=True)]
    label: Annotated[Text, Attribute("what the system calls the service")] = ""
    start: Annotated[Text, Attribute("how it starts: automatic, manual or disabled")] = ""
    running: Annotated[bool | None, Attribute("whether it runs", "yes/no")] = None
    account: Annotated[Text, Attribute("the account it runs as")] = ""


class Process(
    Item,
    section="processes",
    key=("command", "account"),
    one="process",
    many="processes",
    heading="Processes",
    news=False,
):
    """Processes of one command line by one account, however many there are at once. What is secret in arguments is
    blotted out before it leaves the device. `started`: the oldest of them, to the minute; `listens`: ports parted by
    spaces; `unit`: the service or container it runs in."""

    command: Annotated[Text, Attribute("the command with its arguments, what is secret blotted out", bare=True)]
    account: Annotated[Text, Attribute("the account it runs as")] = ""
    name: Annotated[Text, Attribute("the name the system has for it")] = ""
    listens: Annotated[Text, Attribute("the ports it listens on, parted by spaces", label="Listens on")] = ""
    parent: Annotated[Text, Attribute("the process that started it", label="Started by")] = ""
    unit: Annotated[Text, Attribute("the service or container it runs in")] = ""
    started: Annotated[int | None, Attribute("when the oldest of them was started", "moment")] = None
    count: Annotated[Count | None, Attribute("how many of them run", "number")] = None


class Connection(
    Item,
    section="connections",
    key=("direction", "process", "peer", "port"),
    one="connection",
    many="connections",
    heading="Connections",
    news=False,
):
    """Established connections of a process with one peer over one port, however many there are: `out` to a port of the
    peer, `in` from a peer to a port that listens here. Without a process where the account may not see whose it is."""

    direction: Annotated[
        Annotated[str, StringConstraints(pattern=r"^(out|in)$")],
        Attribute("out where it calls, in where it is called", "choice", choices=("out", "in")),
    ] = "out"

    process: Annotated[
        Annotated[str, StringConstraints(max_length=300, pattern=r"^[^\x00-\x1f\x7f]*$")],
        Attribute("the process that holds the connection", bare=True),
    ]
    peer: Annotated[Text, Attribute("the address at the other end", "addresses")]
    port: Annotated[PortNumber, Attribute("the port that is spoken to, there or here", "code")]


class Container(Item, section="containers", key=("name",), one="container", many="containers", heading="Containers"):
    """A container and the image it runs; `ports`: those it publishes, as ADDRESS:PORT->PORT/PROTOCOL, `networks` and
    `volumes` likewise parted by spaces."""

    name: Annotated[Name, Attribute("the container's name", bare=True)]
    image: Annotated[Text, Attribute("the image it runs")] = ""
    running: Annotated[bool | None, Attribute("whether it runs", "yes/no")] = None
    ports: Annotated[Text, Attribute("the ports it publishes")] = ""
    networks: Annotated[Text, Attribute("the networks it is in")] = ""
    volumes: Annotated[Text, Attribute("the volumes it has mounted")] = ""
