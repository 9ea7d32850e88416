"""What rules read of assets: their own fields and what is around them, in a fixed number of statements."""

import time
from typing import Any

from tarn.apps.discovery.networks.places import Places
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.asking.places import without
from tarn.apps.estate.custom.fields import fields as own_fields
from tarn.apps.estate.register.relations import hosts, own_words, switches, usual_accounts
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.people.actions.persons import departments, names_by_account
from tarn.apps.people.scope import asker
from tarn.core.fields import FIELDS
from tarn.core.filling import READS, Filling, Ready, resolve
from tarn.core.formula import TODAY
from tarn.core.kinds import STATES
from tarn.core.own import PREFIX, read_own
from tarn.core.sections import OWN


def decided_as(fills: str) -> str:
    """Return the name by which evidence says a field of the registry."""
    return f"{OWN}{fills[len(PREFIX) :]}" if fills.startswith(PREFIX) else fills


def fits(fills: str, value: Any) -> Any:
    """Return a value as the field holds it. Raises ValueError."""
    if fills.startswith(PREFIX):
        field = next((f for f in own_fields() if f.name == fills[len(PREFIX) :]), None)
        if field is None:
            raise ValueError(f"the company has no field “{fills[len(PREFIX) :]}” any more")
        return read_own(field, value)
    known = {"kind": FIELDS["kind"].choices, "state": STATES, "importance": FIELDS["importance"].choices}.get(fills)
    if known and value not in known:
        raise ValueError(f"“{value}” is no {fills}")
    return str(value)[:480]


def gather(assets: set[int], names: set[str]) -> dict[int, dict[str, Any]]:
    """Return by asset what is known of it of these names."""
    plain = sorted(n for n in names if n in FIELDS and n not in READS)
    wanted = sorted({*plain, "address", "person"})
    rows = rows_of("asset", wanted, question("standing != none", None, asker().everywhere()), "", [])
    out = {r["id"]: r for r in rows if r["id"] in assets}
    today = day_of(None).isoformat()
    for row in out.values():
        row[TODAY] = today
    heads = {n.partition(".")[0] for n in names if n in READS}
    if "network" in heads:
        places = Places.load()
        for row in out.values():
            if row["address"]:
                row["network.place"] = places.place(row["address"]) or None
                row["network.name"] = places.named(row["address"]) or None
    for head, read in (("switch", switches), ("host", hosts)):
        if head in heads:
            for asset, told in read(out).items():
                out[asset].update(told)
    if "person.department" in names:
        by_name = departments()
        for row in out.values():
            row["person.department"] = by_name.get(row["person"] or "")
    if "usual" in heads:
        people = names_by_account()
        for asset, account in usual_accounts(out, int(time.time())).items():
            out[asset]["usual.account"], out[asset]["usual.person"] = account, people.get(account)
    return out


def verdicts(rules: list[Ready], filters: dict[int, str]) -> list[Filling]:
    """Return what comes of rules, in their order, each on what answers its filter. Raises FilterError.

    A rule does not see what it filled itself: its filter is asked as though it had said nothing yet, or a rule on what
    has no department would give one, find one there, take it back, and so on with every piece of evidence.
    """
    unsaid = {r.rule.number: without(r.rule.fills, decided_as(r.rule.fills), r.rule.name) for r in rules}
    whole = asker().everywhere()
    applies = {n: ids(question(text, None, whole, supposed=unsaid.get(n))) for n, text in filters.items()}
    every = {a for found in applies.values() for a in found}
    names = {n for r in rules for n in r.needs} | {r.rule.fills for r in rules}
    facts = gather(every, names)
    here = {number: [a for a in found if a in facts] for number, found in applies.items()}
    said = own_words(every, {decided_as(r.rule.fills) for r in rules})
    pins = {
        asset: {r.rule.fills: words[decided_as(r.rule.fills)] for r in rules if decided_as(r.rule.fills) in words}
        for asset, words in said.items()
    }
    cache: dict[tuple[str, Any], Any] = {}

    def once(fills: str, value: Any) -> Any:
        # Rules give few different values to many assets.
        if (fills, value) not in cache:
            try:
                cache[fills, value] = fits(fills, value)
            except ValueError as error:
                cache[fills, value] = error
        if isinstance(held := cache[fills, value], ValueError):
            raise held
        return held

    return list(resolve(rules, here, facts, pins, once))
