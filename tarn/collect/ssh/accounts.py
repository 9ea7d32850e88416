"""Local accounts of a Linux computer, and which of them may act as root."""

import re
import time
from typing import Any

from tarn.collect.ssh.parsing import UID, Answers, Ask, Unread
from tarn.core.items import Account
from tarn.core.sightings import make_reading

_ADMIN_GROUPS = frozenset({"sudo", "wheel", "admin", "root"})
_NO_SHELL = ("nologin", "false", "sync", "halt", "shutdown")
_DAY = 86_400

_SHADOW = 'awk -F: \'{print $1 ":" substr($2, 1, 2) ":" $8}\' /etc/shadow'
"""Of a password's hash the first two characters alone leave the device: they tell whether it is locked."""
_SUDOERS = "grep -rhs '^[^#]' /etc/sudoers /etc/sudoers.d --exclude='*.*' --exclude='*~'"
"""sudo passes over files of its folder whose names hold a dot or end with ~ (sudoers(5))."""

ASKS = (
    UID,
    Ask("passwd", "cat /etc/passwd"),
    Ask("group", "cat /etc/group"),
    Ask("shadow", f"{_SHADOW} 2>/dev/null", root=True),
    Ask("sudoers", f"{_SUDOERS} 2>/dev/null", root=True),
)


def accounts(said: Answers) -> list[Any]:
    """Read local accounts of passwd(5) and group(5).

    Administrators are uid 0, members of sudo, wheel, admin (by their primary group too), and those whom sudoers(5) lets
    run anything as root. Locked is whose password was made unusable after it was set (`!` before the hash, passwd(1)),
    or whose account is over (shadow(5)). What only root may read, an ordinary account leaves unsaid.
    """
    groups, gids = _groups(said.whole("group", "cat /etc/group"))
    if not gids:
        raise Unread("/etc/group holds no group")
    shadow, sudoers = _as_root(said, "shadow"), _as_root(said, "sudoers")
    may = _may_all(sudoers) if sudoers is not None else set()
    locked = _locked(shadow) if shadow is not None else set()
    items = []
    for line in said.whole("passwd", "cat /etc/passwd").splitlines():
        words = line.split(":")
        if len(words) != 7 or not words[2].lstrip("-").isdigit() or not words[0]:
            continue
        name, _, uid, gid, gecos, _, shell = words
        belongs = groups.get(name, set()) | ({gids[gid]} if gid in gids else set())
        allowed = "ALL" in may or name in may or f"#{uid}" in may or any(f"%{g}" in may for g in belongs)
        administrator = int(uid) == 0 or bool(belongs & _ADMIN_GROUPS) or allowed
        has_shell = not shell.endswith(_NO_SHELL)
        items.append(
            Account(
                name=name[:300],
                uid=int(uid),
                full_name=gecos.split(",")[0][:400],
                administrator=administrator or (False if sudoers is not None else None),
                enabled=False if not has_shell else name not in locked if shadow is not None else None,
            )
        )
    if not items:
        raise Unread("no account could be read")
    rest: dict[str, Any] = {}
    if shadow is None or sudoers is None:
        unseen = [n for n, told in (("enabled", shadow), ("administrator", sudoers)) if told is None]
        rest = {"unseen": tuple(unseen), "note": "Who is locked, and who may use sudo, is shown to root alone."}
    return [make_reading("accounts", sorted(items, key=lambda a: a.name), "ssh.accounts", **rest)]


def _as_root(said: Answers, name: str) -> str | None:
    """Return what root was shown, or None. grep ends with 1 where nothing is there to show."""
    for part in (f"{name}_as_root", name):
        if said.ran(part) or (said.code(part) == 1 and said.is_root):
            return said.text(part)
    return None


def _groups(text: str) -> tuple[dict[str, set[str]], dict[str, str]]:
    """Return the groups of each account, and the names of groups by number."""
    of: dict[str, set[str]] = {}
    gids: dict[str, str] = {}
    for line in text.splitlines():
        words = line.split(":")
        if len(words) == 4:
            gids[words[2]] = words[0]
            for member in words[3].split(","):
                of.setdefault(member.strip(), set()).add(words[0])
    return of, gids


def _locked(text: str) -> set[str]:
    """Return accounts whose password is locked, or that are over (the eighth field of shadow(5), in days)."""
    today = time.time() // _DAY
    out = set()
    for line in text.splitlines():
        name, _, rest = line.partition(":")
        begins, _, over = rest.partition(":")
        if (begins.startswith("!") and begins.strip("!*")) or (over.isdigit() and int(over) <= today):
            out.add(name)
    return out


_ALIAS = re.compile(r"^(?:User|Runas|Cmnd)_Alias\s+(.*)$")
_SPEC = re.compile(r"^(?P<who>(?:\\.|[^\s\\])+(?:\s*,\s*(?:\\.|[^\s\\])+)*)\s+(?P<hosts>[^=]+?)\s*=\s*(?P<what>.+)$")
_RUNAS = re.compile(r"^\(([^)]*)\)\s*")
_TAG = re.compile(r"^(?:[A-Z_]+:\s*)+")


def _may_all(text: str) -> set[str]:
    """Return whom sudoers(5) lets run anything as root: names, `%group`, `#uid`, or ALL."""
    lines = text.replace("\\\n", " ").splitlines()
    aliases: dict[str, list[str]] = {}
    for line in lines:
        if match := _ALIAS.match(line.strip()):
            for one in match[1].split(":"):
                name, _, members = one.partition("=")
                aliases[name.strip()] = [m.strip() for m in members.split(",")]
    out: set[str] = set()
    for line in lines:
        spec = _SPEC.match(line.strip())
        if line.strip().startswith(("Defaults", "@")) or _ALIAS.match(line.strip()) or not spec:
            continue
        if _anything_as_root(spec["what"], aliases):
            for who in spec["who"].split(","):
                out |= _members(who.strip(), aliases)
    return {w for w in out if not w.startswith("!")} - {w[1:] for w in out if w.startswith("!")}


def _members(who: str, aliases: dict[str, list[str]], depth: int = 0) -> set[str]:
    if who not in aliases or depth > 8:
        return {who}
    return set().union(*(_members(m, aliases, depth + 1) for m in aliases[who]))


def _anything_as_root(what: str, aliases: dict[str, list[str]]) -> bool:
    """Whether a list of commands holds ALL, run as root or as anyone. Who runs it goes on until it is said anew."""
    runs_as = {"root"}
    for command in re.split(r",(?![^(]*\))", what):
        said = command.strip()
        if match := _RUNAS.match(said):
            users = match[1].partition(":")[0]
            runs_as = set().union(*(_members(u.strip() or "root", aliases) for u in users.split(",")))
            said = said[match.end() :]
        said = _TAG.sub("", said)
        if runs_as & {"root", "ALL", "#0"} and "ALL" in _members(said.strip(), aliases):
            return True
    return False
