"""Statements of one's own over documented views: read only, bounded in time and rows.

A process of its own opens the database read-only; SQLite's authorizer lets it read the views and nothing else.
"""

import json
import logging
import secrets
import signal
import subprocess
import sys
from dataclasses import dataclass
from typing import Any

from django.db import connection

from tarn.apps.estate.models import ITEM_MODELS
from tarn.apps.estate.selections import statement_process
from tarn.apps.estate.selections.results import ViewOut
from tarn.apps.estate.selections.statement_process import open_views
from tarn.core.items import SECTIONS

SECONDS, ROWS, MEMORY = 10, 10_000, 768 << 20
"""The longest a statement may take, the most rows it may give, and the memory its process may use (bytes)."""
log = logging.getLogger(__name__)

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
        "SELECT a.number AS asset, p.name AS product, p.publisher, l.name AS listed_as, r.version, l.role, "
        f"{_WHEN.format('i.valid_from')} AS since{{0}} FROM estate_installspan i "
        "JOIN estate_asset a ON a.id = i.asset_id "
        "JOIN estate_release r ON r.id = i.release_id JOIN estate_listing l ON l.id = i.listing_id "
        "LEFT JOIN estate_product p ON p.id = l.product_id{1}"
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
    for section, model in ITEM_MODELS.items():
        if SECTIONS[section].secrets:
            continue  # what is shown to few is no view
        listed = ", ".join(f'i."{c}"' for c in SECTIONS[section].attributes)
        out[section] = (
            " ".join(str(SECTIONS[section].item.__doc__ or "").split("\n\n")[0].split()),
            f"SELECT a.number AS asset, {listed}, {_WHEN.format('i.valid_from')} AS since "
            f"FROM {model._meta.db_table} i JOIN estate_asset a ON a.id = i.asset_id WHERE i.valid_to IS NULL",
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


def described() -> list[ViewOut]:
    """Return the views with their columns."""
    views = {name: view for name, (_, view) in _views().items()}
    db = open_views(str(connection.settings_dict["NAME"]), _unguessed(), views)
    try:
        return [
            {"name": name, "meaning": meaning, "columns": [r[1] for r in db.execute(f'PRAGMA table_info("{name}")')]}
            for name, (meaning, _) in _views().items()
        ]
    finally:
        db.close()


def _unguessed() -> str:
    return f"v{secrets.token_hex(16)}"


def carry_out(statement: str, seconds: float = SECONDS, memory: int = MEMORY) -> Table:
    """Carry a statement out, in a process of its own that is ended when it takes too long or too much memory.

    Raises StatementError: no SELECT, a table that is no view, an error in it, too long, too much.
    """
    text = statement.strip().rstrip(";")
    if not text:
        raise StatementError("Write a statement that begins with SELECT.")
    told = {
        "path": str(connection.settings_dict["NAME"]),
        "prefix": _unguessed(),
        "views": {name: view for name, (_, view) in _views().items()},
        "statement": text,
        "seconds": seconds,
        "rows": ROWS,
        "memory": memory,
    }
    try:
        done = subprocess.run(
            [sys.executable, "-I", statement_process.__file__],
            input=json.dumps(told),
            capture_output=True,
            text=True,
            timeout=seconds + 5,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise StatementError(f"It took longer than {seconds:g} s and was stopped. Narrow it.") from None
    if done.returncode == -signal.SIGXCPU:
        raise StatementError(f"It took longer than {seconds:g} s and was stopped. Narrow it.")
    if done.returncode != 0:
        log.warning("a statement ended with %d: %s", done.returncode, done.stderr[-400:])
        raise StatementError(f"It needed more than {memory >> 20} MB of memory and was stopped. Narrow it.")
    found = json.loads(done.stdout)
    if "refused" in found:
        raise StatementError(found["refused"])
    return Table(found["columns"], [tuple(r) for r in found["rows"]], found["cut"], found["seconds"])
