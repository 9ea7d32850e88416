"""What wants a hand, for whoever asks: from every room, less what they put aside."""

import logging
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from tarn.apps.estate.asking.dial import iso
from tarn.apps.people.roles import may
from tarn.apps.people.wanting import Want, Wanted, all_wants
from tarn.apps.today.first import first_steps
from tarn.apps.today.models import Aside
from tarn.apps.today.results import AsideOut, TodayOut, WantOut

log = logging.getLogger("tarn.today")


@dataclass(frozen=True, slots=True)
class _Line:
    want: Want
    found: Wanted | None
    trouble: str = ""


def today(person: Any) -> TodayOut:
    """Return what wants a hand of a person, and what they put aside of it; of anybody, for nobody. A line that cannot
    be reckoned says so and holds no other up."""
    aside = {a.key: a for a in Aside.objects.filter(person=person)} if person is not None else {}
    shown: list[WantOut] = []
    hidden: list[AsideOut] = []
    for line in _lines(person):
        put = aside.get(line.want.key)
        if put is not None and _still(put, line):
            hidden.append(_aside(put, line))
        else:
            shown.append(_shown(line))
    midnight = int(datetime.now().astimezone().replace(hour=0, minute=0, second=0).timestamp())
    done = sum(a.how == "done" and a.made_at >= midnight for a in aside.values())
    return {"wants": shown, "aside": hidden, "done": done, "first": first_steps()}


def _lines(person: Any) -> Iterator[_Line]:
    for want in _wants_of(person):
        try:
            found = want.find()
        except Exception as fault:
            log.exception("what wants a hand: %s", want.key)
            yield _Line(want, None, f"{type(fault).__name__}: {fault}"[:300])
            continue
        if found.things:
            yield _Line(want, found)


def _wants_of(person: Any) -> Iterator[Want]:
    """Yield what may want a hand of a person; all there is, for nobody."""
    return (want for want in all_wants() if person is None or may(person, want.may))


def wanted(person: Any, key: str) -> Wanted:
    """Return what wants a hand under a key, as a person sees it. Raises KeyError for a key that is none of theirs."""
    for want in _wants_of(person):
        if want.key == key:
            return want.find()
    raise KeyError(key)


def _still(put: Aside, line: _Line) -> bool:
    """Whether what was put aside is to stay so."""
    if put.how == "until":
        return put.until is not None and put.until > time.time()
    return put.how == "never" or (line.found is not None and set(line.found.things) <= set(put.things))


def _shown(line: _Line) -> WantOut:
    want, found = line.want, line.found
    return {
        "key": want.key,
        "grade": want.grade,
        "count": len(found.things) if found else 0,
        "text": found.text if found else f"“{want.key}” could not be reckoned",
        "beside": found.beside if found else line.trouble,
        "button": want.button if found else "",
        "to": found.to if found else "",
        "search": dict(found.search) if found else {},
    }


def _aside(put: Aside, line: _Line) -> AsideOut:
    return {
        "key": put.key,
        "text": f"{len(line.found.things)} {line.found.text}" if line.found else line.want.key,
        "how": put.how,  # type: ignore[typeddict-item]  # one of the three, as it was kept
        "until": iso(put.until) if put.until is not None else None,
    }
