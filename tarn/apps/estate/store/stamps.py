"""How the data stands, as named grounds: what is remembered says which of them it rests on."""

import sqlite3
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import partial
from typing import NamedTuple

from django.db import connection

from tarn.apps.estate.store.database import generation, raw_connection


@dataclass(frozen=True, slots=True)
class Ground:
    """One thing that changes by itself: its name, and what reads a value that differs whenever it has changed."""

    name: str
    read: Callable[[], Hashable] = field(repr=False)


class Newest(NamedTuple):
    """How far the evidence has come: the last sighting and the last span of an asset."""

    sighting: int
    span: int


class Stamp(NamedTuple):
    """How the data stood: the database, its generation, and the value of each ground by name.

    Within one generation whatever a device has changes with sightings of its own; a rebuild, and whatever moves
    sightings from one device to another or renames what is listed, begins a new one.
    """

    database: str
    generation: int
    grounds: tuple[tuple[str, Hashable], ...]

    def of(self, ground: Ground) -> Hashable:
        """Return the value of a ground. Raises KeyError where the stamp does not rest on it."""
        return dict(self.grounds)[ground.name]

    def beside(self, ground: Ground) -> "Stamp":
        """Return the stamp without a ground."""
        return self._replace(grounds=tuple(g for g in self.grounds if g[0] != ground.name))


def count_up(db: sqlite3.Connection, name: str) -> None:
    """Count that what a ground of this name stands for is another than before."""
    db.execute(
        "INSERT INTO estate_counter (name, number) VALUES (?, 1) ON CONFLICT (name) DO UPDATE SET number = number + 1",
        [name],
    )


def counted(name: str, called: str = "") -> Ground:
    """Return the ground of what is counted up under a name (`count_up`); `called` where it is called otherwise."""
    return Ground(called or name, partial(_number, name))


def _number(name: str) -> Hashable:
    row = raw_connection().execute("SELECT number FROM estate_counter WHERE name = ?", [name]).fetchone()
    return row[0] if row else 0


def _newest() -> Newest:
    row = raw_connection().execute(
        "SELECT (SELECT coalesce(max(id), 0) FROM estate_sighting), (SELECT coalesce(max(id), 0) FROM estate_assetspan)"
    )
    return Newest(*row.fetchone())


def _catalogue() -> Hashable:
    row = raw_connection().execute(
        "SELECT (SELECT coalesce(max(id), 0) FROM estate_release), "
        "(SELECT number FROM estate_counter WHERE name = 'catalogue')"
    )
    return tuple(row.fetchone())


def _definitions() -> Hashable:
    row = raw_connection().execute(
        "SELECT (SELECT group_concat(id || ':' || version || name) FROM estate_keptset), "
        '(SELECT group_concat(name || "values") FROM estate_phrase), '
        "(SELECT group_concat(field || name || '<' || under) FROM estate_branch), "
        "(SELECT group_concat(id || ':' || version) FROM estate_ownfield)"
    )
    return tuple(row.fetchone())


EVIDENCE = Ground("evidence", _newest)
"""All of it comes as sightings, or by a rebuild."""
CATALOGUE = Ground("catalogue", _catalogue)
"""Listed names come with releases; what evidence tells of them later is counted, and corrections begin a generation."""
LISTED = counted("catalogue", "what is told of listed names")
"""The same without new releases: for what is made of releases one by one, where a new one changes nothing of others."""
DEFINITIONS = Ground("definitions", _definitions)
"""Sets, phrases, trees and fields of the company's own."""


def stamp(*grounds: Ground) -> Stamp:
    """Return how the data stands now, by these grounds."""
    db = raw_connection()
    return Stamp(str(connection.settings_dict["NAME"]), generation(db), tuple((g.name, g.read()) for g in grounds))
