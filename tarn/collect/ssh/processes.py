"""What runs on a Linux computer or a Mac: processes of ps(1), and which of them listens."""

import re
from collections import defaultdict
from datetime import UTC, datetime
from typing import Any

from tarn.collect.processes import Running, grouped
from tarn.collect.ssh.parsing import UID, Answers, Ask, ReadingStep, Unread
from tarn.core.secrets import by_sed
from tarn.core.sightings import make_reading

_LINE = re.compile(
    r"^\s*(\d+)\s+(\d+)\s+(\S+)\s+(\w{3}\s+\w{3}\s+\d+\s+\d\d:\d\d:\d\d\s+\d{4})\s+(\S+)\s+(.{15})\s(.+)$"
)
_MAC_LINE = re.compile(r"^\s*(\d+)\s+(\d+)\s+(\S+)\s+(\w{3}\s+\w{3}\s+\d+\s+\d\d:\d\d:\d\d\s+\d{4})\s+(.+)$")
_SOCKET = re.compile(r":(\d+)\s+\S+:\*")
_PID = re.compile(r"pid=(\d+)")
_CONTAINER = re.compile(r"^(?:docker|libpod|cri-containerd|crio)-([0-9a-f]{12})[0-9a-f]*\.scope$")


def processes(said: Answers) -> list[Any]:
    """Read processes of procps' ps, the kernel's own left out, with the ports of ss they listen on.

    An ordinary account is shown every process, but which of them listens only of its own.
    """
    running = []
    for line in _listed(said):
        match = _LINE.match(line)
        if not match:
            raise Unread(f"`ps` printed no list of processes: {line.strip()[:80]}")
        number, parent, account, started, unit, name, command = match.groups()
        if "2" in (number, parent):  # kthreadd and what it started
            continue
        if container := _CONTAINER.match(unit):
            unit = f"container {container[1]}"
        running.append(
            Running(
                int(number),
                int(parent),
                name.strip(),
                command,
                account,
                "" if unit == "-" else unit.removesuffix(".service"),
                _moment(started),
            )
        )
    text, unseen = _sockets(said)
    listens: dict[int, set[int]] = defaultdict(set)
    for line in filter(None, text.splitlines()):
        port = _SOCKET.search(line)
        if not port:
            return _read(running, {}, f"`ss` printed no list of sockets: {line.strip()[:80]}")
        for number in _PID.findall(line):
            listens[int(number)].add(int(port[1]))
    return _read(running, listens, unseen)


def of_a_mac(said: Answers) -> list[Any]:
    """Read processes of a Mac's ps, with the ports of lsof they listen on; there are no units."""
    running = []
    for line in _listed(said):
        match = _MAC_LINE.match(line)
        if not match:
            raise Unread(f"`ps` printed no list of processes: {line.strip()[:80]}")
        number, parent, account, started, command = match.groups()
        name = command.split(" -")[0].rpartition("/")[2]
        running.append(Running(int(number), int(parent), name, command, account, "", _moment(started)))
    text, unseen = _sockets(said)
    listens: dict[int, set[int]] = defaultdict(set)
    holder = 0
    for line in text.splitlines():
        if line[:1] not in ("p", "f", "n", ""):
            return _read(running, {}, f"`lsof` printed no list of sockets: {line[:80]}")
        if line[:1] == "p" and line[1:].isdigit():
            holder = int(line[1:])
        elif line[:1] == "n" and (port := line.rpartition(":")[2]).isdigit():
            listens[holder].add(int(port))
    return _read(running, listens, unseen)


def _listed(said: Answers) -> list[str]:
    """Return the lines of ps. Raises Unread where it did not come to its end: a pipe tells how its last command ended
    and no other, so that ps ended well is said in a line of its own."""
    lines = [line for line in said.whole("processes", "ps").splitlines() if line.strip()]
    if not lines or lines.pop() != _ENDED:
        raise Unread("`ps` did not list processes to the end")
    return lines


def _sockets(said: Answers) -> tuple[str, str]:
    """Return what was printed of sockets that listen, and why not all of it may be seen, if so."""
    if said.ran("listening_as_root"):
        return said.text("listening_as_root"), ""
    if not said.ran("listening"):
        return "", said.why_not("listening", "ss or lsof")
    return said.text("listening"), "" if said.is_root else "Which process listens is shown to root alone."


def _read(running: list[Running], listens: dict[int, set[int]], unseen: str) -> list[Any]:
    items, note = grouped(running, listens)
    if not items:
        raise Unread("`ps` lists no process")
    rest: dict[str, Any] = {}
    if unseen:
        rest = {"unseen": ("listens",)}
        note = f"{note} {unseen}".strip()
    return [make_reading("processes", items, "ssh.processes", note=note, **rest)]


def _moment(said: str) -> int:
    """Return seconds since 1970 of a time as ps prints it (ctime(3)); the shell was told to print UTC."""
    return int(datetime.strptime(" ".join(said.split()), "%a %b %d %H:%M:%S %Y").replace(tzinfo=UTC).timestamp())


_ENDED = "all listed"
_BLOT = f"sed -E '{by_sed()}'"
STEP = ReadingStep(
    "processes",
    4,
    (
        UID,
        Ask("processes", f"(ps -eww -o pid=,ppid=,user:32=,lstart=,unit=,comm:15=,args= && echo {_ENDED}) | {_BLOT}"),
        Ask("listening", "ss -H -tlnp", root=True),
    ),
    processes,
)
"""What is asked of Linux. What is secret in arguments is blotted out before it leaves the device."""
STEP_OF_A_MAC = ReadingStep(
    "processes",
    4,
    (
        UID,
        Ask("processes", f"(ps -axww -o pid= -o ppid= -o user= -o lstart= -o args= && echo {_ENDED}) | {_BLOT}"),
        Ask("listening", "lsof -nP -iTCP -sTCP:LISTEN -F pn", root=True),
    ),
    of_a_mac,
)
"""What is asked of a Mac."""
