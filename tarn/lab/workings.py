"""What a simulated Linux computer is doing: its services, connections, containers and guests."""

from datetime import UTC, datetime, timedelta

from tarn.lab.model import GIB, Device, Guest, Package
from tarn.lab.parts import digest, mac, uuid

EPOCH = datetime(2026, 3, 1, tzinfo=UTC)
"""The day before which what is installed was installed."""

PEERS = {
    "tixline-kiosk": ("tixline", "10.60.4.22", 80),
    "tixline-server": ("tixline", "10.60.4.29", 5432),
    "crewroster": ("crewroster", "10.60.4.29", 5432),
    "berthwright-planner": ("berthwright", "10.60.4.23", 80),
    "storekeeper": ("storekeeper", "10.60.4.25", 80),
    "galleykeeper-till": ("galleykeeper", "10.60.4.25", 80),
    "tillmaster": ("tillmaster", "10.60.4.25", 80),
    "heron-monitor": ("heron", "10.60.4.28", 80),
}
"""By product the process that talks, and to whom."""


def services(device: Device) -> list[tuple[str, str, str, str]]:
    """Return units: name, state of the unit file, whether it is active, and what it is."""
    out = [
        ("ssh.service", "enabled", "active", "Secure shell server"),
        ("cron.service", "enabled", "active", "Regular background programs"),
        ("systemd-journald.service", "static", "active", "Journal"),
        ("cups.service", "disabled", "inactive", "Printing"),
    ]
    for listener in device.listeners:
        if listener.process != "sshd":
            out.append((f"{listener.process}.service", "enabled", "active", f"{listener.process.capitalize()} server"))
    if "corvid-protect" in device.packages:
        out.append(("corvid-protect.service", "enabled", "active", "Corvid Protect"))
    return sorted(set(out))


def connections(device: Device) -> list[tuple[int, str, int, str]]:
    """Return established connections: local port, peer, its port, process."""
    out = [(22, "10.60.5.20", 51_022, "sshd")]
    serving = {i.port: i.process for i in device.listeners if i.protocol == "tcp"}
    for number, (caller, port) in enumerate(device.callers):
        out.append((port, caller, 50_000 + number, serving.get(port, "")))
    for number, (package, (process, peer, port)) in enumerate(sorted(PEERS.items())):
        if package in device.packages and peer != device.address:
            out.append((40_000 + number * 7 + digest(device.name, package) % 7, peer, port, process))
    for number, program in enumerate(device.programs):
        if program.calls is not None:
            out.append((41_000 + number, *program.calls, program.name))
    return [c for c in out if c[1:3] not in device.quiet]


def connect(devices: list[Device]) -> None:
    """Have talk agree at both ends: who is called knows who calls."""
    by_address = {a: d for d in devices for a in (d.address, *d.shared)}
    calls = [(d, peer, port) for d in devices for local, peer, port, _ in connections(d) if local >= 32_768]
    for caller, peer, port in calls:
        if called := by_address.get(peer):
            called.callers.append((caller.address, port))
    for server in devices:
        if server.name == FILES:
            server.callers += [(d.address, 445) for d in devices if d.family == "windows"]


FILES, CREW_PAPERS = "salt-file-01", "crew-papers"


def shares_open(device: Device) -> list[tuple[str, str]]:
    """Return which share of a file server which address has open."""
    if device.name != FILES:
        return []
    return [(CREW_PAPERS, address) for address, port in device.callers if port == 445]


LISTS = "/var/lib/dpkg/info/*.list"


def listed(package: str) -> str:
    """Return the file in which dpkg lists a package's files."""
    return LISTS.replace("*", package)


def installed(device: Device, now: datetime) -> list[tuple[str, datetime]]:
    """Return packages and when their release was installed."""
    return [
        (p.name, now.replace(hour=4, minute=0) - timedelta(days=_age(device, p, now)))
        for p in sorted(device.packages.values(), key=lambda p: p.name)
    ]


def _age(device: Device, package: Package, now: datetime) -> int:
    day = now.toordinal()
    return day - (EPOCH.toordinal() - digest(device.identity, package.name, package.version) % 600)


def programs(device: Device, now: datetime) -> list[tuple[str, datetime]]:
    """Return programs and when each was last started; a third of the packages bring one, and some are never used."""
    out = []
    for name, at in installed(device, now):
        habit = digest(device.identity, name, "habit") % 9
        if habit > 2:
            continue
        # Used daily, now and then, or not since it was installed.
        rest = (now.toordinal() + habit) % 20 if habit == 1 else 0
        out.append((name, at if habit == 2 else max(at, now - timedelta(days=rest))))
    return out


def containers(device: Device) -> list[tuple[str, str, str]]:
    """Return containers: name, image, state. The monitoring and stores servers run some."""
    if device.name == "salt-mon-01":
        return [
            ("heron-web", "registry.skerrivane.example/heron-web:5.2", "running"),
            ("heron-store", "registry.skerrivane.example/heron-store:5.2", "running"),
            ("heron-import", "registry.skerrivane.example/heron-import:5.1", "exited"),
        ]
    if device.name == "salt-store-01":
        return [("labels", "registry.skerrivane.example/labels:1.8", "running")]
    return []


CONTAINER_LINKS = {
    "heron-web": "0.0.0.0:80->8080/tcp, :::80->8080/tcp\theron\t",
    "heron-store": "\theron\theron-data",
    "labels": "127.0.0.1:8090->8090/tcp\tbridge\t/srv/labels",
}
"""By container the ports it publishes, its networks and volumes, as docker prints them."""


def databases(device: Device) -> list[tuple[str, int]]:
    """Return databases and their sizes in bytes."""
    held = {
        "salt-db-01": (("tickets", 212 << 30), ("crew", 18 << 30), ("archive", 640 << 30)),
        "salt-tix-01": (("tickets-old", 96 << 30),),
    }
    return list(held.get(device.name, (("sales", 4 << 30),)))


CLUSTER, KEPT = ("salt-hv-01", "salt-hv-02"), "salt-app-02"
"""The virtual hosts that are one cluster, and the guest it starts on the other when one is gone."""
MOVES = 385
"""The day on which one guest moves from the first virtual host to the second."""


def take_in_guests(devices: list[Device], day: int) -> None:
    """Give the two virtual hosts their guests: the clones, one host each; one that moves; one switched off."""
    hosts = {d.name: d for d in devices if d.kind == "hypervisor"}
    running = {d.name: d for d in devices}
    for number, name in (("1", "salt-app-01"), ("2", "salt-app-02")):
        host, guest = hosts.get(f"salt-hv-0{number}"), running.get(name)
        if host and guest:
            host.guests.append(
                Guest(guest.uuid, name, guest.cores, guest.memory, tuple(i.mac for i in guest.interfaces))
            )
    where = "salt-hv-01" if day < MOVES else "salt-hv-02"
    for host_name, name, state in (
        (where, "salt-build-01", "running"),
        ("salt-hv-01", "salt-old-tix", "shut off"),
        ("salt-hv-02", "salt-test-02", "running"),
    ):
        if host := hosts.get(host_name):
            host.guests.append(Guest(uuid(name), name, 2, 4 * GIB, (mac("tallow", name),), state))


def cluster_xml() -> str:
    """Return what `cibadmin --query` prints on a node: Pacemaker's configuration of the cluster, and how it stands."""
    nodes = "".join(f'<node id="{n}" uname="{name}"/>' for n, name in enumerate(CLUSTER, start=1))
    states = "".join(
        f'<node_state id="{n}" uname="{name}" in_ccm="true" crmd="online" join="member" expected="member"/>'
        for n, name in enumerate(CLUSTER, start=1)
    )
    return (
        '<cib crm_feature_set="3.16.2" validate-with="pacemaker-3.9" epoch="41" num_updates="7" admin_epoch="0" '
        'have-quorum="1"><configuration><crm_config><cluster_property_set id="cib-bootstrap-options">'
        '<nvpair id="cluster-name" name="cluster-name" value="salt-hosts"/></cluster_property_set></crm_config>'
        f"<nodes>{nodes}</nodes><resources>"
        f'<primitive id="vm-{KEPT}" class="ocf" provider="heartbeat" type="VirtualDomain"><instance_attributes>'
        f'<nvpair name="config" value="/etc/libvirt/qemu/{KEPT}.xml"/></instance_attributes></primitive>'
        '<clone id="storage"><primitive id="images" class="ocf" provider="heartbeat" type="Filesystem"/></clone>'
        f"</resources><constraints/></configuration><status>{states}</status></cib>\n"
    )


def snapshots(guest: Guest) -> str:
    """Return what `virsh snapshot-list` prints of a guest."""
    if guest.name not in ("salt-old-tix", "salt-build-01"):
        return ""
    taken = EPOCH - timedelta(days=40 + digest(guest.name, "snapshot") % 300)
    return f" before-update   {taken:%Y-%m-%d %H:%M:%S} +0000   shutoff\n"


def pool_xml(device: Device, name: str) -> str:
    """Return a data store in libvirt's format of storage pools."""
    size = (1_800 if name == "images" else 400) * GIB
    used = size * (digest(device.name, name, "pool") % 60 + 35) // 100
    return (
        f"<pool type='dir'><name>{name}</name><capacity unit='bytes'>{size}</capacity>"
        f"<allocation unit='bytes'>{used}</allocation><available unit='bytes'>{size - used}</available>"
        f"<target><path>/var/lib/libvirt/{name}</path></target></pool>\n"
    )


def domain_xml(guest: Guest) -> str:
    """Return a guest's description in libvirt's format of domains."""
    links = "".join(
        f"<interface type='bridge'><mac address='{m}'/><source bridge='br0'/><model type='virtio'/></interface>"
        for m in guest.macs
    )
    return (
        f"<domain type='kvm' id='7'><name>{guest.name}</name><uuid>{guest.uuid}</uuid>"
        f"<memory unit='KiB'>{guest.memory // 1024}</memory><vcpu placement='static'>{guest.cores}</vcpu>"
        f"<cputune><shares>{512 if guest.name == 'salt-test-02' else 1024}</shares></cputune>"
        "<os><type arch='x86_64'>hvm</type></os><devices>"
        f"<disk type='file' device='disk'><source file='/var/lib/libvirt/images/{guest.name}.qcow2'/>"
        "<target dev='vda' bus='virtio'/></disk><disk type='file' device='cdrom'><target dev='sda'/></disk>"
        f"{links}</devices></domain>\n"
    )
