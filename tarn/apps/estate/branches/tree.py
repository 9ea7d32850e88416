"""The trees of places, departments and holders, with how much of the register each branch holds."""

from collections import Counter
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.branches import trees
from tarn.apps.estate.models import Branch
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.scope import asker, scope
from tarn.core.branches import HIERARCHIES
from tarn.core.filters.tree import quote
from tarn.core.text import fold


def branches(at: int | None) -> list[dict[str, Any]]:
    """Return every place, department and person devices stand under, in the tree's order.

    `here` are the assets of the register that say so themselves, `within` those of the whole branch, `depth` how
    far down it stands. Who is limited to an organisation sees only the branches that hold something of theirs.
    """
    out: list[dict[str, Any]] = []
    held = trees()
    for field in HIERARCHIES:
        here, kept = _counted(field, at), set(Branch.objects.filter(field=field).values_list("name", flat=True))
        out += _in_order(field, held[field], here, kept)
    return out


def _counted(field: str, at: int | None) -> Counter[str]:
    asked = question(f"{field} != none", at, asker().everywhere())
    cursor = raw_connection().execute(
        f"SELECT (SELECT t.text FROM estate_term t WHERE t.id = s.{field}_id), count(*) {asked.source} "
        f"GROUP BY s.{field}_id",
        asked.where.values,
    )
    return Counter(dict(cursor.fetchall()))


def _in_order(field: str, under: dict[str, str], here: Counter[str], kept: set[str]) -> list[dict[str, Any]]:
    spelt = {fold(n): n for n in [*under.values(), *under, *kept, *here]}  # evidence spells best
    counts = {fold(n): c for n, c in here.items()}
    parent = {fold(c): fold(p) for c, p in under.items()}
    below: dict[str, list[str]] = {}
    for one in sorted(spelt, key=lambda n: spelt[n]):
        below.setdefault(parent.get(one, ""), []).append(one)
    out: list[dict[str, Any]] = []
    every = scope() is None
    summed: dict[str, int] = {}

    def total(one: str) -> int:
        if one not in summed:
            summed[one] = counts.get(one, 0) + sum(total(child) for child in below.get(one, ()))
        return summed[one]

    def walk(one: str, depth: int) -> None:
        within = total(one)
        if not within and not every:
            return
        name = spelt[one]
        out.append(
            {
                "field": field,
                "name": name,
                "under": spelt.get(parent.get(one, ""), ""),
                "depth": depth,
                "here": counts.get(one, 0),
                "within": within,
                "kept": name in kept,
                "filter": f"{field} in ({quote(name)})",
            }
        )
        for child in below.get(one, ()):
            walk(child, depth + 1)

    for top in below.get("", ()):
        walk(top, 0)
    return out
