"""Until when systems are supported: by name, and the longest release a version begins with."""

from collections.abc import Callable
from datetime import date

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.lifecycle.models import SupportEnd

Telling = Callable[[], dict[tuple[str, str], date]]
"""Gives the last day of support by name, letter case aside, and version of what is here."""

_told_elsewhere: list[Telling] = []


def support_also_told_by(telling: Telling) -> None:
    """Say what else knows ends of support, beside the company's own list, which goes first."""
    _told_elsewhere[:] = [telling]


class SupportEnds:
    """When support for systems ends, by name and release; each found once."""

    def __init__(self, rows: list[SupportEnd], told: dict[tuple[str, str], date] | None = None) -> None:
        self._rows, self._told = rows, told or {}
        self._known: dict[tuple[str, str], SupportEnd | None] = {}

    def __bool__(self) -> bool:
        return bool(self._rows or self._told)

    def of(self, name: str, version: str) -> SupportEnd | None:
        """Return the end that holds for a system: that of the longest release its version begins with."""
        key = (name, version)
        if key not in self._known:
            mine = [r for r in self._rows if r.name.casefold() == name.casefold() and begins_with(version, r.release)]
            self._known[key] = max(mine, key=lambda r: len(r.release), default=None)
        return self._known[key]

    def day(self, name: str, version: str) -> date | None:
        """Return the last day a system is supported; None where none is known."""
        support_end = self.of(name, version)
        if support_end is not None and support_end.day is not None:
            return support_end.day
        return self._told.get((name.casefold(), version))


class ReleaseDays:
    """The days releases of products came out; each found once."""

    def __init__(self, rows: list[SupportEnd]) -> None:
        self._ends = SupportEnds(rows)

    def of(self, name: str, version: str) -> date | None:
        """Return the day a release of a product came out, by the longest release its version begins with."""
        support_end = self._ends.of(name, version) if self._ends else None
        return None if support_end is None else support_end.released


def release_days() -> ReleaseDays:
    """Return what is known of when releases came out."""
    return ReleaseDays(list(SupportEnd.objects.exclude(released=None)))


def begins_with(version: str, release: str) -> bool:
    """Whether a version is of a release: “10.0.19045” of “10.0” and of “”, and not of “10.0.1”."""
    return not release or version == release or version.startswith((f"{release}.", f"{release}-", f"{release} "))


def support_ends() -> SupportEnds:
    """Return what is known of the ends of support."""
    told = _told_elsewhere[0]() if _told_elsewhere else {}
    return SupportEnds(list(SupportEnd.objects.exclude(day=None)), told)


def support_version() -> tuple[int, int, int]:
    """Return what changes whenever an end of support does."""
    # Read for each moment a filter is asked at: as plain SQL it costs a tenth.
    newest, number = (
        raw_connection().execute("SELECT coalesce(max(id), 0), count(*) FROM lifecycle_supportend").fetchone()
    )
    told = _told_elsewhere[0]() if _told_elsewhere else {}
    return newest, number, hash(frozenset(told.items()))
