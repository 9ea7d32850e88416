"""Where a field's value lies: in a span's column, or reckoned from other tables, as of now or of any moment."""

import json
from dataclasses import dataclass, field
from typing import Any

from tarn.apps.estate.asking.told import HOME, column
from tarn.apps.estate.store.terms import Terms
from tarn.core.fields import FIELDS, Field
from tarn.core.kinds import IN_USE
from tarn.core.own import MADE, OwnError, OwnField, made_of, pieces
from tarn.core.sections import OWN
from tarn.core.truth import RANKS

BY_RANK = "CASE w.kind " + " ".join(f"WHEN '{kind}' THEN {rank}" for kind, rank in RANKS.items()) + " END"


@dataclass
class Sql:
    """A piece of SQL with its values, and how costly it is: 0 by index, 1 by scan, 2 by regular expression."""

    text: str
    values: list[Any] = field(default_factory=list)
    cost: int = 0


def within(known: Terms, limited: frozenset[str]) -> Sql:
    """Return the condition that an asset's span `s` is of one of these organisations."""
    numbers = [i for i, text, _ in known.of("organisation") if text in limited]
    return Sql(f"s.organisation_id IN ({','.join('?' * len(numbers))})", list(numbers))


def holds(alias: str, at: int | None) -> Sql:
    """Return the condition that a span held: open now, or begun and not ended at `at`."""
    if at is None:
        return Sql(f"{alias}.valid_to IS NULL")
    return Sql(f"{alias}.valid_from <= ? AND ({alias}.valid_to IS NULL OR {alias}.valid_to > ?)", [at, at])


def turned(alias: str, since: int) -> tuple[Sql, Sql]:
    """Return the conditions that a span began or ended after a moment: of those that are open, and of those that have
    ended. They are asked one after the other, as each has an index; one condition over both would read the table."""
    return Sql(f"{alias}.valid_to IS NULL AND {alias}.valid_from > ?", [since]), Sql(f"{alias}.valid_to > ?", [since])


def ever_read(section: str, at: int | None) -> Sql:
    """Return the statement that gives the assets of which a section was ever read, up to a moment."""
    if at is None:
        return Sql("SELECT r.asset_id FROM estate_sectionstate r WHERE r.section = ?", [section])
    return Sql("SELECT r.asset_id FROM estate_sighting r WHERE r.at <= ? AND instr(r.head, ?)", [at, f'"{section}"'])


def reckoned(stored: str, at: int | None) -> str:
    """Return the SQL of a field reckoned from other tables; a moment of the past stands in it as a literal."""
    if stored == "seen.first":
        return "a.first_seen"
    if stored == "holder.left":
        when = "p.left_at IS NOT NULL" if at is None else f"ifnull(p.left_at <= {int(at)}, 0)"
        return (
            f"(SELECT min({when}) FROM people_person p JOIN estate_term h ON h.id = s.person_id WHERE p.name = h.text)"
        )
    if stored == "filled.by":
        then = holds("f", at).text.replace("?", str(int(at or 0)))
        return (
            "(SELECT group_concat(w.name, '; ') FROM estate_fieldspan f JOIN estate_source w "
            f"ON w.id = f.source_id WHERE f.asset_id = s.asset_id AND w.kind = 'rule' AND {then})"
        )
    if stored.startswith(f"{HOME}."):
        return column(stored[len(HOME) + 1 :], at)
    if stored.startswith("own."):
        return _said(OWN + stored[4:].replace("'", "''"), at)
    if stored.startswith(MADE):
        return _put_together(stored[len(MADE) :], at)
    if stored.startswith("claim."):
        return _said(stored[6:], at)
    if at is None:
        return {"seen.last": "a.last_seen", "seen.sources": "a.sources", "count.software": "a.packages"}[stored]
    moment = int(at)
    return {
        "seen.last": "(SELECT coalesce(max(iif(w.kind IN ('hand', 'rule'), NULL, g.at)), max(g.at)) "
        "FROM estate_sighting g JOIN estate_source w ON w.id = g.source_id "
        f"WHERE g.asset_id = s.asset_id AND g.at <= {moment})",
        "seen.sources": "(SELECT count(*) FROM estate_sourceseen o JOIN estate_source w ON w.id = o.source_id "
        f"WHERE o.asset_id = s.asset_id AND o.first_seen <= {moment} AND w.kind != 'rule')",
        "count.software": "(SELECT count(DISTINCT i.release_id) FROM estate_installspan i "
        f"WHERE i.asset_id = s.asset_id AND i.valid_from <= {moment} "
        f"AND (i.valid_to IS NULL OR i.valid_to > {moment}))",
    }[stored]


def account_left(at: int | None) -> str:
    """Return the SQL of whether an account `i` is that of a person who has left; no value where nobody has it."""
    when = "p.left_at IS NOT NULL" if at is None else f"ifnull(p.left_at <= {int(at)}, 0)"
    return f"(SELECT min({when}) FROM people_person p WHERE p.account <> '' AND lower(p.account) = lower(i.name))"


def of_asset(field: Field, at: int | None) -> bool:
    """Whether a field lies in a column of the asset itself, or is made of one that does."""
    home = field.stored.partition(".")[0]
    now_of_asset = at is None and field.stored in ("seen.last", "seen.sources", "count.software")
    if home == "asset" or field.stored == "seen.first" or now_of_asset:
        return True
    return any(of_asset(FIELDS[name], at) for name in made_of(field))


def _said(name: str, at: int | None, but: str = "") -> str:
    """Return the SQL of what is said of a field that only claims hold: the witness believed first, then the later.

    `but`: SQL of the source whose word is left out.
    """
    then = holds("f", at).text.replace("?", str(int(at or 0)))
    others = f"AND f.source_id <> {but} " if but else ""
    return (
        "(SELECT json_extract(f.value, '$') FROM estate_fieldspan f JOIN estate_source w ON w.id = f.source_id "
        f"WHERE f.asset_id = s.asset_id AND f.field = '{name}' AND {then} {others}"
        f"ORDER BY {BY_RANK}, f.valid_from DESC, f.id DESC LIMIT 1)"
    )


@dataclass(frozen=True)
class Supposed:
    """A field that is asked as though something else were said of it: on the assets `where` holds of, it is `value`."""

    field: str
    where: Sql
    value: Sql


def without(field: str, evidence: str, rule: str) -> Supposed:
    """Return a field as it is now without the word of one fill rule; `evidence` is how claims call the field."""
    name, spoken = (text.replace("'", "''") for text in (evidence, rule))
    source = f"(SELECT o.id FROM estate_source o WHERE o.kind = 'rule' AND o.name = '{spoken}')"
    said = _said(name, None, f"ifnull({source}, 0)")
    if field == "state":
        said = f"coalesce({said}, '{IN_USE}')"
    open_word = (
        "EXISTS (SELECT 1 FROM estate_fieldspan f WHERE f.asset_id = s.asset_id AND f.field = ? "
        f"AND f.source_id = {source} AND f.valid_to IS NULL)"
    )
    return Supposed(field, Sql(open_word, [evidence]), Sql(said))


def supposing(field: str, assets: list[int], value: str) -> Supposed:
    """Return a field as it would be on some assets if it held this."""
    among = Sql("s.asset_id IN (SELECT value FROM json_each(?))", [json.dumps(assets)])
    return Supposed(field, among, Sql("?", [value]))


def _put_together(template: str, at: int | None) -> str:
    """Return the SQL of a field made of others; it has no value where none of them has."""
    parts, values = [], []
    try:
        told = pieces(OwnField("", "made of others", template=template))
    except OwnError:
        return "NULL"  # a field it is made of was dropped; whoever looks at it is told where fields are kept
    for text, name in told:
        parts.append("'" + text.replace("'", "''") + "'")
        if name:
            values.append(as_words(FIELDS[name], at))
            parts.append(f"ifnull({values[-1]}, '')")
    return f"iif(coalesce({', '.join([*values, 'NULL'])}) IS NULL, NULL, trim({' || '.join(parts)}))"


def as_words(field: Field, at: int | None) -> str:
    """Return the SQL of an asset's field as words or a plain number; a moment as its day."""
    home, _, name = field.stored.partition(".")
    if home == "term":
        return f"(SELECT w.text FROM estate_term w WHERE w.id = s.{name}_id)"
    column = f"s.{name}" if home == "span" else f"a.{name}" if home == "asset" else reckoned(field.stored, at)
    return f"strftime('%Y-%m-%d', {column}, 'unixepoch')" if field.type == "moment" else column
