"""Promises: by when a finding is to be ended, by grade; in days of the calendar or in working days."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from tarn.core.exposure.grade import GRADES, PROMISED, Grade

DAY = 86_400


@dataclass(frozen=True)
class Promises:
    """Days within which each grade is to be ended, None for no promise; `working`: Monday to Friday alone count, and
    none of `holidays`. A promised working day lasts to its end."""

    days: dict[Grade, int | None] = field(default_factory=lambda: dict(PROMISED))
    working: bool = False
    holidays: tuple[date, ...] = ()

    def of_grades(self, grade: Any) -> Any:
        """Return the days promised by finding, of grades as places in GRADES; -1 where none are."""
        table = [self.days[g] for g in GRADES]
        return np.array([-1 if d is None else d for d in table], dtype=np.int64)[grade]

    def ends(self, since: Any, days: Any, zone: ZoneInfo) -> Any:
        """Return when promises are over: 0 where no days (-1) are promised. `since`: seconds since 1970."""
        since, days = since.astype(np.int64), days.astype(np.int64)
        if not self.working:
            return np.where(days >= 0, since + days * DAY, 0)
        out = np.zeros(len(since), dtype=np.int64)
        for moment, many in np.unique(np.stack((since, days), axis=1)[days >= 0], axis=0).tolist():
            out[(since == moment) & (days == many)] = self._working(moment, many, zone)
        return out

    def _working(self, moment: int, days: int, zone: ZoneInfo) -> int:
        begins = datetime.fromtimestamp(moment, zone).date()
        last = np.busday_offset(np.datetime64(begins), days, roll="backward", holidays=self._holidays())
        following = date.fromisoformat(str(last)) + timedelta(days=1)
        return int(datetime(following.year, following.month, following.day, tzinfo=zone).timestamp())

    def _holidays(self) -> Sequence[Any]:
        return [np.datetime64(d) for d in self.holidays]
