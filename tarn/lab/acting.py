"""What can be done to a simulated device, and what it leaves behind: later readings show it.

Only the hand's account may act (`HAND`); the reader's is refused as a system refuses it. Changes are kept in a
file, a line each, so that a lab started anew is as it was left.
"""

import json
import shlex
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from tarn.lab.model import Answer, Device
from tarn.lab.weaknesses import archived

HAND = "tarn-hand"
"""The account that may act; the reader's may only read."""

_DENIED = 5
"""ERROR_ACCESS_DENIED (MS-ERREF 2.2)."""


def change(device: Device, verb: str, thing: str, at: datetime) -> None:
    """Change a device and note it: `removed` or `updated` a package, `dropped` an account, `restarted`, `woken`."""
    if verb == "removed":
        device.packages.pop(thing, None)
    elif verb == "updated":
        name, _, version = thing.partition(" ")
        if name in device.packages:
            device.packages[name] = replace(device.packages[name], version=version)
    elif verb == "dropped":
        device.accounts = [a for a in device.accounts if a.name != thing]
        device.dropped = (*device.dropped, thing)
    elif verb == "restarted":
        device.restarted = at
    device.changes.append((verb, thing, at.timestamp()))


class Ledger:
    """The changes made to the lab's devices, by which real device it is; `path` None keeps them in memory only."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._kept: dict[str, list[tuple[str, str, float]]] = {}
        if path and path.exists():
            for line in path.read_text().splitlines():
                identity, verb, thing, at = json.loads(line)
                self._kept.setdefault(identity, []).append((verb, thing, at))

    def apply(self, device: Device) -> None:
        """Make a device what was made of it before."""
        for verb, thing, at in self._kept.get(device.identity, []):
            change(device, verb, thing, datetime.fromtimestamp(at, UTC))

    def keep(self, device: Device) -> None:
        """Keep what was done to a device since it was last kept."""
        held = self._kept.setdefault(device.identity, [])
        new = device.changes[len(held) :]
        held += new
        if self._path and new:
            with self._path.open("a") as file:
                file.writelines(json.dumps([device.identity, *one]) + "\n" for one in new)


def shell(device: Device, words: list[str], now: datetime, *, allowed: bool) -> Answer | None:
    """Answer a command that acts, asked through `sudo -n`; None for one that does not act."""
    words = [w for w in words if "=" not in w] if words[:1] == ["env"] else words
    words = words[1:] if words[:1] == ["env"] else words
    act = _ACTS.get(tuple(words[:2])) or _ACTS.get((words[0], ""))
    if act is None:
        return None
    if not allowed:
        return "", "sudo: a password is required\n", 1
    return act(device, words, now)


def _reboot(device: Device, words: list[str], now: datetime) -> Answer:
    change(device, "restarted", "", now)
    return "", "", 0


def _dpkg_remove(device: Device, words: list[str], now: datetime) -> Answer:
    out, err = "", ""
    for name in words[2:]:
        if device.family != "debian":
            return "", "sudo: dpkg: command not found\n", 1
        if name not in device.packages:
            err += f"dpkg: warning: ignoring request to remove {name} which isn't installed\n"
        elif name.startswith("lib"):
            return out, f"{err}dpkg: dependency problems prevent removal of {name}:\n other packages depend on it.\n", 1
        else:
            out += f"Removing {name} ({device.packages[name].version}) ...\n"
            change(device, "removed", name, now)
    return out, err, 0


def _rpm_erase(device: Device, words: list[str], now: datetime) -> Answer:
    missing = [n for n in words[2:] if n not in device.packages]
    if missing:
        return "", f"error: package {missing[0]} is not installed\n", 1
    for name in words[2:]:
        change(device, "removed", name, now)
    return "", "", 0


def _userdel(device: Device, words: list[str], now: datetime) -> Answer:
    if all(a.name != words[-1] for a in device.accounts):
        return "", f"userdel: user '{words[-1]}' does not exist\n", 6
    change(device, "dropped", words[-1], now)
    return "", "", 0


def _upgrade(device: Device, words: list[str], now: datetime) -> Answer:
    """Upgrade packages to what the archive of the system holds today; one that is not installed is left alone."""
    out, manager = "", words[0]
    if {"apt-get": "debian", "dnf": "rpm"}[manager] != device.family:
        return out, f"sudo: {manager}: command not found\n", 1
    for name in (w for w in words[2:] if not w.startswith("--")):
        if name not in device.packages:
            out += f"Skipping {name}, it is not installed and only upgrades are requested.\n"
            continue
        held, newest = device.packages[name].version, archived(device, name)
        if newest == held:
            out += f"{name} is already the newest version ({held}).\n"
        else:
            out += f"Setting up {name} ({newest}) ...\n"
            change(device, "updated", f"{name} {newest}", now)
    return out, "", 0


_ACTS = {
    ("apt-get", "install"): _upgrade,
    ("dnf", "upgrade"): _upgrade,
    ("systemctl", "reboot"): _reboot,
    ("dpkg", "--remove"): _dpkg_remove,
    ("rpm", "--erase"): _rpm_erase,
    ("userdel", ""): _userdel,
}


def command(device: Device, line: str, now: datetime, *, allowed: bool) -> int:
    """Run a command line of Windows; return its exit code."""
    if not allowed:
        return _DENIED
    if line.lower().startswith("shutdown.exe /r"):
        change(device, "restarted", "", now)
        return 0
    for name in list(device.packages):
        if line == removal(name) or (line.lower().startswith("msiexec.exe /x") and product_code(name) in line):
            change(device, "removed", name, now)
            return 0
    return 1605 if "msiexec" in line.lower() else 1


def removal(name: str) -> str:
    """Return the command a program enters for its own removal."""
    if sum(name.encode()) % 3 == 0:
        return f"MsiExec.exe /I{product_code(name)}"
    return f'"C:\\Program Files\\{name}\\remove.exe"'


def product_code(name: str) -> str:
    """Return the product code of a program that came with Windows Installer."""
    number = int.from_bytes(name.encode().ljust(16, b"\x2a")[:16], "big")
    text = f"{number:032X}"
    return "{" + "-".join((text[:8], text[8:12], text[12:16], text[16:20], text[20:])) + "}"


def drop_user(device: Device, line: str, now: datetime, *, allowed: bool) -> str:
    """`Remove-LocalUser -Name NAME`; return what it writes to standard error."""
    if not allowed:
        return "Remove-LocalUser : Access is denied.\r\n"
    change(device, "dropped", shlex.split(line)[-1], now)
    return ""
