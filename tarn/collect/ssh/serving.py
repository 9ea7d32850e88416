"""What a Linux computer offers others: exports, shares, and databases by their server's catalogue."""

import re
from typing import Any

from tarn.collect.ssh.parsing import UID, Answers, Ask, ReadingStep, Unread
from tarn.core.hosting import HeldDatabase, Share, ShareUser
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


_CONNECTED = re.compile(r"^(?P<share>\S.*?)\s+(?P<pid>[\d:]+)\s+(?P<client>\S+)\s+\w{3} \w{3} +\d+ [\d:]{8}")
_RULED = re.compile(r"^-+$")


def share_users(said: Answers) -> list[Any]:
    """Read who has which SMB share open, as smbstatus(1) prints it to root."""
    if not said.there("smbstatus"):
        return []
    text, all_seen = said.as_root("smbstatus", "smbstatus")
    items: dict[tuple[str, str], ShareUser] = {}
    body = text.splitlines()
    ruled = next((n for n, line in enumerate(body) if _RULED.match(line.strip())), None)
    if ruled is None:
        raise Unread(f"`smbstatus` printed no list of shares: {text.strip()[:80]}")
    for line in body[ruled + 1 :]:
        if not line.strip():
            continue
        if not (found := _CONNECTED.match(line)):
            raise Unread(f"`smbstatus` printed no list of shares: {line.strip()[:80]}")
        if found["share"] not in _OF_ITSELF:
            items[found["share"], found["client"]] = ShareUser(share=found["share"][:300], client=found["client"][:480])
    note = "" if all_seen else "only root is told of every connection"
    return [
        make_reading("share_users", [items[k] for k in sorted(items)], "ssh.smbstatus", complete=all_seen, note=note)
    ]


_OF_ITSELF = frozenset(("IPC$",))
"""What every SMB server offers for its own talk."""


def databases(said: Answers) -> list[Any]:
    """Read the databases of the servers' own catalogues, where the account may ask them: PostgreSQL's pg_database, and
    the information schema (ISO/IEC 9075-11) of MySQL and MariaDB. One that is there and was not read closes nothing."""
    items: dict[tuple[str, str], HeldDatabase] = {}
    ran = False
    for ask, _, command, _ in _ENGINES:
        if not said.ran(ask):
            continue  # there is none, or this account may not ask it
        ran, met = True, 0
        for line in said.text(ask).splitlines():
            name, size, version = (*line.split("|"), "", "")[:3]
            if not name or not size.isdigit():
                raise Unread(f"`{command}` printed no catalogue: {line.strip()[:80]}")
            one = HeldDatabase(
                engine=_engine(command, version), name=name[:300], version=version[:100], size=_two(int(size))
            )
            items[one.engine, one.name] = one
            met += 1
        if not met and command == "psql":
            raise Unread("`psql` names no database, and there is always one")
    silent = [what for ask, user, _, what in _ENGINES if said.ran(user) and not said.ran(ask)]
    note = f"{' and '.join(silent)} did not answer" if silent else ""
    listed = [items[k] for k in sorted(items)]
    return [make_reading("databases", listed, "ssh.databases", complete=not silent, note=note)] if ran else []


_ENGINES = (
    ("postgres_as_root", "postgres_user", "psql", "PostgreSQL"),
    ("mysql_as_root", "mysql_user", "mysql", "MySQL"),
)
"""What is asked of an engine, what tells that it is there, the command that asks it, and its name."""


def _engine(command: str, version: str) -> str:
    if command == "psql":
        return "PostgreSQL"
    return "MariaDB" if "mariadb" in version.lower() else "MySQL"


def _two(size: int) -> int:
    """Return a size to two figures: what grows by a little each hour is not another size each time."""
    step: int = 10 ** max(0, len(str(size)) - 2)
    return round(size / step) * step


_CATALOGUE = (
    "select datname, pg_database_size(datname), current_setting('server_version') "
    "from pg_database where not datistemplate"
)
_TABLES = (
    "select concat_ws('|', s.schema_name, coalesce(sum(t.data_length + t.index_length), 0), version()) "
    "from information_schema.schemata s left join information_schema.tables t on t.table_schema = s.schema_name "
    "where s.schema_name not in ('information_schema', 'performance_schema', 'mysql', 'sys') group by s.schema_name"
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
        (
            Ask("postgres", f'runuser -u postgres -- psql -AtX -d postgres -c "{_CATALOGUE}" 2>/dev/null', root=True),
            Ask("postgres_user", "getent passwd postgres"),
            Ask("mysql", f'mysql -NBe "{_TABLES}" 2>/dev/null', root=True),
            Ask("mysql_user", "getent passwd mysql"),
        ),
        databases,
    ),
    ReadingStep("share_users", 4, (UID, Ask("smbstatus", "smbstatus -S 2>/dev/null", root=True)), share_users),
)
"""What is read of what a Linux computer offers."""
