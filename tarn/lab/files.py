"""The files of a simulated Linux computer: what the kernel and the system say of it."""

from collections.abc import Callable
from datetime import datetime, timedelta

from tarn.lab.model import Device


def in_sys(device: Device, path: str) -> list[str]:
    dmi = "/sys/class/dmi/id/"
    if path.startswith(dmi):
        value = {
            "sys_vendor": device.maker,
            "product_name": device.model,
            "product_serial": device.serial,
            "product_uuid": device.uuid,
            "board_serial": device.board_serial,
            "chassis_asset_tag": "",
        }.get(path[len(dmi) :], "")
        return [f"{path}:{value}"] if value else []
    if path.startswith(_USB_DEVICES):
        return [f"{_USB_DEVICES}{port}/{told}" for port, told in _usb(device, path.rpartition("/")[2])]
    if path == "/sys/class/net/*/speed":
        return [f"/sys/class/net/{i.name}/speed:{i.speed // 10**6}" for i in device.interfaces if i.up]
    return []


_USB_DEVICES = "/sys/bus/usb/devices/"
_PLUGGED = {"till": ("Halberd", "Scan 40 barcode reader"), "kiosk": ("Orrin", "Ticket printer T2")}
"""What is plugged into devices of a kind, in its second port; into all others a console's receiver."""


def _usb(device: Device, attribute: str) -> list[tuple[str, str]]:
    """Return by port an attribute of what is plugged in, behind the hub that every machine has."""
    maker, product = _PLUGGED.get(device.kind, ("Orrin", "Console receiver"))
    held = {"manufacturer": maker, "product": product, "serial": f"U{device.serial[-6:]}", "bDeviceClass": "00"}
    hub = {"bDeviceClass": "09", "product": "Root hub", "manufacturer": "Linux"}
    return [(port, f"{attribute}:{d[attribute]}") for port, d in (("1-2", held), ("usb1", hub)) if attribute in d]


def _os_release(device: Device, now: datetime) -> str:
    ids = {"Debian GNU/Linux": "debian", "Ubuntu": "ubuntu", "Tallow Linux": "tallow", "Gannet Linux": "gannet"}
    like = "" if device.os_name == "Debian GNU/Linux" else 'ID_LIKE="debian"\n'
    if device.family == "rpm":
        like = 'ID_LIKE="rhel fedora"\n'
    return (
        f'PRETTY_NAME="{device.os_name} {device.os_version}"\nNAME="{device.os_name}"\n'
        f'VERSION_ID="{device.os_version}"\nID={ids.get(device.os_name, "linux")}\n{like}'
    )


def _cpuinfo(device: Device, now: datetime) -> str:
    return "".join(
        f"processor\t: {i}\nmodel name\t: {device.processor}\nphysical id\t: {i % device.sockets}\ncore id\t\t: {i}\n"
        f"cpu cores\t: {device.cores}\n\n"
        for i in range(device.cores)
    )


def _meminfo(device: Device, now: datetime) -> str:
    return f"MemTotal:       {int(device.memory * 0.972) // 1024} kB\nMemFree:        {device.memory // 4096} kB\n"


def _passwd(device: Device, now: datetime) -> str:
    return "".join(
        f"{a.name}:x:{a.uid}:{a.uid}:{a.full_name}:{'/root' if a.uid == 0 else '/home/' + a.name}:{a.shell}\n"
        for a in device.accounts
    )


def _group(device: Device, now: datetime) -> str:
    admins = ",".join(a.name for a in device.accounts if "sudo" in a.groups)
    return f"root:x:0:\n{'wheel' if device.family == 'rpm' else 'sudo'}:x:27:{admins}\nusers:x:100:\n"


def _stat(device: Device, now: datetime) -> str:
    start = (now - timedelta(days=now.toordinal() % device.up_days)).replace(hour=4, minute=12, second=0, microsecond=0)
    return f"cpu  1 2 3 4\nbtime {int(max(start, device.restarted or start).timestamp())}\n"


FILES: dict[str, Callable[[Device, datetime], str]] = {
    "/etc/os-release": _os_release,
    "/proc/cpuinfo": _cpuinfo,
    "/proc/meminfo": _meminfo,
    "/proc/stat": _stat,
    "/etc/passwd": _passwd,
    "/etc/group": _group,
}
