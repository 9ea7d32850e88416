"""Noting how Tarn is: slow answers as they happen, the disk once a day."""

import logging
import shutil
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import OperationalError, transaction

from tarn.apps.upkeep.models import DiskMark, SlowAnswer

log = logging.getLogger("tarn.slow")
KEPT = 300
"""Slow answers that are kept, the latest."""
LEAST_DAYS, MOST_DAYS = 3, 60
"""Days of marks from which, and over which, the day a disk fills is foretold."""


def note_slow(door: str, asked: str, seconds: float, who: str) -> None:
    """Note an answer that took long; where the database is just being written to the log alone has it."""
    log.warning("%s took %.1f s: %s", door, seconds, asked)
    try:
        with transaction.atomic():
            told = {"door": door, "asked": asked[:500], "seconds": seconds, "who": who[:150]}
            made = SlowAnswer.objects.create(at=time.time(), **told)
            SlowAnswer.objects.filter(pk__lte=made.pk - KEPT).delete()
    except OperationalError as fault:
        log.warning("it was not noted: %s", fault)


def weigh_folder(path: Path) -> int:
    """Return how many bytes the files below a folder have; one that goes meanwhile counts nothing."""
    total = 0
    for file in path.rglob("*"):
        try:
            total += file.stat().st_size if file.is_file() else 0
        except FileNotFoundError:
            continue
    return total


def mark_disk(now: float) -> DiskMark:
    """Note how full the disk is today."""
    home = Path(settings.HOME)
    usage = shutil.disk_usage(home)
    day = datetime.fromtimestamp(now, UTC).date().isoformat()
    told = {"used": usage.used, "whole": usage.total, "data": weigh_folder(home)}
    mark, _ = DiskMark.objects.update_or_create(day=day, defaults=told)
    return mark


def full_on(marks: list[DiskMark]) -> str | None:
    """Return the day the disk is full at the pace of its marks (by least squares); None where it does not fill within
    ten years, or too little is known to say."""
    some = marks[-MOST_DAYS:]
    if len(some) < LEAST_DAYS:
        return None
    first = datetime.fromisoformat(some[0].day)
    days = [(datetime.fromisoformat(m.day) - first).days for m in some]
    middle, level = sum(days) / len(days), sum(m.used for m in some) / len(some)
    spread = sum((d - middle) ** 2 for d in days)
    pace = sum((d - middle) * (m.used - level) for d, m in zip(days, some, strict=True)) / spread if spread else 0.0
    if pace <= 0:
        return None
    left = (some[-1].whole - some[-1].used) / pace
    return (first + timedelta(days=days[-1] + left)).date().isoformat() if left < 3650 else None
