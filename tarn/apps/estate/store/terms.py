"""The vocabularies of the spans in memory: few words, asked for with every question."""

import sqlite3
import threading

from django.db import connection

from tarn.apps.estate.store.database import generation
from tarn.apps.estate.store.remembered import forgets_too


class Terms:
    """Words by number and by field. Words are only ever added, until a rebuild exchanges the tables."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self.forget()

    def forget(self) -> None:
        """Drop what is remembered."""
        self._key: tuple[str, int] = ("", -1)
        self._last = 0
        self.words: dict[int, str] = {}
        self._fields: dict[str, list[tuple[int, str, str]]] = {}

    def refresh(self, db: sqlite3.Connection) -> "Terms":
        """Take in words added since; begin anew where the tables were exchanged."""
        with self._lock:
            key = (str(connection.settings_dict["NAME"]), generation(db))
            if key != self._key:
                self.forget()
                self._key = key
            for number, field, text, folded in db.execute(
                "SELECT id, field, text, folded FROM estate_term WHERE id > ? ORDER BY id", (self._last,)
            ):
                self._last = number
                self.words[number] = text
                self._fields.setdefault(field, []).append((number, text, folded))
        return self

    def of(self, field: str) -> list[tuple[int, str, str]]:
        """Return a field's words: number, text, folded text."""
        return self._fields.get(field, [])


terms = Terms()
forgets_too(terms.forget)
