"""Telling counts: the list, one with its places, its lines, and what a phone takes along."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any, cast

from tarn.apps.counts.models import Count
from tarn.apps.counts.reads.lines import CountedLine, lines_of
from tarn.apps.counts.results import (
    SampleOut,
    TakingFigures,
    TakingLine,
    TakingLines,
    TakingOut,
    TakingPack,
    TakingPlace,
    TakingWhole,
)
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.papers.held import papers_of
from tarn.apps.estate.register.rows import named_rows
from tarn.apps.labels.finding import codes_of
from tarn.apps.people.scope import visible
from tarn.apps.services.standing.links import ports_of
from tarn.core.counting import figures, missing_at_most
from tarn.core.text import fold

MOST_LINES = 500
_NAMES = ["number", "name", "kind", "model", "serial", "person", "place", "last_seen", "standing"]


@dataclass
class Beside:
    """What is known of the devices of lines now, beside what the count says of them."""

    plates: dict[int, dict[str, Any]] = field(default_factory=dict)
    ports: dict[int, str] = field(default_factory=dict)
    papers: dict[str, int] = field(default_factory=dict)


def plates(assets: Iterable[int]) -> dict[int, dict[str, Any]]:
    """Return what devices are called and where they stand now, those that are not to be seen left out."""
    return named_rows(assets, _NAMES)


def _beside(lines: list[CountedLine]) -> Beside:
    assets = {line.asset for line in lines if line.asset is not None}
    anchors = [f"met:{line.met.pk}" for line in lines if line.met is not None]
    return Beside(plates(assets), ports_of(assets), {a: len(p) for a, p in papers_of(anchors, None).items()})


def describe(line: CountedLine, known: Beside) -> TakingLine:
    """Return a line as it is told: what was expected as it was then, what was met besides as it is now."""
    now = known.plates.get(line.asset or 0, {})
    then, met = line.expected, line.met

    def word(name: str) -> str:
        return str(getattr(then, name) if then is not None else now.get(name) or "")

    return {
        "state": line.state,
        "expected": then.pk if then else None,
        "met": met.pk if met else None,
        "asset": line.asset,
        "number": word("number"),
        "name": word("name"),
        "kind": word("kind"),
        "model": word("model"),
        "serial": word("serial"),
        "person": word("person"),
        "place": word("place"),
        "met_at": iso(met.at) if met else None,
        "met_place": met.place if met else "",
        "met_by": met.by if met else "",
        "code": met.code if met else "",
        "note": met.note if met else "",
        "times": line.times,
        "papers": known.papers.get(f"met:{met.pk}", 0) if met else 0,
        "heard": now.get("last_seen"),
        "port": known.ports.get(line.asset or 0, ""),
        "standing": now.get("standing") or "",
        "settled": (then.settled if then else "") or (met.settled if met else ""),
        "beside": _odd(line, now),
    }


def _odd(line: CountedLine, now: dict[str, Any]) -> list[str]:
    """Return in words what is odd about a line."""
    out = []
    if line.times > 1:
        out.append(f"met {line.times} times")
    if line.met is not None and line.met.clock_off:
        out.append(f"by a clock that was {_lasting(abs(line.met.clock_off))} {_side(line.met.clock_off)}")
    if now.get("standing") == "intake":
        out.append("waits at intake")
    elif now.get("standing") == "set aside":
        out.append("is set aside")
    return out


def _side(off: int) -> str:
    return "slow" if off > 0 else "fast"


def _lasting(seconds: int) -> str:
    for size, word in ((86_400, "days"), (3_600, "hours"), (60, "minutes")):
        if seconds >= 2 * size:
            return f"{seconds // size} {word}"
    return f"{seconds} seconds"


def describe_all(lines: list[CountedLine]) -> list[TakingLine]:
    """Return lines as they are told."""
    known = _beside(lines)
    return [describe(line, known) for line in lines]


def unsettled(count: Count) -> int:
    """Return how many lines of a count are not as expected, and nothing was done about them."""
    return _unsettled(lines_of(count))


def counts() -> list[TakingOut]:
    """Return the counts one may see, the latest first."""
    return [_out(count, lines_of(count)) for count in visible(Count).select_related("organisation")]


def _out(count: Count, lines: list[CountedLine]) -> TakingOut:
    told = figures(lines)
    return {
        "id": count.pk,
        "number": count.number,
        "name": count.name,
        "filter": count.filter,
        "state": count.state,
        "made_by": count.made_by,
        "made_at": iso(count.made_at),
        "ended_by": count.ended_by,
        "ended_at": iso(count.ended_at) if count.ended_at else None,
        "organisation": count.organisation.name if count.organisation else None,
        "expected": told["found"] + told["elsewhere"] + told["missing"],
        "figures": cast(TakingFigures, told),
        "sample": _sample(count, lines),
        "version": count.version,
    }


def _sample(count: Count, lines: list[CountedLine]) -> SampleOut | None:
    if count.sample is None:
        return None
    said = count.sample
    drawn = [line for line in lines if line.expected is not None]
    missing = sum(line.state == "missing" for line in drawn)
    at_most = missing_at_most(said["of"], len(drawn), missing, said["confidence"]) if drawn else None
    share = f"{at_most / said['of']:.1%}" if at_most is not None and said["of"] else ""
    words = (
        f"{len(drawn)} of {said['of']} were drawn. With {said['confidence']:.1%} confidence at most {at_most} of all "
        f"are missing ({share}), as far as was met."
    )
    return {
        "confidence": said["confidence"],
        "tolerance": said["tolerance"],
        "of": said["of"],
        "drawn": len(drawn),
        "at_most": at_most,
        "words": words,
    }


def whole(number: int) -> TakingWhole:
    """Return a count with its places. Raises Count.DoesNotExist."""
    count = visible(Count).select_related("organisation").get(pk=number)
    lines = lines_of(count)
    by_place: dict[str, Counter[str]] = defaultdict(Counter)
    for line in lines:
        if line.expected is not None:
            by_place[line.expected.place][line.state] += 1
    places: list[TakingPlace] = [
        {
            "place": place,
            "counter": count.counters.get(place, ""),
            "expected": counted.total(),
            "found": counted["found"],
            "elsewhere": counted["elsewhere"],
            "missing": counted["missing"],
        }
        for place, counted in sorted(by_place.items())
    ]
    counters = sorted({line.met.by for line in lines if line.met is not None})
    return {**_out(count, lines), "places": places, "counters": counters, "unsettled": _unsettled(lines)}


def _unsettled(lines: list[CountedLine]) -> int:
    return sum(line.state != "found" and not _settled(line) for line in lines)


def _settled(line: CountedLine) -> bool:
    return bool((line.expected and line.expected.settled) or (line.met and line.met.settled))


def rows(number: int, state: str, place: str | None, sought: str, begin: int, limit: int) -> TakingLines:
    """Return lines of a count: of a state (empty: all), of those expected at a place, that hold a word. Raises
    Count.DoesNotExist."""
    count = visible(Count).get(pk=number)
    lines = [
        line
        for line in lines_of(count)
        if (not state or line.state == state)
        and (place is None or (line.expected is not None and line.expected.place == place))
    ]
    if word := fold(sought.strip()):
        told = [one for one in describe_all(lines) if word in _words(one)]
        return {"total": len(told), "lines": told[begin : begin + limit]}
    return {"total": len(lines), "lines": describe_all(lines[begin : begin + limit])}


def _words(line: TakingLine) -> str:
    said = (line["number"], line["name"], line["serial"], line["model"], line["person"], line["place"], line["code"])
    return fold(" ".join(said))


def pack(number: int) -> TakingPack:
    """Return what a phone takes along, to count where there is no signal. Raises Count.DoesNotExist."""
    count = visible(Count).get(pk=number)
    lines = [line for line in lines_of(count) if line.expected is not None]
    anchors = {line.expected.anchor for line in lines if line.expected}
    codes = codes_of(anchors)
    now = plates(line.asset for line in lines if line.asset is not None)
    return {
        "id": count.pk,
        "number": count.number,
        "name": count.name,
        "state": count.state,
        "places": sorted({line.expected.place for line in lines if line.expected} - {""}),
        "counters": count.counters,
        "devices": [
            {
                "number": line.expected.number,
                "name": line.expected.name,
                "kind": line.expected.kind,
                "model": line.expected.model,
                "serial": line.expected.serial,
                "place": line.expected.place,
                "heard": now.get(line.asset or 0, {}).get("last_seen"),
                "codes": codes.get(line.expected.anchor, []),
                "met": line.state != "missing",
            }
            for line in lines
            if line.expected is not None
        ],
    }
