"""How Tarn is: its queue, what runs, what it asks elsewhere, what it remembers, what was slow, its disk and backups."""

import json
import logging
import time
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, JsonResponse
from huey.contrib.djhuey import HUEY
from ninja import Router
from typing_extensions import TypedDict

from tarn.apps.discovery.models import Run, Source, Sync
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import everything
from tarn.apps.estate.store.shelf import shelves
from tarn.apps.exposure.models import Feed
from tarn.apps.people.room import room
from tarn.apps.people.speaking import Words
from tarn.apps.upkeep.beat import last_beat, worker_is_there
from tarn.apps.upkeep.models import Backup, DiskMark, SlowAnswer
from tarn.apps.upkeep.noting import full_on
from tarn.site.ready import migrations_due

log = logging.getLogger("tarn.how")
router = Router(tags=["upkeep"])
MOST_GONE_THROUGH = 3 << 30
COPY_LATE = 60
"""Seconds a continuous copy may be behind."""
UNDER_WAY = ("waiting", "running", "paused")


class HowPart(TypedDict):
    """One thing that is looked at: whether it is in order, and what was found."""

    name: Words
    sound: bool
    says: Words


class RememberedOut(TypedDict):
    """What a process remembers under a name: `held` values of `most`, bytes in all; `where`: in memory, or on disk."""

    name: Words
    held: int
    most: int
    bytes: int
    where: str


class SlowOut(TypedDict):
    """An answer that took long."""

    at: str
    door: str
    asked: str
    seconds: float
    who: str


class BackupOut(TypedDict):
    """A backup the clock made, in bytes and seconds; `checked_at`: when it was found to be whole."""

    at: str
    file: str
    bytes: int
    seconds: float
    checked_at: str | None
    trouble: Words


class DiskOut(TypedDict):
    """The disk with the data, in bytes; `full_on`: the day it is full at its pace, where one can be told;
    `marks`: what was used of it, day by day."""

    used: int
    whole: int
    data: int
    full_on: str | None
    marks: list[int]


class TableOut(TypedDict):
    """What a part of the data takes on disk, in bytes, and in rows where they can be told at once."""

    name: str
    bytes: int


class HowOut(TypedDict):
    """How Tarn is, as whoever looks after it wants to know."""

    parts: list[HowPart]
    remembered: list[RememberedOut]
    slow: list[SlowOut]
    backups: list[BackupOut]
    disk: DiskOut
    tables: list[TableOut]


@router.get("/healthz", auth=None)
def healthz(request: HttpRequest) -> dict[str, str]:
    """Say that this process answers."""
    return {"status": "ok"}


@router.get("/readyz", auth=None, response={200: dict[str, str], 503: dict[str, str]})
def readyz(request: HttpRequest) -> Any:
    """Say whether this process can serve: its data can be read and is of this release; 503 with what is wrong."""
    wrong = _not_ready()
    return JsonResponse({"status": wrong or "ok"}, status=503 if wrong else 200)


@router.get("/metrics", response={200: None})
def metrics(request: HttpRequest) -> HttpResponse:
    """Return what is measured, as Prometheus reads it."""
    from tarn.site.measuring import exposition

    return HttpResponse(exposition(figures()), content_type="text/plain; version=0.0.4; charset=utf-8")


@router.get("/how", response=HowOut)
def how(request: HttpRequest) -> HowOut:
    """Return how Tarn is."""
    marks = list(DiskMark.objects.order_by("day"))
    used = marks[-1] if marks else None
    return {
        "parts": list(_parts()),
        "remembered": _remembered(),
        "slow": [
            {"at": iso(int(s.at)), "door": s.door, "asked": s.asked, "seconds": round(s.seconds, 2), "who": s.who}
            for s in SlowAnswer.objects.order_by("-pk")[:50]
        ],
        "backups": [
            {
                "at": iso(b.at),
                "file": b.file,
                "bytes": b.bytes,
                "seconds": round(b.seconds, 1),
                "checked_at": iso(b.checked_at),
                "trouble": b.trouble,
            }
            for b in Backup.objects.order_by("-at")[:40]
        ],
        "disk": {
            "used": used.used if used else 0,
            "whole": used.whole if used else 0,
            "data": used.data if used else 0,
            "full_on": full_on(marks),
            "marks": [m.used for m in marks[-60:]],
        },
        "tables": _tables(),
    }


def _remembered() -> list[RememberedOut]:
    memory: list[RememberedOut] = [
        {"name": s.name, "held": s.held, "most": s.most, "bytes": s.bytes, "where": "memory"} for s in everything()
    ]
    disk: list[RememberedOut] = [
        {"name": name, "held": 1, "most": 1, "bytes": size, "where": "disk"} for name, size in shelves()
    ]
    return [*memory, *disk]


def _not_ready() -> str:
    try:
        due = migrations_due()
    except Exception:  # whatever is wrong with the data, whoever balances the load is told that it is
        log.exception("the data cannot be read")
        return "the data cannot be read"
    return f"{due} migrations are due" if due else ""


def _parts() -> Iterator[HowPart]:
    now = time.time()
    seen = last_beat()
    away = "away: nothing is swept or sent" if seen else "never begun on this data"
    yield {"name": "Worker", "sound": worker_is_there(now), "says": "at work" if worker_is_there(now) else away}
    waiting, later = HUEY.pending_count(), HUEY.scheduled_count()
    yield {"name": "Queue", "sound": waiting < 200, "says": f"{waiting} jobs wait, {later} are for later"}
    running = Run.objects.filter(state__in=UNDER_WAY).count()
    yield {"name": "Runs of sweeps", "sound": True, "says": f"{running} under way" if running else "none under way"}
    failed = [s.name for s in Source.objects.order_by("name") if _failed_last(Sync.objects.filter(source=s))]
    yield {
        "name": "Other systems",
        "sound": not failed,
        "says": f"not read last time: {', '.join(failed)}" if failed else "all read last time",
    }
    amiss = [f.name for f in Feed.objects.order_by("name") if _failed_last(f.runs.all())]
    yield {
        "name": "Feeds",
        "sound": not amiss,
        "says": f"not read last time: {', '.join(amiss)}" if amiss else "all read last time",
    }
    free = room()
    yield {"name": "Room", "sound": free.enough, "says": f"{free.free / 1e9:,.1f} GB free, {free.share} % of the disk"}
    good = Backup.last_good()
    if not settings.TARN_BACKUPS:
        yield {"name": "Backups", "sound": False, "says": "none are made by the clock: TARN_BACKUPS names no folder"}
    elif good is None:
        yield {"name": "Backups", "sound": False, "says": "none yet that could be restored"}
    else:
        hours = int((now - good.at) / 3600)
        yield {"name": "Backups", "sound": hours < 48, "says": f"the last good one is {hours} hours old"}
    copied = _copy(now)
    if copied is not None:
        yield copied


def _copy(now: float) -> HowPart | None:
    """How the continuous copy stands, where one is kept or was."""
    file = Path(settings.HOME) / "copy.beat"
    if not file.exists():
        return None
    told = json.loads(file.read_text())
    silent, behind = now - told["at"], told["behind"]
    if silent > COPY_LATE:
        return {"name": "Continuous copy", "sound": False, "says": f"not kept for {silent / 60:.0f} minutes"}
    if behind is None:
        return {"name": "Continuous copy", "sound": False, "says": "nothing has come to it yet"}
    return {"name": "Continuous copy", "sound": behind < COPY_LATE, "says": f"{behind:.0f} s behind"}


def _failed_last(runs: QuerySet[Any]) -> bool:
    """Whether the last of some runs that has ended failed."""
    last = runs.exclude(state__in=("waiting", "running")).order_by("-pk").first()
    return last is not None and last.state == "failed"


def _tables() -> list[TableOut]:
    """What takes the most of the database, told by its own pages; nothing where it is too large to be gone through
    while somebody waits, or this SQLite does not tell.
    """
    file = Path(connection.settings_dict["NAME"]).stat()
    return [] if file.st_size > MOST_GONE_THROUGH else _pages_of(file.st_size, file.st_mtime_ns)


@lru_cache(maxsize=1)
def _pages_of(size: int, written: int) -> list[TableOut]:
    """What takes the most, gone through once for a database of this size and time: the page asks every few seconds."""
    try:
        rows = raw_connection().execute(
            "SELECT name, sum(pgsize) FROM dbstat WHERE aggregate = TRUE GROUP BY name ORDER BY 2 DESC LIMIT 15"
        )
        return [{"name": name, "bytes": size} for name, size in rows]
    except Exception as fault:
        if "dbstat" not in str(fault):
            raise
        return []


def figures() -> Iterator[tuple[str, str, float]]:
    """Yield what Prometheus is told of how things stand: name, what it is, value."""
    now = time.time()
    free = room()
    db = raw_connection()
    (devices,) = db.execute("SELECT count(*) FROM estate_assetspan WHERE valid_to IS NULL").fetchone()
    (sightings,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_sighting").fetchone()
    age = -1.0
    good = Backup.last_good()
    if good:
        age = now - good.at
    yield "devices", "Devices that are known", devices
    yield "sightings", "Sightings taken in so far", sightings
    yield "jobs_waiting", "Background jobs that wait", HUEY.pending_count()
    yield "runs_under_way", "Runs of sweeps under way", Run.objects.filter(state__in=UNDER_WAY).count()
    yield "worker_up", "1 while the worker gives signs of life", float(worker_is_there(now))
    yield "disk_free_bytes", "Bytes free on the disk with the data", free.free
    yield "database_bytes", "Bytes of the database", Path(connection.settings_dict["NAME"]).stat().st_size
    yield "states_bytes", "Bytes of states on disk", sum(size for _, size in shelves())
    yield "backup_age_seconds", "Age of the last backup found whole; -1 where there is none", age
