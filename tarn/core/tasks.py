"""Tasks on devices: what is to be run where, and by what it is seen to have worked. Runs nothing itself."""

import re
from dataclasses import dataclass, field

KINDS = {
    "restart": "restart",
    "wake": "wake",
    "uninstall": "uninstall",
    "update": "update",
    "script": "run a reviewed script",
}
"""What can be asked of devices, and how it is said."""

SETTLES = {"restart": 20, "wake": 20, "uninstall": 2, "update": 2, "script": 2}
"""Seconds a device is left alone after a task before it is read again."""

WAYS = {"Linux": "ssh", "macOS": "ssh", "Windows": "winrm"}
"""How a platform is spoken to."""

# Debian Policy 5.6.1 for dpkg's names; rpm's are those and capitals and underscores.
_PACKAGE = re.compile(r"^[A-Za-z0-9][A-Za-z0-9._+-]*$")
_MSI = re.compile(r"msiexec(?:\.exe)?\"?\s+/[ix]\s*(\{[0-9a-f-]{36}\})", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Entry:
    """A product as one device lists it: under which name, with the command it gives for its own removal, and for
    which user alone (empty: for all)."""

    name: str
    version: str = ""
    removes: str = ""
    user: str = ""


@dataclass(frozen=True, slots=True)
class Target:
    """A device as a task sees it; `broadcast` of the network it is on, for waking it."""

    platform: str = ""
    address: str = ""
    mac: str = ""
    broadcast: str = ""
    entries: tuple[Entry, ...] = ()


@dataclass(frozen=True, slots=True)
class Script:
    """A script of the reviewed list: for which platform it is, and its text."""

    name: str
    platform: str
    text: str


@dataclass(frozen=True, slots=True)
class TaskOrder:
    """What is to be done on one device, or `refused`: why nothing is, in words.

    `way`: ssh, winrm or wake. `lines`: of each what must be there for it (a program, empty: nothing) and the line
    itself; of those that ask for a program the first whose program is there is run. `shown`: the same for people.
    """

    way: str = ""
    lines: tuple[tuple[str, str], ...] = ()
    shown: str = ""
    refused: str = ""
    stdin: str = field(default="", repr=False)


def order_for(kind: str, target: Target, script: Script | None = None) -> TaskOrder:
    """Return what a task is on one device. Raises KeyError for a kind there is not."""
    orders = {"restart": _restart, "wake": _wake, "uninstall": _uninstall, "update": _update, "script": _script}
    return orders[kind](target, script)


def _way(target: Target) -> TaskOrder:
    way = WAYS.get(target.platform, "")
    if not way:
        what = target.platform or "a platform that is not known"
        return TaskOrder(refused=f"It runs {what}, and tasks go over SSH or WinRM only.")
    if not target.address:
        return TaskOrder(refused="No address of it is known.")
    return TaskOrder(way=way)


def _restart(target: Target, script: Script | None) -> TaskOrder:
    order = _way(target)
    if order.refused:
        return order
    line = {
        "Linux": "sudo -n systemctl reboot",
        "macOS": "sudo -n shutdown -r now",
        # /f: programs are closed without asking; /t 5: long enough for the answer to get out.
        "Windows": "shutdown.exe /r /f /t 5",
    }[target.platform]
    return TaskOrder(order.way, (("", line),), line)


def _wake(target: Target, script: Script | None) -> TaskOrder:
    if not target.mac:
        return TaskOrder(refused="No hardware address of it is known to wake it by.")
    if not target.broadcast:
        return TaskOrder(refused="The network it is on is not known, so there is nowhere to send the wake-up packet.")
    line = f"wake-up packet for {target.mac} to {target.broadcast}, UDP port 9"
    return TaskOrder("wake", (("", line),), line)


def magic_packet(mac: str) -> bytes:
    """Return the packet that wakes a network adapter: six octets of ones, then its address sixteen times."""
    return b"\xff" * 6 + bytes.fromhex(mac.replace(":", "")) * 16


def _uninstall(target: Target, script: Script | None) -> TaskOrder:
    if not target.entries:
        return TaskOrder(refused="It is not installed here by now.")
    order = _way(target)
    if order.refused:
        return order
    if target.platform == "Linux":
        return _packages(target.entries)
    if target.platform == "Windows":
        return _programs(target.entries)
    return TaskOrder(refused=f"{target.platform} keeps no command by which a product removes itself.")


def _update(target: Target, script: Script | None) -> TaskOrder:
    """Have the device's own package manager bring the newest release its archives hold; nothing new is installed."""
    if not target.entries:
        return TaskOrder(refused="It is not installed here by now.")
    order = _way(target)
    if order.refused:
        return order
    if target.platform != "Linux":
        return TaskOrder(refused=f"{target.platform} has no package manager of its own that brings its update.")
    names = sorted({e.name for e in target.entries})
    if odd := [n for n in names if not _PACKAGE.match(n)]:
        return TaskOrder(refused=f"“{odd[0]}” is no name a package manager could have given it.")
    listed = " ".join(names)
    lines = (
        ("apt-get", f"sudo -n env DEBIAN_FRONTEND=noninteractive apt-get install --only-upgrade --yes {listed}"),
        ("dnf", f"sudo -n dnf upgrade --assumeyes {listed}"),
        ("zypper", f"sudo -n zypper --non-interactive update {listed}"),
    )
    return TaskOrder("ssh", lines, f"apt-get install --only-upgrade {listed}, or dnf upgrade {listed}, as root")


def _packages(entries: tuple[Entry, ...]) -> TaskOrder:
    """dpkg --remove and rpm --erase refuse where another package needs this one, so that nothing else goes with it."""
    names = sorted({e.name for e in entries})
    if odd := [n for n in names if not _PACKAGE.match(n)]:
        return TaskOrder(refused=f"“{odd[0]}” is no name a package manager could have given it.")
    listed = " ".join(names)
    lines = (
        ("dpkg", f"sudo -n env DEBIAN_FRONTEND=noninteractive dpkg --remove {listed}"),
        ("rpm", f"sudo -n rpm --erase {listed}"),
    )
    return TaskOrder("ssh", lines, f"dpkg --remove {listed}, or rpm --erase {listed}, as root")


def _programs(entries: tuple[Entry, ...]) -> TaskOrder:
    commands = []
    for entry in entries:
        if entry.user:
            return TaskOrder(refused=f"“{entry.name}” is installed for {entry.user} alone and is removed by them.")
        if not entry.removes:
            return TaskOrder(refused=f"“{entry.name}” gives no command for its own removal.")
        commands.append(silent(entry.removes))
    unique = list(dict.fromkeys(commands))
    return TaskOrder("winrm", tuple(("", c) for c in unique), "; ".join(unique))


def silent(command: str) -> str:
    """Return a program's command for its own removal as it runs with nobody at the screen.

    One of Windows Installer is asked by its product code, without windows and without a restart (Windows Installer,
    Command-Line Options: /x, /qn, /norestart); any other is left as its maker wrote it.
    """
    match = _MSI.search(command)
    return f"msiexec.exe /x {match[1]} /qn /norestart" if match else command.strip()


def _script(target: Target, script: Script | None) -> TaskOrder:
    if script is None:
        return TaskOrder(refused="No script is named.")
    order = _way(target)
    if order.refused:
        return order
    if script.platform != target.platform:
        return TaskOrder(refused=f"The script is for {script.platform}; it runs {target.platform}.")
    return TaskOrder(order.way, (("", ""),), f"the script “{script.name}”", stdin=script.text)


_EXITS = {
    # Windows Installer, Error Codes
    1605: "it says that it is not installed",
    1618: "another installation is under way there",
    1641: "a restart was begun",
    3010: "a restart completes it",
}
WORKED = (0, 1641, 3010)
"""Exit codes by which a program says that it did what it was asked."""


def exit_in_words(code: int) -> str:
    """Return what an exit code means, where that is known."""
    return _EXITS.get(code, "done" if code == 0 else f"it ended with code {code}")
