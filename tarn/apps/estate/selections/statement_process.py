"""A statement carried out in a process of its own, bounded in memory, time and output. The standard library alone.

What it is to do comes as JSON on standard input, what came of it goes as JSON to standard output: this file is run, not
imported, by whoever wants a statement carried out.
"""

import json
import resource
import sqlite3
import sys
import time
from collections.abc import Callable
from typing import Any

STEPS = 20_000
"""Steps of SQLite's machine between two looks at the clock."""
LONGEST = 8 << 20
"""Bytes of one value, and of a statement."""
MOST = 48 << 20
"""Characters given in all."""


class RefusedError(Exception):
    """A statement that is not carried out, in words."""


def open_views(path: str, prefix: str, views: dict[str, str]) -> sqlite3.Connection:
    """Open a database read-only with views in it. Each reads its tables through another whose name begins with
    `prefix`: a name nobody can guess, so that no part of a statement can pass for it."""
    db = sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5, isolation_level=None)
    db.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, LONGEST)
    for name, statement in views.items():
        db.execute(f'CREATE TEMP VIEW "{prefix}_{name}" AS {statement}')
        db.execute(f'CREATE TEMP VIEW "{name}" AS SELECT * FROM "{prefix}_{name}"')
    return db


def authorizer(prefix: str, tables: set[str]) -> Callable[..., int]:
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


def carry_out(told: dict[str, Any]) -> dict[str, Any]:
    """Carry a statement out. Raises RefusedError: no SELECT, a table that is no view, an error in it, too long."""
    seconds, most = float(told["seconds"]), int(told["rows"])
    db, began = open_views(told["path"], told["prefix"], told["views"]), time.monotonic()
    try:
        tables = {name for (name,) in db.execute("SELECT name FROM main.sqlite_master")} | {"sqlite_master"}
        db.set_authorizer(authorizer(told["prefix"], tables))
        db.set_progress_handler(lambda: int(time.monotonic() - began > seconds), STEPS)
        cursor = db.execute(told["statement"])
        if cursor.description is None:
            raise RefusedError("Only statements that read give something: SELECT … FROM a view.")
        rows: list[list[Any]] = []
        given, cut = 0, False
        for row in cursor:
            values = [f"x'{v.hex()}'" if isinstance(v, bytes) else v for v in row]
            given += sum(len(v) if isinstance(v, str) else 12 for v in values)
            if len(rows) >= most or given > MOST:
                cut = True
                break
            rows.append(values)
    except sqlite3.Error as error:
        said = str(error)
        if "interrupted" in said:
            raise RefusedError(f"It took longer than {seconds:g} s and was stopped. Narrow it.") from None
        if "not authorized" in said or "prohibited" in said:
            raise RefusedError(f"Only the views listed may be read, and nothing may be changed ({said}).") from None
        if "too big" in said:
            raise RefusedError(f"A value of it is larger than {LONGEST >> 20} MB.") from None
        raise RefusedError(f"SQLite does not understand it: {said}.") from None
    names = [d[0] for d in cursor.description]
    return {"columns": names, "rows": rows, "cut": cut, "seconds": time.monotonic() - began}


def main() -> None:
    """Do what standard input says."""
    told = json.load(sys.stdin)
    resource.setrlimit(resource.RLIMIT_AS, (told["memory"], told["memory"]))
    cpu = int(told["seconds"]) + 2
    resource.setrlimit(resource.RLIMIT_CPU, (cpu, cpu))
    try:
        json.dump(carry_out(told), sys.stdout)
    except RefusedError as error:
        json.dump({"refused": str(error)}, sys.stdout)
    except MemoryError:
        sys.exit(OUT_OF_MEMORY)


OUT_OF_MEMORY = 3

if __name__ == "__main__":
    main()
