"""What a Windows computer is doing and who may: services, accounts, protection, updates, sockets, guests."""

import re
from collections import defaultdict
from typing import Any

from tarn.collect.processes import Running, grouped
from tarn.collect.winrm.values import Answer, moment, number, one, rows, text
from tarn.core.hosting import Share, ShareUser
from tarn.core.items import Account, Connection, Guest, Membership, Port, Printer, Protection, Service, Update
from tarn.core.sightings import make_reading

_START = {"auto": "automatic", "manual": "manual", "disabled": "disabled", "boot": "boot", "system": "system"}


def services(answer: Answer) -> list[Any]:
    """Read services."""
    items = {
        name: Service(
            name=name,
            label=text(s.get("DisplayName")),
            start=_START.get(text(s.get("StartMode")).lower(), text(s.get("StartMode")).lower()),
            running=text(s.get("State")).lower() == "running",
            account=text(s.get("StartName")),
        )
        for s in rows(answer, "services")
        if (name := text(s.get("Name")))
    }
    return [make_reading("services", [items[k] for k in sorted(items)], "winrm.services")]


def _named(component: Any) -> tuple[str, str]:
    """Return domain and name of a reference such as `Win32_Group (Name = "Users", Domain = "PC")`."""
    if isinstance(component, dict):
        return text(component.get("Domain")), text(component.get("Name"))
    pairs = dict(re.findall(r'(\w+) ?= ?"([^"]*)"', str(component or "")))
    return text(pairs.get("Domain")), text(pairs.get("Name"))


def _members(answer: Answer) -> list[tuple[str, str, bool]]:
    """Return group, member, and whether the member is an account of this computer."""
    computer = text(one(answer, "computer").get("Name")).lower()
    out = []
    for m in rows(answer, "memberships"):
        _, group = _named(m.get("GroupComponent"))
        domain, name = _named(m.get("PartComponent"))
        if group and name:
            local = domain.lower() in (computer, "builtin", "nt authority", "")
            out.append((group, name if local else f"{domain}\\{name}", local))
    return out


def memberships(answer: Answer) -> list[Any]:
    """Read who belongs to which local group."""
    items = {(group, member): Membership(group=group, member=member) for group, member, _ in _members(answer)}
    return [make_reading("memberships", [items[k] for k in sorted(items)], "winrm.people")]


def accounts(answer: Answer) -> list[Any]:
    """Read local accounts; administrators are members of the group with RID 544 by its usual name."""
    administrators = {member for group, member, local in _members(answer) if group == "Administrators" and local}
    items = {
        name: Account(
            name=name,
            uid=number(text(u.get("SID")).rsplit("-", 1)[-1]),
            full_name=text(u.get("FullName")),
            administrator=name in administrators if "memberships" in answer else None,
            enabled=not u.get("Disabled"),
        )
        for u in rows(answer, "users")
        if (name := text(u.get("Name")))
    }
    return [make_reading("accounts", [items[k] for k in sorted(items)], "winrm.people")]


def protections(answer: Answer) -> list[Any]:
    """Read protection products: bit 12 of productState says on, bit 4 out of date."""
    items = {}
    for p in rows(answer, "protections"):
        name, state = text(p.get("displayName")), number(p.get("productState")) or 0
        if name:
            items[name] = Protection(name=name, on=bool(state & 0x1000), up_to_date=not state & 0x10)
    return [make_reading("protections", [items[k] for k in sorted(items)], "winrm.protections")]


def updates(answer: Answer) -> list[Any]:
    """Read updates of the operating system."""
    items = {
        name: Update(name=name, description=text(u.get("Description")), installed=moment(u.get("InstalledOn")))
        for u in rows(answer, "updates")
        if (name := text(u.get("HotFixID")))
    }
    return [make_reading("updates", [items[k] for k in sorted(items)], "winrm.updates")]


def printers(answer: Answer) -> list[Any]:
    """Read printers set up."""
    items = {
        name: Printer(name=name, driver=text(p.get("DriverName")), port=text(p.get("PortName")))
        for p in rows(answer, "printers")
        if (name := text(p.get("Name")))
    }
    return [make_reading("printers", [items[k] for k in sorted(items)], "winrm.printers")]


_FOLDER = 0
"""Type of a share of files that is not the system's own (Win32_Share: those of administrators have the highest bit)."""


def shares(answer: Answer) -> list[Any]:
    """Read shares of files; those every Windows has for its administrators are none."""
    items = {
        name: Share(name=name, sort="SMB", path=text(s.get("Path")))
        for s in rows(answer, "shares")
        if (name := text(s.get("Name"))) and number(s.get("Type")) == _FOLDER
    }
    return [make_reading("shares", [items[k] for k in sorted(items)], "winrm.shares")]


def share_users(answer: Answer) -> list[Any]:
    """Read who has which share open; an IPv6 address comes in brackets, as UNC paths have it."""
    items = {}
    for user in rows(answer, "share_users"):
        share, client = text(user.get("ShareName")), text(user.get("ComputerName")).strip("[]")
        if share and client and not share.endswith("$"):
            items[share, client] = ShareUser(share=share, client=client, account=text(user.get("UserName")))
    return [make_reading("share_users", [items[k] for k in sorted(items)], "winrm.share_users")]


def _processes(answer: Answer) -> dict[Any, str]:
    return {p.get("Id"): text(p.get("ProcessName")) for p in rows(answer, "processes")}


def ports(answer: Answer) -> list[Any]:
    """Read listening ports, where they are bound, and their processes."""
    names = _processes(answer)
    held: dict[int, tuple[str, set[str]]] = {}
    for s in rows(answer, "listeners"):
        port, host = number(s.get("LocalPort")), str(s.get("LocalAddress") or "")
        if port is not None and not host.startswith("127.") and host != "::1":
            held[port] = (names.get(s.get("OwningProcess"), ""), held.get(port, ("", set()))[1] | {host})
    items = [
        Port(
            protocol="tcp",
            port=port,
            process=process,
            bound="" if bound & {"0.0.0.0", "::", ""} else " ".join(sorted(bound))[:480],
        )
        for port, (process, bound) in sorted(held.items())
    ]
    return [make_reading("ports", items, "winrm.sockets")]


def connections(answer: Answer) -> list[Any]:
    """Read connections with their processes, and which end was called: the one whose port listens."""
    names = _processes(answer)
    listens = {number(s.get("LocalPort")) for s in rows(answer, "listeners")}
    held = {}
    for c in rows(answer, "connections"):
        peer, port = text(c.get("RemoteAddress")), number(c.get("RemotePort"))
        process = names.get(c.get("OwningProcess"), "")
        known = process or "processes" not in answer
        if peer and port is not None and known and not peer.startswith("127.") and peer != "::1":
            here = number(c.get("LocalPort"))
            direction, spoken_to = ("in", here) if here is not None and here in listens else ("out", port)
            item = Connection(direction=direction, process=process, peer=peer, port=spoken_to)
            held[direction, process, peer, spoken_to] = item
    return [make_reading("connections", [held[k] for k in sorted(held)], "winrm.sockets")]


def processes(answer: Answer) -> list[Any]:
    """Read processes by command and account, with the ports they listen on."""
    owners = {p.get("Id"): text(p.get("UserName")) for p in rows(answer, "owners")}
    listens: dict[int, set[int]] = defaultdict(set)
    for s in rows(answer, "listeners"):
        holder, port = number(s.get("OwningProcess")), number(s.get("LocalPort"))
        if holder is not None and port is not None:
            listens[holder].add(port)
    running = [
        Running(
            number=found,
            parent=number(p.get("ParentProcessId")) or 0,
            name=text(p.get("Name")),
            command=text(p.get("CommandLine")) or text(p.get("Name")),
            account=owners.get(found, ""),
            started=moment(p.get("CreationDate")),
        )
        for p in rows(answer, "commands")
        if (found := number(p.get("ProcessId"))) and text(p.get("Name"))
    ]
    items, note = grouped(running, listens)
    return [make_reading("processes", items, "winrm.processes", note=note)]


def guests(answer: Answer) -> list[Any]:
    """Read guests of a virtual host."""
    items = {
        uuid: Guest(
            uuid=uuid,
            name=text(g.get("VMName")),
            state={"2": "running", "3": "off"}.get(text(g.get("State")), text(g.get("State")).lower()),
            cores=number(g.get("ProcessorCount")),
            memory=number(g.get("MemoryAssigned")),
        )
        for g in rows(answer, "guests")
        if (uuid := text(g.get("VMId")).lower())
    }
    return [make_reading("guests", [items[k] for k in sorted(items)], "winrm.guests")]
