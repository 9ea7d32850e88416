"""Which vulnerability a name is of, as the tables have it: names that documents join are brought under one."""

from typing import Any

from tarn.core.exposure.aliases import preference


class Known:
    """The names of one transaction: looked up once, joined in the tables at once."""

    def __init__(self, db: Any) -> None:
        self._db = db
        self._of: dict[str, int] = {}
        self._moved: dict[int, int] = {}

    def now(self, vulnerability: int) -> int:
        """Return under which number a vulnerability stands that may have been joined to another."""
        while vulnerability in self._moved:
            vulnerability = self._moved[vulnerability]
        return vulnerability

    def one(self, names: tuple[str, ...]) -> int:
        """Return the vulnerability of names that are of one, made or joined where need be."""
        found = {n: v for n in names if (v := self._look_up(n)) is not None}
        if not found:
            number = self._make(min(names, key=preference))
        else:
            first, *others = sorted(set(found.values()))
            number = first
            for other in others:
                self._join(number, other)
        fresh = [n for n in names if n not in found]
        self._db.executemany(
            "INSERT INTO exposure_alias (name, vulnerability_id) VALUES (?, ?)", [(n, number) for n in fresh]
        )
        self._of |= dict.fromkeys(names, number)
        if found and fresh:
            self._call_best(number)
        return number

    def _look_up(self, name: str) -> int | None:
        if name not in self._of:
            row = self._db.execute("SELECT vulnerability_id FROM exposure_alias WHERE name = ?", [name]).fetchone()
            if row is None:
                return None
            self._of[name] = row[0]
        return self.now(self._of[name])

    def _make(self, name: str) -> int:
        row = self._db.execute("INSERT INTO exposure_vulnerability (name) VALUES (?) RETURNING id", [name]).fetchone()
        return int(row[0])

    def _join(self, into: int, other: int) -> None:
        """Bring what is told of two under one; the status of either is found anew by whoever derives it."""
        for table in ("exposure_alias", "exposure_telling", "exposure_statementrow"):
            self._db.execute(f"UPDATE {table} SET vulnerability_id = ? WHERE vulnerability_id = ?", [into, other])
        self._db.execute("DELETE FROM exposure_status WHERE vulnerability_id = ?", [other])
        self._db.execute("DELETE FROM exposure_vulnerability WHERE id = ?", [other])
        self._moved[other] = into
        self._call_best(into)

    def _call_best(self, number: int) -> None:
        names = self._db.execute("SELECT name FROM exposure_alias WHERE vulnerability_id = ?", [number]).fetchall()
        best = min((n for (n,) in names), key=preference)
        self._db.execute("UPDATE exposure_vulnerability SET name = ? WHERE id = ?", [best, number])
