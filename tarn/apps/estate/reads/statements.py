"""Statements of one's own over documented views: read only, bounded in time and rows.

A connection of its own is opened read-only; SQLite's authorizer lets a statement read the views and nothing else.
"""

import secrets
import sqlite3
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db import connection

from tarn.core.sections import ITEMS

SECONDS, ROWS = 10, 10_000
"""The longest a statement may take, and the most rows it may give."""
_STEPS = 20_000
"""Steps of SQLite's machine between two looks at the clock."""

_TERM = "(SELECT text FROM estate_term WHERE id = s.{0}_id)"
_TERMS = ("kind", "state", "standing", "manufacturer", "model", "platform", "os_name", "place", "person", "department",
          "organisation")  # fmt: skip
_PLAIN = ("name", "serial", "uuid", "domain", "os_version", "os_kernel", "processor", "cores", "memory", "address",
          "mac", "description", "last_user", "note")  # fmt: skip
_WHEN = "strftime('%Y-%m-%dT%H:%M:%SZ', {0}, 'unixepoch')"


def _views() -> dict[str, tuple[str, str]]:
    """Return by name what a view means, and its statement."""
    columns = ", ".join([*(f"s.{c}" for c in _PLAIN), *(f"{_TERM.format(t)} AS {t}" for t in _TERMS)])
    dated = f"{_WHEN.format('a.first_seen')} AS first_seen, {_WHEN.format('a.last_seen')} AS last_seen"
    installed = (
        "SELECT a.number AS asset, t.name AS product, t.publisher, p.name AS listed_as, r.version, p.role, "
        f"{_WHEN.format('i.valid_from')} AS since{{0}} FROM estate_installspan i "
        "JOIN estate_asset a ON a.id = i.asset_id "
        "JOIN estate_release r ON r.id = i.release_id JOIN estate_product p ON p.id = i.product_id "
        "LEFT JOIN estate_title t ON t.id = p.title_id{1}"
    )
    until = f", {_WHEN.format('i.valid_to')} AS until"
    out = {
        "assets": (
            "Every asset as it is held now; standing tells register, intake and set aside",
            f"SELECT a.number, {columns}, a.sources, {dated} FROM estate_assetspan s "
            "JOIN estate_asset a ON a.id = s.asset_id WHERE s.valid_to IS NULL",
        ),
        "assets_over_time": (
            "What was held of every asset, from when until when",
            f"SELECT a.number, {columns}, {_WHEN.format('s.valid_from')} AS since, "
            f"{_WHEN.format('s.valid_to')} AS until FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id",
        ),
        "software": ("What is installed now", installed.format("", " WHERE i.valid_to IS NULL")),
        "software_over_time": ("What was installed, from when until when", installed.format(until, "")),
    }
    for section, model in ITEMS.items():
        if section in ("packages", "licence_keys"):
            continue  # the first is software above; keys are shown to few
        listed = ", ".join(f'i."{c}"' for c in model.model_fields)
        out[section] = (
            str(model.__doc__ or "").split("\n")[0],
            f"SELECT a.number AS asset, {listed}, {_WHEN.format('i.valid_from')} AS since FROM estate_{section}span i "
            "JOIN estate_asset a ON a.id = i.asset_id WHERE i.valid_to IS NULL",
        )
    return out


class StatementError(ValueError):
    """A statement that cannot be carried out, in words."""


@dataclass(frozen=True)
class Table:
    """What a statement gives; `cut`: it had more rows than are given."""

    columns: list[str]
    rows: list[tuple[Any, ...]]
    cut: bool
    seconds: float


def described() -> list[dict[str, Any]]:
    """Return the views with their columns."""
    db = _open(_unguessed())
    try:
        return [
            {"name": name, "meaning": meaning, "columns": [r[1] for r in db.execute(f'PRAGMA table_info("{name}")')]}
            for name, (meaning, _) in _views().items()
        ]
    finally:
        db.close()


def _unguessed() -> str:
    return f"v{secrets.token_hex(16)}"


def _open(prefix: str) -> sqlite3.Connection:
    """Open the database read-only with the views in it. Each reads its tables through another whose name begins with
    `prefix`: a name nobody can guess, so that no part of a statement can pass for it."""
    path = str(connection.settings_dict["NAME"])
    db = sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5, isolation_level=None)
    for name, (_, statement) in _views().items():
        db.execute(f'CREATE TEMP VIEW "{prefix}_{name}" AS {statement}')
        db.execute(f'CREATE TEMP VIEW "{name}" AS SELECT * FROM "{prefix}_{name}"')
    return db


def _authorizer(prefix: str, tables: set[str]) -> Callable[..., int]:
    """Return what answers SQLite's question whether a step of a statement may be (sqlite3_set_authorizer).

    `tables`: those of the database. Where no column of one is wanted SQLite does not say for which view it is read:
    it may be where a view has read it before, or where it is no table but a WITH of the statement's own.
    """
    read: set[str] = set()

    def answer(action: int, first: str | None, second: str | None, base: str | None, within: str | None) -> int:
        if action in (sqlite3.SQLITE_SELECT, sqlite3.SQLITE_RECURSIVE):
            return sqlite3.SQLITE_OK
        if action == sqlite3.SQLITE_FUNCTION:
            return sqlite3.SQLITE_DENY if second == "load_extension" else sqlite3.SQLITE_OK
        # `within` is the view being read, but also the name of a WITH of the statement's own: only our prefix counts.
        inner = within is not None and within.startswith(f"{prefix}_")
        named = base == "temp" and first is not None and not first.startswith("sqlite_")
        if action == sqlite3.SQLITE_READ and inner:
            read.add(first or "")
        bare = second == "" and (first in read or first not in tables)
        allowed = action == sqlite3.SQLITE_READ and (inner or named or bare)
        return sqlite3.SQLITE_OK if allowed else sqlite3.SQLITE_DENY

    return answer


def carry_out(statement: str, seconds: float = SECONDS) -> Table:
    """Carry a statement out. Raises StatementError: no SELECT, a table that is no view, an error in it, too long."""
    text = statement.strip().rstrip(";")
    if not text:
        raise StatementError("Write a statement that begins with SELECT.")
    prefix = _unguessed()
    db, began = _open(prefix), time.monotonic()
    try:
        tables = {name for (name,) in db.execute("SELECT name FROM main.sqlite_master")} | {"sqlite_master"}
        db.set_authorizer(_authorizer(prefix, tables))
        db.set_progress_handler(lambda: int(time.monotonic() - began > seconds), _STEPS)
        cursor = db.execute(text)
        if cursor.description is None:
            raise StatementError("Only statements that read give something: SELECT … FROM a view.")
        rows = cursor.fetchmany(ROWS + 1)
    except sqlite3.Error as error:
        said = str(error)
        if "interrupted" in said:
            raise StatementError(f"It took longer than {seconds:g} s and was stopped. Narrow it.") from None
        if "not authorized" in said or "prohibited" in said:
            raise StatementError(f"Only the views listed may be read, and nothing may be changed ({said}).") from None
        raise StatementError(f"SQLite does not understand it: {said}.") from None
    finally:
        db.close()
    names = [d[0] for d in cursor.description]
    return Table(names, rows[:ROWS], len(rows) > ROWS, time.monotonic() - began)
