"""What a virtual host tells of itself by libvirt: guests, their links and snapshots, data stores."""

import re
from datetime import UTC, datetime
from typing import Any

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from tarn.collect.ssh.parsing import Answers, Ask, ReadingStep, mark
from tarn.core.hosting import DataStore, Snapshot, VirtualNetwork
from tarn.core.items import Guest
from tarn.core.sightings import make_reading

_MAC = re.compile(r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")
_STATES = {"running": "running", "idle": "running", "paused": "paused", "in shutdown": "off", "shut off": "off",
           "crashed": "crashed", "dying": "dying", "pmsuspended": "suspended"}  # fmt: skip
"""States of virsh domstate (virsh(1)) and what they are called here."""
_UNITS = {"b": 1, "bytes": 1, "kb": 1000, "k": 1 << 10, "kib": 1 << 10, "mb": 10**6, "m": 1 << 20, "mib": 1 << 20,
          "gb": 10**9, "g": 1 << 30, "gib": 1 << 30}  # fmt: skip


def guests(said: Answers) -> list[Any]:
    """Read guests of libvirt: domain XML (libvirt's format of domains), state and snapshots, in turn; none where it is
    no host."""
    if not said.there("list") or not said.ran("daemon"):
        return []
    wanted = said.whole("list", "virsh list").split()
    described, states, snaps = ([p for p in said.parts if p.name == name] for name in ("xml", "state", "snaps"))
    items: dict[str, Guest] = {}
    links: dict[tuple[str, str], VirtualNetwork] = {}
    kept: dict[tuple[str, str], Snapshot] = {}
    unread, untold = max(0, len(wanted) - len(described)), len(snaps) < len(described)
    for number, (xml, state) in enumerate(zip(described, states, strict=False)):
        try:
            domain = fromstring(xml.out.strip())
            guest = _guest(domain, state.out.strip())
        except (ParseError, DefusedXmlException, ValueError):
            unread += 1
            continue
        items[guest.uuid] = guest
        called = guest.name[:300] or guest.uuid
        links |= {(called, one.mac): one for one in _links(domain, called)}
        told = _snapshots(snaps[number].out, called) if number < len(snaps) and snaps[number].code == 0 else None
        untold = untold or told is None
        kept |= {(called, one.name): one for one in told or ()}
    if not items and not unread and not wanted:
        return [make_reading("guests", [], "ssh.guests")]
    note = f"{unread} guests could not be read: their description is no domain XML" if unread else ""
    listed = [items[k] for k in sorted(items)]
    unseen = {"unseen": ("state",)} if any(not g.state for g in listed) else {}
    whole = {"complete": not unread, "note": note}
    return [
        make_reading("guests", listed, "ssh.guests", **whole, **unseen),
        make_reading("virtual_networks", [links[k] for k in sorted(links)], "ssh.guests", **whole),
        make_reading(
            "snapshots", [kept[k] for k in sorted(kept)], "ssh.guests", complete=not unread and not untold, note=note
        ),
    ]


def _links(domain: Any, guest: str) -> list[VirtualNetwork]:
    """Return where a guest's interfaces are plugged in; a port group stands after the network it is of."""
    out = []
    for link in domain.findall("devices/interface"):
        found, source = link.find("mac"), link.find("source")
        address = ((found.get("address") if found is not None else "") or "").lower()
        if not _MAC.match(address):
            continue
        at = source.attrib if source is not None else {}
        network = at.get("network") or at.get("bridge") or at.get("dev") or ""
        group = at.get("portgroup", "")
        name = f"{network}, {group}" if group else network
        out.append(VirtualNetwork(guest=guest, mac=address, network=name[:480], sort=link.get("type", "")[:100]))
    return out


_SNAPSHOT = re.compile(r"^\s*(?P<name>.+?)\s{2,}(?P<taken>\d{4}-\d\d-\d\d \d\d:\d\d:\d\d) [+-]0000\s")


def _snapshots(listed: str, guest: str) -> list[Snapshot] | None:
    """Return the snapshots `virsh snapshot-list` prints: name, time (the shell was told to print UTC), state; None
    where it prints something else."""
    found = [_SNAPSHOT.match(line) for line in listed.splitlines() if line.strip()]
    if not all(found):
        return None
    return [
        Snapshot(
            guest=guest,
            name=m["name"][:300],
            taken=int(datetime.strptime(m["taken"], "%Y-%m-%d %H:%M:%S").replace(tzinfo=UTC).timestamp()),
        )
        for m in found
        if m
    ]


def data_stores(said: Answers) -> list[Any]:
    """Read storage pools of libvirt (its format of storage pools)."""
    if not said.there("pools") or not said.ran("pools"):
        return []
    items: dict[str, DataStore] = {}
    unread = 0
    for part in (p for p in said.parts if p.name == "pool"):
        try:
            pool = fromstring(part.out.strip())
        except (ParseError, DefusedXmlException, ValueError):
            unread += 1
            continue
        name = (pool.findtext("name") or "").strip()[:300]
        size, used = (_number(pool.findtext(tag)) for tag in ("capacity", "allocation"))
        if pool.tag != "pool" or not name:
            unread += 1
            continue
        full = min(100, round(100 * used / size / 5) * 5) if size and used is not None else None
        path = (pool.findtext("target/path") or pool.findtext("source/name") or "").strip()
        items[name] = DataStore(name=name, path=path[:480], size=size or None, full=full)
    note = f"{unread} data stores could not be read: their description is no pool XML" if unread else ""
    listed = [items[k] for k in sorted(items)]
    return [make_reading("data_stores", listed, "ssh.pools", complete=not unread, note=note)]


def _number(said: str | None) -> int | None:
    text = (said or "").strip()
    return int(text) if text.isdigit() else None


def _guest(domain: Any, state: str) -> Guest:
    uuid = (domain.findtext("uuid") or "").strip().lower()
    if domain.tag != "domain" or not uuid:
        raise ValueError("no domain")
    memory = domain.find("memory")
    bytes_ = None
    if memory is not None and (memory.text or "").strip().isdigit():
        bytes_ = int(memory.text.strip()) * _UNITS.get(memory.get("unit", "KiB").lower(), 1 << 10)
    cores = (domain.findtext("vcpu") or "").strip()
    disks = [
        s.get("file") or s.get("dev") or s.get("name") or s.get("volume") or ""
        for d in domain.findall("devices/disk")
        if d.get("device", "disk") == "disk" and (s := d.find("source")) is not None
    ]
    macs = [(m.get("address") or "").lower() for m in domain.findall("devices/interface/mac")]
    macs = [m for m in macs if _MAC.match(m)]
    return Guest(
        uuid=uuid,
        name=(domain.findtext("name") or "").strip()[:480],
        state=_STATES.get(state, ""),
        cores=int(cores) if cores.isdigit() else None,
        memory=bytes_,
        weight=_number(domain.findtext("cputune/shares")),
        macs=" ".join(macs)[:480],
        disks=" ".join(d for d in disks if d)[:480],
    )


_VIRSH = "virsh -q -c qemu:///system"
STEPS: tuple[ReadingStep, ...] = (
    ReadingStep(
        "guests",
        2,
        (
            Ask("daemon", "ls /run/libvirt/libvirt-sock 2>/dev/null || ls /run/libvirt/virtqemud-sock 2>/dev/null"),
            Ask("list", f"{_VIRSH} list --all --uuid 2>/dev/null"),
            Ask(
                "each",
                f"for u in $({_VIRSH} list --all --uuid 2>/dev/null); do {_VIRSH} dumpxml $u; {mark('xml')}; "
                f"{_VIRSH} domstate $u; {mark('state')}; {_VIRSH} snapshot-list $u; {mark('snaps')}; done",
            ),
        ),
        guests,
    ),
    ReadingStep(
        "data_stores",
        3,
        (
            Ask("pools", f"{_VIRSH} pool-list --name 2>/dev/null"),
            Ask(
                "each",
                f"for p in $({_VIRSH} pool-list --name 2>/dev/null); do {_VIRSH} pool-dumpxml $p; {mark('pool')}; done",
            ),
        ),
        data_stores,
    ),
)
"""What is read of a virtual host."""
