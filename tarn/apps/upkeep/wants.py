"""What wants a hand of Tarn's own: backups that fail or are late, a disk that fills, a worker that is away."""

import time

from django.conf import settings

from tarn.apps.people.wanting import Want, Wanted, several
from tarn.apps.upkeep.beat import last_beat, worker_is_there
from tarn.apps.upkeep.models import Backup, DiskMark
from tarn.apps.upkeep.noting import full_on

DAY = 86_400
LATE = 2 * DAY
"""Seconds after which a last good backup is old."""
SOON = 60
"""Days within which a disk that fills wants a hand."""


def _backups() -> Wanted:
    if not settings.TARN_BACKUPS:
        return Wanted((), "", "/how")
    good = Backup.last_good()
    last = Backup.objects.order_by("-at").first()
    late = good is None or time.time() - good.at > LATE
    text = "backup is late: there is none of the last two days that could be restored"
    return Wanted(("backup",) if late and last else (), text, "/how", {}, last.trouble if last else "")


def _disk() -> Wanted:
    day = full_on(list(DiskMark.objects.order_by("day")))
    soon = day is not None and (time.mktime(time.strptime(day, "%Y-%m-%d")) - time.time()) / DAY < SOON
    beside = f"on {day}" if day else ""
    return Wanted(("disk",) if soon else (), "disk of Tarn’s own will be full soon", "/how", {}, beside)


def _worker() -> Wanted:
    away = last_beat() is not None and not worker_is_there()
    return Wanted(("worker",) if away else (), several(1, "worker is away: nothing is swept or sent", ""), "/how")


WANTS = (
    Want("worker-away", "bad", "upkeep", "See why", _worker, rank=1),
    Want("backups-late", "bad", "upkeep", "See why", _backups, rank=2),
    Want("disk-fills", "warn", "upkeep", "See why", _disk, rank=3),
)
