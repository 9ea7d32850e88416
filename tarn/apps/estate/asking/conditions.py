"""What conditions are made of: keys, comparisons, and what of a condition asks the catalogue."""

from typing import Any

from tarn.apps.estate.asking.places import Sql
from tarn.core.fields import Field
from tarn.core.filters.check import Checked, Cond, Either, Every, Without
from tarn.core.sections import KEYS
from tarn.core.versions import SYSTEMS, Release, version_key


def with_value(f: Field, column: str) -> str:
    """Return the rest of a comparison that what has no value is not part of: its key would sort before all others."""
    return f" AND ifnull({column}, '') <> ''" if f.type in ("version", "address") else ""


def thing(group: str) -> str:
    """Return the SQL of what tells an item of a list from others: two witnesses of one thing are one thing."""
    if group == "software":
        return "i.release_id"
    return " || char(31) || ".join(f"ifnull(i.\"{column}\", '')" for column in KEYS[group])


def balanced(parts: list[str], word: str) -> str:
    """Join conditions; many as a tree of small depth, for SQLite refuses expressions over 1,000 deep."""
    if len(parts) == 1:
        return parts[0]
    if len(parts) <= 50:
        return word.join(f"({p})" for p in parts)
    width = -(-len(parts) // 50)
    return balanced([balanced(parts[n : n + width], word) for n in range(0, len(parts), width)], word)


def key_column(alias: str, name: str, f: Field) -> str:
    """Return the column a field is compared by."""
    if f.type in ("address", "version"):
        return f"{alias}.{name}_key"
    if name == "name" and alias == "s":
        return "s.name_fold"
    return f'{alias}."{name}"'


def of_catalogue(item: Checked) -> bool:
    """Whether a condition asks of listings, products and releases alone."""
    match item:
        case Cond(f):
            return f.stored.startswith(("listing.", "product.", "release."))
        case Every(items) | Either(items):
            return all(of_catalogue(i) for i in items)
        case Without(inner):
            return of_catalogue(inner)
    return False


def asks_for(item: Checked, stored: str) -> bool:
    """Whether a condition on the catalogue asks for a field."""
    match item:
        case Cond(f):
            return f.stored == stored
        case Every(items) | Either(items):
            return any(asks_for(i, stored) for i in items)
        case Without(inner):
            return asks_for(inner, stored)
    return False


def is_since(item: Checked) -> bool:
    """Whether a condition asks since when an item is there."""
    match item:
        case Cond(f):
            return f.stored == "item.valid_from"
        case Without(inner):
            return is_since(inner)
    return False


def among_releases(found: list[tuple[int, int]]) -> Sql:
    """Return the condition for one of these releases, by the index that begins with the listing."""
    if not found:
        return Sql("0")
    listings = sorted({listing for listing, _ in found})
    releases = sorted(r for _, r in found)
    return Sql(f"i.listing_id IN ({','.join(map(str, listings))}) AND i.release_id IN ({','.join(map(str, releases))})")


def by_system(test: Sql) -> Sql:
    """Return a test of a release's version that compares it by the rule of the package's own system."""
    text, *rest = test.text.split("?")
    values: list[Any] = []
    for value, then in zip(test.values, rest, strict=True):
        if isinstance(value, Release):
            cases = " ".join(f"WHEN '{system}' THEN ?" for system in SYSTEMS)
            text += f"CASE r.system {cases} ELSE ? END{then}"
            values += [*(version_key(value.written, system) for system in SYSTEMS), str(value)]
        else:
            text += f"?{then}"
            values.append(value)
    return Sql(text, values, test.cost)
