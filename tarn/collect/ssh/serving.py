"""What a Linux computer offers others: exports, shares, and databases by their server's catalogue."""

import re
from typing import Any

from tarn.collect.ssh.parsing import Answers, Ask, ReadingStep, Unread
from tarn.core.hosting import HeldDatabase, Share
from tarn.core.sightings import make_reading
from tarn.core.text import fitting

_OCTAL = re.compile(r"\\(\d{3})")
_EXPORT = re.compile(r"^(?P<path>/\S*)\s+(?P<client>[^\s(]+)\(")
_NO_SHARES = frozenset(("global", "homes", "printers", "print$"))


def shares(said: Answers) -> list[Any]:
    """Read NFS exports as exportfs(8) prints them, and SMB shares of testparm's smb.conf(5)."""
    asked = ("exports", "testparm")
    if not any(said.ran(name) for name in asked):
        return []
    items: dict[str, Share] = {}
    clients: dict[str, list[str]] = {}
    for line in said.text("exports").splitlines() if said.ran("exports") else ():
        if not (found := _EXPORT.match(line)):
            raise Unread(f"`exportfs` printed no list of exports: {line.strip()[:80]}")
        path = _OCTAL.sub(lambda m: chr(int(m[1], 8)), found["path"])[:300]
        clients.setdefault(path, []).append(found["client"])
    for path, told in clients.items():
        items[path] = Share(name=path, sort="NFS", path=path, offered_to=fitting(dict.fromkeys(told), " ", 480))
    sections = _sections(said.text("testparm")) if said.ran("testparm") else {"global": {}}
    if "global" not in sections:
        raise Unread("`testparm` printed no configuration")
    for name, says in sections.items():
        if name.lower() not in _NO_SHARES and says.get("printable", "no").lower() != "yes":
            offered = says.get("hosts allow") or says.get("valid users", "")
            items[name] = Share(name=name, sort="SMB", path=says.get("path", "")[:480], offered_to=offered[:480])
    # What is not there at all offers nothing; what is there and fails may offer anything.
    refused = [said.why_not(name, name) for name in asked if said.code(name) not in (0, 127)]
    listed = [items[k] for k in sorted(items)]
    return [make_reading("shares", listed, "ssh.shares", complete=not refused, note="; ".join(refused))]


def _sections(text: str) -> dict[str, dict[str, str]]:
    """Return the sections of smb.conf(5) with what they say; testparm prints one a line."""
    out: dict[str, dict[str, str]] = {}
    here: dict[str, str] = {}
    for line in text.splitlines():
        line = line.strip()
        if line.startswith("[") and line.endswith("]"):
            here = out.setdefault(line[1:-1][:300], {})
        elif "=" in line and not line.startswith(("#", ";")):
            key, _, value = line.partition("=")
            here[key.strip().lower()] = value.strip()
    return out


def databases(said: Answers) -> list[Any]:
    """Read the databases of PostgreSQL's own catalogue (pg_database), where the account may ask it as its owner."""
    if not said.ran("postgres_as_root"):
        return []  # there is none, or this account may not ask it
    items = []
    for line in said.text("postgres_as_root").splitlines():
        name, size, version = (*line.split("|"), "", "")[:3]
        if not name or not size.isdigit():
            raise Unread(f"`psql` printed no catalogue: {line.strip()[:80]}")
        items.append(HeldDatabase(engine="PostgreSQL", name=name[:300], version=version[:100], size=_two(int(size))))
    if not items:
        raise Unread("`psql` names no database, and there is always one")
    return [make_reading("databases", sorted(items, key=lambda d: d.name), "ssh.databases")]


def _two(size: int) -> int:
    """Return a size to two figures: what grows by a little each hour is not another size each time."""
    step: int = 10 ** max(0, len(str(size)) - 2)
    return round(size / step) * step


_CATALOGUE = (
    "select datname, pg_database_size(datname), current_setting('server_version') "
    "from pg_database where not datistemplate"
)
STEPS: tuple[ReadingStep, ...] = (
    ReadingStep(
        "shares",
        4,
        (Ask("exports", "exportfs -s 2>/dev/null"), Ask("testparm", "testparm -s 2>/dev/null")),
        shares,
    ),
    ReadingStep(
        "databases",
        4,
        (Ask("postgres", f'runuser -u postgres -- psql -AtX -d postgres -c "{_CATALOGUE}" 2>/dev/null', root=True),),
        databases,
    ),
)
"""What is read of what a Linux computer offers."""
