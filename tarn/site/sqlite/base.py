"""The database as Django sees it: SQLite, where whoever writes waits for a turn first (`people/turns.py`)."""

import contextlib
import sqlite3
from collections.abc import Iterator
from typing import Any

from django.db.backends.sqlite3 import base
from django.db.utils import OperationalError

from tarn.apps.people.turns import Turns

_CHANGES = ("INSERT", "UPDATE", "DELETE", "REPLACE")


class _Cursor(base.SQLiteCursorWrapper):
    """A cursor whose single changes, outside a transaction, wait for a turn too."""

    def __init__(self, connection: sqlite3.Connection, wrapper: "DatabaseWrapper") -> None:
        super().__init__(connection)
        self._wrapper = wrapper

    def execute(self, query: str, params: Any = None) -> Any:
        """Carry a statement out."""
        if self.connection.in_transaction or not query.lstrip()[:7].upper().startswith(_CHANGES):
            return super().execute(query, params)
        with self._wrapper.turn():
            return super().execute(query, params)

    def executemany(self, query: str, param_list: Any) -> Any:
        """Carry a statement out for each of the parameters."""
        if self.connection.in_transaction:
            return super().executemany(query, param_list)
        with self._wrapper.turn():
            return super().executemany(query, param_list)


class DatabaseWrapper(base.DatabaseWrapper):
    """A connection that takes a turn before it begins to write, and gives it when that is done."""

    turns: Turns | None = None

    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        """Return a connection to the database's file, whose turns are beside it."""
        self.turns = Turns(str(self.settings_dict["NAME"]))
        return super().get_new_connection(conn_params)

    def create_cursor(self, name: str | None = None) -> Any:
        """Return a cursor."""
        return self.connection.cursor(factory=lambda connection: _Cursor(connection, self))

    def take_turn(self) -> None:
        """Wait for a turn. Raises OperationalError where it does not come in time."""
        if self.turns is not None and not self.turns.take(self.settings_dict["OPTIONS"].get("timeout", 20)):
            raise OperationalError("database is locked: another writer does not end")

    def give_turn(self) -> None:
        """Give the turn to the next, where it is held."""
        if self.turns is not None:
            self.turns.give()

    @contextlib.contextmanager
    def turn(self) -> Iterator[None]:
        """Hold a turn for a while. Raises OperationalError where it does not come in time."""
        self.take_turn()
        try:
            yield
        finally:
            self.give_turn()

    def _start_transaction_under_autocommit(self) -> None:
        self.take_turn()
        try:
            super()._start_transaction_under_autocommit()  # type: ignore[misc]
        except BaseException:
            self.give_turn()
            raise

    def _commit(self) -> None:
        super()._commit()  # type: ignore[misc]
        self.give_turn()  # before what waits for the commit is done, which may take its time

    def _rollback(self) -> None:
        try:
            super()._rollback()  # type: ignore[misc]
        finally:
            self.give_turn()

    def _close(self) -> None:
        try:
            super()._close()  # type: ignore[misc]
        finally:
            if self.turns is not None:
                self.turns.close()
                self.turns = None
