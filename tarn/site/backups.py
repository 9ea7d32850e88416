"""Backups by the clock: written, checked by unpacking them whole, thinned to days, weeks and months."""

import logging
import time
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings

from tarn.apps.upkeep.models import Backup
from tarn.core.schedule import next_after
from tarn.site.keeping import KeepingError, check_backup, write_backup

log = logging.getLogger("tarn.backups")
DAYS, WEEKS, MONTHS = 7, 5, 12
"""How many days, weeks and months have a backup kept: the last of each."""


def back_up(folder: Path, now: float) -> Backup:
    """Write a backup, check it, and take away those that are no longer kept; what fails is noted and told on Today."""
    began = time.monotonic()
    stamp = datetime.fromtimestamp(now, UTC).strftime("%Y-%m-%dT%H%M%SZ")
    made = Backup(at=int(now), file=str(folder / f"tarn-{stamp}.tar.gz"))
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_backup(Path(made.file))
        made.bytes = Path(made.file).stat().st_size
        check_backup(Path(made.file))
        made.checked_at = int(time.time())
    except (KeepingError, OSError) as fault:
        made.trouble = str(fault)[:500]
        log.error("the backup of %s failed: %s", stamp, fault)
    made.seconds = time.monotonic() - began
    made.save()
    if not made.trouble:
        thin(folder)
    return made


def kept_of(times: list[float]) -> set[float]:
    """Return which of some moments a backup is kept of: the last of each of the latest days, weeks and months."""
    kept: set[float] = set()
    for form, most in (("%Y-%m-%d", DAYS), ("%G-%V", WEEKS), ("%Y-%m", MONTHS)):
        last: dict[str, float] = {}
        for at in sorted(times):
            last[datetime.fromtimestamp(at, UTC).strftime(form)] = at
        kept.update(sorted(last.values())[-most:])
    return kept


def thin(folder: Path) -> list[Path]:
    """Take away the backups that need not be kept; only files this wrote are looked at. Returns those."""
    dated = {}
    for path in folder.glob("tarn-*.tar.gz"):
        try:
            dated[path] = datetime.strptime(path.name, "tarn-%Y-%m-%dT%H%M%SZ.tar.gz").replace(tzinfo=UTC).timestamp()
        except ValueError:
            continue
    kept = kept_of(list(dated.values()))
    gone = [path for path, at in dated.items() if at not in kept]
    for path in gone:
        path.unlink(missing_ok=True)
        Backup.objects.filter(file=str(path)).delete()
    return gone


def due(now: float) -> bool:
    """Whether a backup is to be written by now."""
    if not settings.TARN_BACKUPS:
        return False
    last = Backup.objects.order_by("-at").values_list("at", flat=True).first()
    if last is None:
        return True
    then = next_after(settings.TARN_BACKUP_RULE, last, settings.TIME_ZONE)
    return then is not None and then <= now
