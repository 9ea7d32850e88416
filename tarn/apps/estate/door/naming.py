"""Listed names on their way into the catalogue: each entry gets the product it stands for."""

import json
import sqlite3

from tarn.core.naming import Named, Naming, NamingRule, better


class Catalogue:
    """Puts listed names under products. The corrections are read when the first name is asked for."""

    def __init__(self) -> None:
        self.forget()

    def forget(self) -> None:
        """Drop what is remembered, after corrections changed."""
        self._naming: Naming | None = None

    def naming(self, db: sqlite3.Connection) -> Naming:
        """Return the rules as they stand."""
        if self._naming is None:
            rows = db.execute("SELECT id, field, match, product, publisher, role FROM estate_namingrule ORDER BY id")
            self._naming = Naming(NamingRule(*row) for row in rows)
        return self._naming

    def put(self, db: sqlite3.Connection, listing: int, name: str, publisher: str, version: str) -> None:
        """Write what a listed name stands for beside it."""
        named = self.naming(db).recognise(name, publisher, version)
        db.execute(
            "UPDATE estate_listing SET product_id = ?, role = ?, edition = ?, arch = ?, language = ?, understood = ?, "
            "why = ? WHERE id = ?",
            (
                _product(db, named),
                named.role,
                named.edition,
                named.arch[:20],
                named.language[:40],
                named.understood,
                json.dumps(named.why, ensure_ascii=False),
                listing,
            ),
        )

    def put_all(self, db: sqlite3.Connection) -> int:
        """Put every listed name anew, after corrections changed; return how many changed product or role.

        Products nothing stands under any more are dropped.
        """
        self.forget()
        before = dict(_standing(db))
        db.execute("UPDATE estate_product SET publisher = ''")
        for listing, name, publisher, version in db.execute(
            "SELECT id, name, publisher, first_version FROM estate_listing ORDER BY id"
        ).fetchall():
            self.put(db, listing, name, publisher, version)
        db.execute("DELETE FROM estate_product WHERE id NOT IN (SELECT product_id FROM estate_listing)")
        return sum(before.get(p) != now for p, now in _standing(db))


def _standing(db: sqlite3.Connection) -> list[tuple[int, tuple[str, str, str]]]:
    rows = db.execute(
        "SELECT l.id, p.key, l.role, p.publisher FROM estate_listing l "
        "LEFT JOIN estate_product p ON p.id = l.product_id"
    )
    return [(listing, (key, role, publisher)) for listing, key, role, publisher in rows]


def _product(db: sqlite3.Connection, named: Named) -> int:
    """Return the number of a product, added if new; the better spelling is shown, and its publisher once known."""
    key, name = named.key[:300], named.product[:300]
    row = db.execute("SELECT id, name, publisher FROM estate_product WHERE key = ?", (key,)).fetchone()
    if row is None:
        (number,) = db.execute(
            "INSERT INTO estate_product (key, name, publisher) VALUES (?, ?, ?) RETURNING id",
            (key, name, named.publisher[:500]),
        ).fetchone()
        return int(number)
    number, held, publisher = row
    shown = better(held, name)
    # Parts, drivers and updates may come from others: a product's publisher is told by the product itself.
    told = named.publisher if named.publisher and (not publisher or named.role == "product") else publisher
    if (shown, told) != (held, publisher):
        db.execute("UPDATE estate_product SET name = ?, publisher = ? WHERE id = ?", (shown, told[:500], number))
    return int(number)
