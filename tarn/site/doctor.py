"""`tarn doctor`: how an installation stands, and what a process of it would remember, made and weighed here."""

import sqlite3
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection

from tarn.apps.estate.store.database import generation, raw_connection
from tarn.apps.estate.store.remembered import everything
from tarn.apps.people.room import room
from tarn.site.ready import migrations_due
from tarn.site.running import is_running


@dataclass(frozen=True)
class Finding:
    """One thing looked at: whether it is in order, and what was found, in words."""

    thing: str
    sound: bool
    says: str


def findings() -> Iterator[Finding]:
    """Look at the data: its folder, room, database, migrations, keys."""
    home = settings.HOME
    wide = home.stat().st_mode & 0o077
    yield Finding("data", not wide, f"{home}" + (", which others may look into: chmod 700" if wide else ""))
    free = room()
    yield Finding("room", free.enough, f"{free.free / 1e9:,.1f} GB free, {free.share} % of the disk")
    db = raw_connection()
    (sound,) = db.execute("PRAGMA quick_check(1)").fetchone()
    size = Path(connection.settings_dict["NAME"]).stat().st_size
    words = f"{size / 1e6:,.0f} MB, SQLite {sqlite3.sqlite_version}, generation {generation(db)}"
    yield Finding("database", sound == "ok", words if sound == "ok" else f"{words}: {sound}")
    due = migrations_due()
    yield Finding("tables", not due, "of this release" if not due else f"{due} migrations are due: start Tarn once")
    open_seals = _broken_seals()
    yield Finding("secrets", not open_seals, "all open" if not open_seals else f"do not open: {', '.join(open_seals)}")
    yield Finding("running", True, "yes" if is_running() else "no")


def _broken_seals() -> list[str]:
    from tarn.apps.people.sealing import SealBroken, unseal
    from tarn.site.keys import sealed_models

    broken = []
    for model in sealed_models():
        for held in model.objects.exclude(sealed=None).exclude(sealed=b""):
            try:
                unseal(bytes(held.sealed), str(held))
            except SealBroken:
                broken.append(f"{model._meta.verbose_name} “{held}”")
    return broken[:20]


@dataclass(frozen=True)
class Weighed:
    """What is remembered under one name: on what it rests, how much there is, and how long it took to make."""

    name: str
    rests_on: str
    held: str
    megabytes: float
    seconds: float | None


def remembered() -> list[Weighed]:
    """Make what a web process remembers of this data, as of now, and weigh it."""
    took: dict[str, float] = {}
    for name, make in _of_now().items():
        began = time.perf_counter()
        make()
        took[name] = time.perf_counter() - began
    return [
        Weighed(s.name, ", ".join(s.rests_on), f"{s.held} of {s.most}", s.bytes / 1e6, took.get(s.name))
        for s in everything()
    ]


def _of_now() -> dict[str, Callable[[], Any]]:
    from tarn.apps.estate.register.crosscheck import witnesses
    from tarn.apps.estate.register.strata import columns
    from tarn.apps.estate.software.catalogue import catalogue
    from tarn.apps.estate.software.installs import installs
    from tarn.apps.licences.reads.reckoning import reckoned

    return {
        "catalogue": catalogue,
        "installations": lambda: installs(None),
        "columns of the register": lambda: columns(None),
        "witnesses": lambda: witnesses(None),
        "positions": lambda: reckoned(None),
    }
