"""What ends when: contracts, terms and maintenance of licences; and the notices that are due of them."""

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from urllib.parse import quote

from tarn.apps.estate.asking.ask import assets_in_sight, question
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.register.acquired import systems, warranties_ending
from tarn.apps.licences.reads.dated import terms
from tarn.apps.licences.reads.reckoning import reckoned
from tarn.apps.lifecycle.reads.contracts import as_agreed, covered, covering
from tarn.apps.lifecycle.reads.steps import returns
from tarn.apps.lifecycle.reads.support import support_ends
from tarn.apps.lifecycle.results import EndingOut, RiverOut
from tarn.core.filters.tree import quote as word
from tarn.core.finance.contracts import standing
from tarn.core.finance.payments import last_notice, same_day

STREAMS = ("warranties", "contracts", "licence terms", "maintenance", "support", "loans")
NOTICES_OF_LICENCES = (90, 45, 14)
"""Days before the end of a licence's term at which people are told; contracts say their own."""


@dataclass(frozen=True, slots=True)
class Ending:
    """One thing that ends: `stream` says of which kind, `path` where it is shown, `count` of how many devices or units;
    `notice_by` the last day to give notice where it would go on; `notices` the days before the end people are told."""

    stream: str
    name: str
    day: date
    path: str
    count: int | None
    notice_by: date | None
    decided: str
    goes_on: bool
    provider: str
    notices: tuple[int, ...]


def endings(at: int | None, since: date, until: date) -> list[Ending]:
    """Return what ends on days from `since` to `until`, both inclusive, in their order.

    In a branch: of its devices, and the contracts and licences that cover some of them.
    """
    out = []
    day, here = day_of(at), assets_in_sight(at)
    for contract in covering(here, at):
        stands = standing(as_agreed(contract), max(day, since))
        if stands.ends is not None and since <= stands.ends <= until:
            decided = contract.decided if contract.decided_for == stands.ends else ""
            out.append(
                Ending(
                    "contracts",
                    contract.name,
                    stands.ends,
                    f"/lifecycle/contracts/{contract.pk}",
                    len(covered(contract, at)) or None,
                    stands.notice_by,
                    decided,
                    bool(contract.renews) and decided != "let go",
                    contract.provider,
                    tuple(contract.notices),
                )
            )
    out += _warranties(at, since, until)
    out += _support(at, since, until)
    out += [
        Ending("loans", f"{name}, {who}", on, "/lifecycle?tab=hand-overs", None, None, "", False, "", ())
        for on, name, who in returns(since, until)
    ]
    drawn = None if here is None else _drawn_on(here, at)
    for licence in terms():
        if drawn is not None and licence.number not in drawn:
            continue
        path = f"/licences/{licence.number}"
        for stream, end in (("licence terms", licence.ends), ("maintenance", licence.maintained_until)):
            if end is not None and since <= end <= until:
                told = NOTICES_OF_LICENCES if stream == "licence terms" else ()
                out.append(Ending(stream, licence.name, end, path, None, None, "", False, licence.publisher, told))
    return sorted(out, key=lambda e: (e.day, e.stream, e.name))


def _drawn_on(here: frozenset[int], at: int | None) -> set[int]:
    """Return the numbers of licences that cover something on these devices."""
    assignment = reckoned(at).held
    return {k for k, bearers in assignment.bearers.items() if any(u.device in here for b in bearers for u in b.uses)}


def _warranties(at: int | None, since: date, until: date) -> list[Ending]:
    """Return the ends of warranties, those of one kind and order in one month as one, on the day of the first."""
    found = warranties_ending(question("", at), since, until)
    months: dict[tuple[str, str, str], list[tuple[str, int]]] = defaultdict(list)
    for end, kind, order, number in found:
        months[kind or "device", order, end[:7]].append((end, number))
    out = []
    for (kind, order, _), ends in months.items():
        first, last = min(ends)[0], date.fromisoformat(max(ends)[0]) + timedelta(days=1)
        text = f"kind = {word(kind)} and warranty.end >= {first} and warranty.end < {last.isoformat()}"
        text += f" and order = {word(order)}" if order else ""
        name, path = f"{kind}, {order}" if order else kind, f"/estate?q={quote(text)}"
        number = sum(n for _, n in ends)
        out.append(Ending("warranties", name, date.fromisoformat(first), path, number, None, "", False, "", ()))
    return out


def _support(at: int | None, since: date, until: date) -> list[Ending]:
    """Return until when systems that devices run are supported, each release with how many run it."""
    ends = support_ends()
    if not ends:
        return []
    found = systems(question("", at))
    count: Counter[tuple[str, str, date]] = Counter()
    for name, version, devices in found:
        day, listed = ends.day(name, version), ends.of(name, version)
        if day is not None and since <= day <= until:
            count[name, listed.release if listed is not None and listed.day else version, day] += devices
    out = []
    for (name, release, day), devices in count.items():
        text = f"os.name = {word(name)}" + (f" and os.version ~ /^{release.replace('.', '[.]')}/" if release else "")
        path = f"/estate?q={quote(text)}"
        out.append(Ending("support", f"{name} {release}".strip(), day, path, devices, None, "", False, "", ()))
    return out


def river(at: int | None, months: int) -> RiverOut:
    """Return what ends in the months from this one on, stream by stream, and what notice must go out first."""
    day = day_of(at)
    since = day.replace(day=1)
    until = same_day(since, months) - timedelta(days=1)
    found = endings(at, since, until)
    open_ = [e for e in found if e.notice_by and e.notice_by >= day and not e.decided]
    first = min(open_, key=lambda e: e.notice_by or e.day, default=None)
    return {
        "day": day.isoformat(),
        "since": since.isoformat(),
        "months": [same_day(since, n).isoformat() for n in range(months)],
        "streams": list(STREAMS),
        "endings": [_shown(e, day) for e in found],
        "first_notice": _shown(first, day) if first else None,
    }


def _shown(ending: Ending, day: date) -> EndingOut:
    return {
        "stream": ending.stream,
        "name": ending.name,
        "day": ending.day.isoformat(),
        "path": ending.path,
        "count": ending.count,
        "notice_by": ending.notice_by.isoformat() if ending.notice_by else None,
        "missed": bool(ending.notice_by and ending.notice_by < day <= ending.day and not ending.decided),
        "decided": ending.decided,
        "goes_on": ending.goes_on,
        "over": ending.day < day,
    }


def notices(at: int | None) -> list[dict[str, Any]]:
    """Return the notices that have fallen due of what has not ended: one row each, from its day until the end.

    A watch on new rows tells each once, on its day or on the first day after it on which it is asked.
    """
    day = day_of(at)
    out = []
    for ending in endings(at, day, day + timedelta(days=3_660)):
        for before in ending.notices:
            due = last_notice(ending.day, before)
            if due <= day and not ending.decided:
                out.append(
                    {
                        "name": ending.name,
                        "path": ending.path,
                        "stream": ending.stream,
                        "provider": ending.provider,
                        "ends": ending.day.isoformat(),
                        "before": before,
                        "due": due.isoformat(),
                        "notice_by": ending.notice_by.isoformat() if ending.notice_by else "",
                        "then": "goes on" if ending.goes_on else "is over",
                        "id": None,
                    }
                )
    return out
