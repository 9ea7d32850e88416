"""The shell of a simulated Mac: what its own programs print, from the device's model."""

import json
import plistlib
from collections.abc import Callable
from datetime import datetime, timedelta

from tarn.lab import running
from tarn.lab.model import Answer, Device
from tarn.lab.parts import digest


def _system_profiler(device: Device, words: list[str], now: datetime) -> Answer:
    """`system_profiler -json TYPE`"""
    kind = words[-1]
    if kind == "SPHardwareDataType":
        entries = [
            {
                "_name": "hardware_overview",
                "machine_name": device.model,
                "chip_type": device.processor,
                "number_processors": f"proc {device.cores}:{device.cores // 2}:{device.cores // 2}",
                "physical_memory": f"{device.memory >> 30} GB",
                "serial_number": device.serial,
                "platform_UUID": device.uuid.upper(),
            }
        ]
    elif kind == "SPApplicationsDataType":
        entries = [
            {
                "_name": p.name,
                "version": p.version,
                "path": f"/Applications/{p.name}.app",
                "signed_by": [f"Developer ID Application: {p.publisher} (TARN0DEMO1)"],
            }
            for p in device.packages.values()
        ]
    else:
        return "", f"system_profiler: unknown data type {kind}\n", 1
    return json.dumps({kind: entries}), "", 0


def _sw_vers(device: Device, words: list[str], now: datetime) -> Answer:
    build = f"{digest(device.os_version, 'build') % 90 + 10}A{digest(device.os_version) % 900 + 100}"
    return f"ProductName:\t\tmacOS\nProductVersion:\t\t{device.os_version}\nBuildVersion:\t\t{build}\n", "", 0


def _uname(device: Device, words: list[str], now: datetime) -> Answer:
    return ("Darwin\n" if words == ["-s"] else f"Darwin {device.kernel} arm64\n"), "", 0


def _sysctl(device: Device, words: list[str], now: datetime) -> Answer:
    start = (now - timedelta(days=now.toordinal() % device.up_days)).replace(hour=6, minute=5, second=0, microsecond=0)
    at = int(max(start, device.restarted or start).timestamp())
    return f"kern.boottime: {{ sec = {at}, usec = 0 }} {start:%a %b %e %H:%M:%S %Y}\n", "", 0


def _hostname(device: Device, words: list[str], now: datetime) -> Answer:
    return f"{device.name}.{device.domain}\n", "", 0


def _diskutil(device: Device, words: list[str], now: datetime) -> Answer:
    listed = [{"DeviceIdentifier": d.name, "Size": d.size} for d in device.disks]
    return plistlib.dumps({"AllDisksAndPartitions": listed}).decode(), "", 0


def _df(device: Device, words: list[str], now: datetime) -> Answer:
    out = "Filesystem     1024-blocks      Used Available Capacity  Mounted on\n"
    for f in device.filesystems:
        full = -(-100 * f.used // f.size)
        out += f"{f.device} {f.size >> 10} {f.used >> 10} {(f.size - f.used) >> 10} {full}%    {f.mount}\n"
    return out, "", 0


def _ifconfig(device: Device, words: list[str], now: datetime) -> Answer:
    out = "lo0: flags=8049<UP,LOOPBACK,RUNNING,MULTICAST> mtu 16384\n\tinet 127.0.0.1 netmask 0xff000000\n"
    for i in device.interfaces:
        out += f"{i.name}: flags=8863<UP,BROADCAST,SMART,RUNNING,SIMPLEX,MULTICAST> mtu 1500\n\tether {i.mac}\n"
        for address, bits in i.addresses:
            out += f"\tinet {address} netmask 0x{(0xFFFFFFFF << (32 - bits)) & 0xFFFFFFFF:08x}\n"
        out += f"\tstatus: {'active' if i.up else 'inactive'}\n"
    return out, "", 0


def _ioreg(device: Device, words: list[str], now: datetime) -> Answer:
    return (
        f'+-o Lab  <class IOPlatformExpertDevice>\n    {{\n      "manufacturer" = <"{device.maker}">\n    }}\n',
        "",
        0,
    )


def _dscl(device: Device, words: list[str], now: datetime) -> Answer:
    """`dscl . -list /Users UniqueID` and `dscl . -read /Groups/admin GroupMembership`"""
    if "/Users" in words:
        return "".join(f"{a.name} {a.uid}\n" for a in device.accounts), "", 0
    members = " ".join(a.name for a in device.accounts if "admin" in a.groups)
    return f"GroupMembership: {members}\n", "", 0


def _mdls(device: Device, words: list[str], now: datetime) -> Answer:
    out = ""
    for p in device.packages.values():
        back = timedelta(days=digest(device.identity, p.name, "opened") % 40)
        at = (now - back).replace(hour=8, minute=12, second=0)
        out += f'kMDItemDisplayName  = "{p.name}.app"\nkMDItemLastUsedDate = {at:%Y-%m-%d %H:%M:%S} +0000\n'
    return out, "", 0


def _lsof(device: Device, words: list[str], now: datetime) -> Answer:
    return "".join(f"p{600 + i.port}\nc{i.process}\nf3\nn*:{i.port}\n" for i in device.listeners), "", 0


def _ps(device: Device, words: list[str], now: datetime) -> Answer:
    start = (now - timedelta(days=now.toordinal() % device.up_days)).replace(hour=6, minute=5, second=30, microsecond=0)
    start = max(start, device.restarted or start)
    owner = device.accounts[-1].name
    rows = [
        (1, 0, "root", "/sbin/launchd"),
        *((600 + i.port, 1, "root", f"/usr/libexec/{i.process}") for i in device.listeners),
    ]
    for number, name in enumerate(sorted(device.packages)):
        rows.append((2_000 + number, 1, owner, f"/Applications/{name}.app/Contents/MacOS/{name}"))
    text = "".join(
        f"{n:>5} {parent:>5} {who:<16} {start:%a %b %e %H:%M:%S %Y}     {what}\n" for n, parent, who, what in rows
    )
    return running.edited(text, words), "", 0


COMMANDS: dict[str, Callable[[Device, list[str], datetime], Answer]] = {
    "system_profiler": _system_profiler,
    "sw_vers": _sw_vers,
    "uname": _uname,
    "sysctl": _sysctl,
    "hostname": _hostname,
    "diskutil": _diskutil,
    "df": _df,
    "ifconfig": _ifconfig,
    "ioreg": _ioreg,
    "dscl": _dscl,
    "mdls": _mdls,
    "lsof": _lsof,
    "(ps": _ps,
}
"""The programs a Mac has in place of those of Linux."""
