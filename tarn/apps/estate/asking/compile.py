"""From a checked filter to SQL over spans, as of now or of any moment."""

import json
import sqlite3
from operator import eq, ge, gt, le, lt
from typing import Any

from tarn.apps.estate.asking import elsewhere
from tarn.apps.estate.asking.conditions import (
    among_releases,
    asks_for,
    balanced,
    by_system,
    is_since,
    key_column,
    of_catalogue,
    thing,
    with_value,
)
from tarn.apps.estate.asking.places import Sql, Supposed, account_left, ever_read, holds, of_asset, reckoned, within
from tarn.apps.estate.models import span_model
from tarn.apps.estate.store.handed import look_up
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import Scope
from tarn.core.fields import RECKONED, SEVERAL, Field
from tarn.core.filters.check import (
    Checked,
    Cond,
    Either,
    Every,
    Member,
    NeverRead,
    Number,
    RelatedTo,
    Some,
    Without,
)
from tarn.core.naming import product_key
from tarn.core.patterns import pattern
from tarn.core.ranges import keys_in
from tarn.core.text import fold

_THESE = "s.asset_id IN (SELECT value FROM json_each(?))"
_COMPARED = {"=": eq, "<": lt, "<=": le, ">": gt, ">=": ge}
_COMPLEMENT = {"<": ">=", "<=": ">", ">": "<=", ">=": "<", "=": "!="}


def _matches(text: str, value: Any) -> int | None:
    return int(pattern(text).search(str(value)) is not None) if value not in (None, "") else None


def _fold(value: Any) -> str | None:
    return None if value is None else fold(str(value))


def _lies_in(value: Any, low: str, high: str) -> int | None:
    """Whether an address or network that stands in a text lies wholly between two keys."""
    return int(any(low <= a and b <= high for a, b in keys_in(value))) if value else None


def teach(db: sqlite3.Connection) -> None:
    """Give a connection the functions filters need beyond SQL's own."""
    db.create_function("fold", 1, _fold, deterministic=True)
    db.create_function("matches", 2, _matches, deterministic=True)
    db.create_function("told", 2, look_up, deterministic=True)
    db.create_function("lies_in", 3, _lies_in, deterministic=True)


class Compiler:
    """Compiles checked filters. `s` is the asset's span in the statement, `a` the asset."""

    def __init__(
        self, db: sqlite3.Connection, at: int | None, organisations: Scope, supposed: Supposed | None = None
    ) -> None:
        self.db, self.at, self.organisations, self.supposed = db, at, organisations, supposed
        self.terms = terms.refresh(db)
        self.asks_asset = False
        """Whether anything compiled so far asks for a column of the asset itself."""

    def of_mine(self) -> list[Sql]:
        """Return the condition that an asset is of an organisation that may be seen; none where all may."""
        return [] if self.organisations is None else [within(self.terms, self.organisations)]

    def where(self, checked: Checked) -> Sql:
        """Return the condition for a checked filter."""
        match checked:
            case Every(items):
                return self._joined([self.where(i) for i in items], " AND ", "1")
            case Either(items):
                return self._either(items)
            case Without(item):
                inner = self.where(item)
                return Sql(f"NOT ifnull(({inner.text}), 0)", inner.values, inner.cost)
            case Member(_, condition):
                return self.where(condition)
            case Cond(f):
                return self._asset_cond(checked, f)
            case Some(group, inner):
                return self._some(group, inner)
            case Number():
                return self._number(checked)
            case NeverRead(section):
                read = ever_read(section, self.at)
                return Sql(f"s.asset_id NOT IN ({read.text})", read.values, 1)
            case RelatedTo():
                return self._related(checked)
        raise TypeError(checked)

    def _joined(self, parts: list[Sql], word: str, empty: str) -> Sql:
        if not parts:
            return Sql(empty)
        # SQLite tests the terms of one loop in the order written: the dear ones go last.
        parts = sorted(parts, key=lambda p: p.cost)
        text = balanced([p.text for p in parts], word)
        return Sql(text, [v for p in parts for v in p.values], max(p.cost for p in parts))

    def _either(self, items: tuple[Checked, ...]) -> Sql:
        """Several values of one text or vocabulary become one look-up; the rest is joined with OR."""
        alike = [i for i in items if isinstance(i, Cond) and i.op == "=" and self.supposed is None]
        if len(alike) == len(items) > 1 and all(i.field is alike[0].field for i in alike):
            f = alike[0].field
            home, _, name = f.stored.partition(".")
            if home == "term":
                return self._among(name, sorted({t for i in alike for t in self._term_ids(i)}))
            if home in ("span", "asset") and f.type == "text":
                key = key_column(home[0], name, f)
                self.asks_asset |= home == "asset"
                folded, cost = (key, 0) if key.endswith("_fold") else (f"fold({key})", 1)
                wanted = json.dumps([i.value for i in alike], ensure_ascii=False)
                return Sql(f"{folded} IN (SELECT value FROM json_each(?))", [wanted], cost)
        return self._joined([self.where(i) for i in items], " OR ", "0")

    def _among(self, term: str, ids: list[int]) -> Sql:
        if not ids:
            return Sql("0")
        if len(ids) == 1:
            return Sql(f"s.{term}_id = ?", [ids[0]])
        return Sql(f"s.{term}_id IN ({','.join('?' * len(ids))})", list(ids))

    def _term_ids(self, cond: Cond) -> list[int]:
        """Return the words of a vocabulary that a condition means."""
        term = cond.field.stored[5:]
        rows = self.terms.of(term)
        if cond.op == "contains":
            return [i for i, _, folded in rows if cond.value in folded]
        if cond.op == "matches":
            regex = pattern(cond.value)
            return [i for i, text, _ in rows if regex.search(text)]
        return [i for i, _, folded in rows if folded == cond.value]

    def _asset_cond(self, cond: Cond, f: Field) -> Sql:
        sql = self._told(cond, f)
        if self.supposed is None or self.supposed.field != f.name:
            return sql
        where, value = self.supposed.where, self.supposed.value
        # The value stands several times in its test; named once, its own values stand once.
        if_so = self._test(cond, "v.x", "v.x")
        text = f"iif({where.text}, (SELECT {if_so.text} FROM (SELECT {value.text} AS x) v), {sql.text})"
        return Sql(text, [*where.values, *if_so.values, *value.values, *sql.values], 1)

    def _told(self, cond: Cond, f: Field) -> Sql:
        self.asks_asset |= of_asset(f, self.at)
        home, _, name = f.stored.partition(".")
        if home == "term":
            if cond.op == "present":
                return Sql(f"s.{name}_id IS NOT NULL")
            return self._among(name, self._term_ids(cond))
        if home == "span":
            return self._test(cond, f"s.{name}", key_column("s", name, f))
        if home == "asset":
            return self._test(cond, f"a.{name}", f"a.{name}")
        column = reckoned(f.stored, self.at)
        if f.name in SEVERAL and cond.op == "=":
            return Sql(f"instr('; ' || fold({column}) || ';', ?) > 0", [f"; {cond.value};"], 1)
        test = self._test(cond, column, column)
        return Sql(test.text, test.values, 1)

    def _test(self, cond: Cond, column: str, key: str) -> Sql:
        """Return a condition on a column; `key` is what it is ordered and compared by."""
        f, value = cond.field, cond.value
        match cond.op:
            case "present":
                return Sql(f"ifnull({column}, '') <> ''")
            case "contains":
                folded = key if key.endswith("_fold") else f"fold({column})"
                return Sql(f"instr({folded}, ?) > 0", [value], 1)
            case "matches":
                return Sql(f"matches(?, {column})", [value], 2)
            case "lies in":
                return Sql(f"lies_in({column}, ?, ?)", list(value), 2)
            case "between":
                after = "<" if f.type == "moment" else "<="
                return Sql(f"{key} >= ? AND {key} {after} ?{with_value(f, column)}", list(value))
        if f.type in ("text", "addresses", "choice") and not key.endswith("_fold"):
            return Sql(f"fold({column}) = ?", [value], 1)
        return Sql(f"{key} {cond.op} ?{with_value(f, column)}", [value])

    def of_items(self, group: str, checked: Checked) -> Sql:
        """Return the condition on an item `i` of a list, for a checked filter that asks of that list alone."""
        assert isinstance(checked, Some)
        return self._inside(group, checked.inner) if checked.inner is not None else Sql("1")

    def _some(self, group: str, inner: Checked | None) -> Sql:
        if group in RECKONED:
            return Sql(_THESE, [json.dumps(list(elsewhere.reckoning(group)(self.at, inner)))])
        some = self._items(group, inner)
        return Sql(f"s.asset_id IN ({some.text})", some.values, some.cost)

    def _related(self, asked: RelatedTo) -> Sql:
        """Return the condition of being in a relation to such an asset, of those whoever asks may see."""
        parts = [holds("s", self.at), *self.of_mine(), self.where(asked.other)]
        found = self.db.execute(
            "SELECT s.asset_id FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id WHERE "
            + " AND ".join(f"({p.text})" for p in parts),
            [v for p in parts for v in p.values],
        )
        others = {asset for (asset,) in found}
        return Sql(_THESE, [json.dumps(sorted(elsewhere.relating()(asked.relation, self.at, others, asked.heard)))])

    def _items(self, group: str, inner: Checked | None, tail: str = "") -> Sql:
        """Return a statement that gives the assets with such an item."""
        table = span_model(group)._meta.db_table
        cond = self._inside(group, inner) if inner is not None else Sql("1")
        what = f"i.asset_id, {thing(group)} AS thing" if tail else "i.asset_id"
        if self.at is None:
            text = f"SELECT {what} FROM {table} i WHERE i.valid_to IS NULL AND ({cond.text})"
            text = f"SELECT i.asset_id FROM ({text}) i WHERE 1{tail}" if tail else text
            return Sql(text, cond.values, max(1, cond.cost))
        # Two halves, so that each can use the index made for open or for closed spans.
        begun = "i.valid_from <= ?"
        text = (
            f"SELECT {what} FROM {table} i WHERE i.valid_to IS NULL AND {begun} AND ({cond.text}) UNION ALL "
            f"SELECT {what} FROM {table} i WHERE i.valid_to > ? AND {begun} AND ({cond.text})"
        )
        values = [self.at, *cond.values, self.at, self.at, *cond.values]
        text = f"SELECT i.asset_id FROM ({text}) i WHERE 1{tail}"
        return Sql(text, values, max(1, cond.cost))

    def _inside(self, group: str, checked: Checked) -> Sql:
        match checked:
            case Every(items) if group == "software":
                return self._software(items)
            case Every(items):
                return self._joined([self._inside(group, i) for i in items], " AND ", "1")
            case Either(items):
                return self._joined([self._inside(group, i) for i in items], " OR ", "0")
            case Without(item):
                inner = self._inside(group, item)
                return Sql(f"NOT ifnull(({inner.text}), 0)", inner.values, inner.cost)
            case Cond(f) if f.stored == "ruling.verdict":
                return self._judged(str(checked.value))
            case Cond(f) if f.stored == "account.left":
                column = account_left(self.at)
                return self._test(checked, column, column)
            case Cond(f) if group == "software":
                return self._software((checked,))
            case Cond(f):
                name = f.stored.partition(".")[2]
                column = f'i."{name}"'  # quoted: some are words of SQL
                return self._test(checked, column, key_column("i", name, f))
        raise TypeError(checked)

    def _software(self, items: tuple[Checked, ...]) -> Sql:
        """Conditions on products, listings and releases narrow to release numbers first: those tables are small."""
        catalogue = [i for i in items if of_catalogue(i)]
        rest = [self._inside("software", i) for i in items if not of_catalogue(i) and not is_since(i)]
        rest += [self._since(i) for i in items if is_since(i)]
        if catalogue:
            parts = [self._catalogue(i) for i in catalogue]
            if any(asks_for(i, "product.name") for i in catalogue) and not any(
                asks_for(i, "listing.role") for i in catalogue
            ):
                # An update of a product is no copy of it; whoever wants updates asks for the role.
                parts.append(Sql("l.role <> 'update'"))
            cond = self._joined(parts, " AND ", "1")
            releases = self.db.execute(
                "SELECT r.listing_id, r.id FROM estate_release r JOIN estate_listing l ON l.id = r.listing_id "
                "LEFT JOIN estate_product p ON p.id = l.product_id "
                f"WHERE {cond.text}",
                cond.values,
            ).fetchall()
            rest.append(among_releases(releases))
        return self._joined(rest, " AND ", "1")

    def _judged(self, verdict: str) -> Sql:
        """Return the condition that the company says this of an installation; a department's own word comes first, then
        its organisation's."""
        said = elsewhere.judging()(self.at, verdict)
        then = holds("d", self.at)
        among = "(SELECT value FROM json_each(?))"

        def of(field: str, names: set[str]) -> tuple[str, list[Any]]:
            ids = [
                i for i, text, folded in self.terms.of(field) if (text if field == "organisation" else folded) in names
            ]
            text = f"SELECT d.asset_id FROM estate_assetspan d WHERE {then.text} AND d.{field}_id IN {among}"
            return text, [*then.values, json.dumps(ids)]

        own = {"organisation": {o for o, _ in said} - {""}, "department": {d for _, d in said} - {""}}
        parts: list[str] = []
        values: list[Any] = []
        for group, releases in said.items():
            if not releases:
                continue
            text = f"i.release_id IN {among}"
            values.append(json.dumps(sorted(releases)))
            for field, name in zip(own, group, strict=True):
                if name or own[field]:
                    inner, more = of(field, {name} if name else own[field])
                    text += f" AND i.asset_id {'' if name else 'NOT '}IN ({inner})"
                    values += more
            parts.append(f"({text})")
        return Sql(f"({' OR '.join(parts) or '0'})", values, 1)

    def _since(self, item: Checked) -> Sql:
        if isinstance(item, Cond):
            return self._test(item, "i.valid_from", "i.valid_from")
        assert isinstance(item, Without)
        inner = self._since(item.item)
        return Sql(f"NOT ({inner.text})", inner.values, inner.cost)

    def _catalogue(self, item: Checked) -> Sql:
        match item:
            case Every(items):
                return self._joined([self._catalogue(i) for i in items], " AND ", "1")
            case Either(items):
                return self._joined([self._catalogue(i) for i in items], " OR ", "0")
            case Without(inner):
                sql = self._catalogue(inner)
                return Sql(f"NOT ifnull(({sql.text}), 0)", sql.values, sql.cost)
            case Cond(f):
                home, _, name = f.stored.partition(".")
                if f.stored in ("listing.name", "product.name"):
                    return self._named(item, listed_too=home == "listing")
                if home in ("listing", "product"):
                    column = f"{'l' if home == 'listing' else 'p'}.{name}"
                    return self._test(item, column, column)
                return by_system(self._test(item, "r.version", "r.version_key"))
        raise TypeError(item)

    def _named(self, item: Cond, *, listed_too: bool) -> Sql:
        """Return the condition on a product's name, any spelling of it, and (`listed_too`) on what it is listed as.

        Listings are asked, not releases: they are fewer, and their names are indexed.
        """
        own = Sql("p.key = ?", [product_key(item.value)]) if item.op == "=" else self._test(item, "p.name", "p.name")
        text, values = f"SELECT p.id FROM estate_product p WHERE {own.text}", list(own.values)
        if not listed_too:
            return Sql(f"l.product_id IN ({text})", values, own.cost)
        listed = self._test(item, "l.name", "l.name_fold")
        text = (
            f"SELECT l.id FROM estate_listing l WHERE l.product_id IN ({text}) "
            f"UNION SELECT l.id FROM estate_listing l WHERE {listed.text}"
        )
        return Sql(f"l.id IN ({text})", [*values, *listed.values], max(own.cost, listed.cost))

    def _counted(self, numbers: dict[int, int], operator: str, wanted: int) -> Sql:
        """Return the condition on how many each asset has; whoever is not among them has none."""
        fits = _COMPARED[operator]
        if fits(0, wanted):
            return Sql(f"NOT {_THESE}", [json.dumps([a for a, n in numbers.items() if not fits(n, wanted)])])
        return Sql(_THESE, [json.dumps([a for a, n in numbers.items() if fits(n, wanted)])])

    def _number(self, number: Number) -> Sql:
        operator, wanted = number.op, number.number
        if number.group in RECKONED:
            return self._counted(elsewhere.reckoning(number.group)(self.at, number.inner), operator, wanted)
        grouped = self._items(
            number.group, number.inner, f" GROUP BY i.asset_id HAVING count(DISTINCT i.thing) {operator} ?"
        )
        zero_counts = {"=": wanted == 0, "<": wanted > 0, "<=": True, ">": False, ">=": wanted == 0}[operator]
        if not zero_counts:
            return Sql(f"s.asset_id IN ({grouped.text})", [*grouped.values, wanted], 1)
        others = self._items(
            number.group, number.inner, f" GROUP BY i.asset_id HAVING count(DISTINCT i.thing) {_COMPLEMENT[operator]} ?"
        )
        return Sql(f"s.asset_id NOT IN ({others.text})", [*others.values, wanted], 1)
