"""Filling live blocks as of a moment: each by itself, so that one that cannot be filled holds no other up."""

import logging
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import islice
from typing import Any

from django.http import Http404

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.reports.reads.asking import ask, found
from tarn.apps.reports.writing import heading, shown
from tarn.apps.services.kept.results import ServiceBrief
from tarn.apps.services.kept.shown import service, services
from tarn.apps.services.standing.links import links
from tarn.apps.services.standing.subnets import subnets
from tarn.core.fields import FIELDS
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import quote
from tarn.core.handbooks.live import LIVE, MOST_ROWS, Filled, empty
from tarn.core.reports import ReportError

log = logging.getLogger("tarn.handbooks")
_MOST = 50
_COLUMNS = "name, kind, place"


@dataclass(frozen=True)
class Asked:
    """What a block is filled from: its settings, the moment, the place the handbook is about, and the moment of the
    issue before."""

    settings: dict[str, Any]
    at: int | None
    place: str = ""
    since: int | None = None

    @property
    def most(self) -> int:
        """How many rows are kept."""
        return min(int(self.settings.get("most", _MOST)), MOST_ROWS)

    def filter(self, more: str = "") -> str:
        """Return the question of the block, within the place the handbook is about."""
        place = self.settings.get("place") or self.place
        parts = [self.settings.get("filter", ""), f"place in ({quote(place)})" if place else "", more]
        return " and ".join(f"({part})" for part in parts if part)


class NoFilling(ValueError):
    """A block cannot be filled; the message says why."""


def fill(kind: str, asked: Asked) -> Filled:
    """Return a block filled; where it cannot be, it says why."""
    title = str(asked.settings.get("title") or LIVE[kind].label)
    try:
        made = _FILLERS[kind](asked, empty(title))
    except (FilterError, ReportError, NoFilling) as fault:
        made = empty(title, trouble=str(fault))
    except Http404 as fault:
        made = empty(title, trouble=str(fault) or "What it was of is not there any more.")
    except Exception as fault:
        log.exception("live block %s", kind)
        made = empty(title, trouble=f"It could not be filled: {fault}"[:300])
    made["note"] = made["note"] or f"as of {day_of(asked.at):%-d %B %Y}"
    return made


def _table(made: Filled, columns: list[str], rows: Iterable[list[str]], most: int) -> Filled:
    rest = iter(rows)
    made["shape"], made["columns"] = "table", columns
    made["rows"] = [[str(cell) for cell in row] for row in islice(rest, most)]
    made["cut"] = sum(1 for _ in rest)
    return made


def _report(asked: Asked, made: Filled) -> Filled:
    report = found(str(asked.settings.get("report", "")))
    told = ask(report.definition, asked.at)
    here = zone()
    lines = (line for line in told.lines if line.kind == "row")
    rows = ([shown(v, c.type, here) for v, c in zip(line.values, told.columns, strict=True)] for line in lines)
    made["note"] = f"{report.name}, as of {day_of(asked.at):%-d %B %Y}"
    return _table(made, [heading(c) for c in told.columns], rows, asked.most)


def _devices(asked: Asked, made: Filled) -> Filled:
    names = [n.strip() for n in str(asked.settings.get("columns") or _COLUMNS).split(",") if n.strip()]
    if unknown := next((n for n in names if n not in FIELDS), None):
        raise NoFilling(f"There is no field “{unknown}”.")
    here = zone()
    wanted = question(asked.filter(), asked.at)
    rows = rows_of("asset", names, wanted, "", names[:1], asked.most)
    told = ([shown(row[n], FIELDS[n].type, here) for n in names] for row in rows)
    made = _table(made, [FIELDS[n].heading for n in names], told, asked.most)
    made["cut"] = count(wanted) - len(made["rows"])
    return made


def _figure(asked: Asked, made: Filled) -> Filled:
    made["shape"] = "figure"
    made["figure"] = f"{count(question(asked.filter(), asked.at)):,}"
    made["rows"] = [[str(asked.settings.get("words", ""))]]
    return made


def _services(asked: Asked, made: Filled) -> Filled:
    told = _by_promise(asked.at)
    rows = [
        [s["name"], _within(s["promise"]), s["importance"], s["owner"], ", ".join(p["name"] for p in s["parts"])]
        for s in told
    ]
    return _table(made, ["Service", "Back within", "Importance", "Who decides", "Parts"], rows, MOST_ROWS)


def _by_promise(at: int | None) -> list[ServiceBrief]:
    """Return services, those that are promised back first at the top."""
    return sorted(services(at), key=lambda s: (s["promise"] is None, s["promise"] or 0, s["name"]))


def _within(minutes: int | None) -> str:
    if minutes is None:
        return "nothing promised"
    for size, word in ((1_440, "day"), (60, "hour")):
        if minutes % size == 0:
            return f"{minutes // size} {word}{'' if minutes == size else 's'}"
    return f"{minutes} minutes"


def _service_named(asked: Asked) -> Any:
    wanted = str(asked.settings.get("service", "")).strip()
    number = next((s["id"] for s in services(asked.at) if s["name"].casefold() == wanted.casefold()), None)
    if number is None:
        raise NoFilling(f"There is no service “{wanted}” any more.")
    return service(number, asked.at)


def _stands(asked: Asked, made: Filled) -> Filled:
    told = _service_named(asked)
    rows = [[m["name"], m["part"], m["place"] or ""] for m in told["rows"] if not m["out"]]
    made["note"] = f"{told['name']}, drawn from evidence, as of {day_of(asked.at):%-d %B %Y}"
    if under := told["under"]["devices"]:
        made["note"] += f"; {under} devices stand on it"
    return _table(made, ["Device", "Part", "Place"], rows, MOST_ROWS)


def _ports(asked: Asked, made: Filled) -> Filled:
    told = links(question(asked.filter(), asked.at))
    rows = ([k["switch"]["name"], k["port"], k["device"]["name"], k["device_port"], k["how"]] for k in told)
    return _table(made, ["Switch", "Port", "Device", "Its port", "Known by"], rows, asked.most)


def _subnets(asked: Asked, made: Filled) -> Filled:
    told = subnets(question(asked.filter(), asked.at))
    rows = [
        [
            n["network"],
            f"{n['used']} of {n['size']}",
            ", ".join(n["places"][:4]),
            ", ".join(g["name"] for g in n["gear"]),
        ]
        for n in told
    ]
    return _table(made, ["Network", "Addresses used", "Places", "Routed by"], rows, MOST_ROWS)


def _people(asked: Asked, made: Filled) -> Filled:
    if asked.settings.get("service"):
        told = [_service_named(asked)]
    else:
        told = [service(s["id"], asked.at) for s in _by_promise(asked.at)]
    rows = [[s["name"], s["owner"], ", ".join(s["deputies"]), s["hours"]] for s in told]
    return _table(made, ["Service", "Who decides", "Deputies", "Hours"], rows, MOST_ROWS)


def _changes(asked: Asked, made: Filled) -> Filled:
    if asked.since is None:
        made["rows"] = [["This is the first issue: nothing is held against it yet."]]
        return made
    text = asked.filter()
    before, after = set(ids(question(text, asked.since))), set(ids(question(text, asked.at)))
    rows: list[list[str]] = []
    for what, gone, at in (("came", after - before, asked.at), ("went", before - after, asked.since)):
        held = rows_of("asset", ["name", "kind", "place"], question("", at), "", ["name"], among=sorted(gone))
        rows += [[what, *(str(row[n] or "") for n in ("name", "kind", "place"))] for row in held]
    made["note"] = f"{day_of(asked.since):%-d %B %Y} to {day_of(asked.at):%-d %B %Y}"
    return _table(made, ["What", "Device", "Kind", "Place"], rows, asked.most)


_PLATE = (
    "name",
    "number",
    "kind",
    "manufacturer",
    "model",
    "serial",
    "os.name",
    "memory",
    "address",
    "place",
    "person",
)


def _plate(asked: Asked, made: Filled) -> Filled:
    word = quote(str(asked.settings.get("asset", "")))
    told = question(f"number = {word} or name = {word}", asked.at)
    row = next(iter(rows_of("asset", list(_PLATE), told, "", ["name"], 1)), None)
    if row is None:
        raise NoFilling(f"There is no asset “{asked.settings.get('asset', '')}” on that day.")
    here = zone()
    made["shape"] = "facts"
    made["rows"] = [
        [FIELDS[n].heading, shown(row[n], FIELDS[n].type, here)] for n in _PLATE if row[n] not in (None, "")
    ]
    return made


_FILLERS: dict[str, Callable[[Asked, Filled], Filled]] = {
    "report": _report,
    "devices": _devices,
    "figure": _figure,
    "services": _services,
    "stands": _stands,
    "ports": _ports,
    "subnets": _subnets,
    "people": _people,
    "changes": _changes,
    "plate": _plate,
}

assert set(_FILLERS) == set(LIVE)
