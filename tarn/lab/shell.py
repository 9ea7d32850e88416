"""The shell of a simulated Linux computer (and of a Mac): a handful of commands, answered from the device's model.

Understands a line of simple commands joined by `;`, loops over a command's words, `$?`, `2>/dev/null`, and `sudo -n`
in front; anything else is answered as a shell answers an unknown command.
"""

import json
import re
import shlex
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import lru_cache

from tarn.lab import acting, mac, offering, running, workings
from tarn.lab.files import FILES, in_sys
from tarn.lab.model import Answer, Device


def run(device: Device, line: str, now: datetime, user: str = "tarn-reader") -> tuple[str, str, int]:
    """Run a line; return its standard output, standard error and the exit code of its last command."""
    if found := _SCRIPT.match(line):
        answers = [
            run(device, f"sudo -n {one}", now, user) for one in shlex.split(found[1])[0].splitlines() if one.strip()
        ]
        return "".join(a[0] for a in answers), "".join(a[1] for a in answers), answers[-1][2] if answers else 0
    out, err, code = [], [], 0
    for command in _split(line):
        if loop := _LOOP.match(command.strip()):
            name, listed, body = loop.groups()
            each = run(device, listed, now)[0].split()
            answers = [run(device, body.replace(f"${name}", value), now) for value in each]
            out += [a[0] for a in answers]
            err += [a[1] for a in answers]
            code = answers[-1][2] if answers else 0
            continue
        words = [str(code) if w == "$?" else w for w in _words(command)]
        if words and (words[0] == "export" or _ASSIGNS.match(words[0])):
            code = 0
            continue
        quiet = "2>/dev/null" in command
        root = words[:2] == ["sudo", "-n"]
        if root:
            words = words[2:]
        if root and words and (acted := acting.shell(device, words, now, allowed=user == acting.HAND)):
            out.append(acted[0])
            err.append(acted[1])
            code = acted[2]
            continue
        if words in (["id", "-un"], ["id", "-u"]):
            named, number = ("root", "0") if root else (user, "1000")
            out.append(f"{named if words[1] == '-un' else number}\n")
            code = 0
            continue
        if not words:
            continue
        made, wrong, code = _one(device, words, now)
        out.append(made)
        if "2>&1" in command:
            out.append(wrong)
        elif not quiet:
            err.append(wrong)
    return "".join(out), "".join(err), code


@lru_cache(maxsize=500)
def _words(command: str) -> tuple[str, ...]:
    return tuple(w for w in shlex.split(command) if w not in ("2>/dev/null", "2>&1"))


_SCRIPT = re.compile(r"^sudo -n sh -c (.*)$", re.DOTALL)
_LOOP = re.compile(r"^for (\w+) in \$\((.*?)\); do (.*); done$")
_ASSIGNS = re.compile(r"^[A-Z_]+=")


def _split(line: str) -> list[str]:
    parts, quote, start = [], "", 0
    loop = line.find("for "), line.rfind("; done")
    for i, c in enumerate(line):
        if loop[0] >= 0 and loop[0] <= i < loop[1] + 1:
            continue
        if quote:
            quote = "" if c == quote else quote
        elif c in "'\"":
            quote = c
        elif c == ";":
            parts.append(line[start:i])
            start = i + 1
    return [*parts, line[start:]]


def _one(device: Device, words: list[str], now: datetime) -> tuple[str, str, int]:
    name, *rest = words
    command = mac.COMMANDS.get(name) if device.family == "macos" else _COMMANDS.get(name)
    if command is None and name in ("echo", "printf"):
        command = _COMMANDS[name]
    if command is None:
        return "", f"sh: {name}: not found\n", 127
    return command(device, rest, now)


def _echo(device: Device, words: list[str], now: datetime) -> Answer:
    return " ".join(words) + "\n", "", 0


def _printf(device: Device, words: list[str], now: datetime) -> Answer:
    """`printf FORMAT WORD…` with \\n and %s."""
    text = words[0].replace("\\n", "\n")
    for word in words[1:]:
        text = text.replace("%s", word, 1)
    return text, "", 0


def _ls(device: Device, words: list[str], now: datetime) -> Answer:
    """`ls PATH`: the sockets of what runs guests and containers."""
    there = "libvirt" in words[0] and device.kind == "hypervisor"
    there = there or ("docker" in words[0] and bool(workings.containers(device)))
    return (f"{words[0]}\n", "", 0) if there else ("", f"ls: cannot access '{words[0]}'\n", 2)


def _awk(device: Device, words: list[str], now: datetime) -> Answer:
    """The beginnings of passwords in shadow(5), and when accounts are over: here none ever is."""
    return "".join(f"{a.name}:{'$6' if a.uid == 0 or a.uid >= 1000 else '*'}:\n" for a in device.accounts), "", 0


def _cat(device: Device, words: list[str], now: datetime) -> Answer:
    out, err = "", ""
    for path in words:
        if path in FILES:
            out += FILES[path](device, now)
        else:
            err += f"cat: {path}: No such file or directory\n"
    return out, err, 1 if err else 0


def _grep(device: Device, words: list[str], now: datetime) -> Answer:
    """`grep -s . FILE…`: every line that is not empty, after its file's name; of one file those that begin so."""
    out = ""
    if words[0] == "-rhs":
        return "root ALL=(ALL:ALL) ALL\n%sudo ALL=(ALL:ALL) ALL\n", "", 0
    if words[2] == workings.LISTS:
        held = workings.programs(device, now) if device.family == "debian" else []
        return "".join(f"{workings.listed(name)}:/usr/bin/{name}\n" for name, _ in held), "", 0 if held else 1
    if words[1].startswith("^"):
        held = FILES[words[2]](device, now) if words[2] in FILES else ""
        found = "".join(f"{line}\n" for line in held.splitlines() if line.startswith(words[1][1:]))
        return found, "", 0 if found else 1
    for path in words[2:]:
        for line in in_sys(device, path):
            out += f"{line}\n"
    return out, "", 0 if out else 1


def _hostname(device: Device, words: list[str], now: datetime) -> Answer:
    return (f"{device.name}.{device.domain}\n" if words == ["-f"] else f"{device.name}\n"), "", 0


def _uname(device: Device, words: list[str], now: datetime) -> Answer:
    if words == ["-s"]:
        return "Linux\n", "", 0
    return f"Linux {device.kernel} x86_64\n", "", 0


def _lsmem(device: Device, words: list[str], now: datetime) -> Answer:
    return f"Memory block size:    134217728\nTotal online memory:  {device.memory}\nTotal offline memory: 0\n", "", 0


def _lsblk(device: Device, words: list[str], now: datetime) -> Answer:
    lines = [f'NAME="{d.name}" TYPE="disk" SIZE="{d.size}" MODEL="{d.model}" SERIAL="{d.serial}"' for d in device.disks]
    return "\n".join(lines) + "\n", "", 0


def _df(device: Device, words: list[str], now: datetime) -> Answer:
    out = "Filesystem     Type         1B-blocks         Used    Available Capacity Mounted on\n"
    for f in device.filesystems:
        percent = -(-100 * f.used // f.size)
        out += f"{f.device} {f.type} {f.size} {f.used} {f.size - f.used} {percent}% {f.mount}\n"
    return out, "", 0


def _ip(device: Device, words: list[str], now: datetime) -> Answer:
    data = [
        {
            "ifname": "lo",
            "link_type": "loopback",
            "address": "00:00:00:00:00:00",
            "operstate": "UNKNOWN",
            "addr_info": [{"family": "inet", "local": "127.0.0.1", "prefixlen": 8}],
        }
    ]
    for i in device.interfaces:
        data.append(
            {
                "ifname": i.name,
                "link_type": "ether",
                "address": i.mac,
                "operstate": "UP" if i.up else "DOWN",
                "addr_info": [{"family": "inet", "local": a, "prefixlen": p} for a, p in i.addresses],
            }
        )
    return json.dumps(data), "", 0


def _dpkg(device: Device, words: list[str], now: datetime) -> Answer:
    if device.family != "debian":
        return "", "sh: dpkg-query: not found\n", 127
    lines = [
        f"{p.name}\t{p.version}\t{p.arch}\t{p.publisher}\tinstalled"
        for p in sorted(device.packages.values(), key=lambda p: p.name)
    ]
    return "\n".join(lines) + "\n", "", 0


def _stat_files(device: Device, words: list[str], now: datetime) -> Answer:
    """`stat -c FORMAT FILES`: times of dpkg's lists (written) and of programs (last read)."""
    if device.family != "debian":
        return "", f"stat: cannot statx '{words[-1]}': No such file or directory\n", 1
    if words[-1] == workings.LISTS:
        rows = [(workings.listed(name), at) for name, at in workings.installed(device, now)]
    else:
        rows = [(f"/usr/bin/{name}", at) for name, at in workings.programs(device, now)]
    return "".join(f"{int(at.timestamp())} {path}\n" for path, at in rows), "", 0


def _rpm(device: Device, words: list[str], now: datetime) -> Answer:
    if device.family != "rpm":
        return "", "sh: rpm: not found\n", 127
    if "INSTALLTIME" in words[-1]:
        return "".join(f"{int(at.timestamp())} {name}\n" for name, at in workings.installed(device, now)), "", 0
    lines = [
        f"{p.name}\t(none):{p.version}\t{p.arch}\t{p.publisher}"
        for p in sorted(device.packages.values(), key=lambda p: p.name)
    ]
    return "\n".join(lines) + "\n", "", 0


def _ps(device: Device, words: list[str], now: datetime) -> Answer:
    return running.edited(running.listed(device, now), words), "", 0


def _ss(device: Device, words: list[str], now: datetime) -> Answer:
    out = ""
    if "established" in words:
        for port, peer, there, process in workings.connections(device):
            out += f'0 0 {device.address}:{port} {peer}:{there} users:(("{process}",pid={running.number_of(device, process)},fd=7))\n'
        return out, "", 0
    for i in device.listeners:
        if "-tlnp" in words:
            if i.protocol == "tcp":
                holder = f'users:(("{i.process}",pid={running.number_of(device, i.process)},fd=3))'
                out += f"LISTEN 0      128          0.0.0.0:{i.port}       0.0.0.0:*    {holder}\n"
            continue
        state = "LISTEN" if i.protocol == "tcp" else "UNCONN"
        out += f'{i.protocol}   {state} 0      128          0.0.0.0:{i.port}       0.0.0.0:*    users:(("{i.process}",pid={running.number_of(device, i.process)},fd=3))\n'
    return out, "", 0


def _last(device: Device, words: list[str], now: datetime) -> Answer:
    out = ""
    for s in device.signins:
        # A person signs in on some mornings; between them the last sign-in stays what it was.
        day = (now - timedelta(days=now.toordinal() % 7)).replace(hour=7, minute=30, second=0, microsecond=0)
        out += f"{s.account:<12} pts/0        {s.origin:<16} {day:%a %b %e %H:%M:%S %Y}   still logged in\n"
    out += f"\nwtmp begins {datetime(2025, 1, 6, 8, 0, tzinfo=UTC):%a %b %e %H:%M:%S %Y}\n"
    return out, "", 0


def _systemctl(device: Device, words: list[str], now: datetime) -> Answer:
    units = workings.services(device)
    if words[0] == "list-unit-files":
        return "".join(f"{name} {start} enabled\n" for name, start, _, _ in units), "", 0
    rows = (f"{n} loaded {a} {'running' if a == 'active' else 'dead'} {label}\n" for n, _, a, label in units)
    return "".join(rows), "", 0


def _command(device: Device, words: list[str], now: datetime) -> Answer:
    """`command -v NAME…`"""
    there = {
        "docker": bool(workings.containers(device)),
        "dpkg": device.family == "debian",
        "apt-get": device.family == "debian",
        "rpm": device.family == "rpm",
        "dnf": device.family == "rpm",
    }
    found = "".join(f"/usr/bin/{w}\n" for w in words if there.get(w))
    return found, "", 0 if found else 127


NO_LINKS = "\tbridge\t"


def _docker(device: Device, words: list[str], now: datetime) -> Answer:
    if not (held := workings.containers(device)):
        return "", "sh: docker: not found\n", 127
    rest = workings.CONTAINER_LINKS
    return "".join(f"{name}\t{image}\t{state}\t{rest.get(name, NO_LINKS)}\n" for name, image, state in held), "", 0


def _podman(device: Device, words: list[str], now: datetime) -> Answer:
    return "", "sh: podman: not found\n", 127


def _virsh(device: Device, words: list[str], now: datetime) -> Answer:
    """`virsh -q -c URI list --all --uuid`, `dumpxml UUID`, `domstate UUID`, `snapshot-list UUID`, `pool-list --name`,
    `pool-dumpxml NAME`."""
    verb, *rest = words[3:]
    if device.kind != "hypervisor":
        return "", "sh: virsh: not found\n", 127
    if verb == "list":
        return "".join(f"{g.uuid}\n" for g in device.guests), "", 0
    if verb == "pool-list":
        return "images\nspare\n", "", 0
    if verb == "pool-dumpxml":
        return workings.pool_xml(device, rest[0]), "", 0
    guest = next((g for g in device.guests if g.uuid == rest[0]), None)
    if guest is None:
        return "", f"error: failed to get domain '{rest[0]}'\n", 1
    if verb == "snapshot-list":
        return workings.snapshots(guest), "", 0
    return workings.domain_xml(guest) if verb == "dumpxml" else f"{guest.state}\n", "", 0


_COMMANDS: dict[str, Callable[[Device, list[str], datetime], Answer]] = {
    "awk": _awk,
    "echo": _echo,
    "ls": _ls,
    "printf": _printf,
    "cat": _cat,
    "grep": _grep,
    "hostname": _hostname,
    "uname": _uname,
    "lsmem": _lsmem,
    "lsblk": _lsblk,
    "df": _df,
    "ip": _ip,
    "dpkg-query": _dpkg,
    "rpm": _rpm,
    "stat": _stat_files,
    "(ps": _ps,
    "ss": _ss,
    "last": _last,
    "systemctl": _systemctl,
    "command": _command,
    "docker": _docker,
    "podman": _podman,
    "virsh": _virsh,
    "sleep": lambda device, words, now: ("", "", 0),
    **offering.COMMANDS,
}
