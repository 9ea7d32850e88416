"""People and their devices: what they hold, where they sign in, what they held before."""

import json
from collections import Counter, defaultdict
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.branches import standing_in
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.people.results import HeldBeforeOut, PersonFacts, PersonPageOut, PersonRowOut, TheirSoftwareOut
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.reads import KnownPerson, roster
from tarn.core.filters.tree import quote


def _holders(at: int | None, filter_: str = "") -> dict[str, list[int]]:
    """Return the devices of the register, among those that answer a filter, that each person holds."""
    asked = question(f"({filter_}) and person != none" if filter_.strip() else "person != none", at)
    out: dict[str, list[int]] = defaultdict(list)
    for asset, name in raw_connection().execute(
        f"SELECT s.asset_id, (SELECT t.text FROM estate_term t WHERE t.id = s.person_id) {asked.source}",
        asked.where.values,
    ):
        out[name].append(asset)
    return out


def _signed_in(at: int | None, filter_: str = "") -> dict[str, list[int]]:
    """Return the devices of the register, among those that answer a filter, by the account that signed in last."""
    asked, then = question(filter_, at), holds("f", at)
    out: dict[str, list[int]] = defaultdict(list)
    for asset, value in raw_connection().execute(
        f"SELECT f.asset_id, f.value FROM estate_fieldspan f WHERE f.field = 'last_user' AND {then.text} "
        f"AND f.asset_id IN (SELECT s.asset_id {asked.source})",
        [*then.values, *asked.where.values],
    ):
        out[_account(value)].append(asset)
    return out


def holders_of(assets: set[int]) -> dict[int, str]:
    """Return who holds these assets now."""
    cursor = raw_connection().execute(
        "SELECT s.asset_id, t.text FROM estate_assetspan s JOIN estate_term t ON t.id = s.person_id "
        "WHERE s.valid_to IS NULL AND s.asset_id IN (SELECT value FROM json_each(?))",
        [json.dumps(sorted(assets))],
    )
    return dict(cursor.fetchall())


def _account(value: str) -> str:
    return str(json.loads(value) or "").rpartition("\\")[2].lower()


def _shown(known: KnownPerson) -> PersonFacts:
    return {
        "name": known.name,
        "department": known.department,
        "title": known.title,
        "email": known.email,
        "account": known.account,
        "sources": sorted(set(known.sources)),
        "joined_at": iso(known.joined_at),
        "left_at": iso(known.left_at),
    }


def people(at: int | None, filter_: str = "") -> list[PersonRowOut]:
    """Return everybody, with how many devices they hold and where they signed in last; holders nobody knows too.

    With a filter, or where who asks stands in a branch, only those who hold or use a device of it.
    """
    known, held, used = roster(at), _holders(at, filter_), _signed_in(at, filter_)
    if filter_.strip() or standing_in():
        known = {n: p for n, p in known.items() if n in held or (p.account and p.account in used)}
    for name in held:
        known.setdefault(name, KnownPerson(name))
    rows: list[PersonRowOut] = [
        {
            **_shown(p),
            "holds": len(held.get(p.name, ())),
            "signed_in": len(used.get(p.account, ())) if p.account else 0,
            "filter": f"person = {quote(p.name)}",
        }
        for p in known.values()
    ]
    return sorted(rows, key=lambda r: (r["left_at"] is None or not r["holds"], r["name"]))


def person(name: str, at: int | None) -> PersonPageOut | None:
    """Return one person, what they hold and use now, and what they have held; None where nobody knows the name."""
    known = roster(at)
    held = _holders(at).get(name, [])
    if name not in known and not held and not _held_over_time(name):
        return None
    known_person = known.get(name, KnownPerson(name))
    used = [a for a in _signed_in(at).get(known_person.account, []) if known_person.account]
    return {
        **_shown(known_person),
        "groups": known_person.groups,
        "filter": f"person = {quote(name)}",
        "held": named(held, at),
        "used": [{**row, "theirs": row["id"] in set(held)} for row in named(used, at)],
        "before": _held_over_time(name),
        "software": _software_for(known_person.account, at),
    }


def _held_over_time(name: str) -> list[HeldBeforeOut]:
    """Return what a person has held, from when to when, the latest first. Spans that follow each other are one."""
    visible = {row[0] for row in raw_connection().execute(*_of_mine())}
    spans = raw_connection().execute(
        "SELECT s.asset_id, s.name, s.valid_from, s.valid_to FROM estate_assetspan s JOIN estate_term t "
        "ON t.id = s.person_id WHERE t.field = 'person' AND t.text = ? ORDER BY s.asset_id, s.valid_from",
        [name],
    )
    out: list[tuple[int, str | None, int, int | None]] = []
    for asset, called, begins, ends in spans:
        if asset not in visible:
            continue
        if out and out[-1][0] == asset and out[-1][3] == begins:
            out[-1] = (asset, called, out[-1][2], ends)
        else:
            out.append((asset, called, begins, ends))
    out.sort(key=lambda r: -r[2])
    return [
        {"id": asset, "name": called, "since": iso(begins), "until": iso(ends)} for asset, called, begins, ends in out
    ]


def _of_mine() -> tuple[str, list[Any]]:
    asked = question("standing != none", None, standing=None)
    return f"SELECT s.asset_id {asked.source}", asked.where.values


def _software_for(account: str, at: int | None) -> list[TheirSoftwareOut]:
    """Return products installed for a person's account alone, with on how many devices."""
    if not account:
        return []
    then = holds("i", at)
    counter = Counter(
        name
        for (name,) in raw_connection().execute(
            f"SELECT i.name FROM estate_installsspan i WHERE {then.text} AND lower(i.user) = ?", [*then.values, account]
        )
    )
    return [{"name": name, "devices": n} for name, n in counter.most_common()]
