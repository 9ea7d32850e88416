"""Building blocks of the scenario: how a server, a kiosk, a switch or a camera is made."""

import hashlib

from tarn.lab.model import (
    GIB,
    Account,
    Certificate,
    Device,
    Disk,
    Filesystem,
    Interface,
    Listener,
    Package,
    SignIn,
)
from tarn.lab.names import MAKERS, PEOPLE, PRODUCTS, base_packages

ENTERPRISE = "1.3.6.1.4.1.59"
"""Object ids of the invented makers lie here, under a number no maker is known by to Tarn."""

_BASE = base_packages(96)
TALLOW, GANNET = ("Tallow Linux", "8.10"), ("Gannet Linux", "4")
"""Invented distributions, each with its notices: of the servers and kiosks, and of the tills."""


def digest(*parts: object) -> int:
    """Return a number that is always the same for the same parts: the lab's only source of chance."""
    return int.from_bytes(hashlib.blake2b("|".join(map(str, parts)).encode(), digest_size=8).digest(), "big")


def mac(maker: str, *parts: object) -> str:
    """Return a hardware address of a maker."""
    number = digest("mac", maker, *parts)
    return MAKERS[maker][1] + "".join(f":{number >> s & 255:02x}" for s in (0, 8, 16))


def serial(maker: str, *parts: object) -> str:
    """Return a serial number as a maker writes it."""
    number = digest("serial", maker, *parts)
    letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    return f"{MAKERS[maker][0][:2].upper()}{number % 10}{letters[number // 10 % 24]}-{number // 240 % 90000 + 10000}"


def uuid(*parts: object) -> str:
    """Return a hardware UUID."""
    text = f"{digest('uuid', *parts):016x}{digest('uuid2', *parts):016x}"
    return f"{text[:8]}-{text[8:12]}-4{text[13:16]}-a{text[17:20]}-{text[20:]}"


def linux(
    name: str,
    kind: str,
    address: str,
    place: str,
    maker: str,
    model: str,
    *,
    memory: int,
    cores: int,
    products: tuple[str, ...],
    os: tuple[str, str] = ("Debian GNU/Linux", "12"),
    family: str = "debian",
    disk: int = 480,
    listeners: tuple[tuple[int, str], ...] = (),
    person: str = "",
    department: str = "",
) -> Device:
    """Return a computer with Linux: `memory` in GiB, `disk` in GB."""
    seed = name
    root = int(disk * 10**9 * 0.94)
    packages = {n: Package(n, v, publisher="Tallow Systems") for n, v in _BASE}
    for product in (*products, "secure-shell-server", "corvid-protect"):
        publisher, releases = PRODUCTS[product]
        packages[product] = Package(product, releases[0][1], publisher=publisher)
    if family == "rpm":
        for p in packages.values():
            p.arch = "x86_64"
            p.version += ".tl8" if "-" in p.version else "-1.tl8"
    accounts = [
        Account("root", 0, "root", ("root",)),
        Account("daemon", 1, "daemon", (), "/usr/sbin/nologin"),
        Account("tarn-reader", 980, "Inventory", ("sudo",)),
        Account("harbour-admin", 1000, "Harbour IT", ("sudo",)),
    ]
    owner = person or PEOPLE[digest(seed) % len(PEOPLE)]
    login = owner.split()[0][0].lower() + owner.split()[1].lower()
    if kind in ("workstation", "laptop"):
        admins = ("sudo",) if digest(seed, "admin") % 6 == 0 else ()
        accounts.append(Account(login, 1001, owner, admins))
    used = 0.25 + digest(seed, "disk") % 45 / 100
    ports = [Listener(22, "sshd"), *(Listener(p, n) for p, n in listeners)]
    return Device(
        name=name,
        kind=kind,
        address=address,
        maker=MAKERS[maker][0],
        model=model,
        serial=serial(maker, seed),
        uuid=uuid(seed),
        place=place,
        family=family,
        os_name=os[0],
        os_version=os[1],
        kernel="6.1.0-26-amd64" if family == "debian" else "4.18.0-553.tl8.x86_64",
        processor=("Halberd Arc 8100 @ 2.40GHz" if cores > 4 else "Orrin Lume N200 @ 1.80GHz"),
        cores=cores,
        memory=memory * GIB,
        interfaces=[Interface("eth0", mac(maker, seed), addresses=[(address, 24)])],
        disks=[Disk("sda", f"Halberd SSD {disk}", f"S{digest(seed, 'sda') % 10**8:08d}", disk * 10**9)],
        filesystems=[
            Filesystem("/", "/dev/sda2", "ext4", root, int(root * used)),
            Filesystem("/boot/efi", "/dev/sda1", "vfat", 512 << 20, 6 << 20),
        ],
        packages=packages,
        accounts=accounts,
        listeners=ports,
        signins=[SignIn(login if kind in ("workstation", "laptop") else "harbour-admin", "10.60.5.20", 3)],
        open_ports=tuple(p for p, _ in listeners if p in (80, 25, 631)),
        ssh="yes",
        host_key=seed,
        up_days=20 + digest(seed, "up") % 60,
        person=person,
        department=department,
        identity=seed,
    )


def appliance(
    name: str,
    kind: str,
    address: str,
    place: str,
    maker: str,
    model: str,
    says: str,
    *,
    snmp: str = "v2c",
    ports: int = 1,
    web: tuple[int, ...] = (80,),
    firmware: str = "3.2.1",
) -> Device:
    """Return a device with firmware: `ports` network interfaces, `web` the TCP ports it answers on."""
    interfaces = [
        Interface(
            f"port{i + 1}" if ports > 1 else "eth0",
            mac(maker, name, i) if i else mac(maker, name),
            speed=10**9 if i < 24 else 10**10,
            up=i == 0 or digest(name, i) % 3 > 0,
            addresses=[(address, 24)] if i == 0 else [],
        )
        for i in range(ports)
    ]
    return Device(
        name=name,
        kind=kind,
        address=address,
        maker=MAKERS[maker][0],
        model=model,
        serial=serial(maker, name),
        place=place,
        os_name=f"{MAKERS[maker][0]} firmware",
        os_version=firmware,
        description=f"{MAKERS[maker][0]} {model} {says}, firmware {firmware}",
        object_id=f"{ENTERPRISE}{list(MAKERS).index(maker) + 9000}.1.{digest(model) % 90 + 1}",
        interfaces=interfaces,
        open_ports=web,
        snmp=snmp,
        up_days=30 + digest(name, "up") % 300,
        identity=name,
    )


def windows(
    name: str,
    kind: str,
    address: str,
    place: str,
    *,
    snmp: str = "",
    winrm: str = "yes",
    products: tuple[str, ...] = (),
    person: str = "",
    department: str = "",
) -> Device:
    """Return a computer with Windows, read by remote management; a server answers SNMP as well if asked to."""
    server = kind == "server"
    device = appliance(
        name,
        kind,
        address,
        place,
        "halberd",
        "R520" if server else "L14 notebook" if kind == "laptop" else "D40",
        "",
        snmp=snmp,
        web=(135, 445, 3389),
        firmware="10.0.20348" if server else "10.0.22631",
    )
    device.family, device.os_name = "windows", "Windows Server" if server else "Windows"
    device.description = (
        "Hardware: Intel64 Family 6 Model 85 - Software: Windows Version 10.0 (Build "
        f"{device.os_version.rsplit('.', 1)[1]} Multiprocessor Free)"
    )
    device.object_id = "1.3.6.1.4.1.311.1.1.3.1.2"
    device.uuid, device.board_serial = uuid(name), serial("halberd", name, "board")
    device.processor, device.cores, device.memory = "Halberd Arc 8100 @ 2.40GHz", 8, 16 * GIB
    device.interfaces[0].name = "Ethernet"
    device.disks = [Disk("0", "Halberd SSD 480", f"S{digest(name, 'sda') % 10**8:08d}", 480 * 10**9)]
    used = (20 + digest(name, "disk") % 60) * 48 * 10**8
    device.filesystems = [Filesystem("C:\\", "", "ntfs", 480 * 10**9, used)]
    device.winrm, device.person, device.department = winrm, person, department
    owner = person or "Harbour Admin"
    device.signins = [SignIn(owner.split()[0][0].lower() + owner.split()[1].lower(), "console", 5)]
    for product in ("corvid-protect", *(products or ("quill-office", "pellucid-reader"))):
        publisher, releases = PRODUCTS[product]
        device.packages[product] = Package(product, releases[0][1], publisher=publisher)
    return device


def macos(name: str, address: str, place: str, *, version: str, person: str, department: str) -> Device:
    """Return a notebook with macOS, read by a shell."""
    device = appliance(name, "laptop", address, place, "orrin", "Leaf 14 notebook", "", snmp="", web=(5900,))
    major = int(version.partition(".")[0])
    device.family, device.os_name, device.os_version, device.kernel = "macos", "macOS", version, f"{major + 9}.5.0"
    device.description, device.object_id, device.uuid = "", "", uuid(name)
    device.processor, device.cores, device.memory = "Orrin Lume L3", 8, 16 * GIB
    device.interfaces[0].name = "en0"
    device.disks = [Disk("disk0", "Orrin flash 512", f"S{digest(name, 'disk0') % 10**8:08d}", 512 * 10**9)]
    used = 512 * 10**9 * (20 + digest(name, "disk") % 60) // 100
    device.filesystems = [Filesystem("/System/Volumes/Data", "/dev/disk3s5", "apfs", 512 * 10**9, used)]
    login = person.split()[0][0].lower() + person.split()[1].lower()
    admins = ("admin",) if digest(name, "admin") % 3 == 0 else ()
    device.accounts = [
        Account("root", 0, "root", ("admin",)),
        Account("harbour-admin", 501, "Harbour IT", ("admin",)),
        Account(login, 502, person, admins),
    ]
    device.listeners = [Listener(22, "sshd"), Listener(5900, "screensharingd")]
    device.ssh, device.host_key, device.person, device.department = "yes", name, person, department
    for product in ("corvid-protect", "quill-office", "pellucid-reader"):
        publisher, releases = PRODUCTS[product]
        device.packages[product] = Package(product, releases[0][1], publisher=publisher)
    return device


def certificate(device: Device, port: int, begins: int, ends: int, *, weak: bool = False, issued: bool = False) -> None:
    """Give a device a TLS port with a certificate in its own name."""
    device.certificates[port] = Certificate(f"{device.name}.{device.domain}", begins, ends, weak, issued)
    device.open_ports = (*device.open_ports, port)
