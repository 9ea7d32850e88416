"""Who may act as administrator on which devices, and how devices are protected, over any selection and day."""

import json
from collections import defaultdict
from dataclasses import dataclass, field

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.models import Phrase
from tarn.apps.estate.register.readings import never_read
from tarn.apps.estate.software.results import AdministratorOut, AdministratorsOut, FigureOut, ProtectionOut
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.persons import names_by_account
from tarn.apps.people.reads import roster
from tarn.core.filters.tree import quote
from tarn.core.patterns import pattern
from tarn.core.text import fold

GROUPS = frozenset({"administrators", "sudo", "wheel", "admin"})
"""Local groups whose members act as administrator."""
APPROVED = "approved_administrators"
"""The phrase that lists, by name or pattern, who may be administrator."""


@dataclass
class Administrator:
    """An account or group that may act as administrator, on which devices; `members` of a group, nested ones too."""

    name: str
    kind: str
    filter: str
    devices: set[int] = field(default_factory=set)
    person: str = ""
    members: list[str] = field(default_factory=list)


def administrators(asked: Question) -> AdministratorsOut:
    """Return who is administrator on the devices of a selection: those approved, and the others."""
    chosen = ids(asked)
    found = _found(chosen, asked.at)
    people, members = names_by_account(), _members()
    for administrator in found.values():
        if administrator.kind == "local account":
            continue
        account = fold(administrator.name.rpartition("\\")[2].partition("@")[0])
        if account in members:
            administrator.kind, administrator.members = "directory group", members[account]
        administrator.person = people.get(account, "")
    values = list(Phrase.objects.filter(name=APPROVED).values_list("values", flat=True))
    listed = [str(v) for v in (values[0] if values else [])]
    rows: list[AdministratorOut] = [
        {
            "name": a.name,
            "kind": a.kind,
            "person": a.person,
            "members": a.members,
            "devices": len(a.devices),
            "filter": a.filter,
            "approved": _approved(a.name, listed),
        }
        for a in found.values()
    ]
    rows.sort(key=lambda r: (-r["devices"], r["name"]))
    unread = never_read(chosen, {"accounts"}, asked.at)
    return {"rows": rows, "phrase": APPROVED if values else "", "devices": len(chosen), "unread": len(unread)}


def _found(chosen: list[int], at: int | None) -> dict[tuple[str, str], Administrator]:
    db, then, listed = raw_connection(), holds("i", at), json.dumps(chosen)
    among = "i.asset_id IN (SELECT value FROM json_each(?))"
    found: dict[tuple[str, str], Administrator] = {}
    local: dict[int, set[str]] = defaultdict(set)
    for asset, name in db.execute(
        "SELECT i.asset_id, i.name FROM estate_accountsspan i WHERE i.administrator AND i.enabled IS NOT 0 "
        f"AND {then.text} AND {among}",
        [*then.values, listed],
    ):
        local[asset].add(fold(name))
        condition = f"accounts[name = {quote(name)} and administrator = yes and not enabled = no]"
        key = ("local account", fold(name))
        found.setdefault(key, Administrator(name, "local account", condition)).devices.add(asset)
    for asset, group, member in db.execute(
        f'SELECT i.asset_id, i."group", i.member FROM estate_membershipsspan i WHERE {then.text} AND {among}',
        [*then.values, listed],
    ):
        if fold(group) not in GROUPS or not ("\\" in member or "@" in member):
            continue  # a local account tells of itself
        condition = f"memberships[group = {quote(group)} and member = {quote(member)}]"
        key = ("directory account", fold(member))
        found.setdefault(key, Administrator(member, "directory account", condition)).devices.add(asset)
    return found


def _members() -> dict[str, list[str]]:
    """Return by folded name of a directory group the people in it."""
    out: dict[str, list[str]] = defaultdict(list)
    for person in roster().values():
        for group in person.groups:
            if person.left_at is None:
                out[fold(group)].append(person.name)
    return out


def _approved(name: str, listed: list[str]) -> bool:
    plain = {fold(name), fold(name.rpartition("\\")[2])}
    return any(
        pattern(v[1:-1]).search(name) is not None if len(v) > 2 and v[0] == v[-1] == "/" else fold(v) in plain
        for v in listed
    )


STATES: tuple[tuple[str, str], ...] = (
    ("on and current", "protections[on = yes and up_to_date = yes]"),
    ("on, its definitions old", "protections[on = yes] and no protections[on = yes and up_to_date = yes]"),
    ("installed and off", "count protections > 0 and no protections[on = yes]"),
)
NONE = "no protections and not unread protections"
TWO = "count protections[on = yes] > 1"
UNREAD = "unread protections"


def _figure(assets: set[int], product: str, more: str) -> FigureOut:
    return {"devices": len(assets), "filter": f"protections[name = {quote(product)}{more}]"}


def protection(asked: Question) -> ProtectionOut:
    """Return how the devices of a selection are protected: by state, by product, without any, with two at once."""
    chosen, then = ids(asked), holds("i", asked.at)
    db, listed = raw_connection(), json.dumps(chosen)
    held: dict[int, list[tuple[str, bool, bool]]] = defaultdict(list)
    for asset, name, on, current in db.execute(
        f'SELECT i.asset_id, i.name, i."on", i.up_to_date FROM estate_protectionsspan i WHERE {then.text} '
        "AND i.asset_id IN (SELECT value FROM json_each(?))",
        [*then.values, listed],
    ):
        held[asset].append((name, bool(on), bool(current)))
    unread = never_read(chosen, {"protections"}, asked.at)
    states = dict.fromkeys((label for label, _ in STATES), 0)
    products: dict[str, list[set[int]]] = {}
    for asset, several in held.items():
        whole = any(on and current for _, on, current in several)
        label = STATES[0][0] if whole else STATES[1][0] if any(on for _, on, _ in several) else STATES[2][0]
        states[label] += 1
        for name, on, current in several:
            there, is_on, is_current = products.setdefault(name, [set(), set(), set()])
            there.add(asset)
            is_on |= {asset} if on else set()
            is_current |= {asset} if on and current else set()
    return {
        "devices": len(chosen),
        "states": [{"label": label, "devices": states[label], "filter": said} for label, said in STATES],
        "none": {"devices": len(set(chosen) - set(held) - unread), "filter": NONE},
        "unread": {"devices": len(unread), "filter": UNREAD},
        # Two witnesses of one product are one product.
        "two": {"devices": sum(len({n for n, on, _ in s if on}) > 1 for s in held.values()), "filter": TWO},
        "products": [
            {
                "name": name,
                "there": _figure(there, name, ""),
                "on": _figure(on, name, " and on = yes"),
                "current": _figure(current, name, " and on = yes and up_to_date = yes"),
            }
            for name, (there, on, current) in sorted(products.items(), key=lambda p: -len(p[1][0]))
        ],
    }
