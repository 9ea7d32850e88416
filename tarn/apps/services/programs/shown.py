"""Unknown programs told: in groups that look alike, with samples, and the rule that would recognise them."""

from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from tarn.apps.estate.asking.ask import context
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.store.remembered import Remembered, forgets_too
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE
from tarn.apps.services.models import ProgramWord
from tarn.apps.services.programs.results import (
    CommandPiece,
    ProgramGroup,
    ProgramOut,
    ProgramSample,
    TriedOut,
    UnknownOut,
)
from tarn.apps.services.running import RECOGNISERS, Place, ever, recognised, running, unknown
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.core.programs.features import Seen, look
from tarn.core.programs.grouping import Group, Grouping, runs_of_text
from tarn.core.programs.recognising import Fits, fits, proposed, too_wide, version_of
from tarn.core.standing.graph import Graph

MOST_GROUPS, MOST_SAMPLES = 300, 40


class NoSuchProgram(KeyError):
    """There is no such group of programs, or not any more."""


def groups(at: int | None) -> list[Group]:
    """Return the groups of unknown programs, those left alone among them."""
    return _groups.get(at, lambda: _grouped(at))


def _grouped(at: int | None) -> list[Group]:
    parted = set(ProgramWord.objects.filter(word="parted").values_list("key", flat=True))
    return _grouping.of(unknown(at), parted)


_groups: Remembered[list[Group]] = Remembered(
    "groups of unknown programs", EVIDENCE, RECOGNISERS, DEFINITIONS, most=2, one_at_a_time=True
)
_grouping = Grouping()
forgets_too(_grouping.forget)


def overview(at: int | None, alone: bool = False) -> UnknownOut:
    """Return unknown programs by group, those that most depend on first; `alone`: those that are left alone."""
    there, mine = seen(at)
    left = set(ProgramWord.objects.filter(word="alone").values_list("key", flat=True))
    where = {s: tuple(p for p in places if p.asset in mine) for s, places in unknown(at).items()}
    found = [g for g in groups(at) if any(where[s] for s in g.members)]
    shown = [g for g in found if (g.key in left) == alone]
    known = plates({p.asset for g in shown for s in g.members for p in where[s]}, at)
    rows = [_group(g, where, there, known, at) for g in shown]
    rows.sort(key=lambda r: (-r["called_by"], -r["processes"], r["looks"]))
    return {
        "groups": rows[:MOST_GROUPS],
        "count": len(shown),
        "processes": sum(r["processes"] for r in rows),
        "devices": len({p.asset for g in shown for s in g.members for p in where[s]}),
        "alone": sum(g.key in left for g in found),
    }


def _group(
    group: Group,
    where: Mapping[Seen, Sequence[Place]],
    graph: Graph,
    known: Mapping[int, dict[str, Any]],
    at: int | None,
) -> ProgramGroup:
    places = [p for s in group.members for p in where[s]]
    assets = {p.asset for p in places} & known.keys()
    calls, called_by = talk_of(group.members, where, graph)
    names = plates(calls, at)
    behaves = {hit.name for s in group.members if (hit := recognised(at).get(s)) is not None and hit.general}
    return {
        "key": group.key,
        "stem": group.stem,
        "looks": _brief(group),
        "listens": sorted({p for s in group.members for p in s.ports}),
        "processes": sum(p.count for p in places),
        "devices": counted(assets, known),
        "first": min((str(known[a]["name"]) for a in assets), default=""),
        "talks_to": sorted(str(names[a]["name"]) for a in calls if a in names)[:5],
        "called_by": len(called_by),
        "alike": round(group.alike * 100),
        "behaves": sorted(behaves),
    }


def _brief(group: Group) -> str:
    """Return what a group looks like: its middle, with what differs left out."""
    commands = [s.command for s in group.members[:MOST_SAMPLES]]
    pieces = runs_of_text(commands, group.middle.command)
    text = "".join("…" if differs else piece for piece, differs in pieces)
    return text if len(text) <= 120 else f"{text[:118]} …"


def talk_of(members: Iterable[Seen], where: Mapping[Seen, Sequence[Place]], graph: Graph) -> tuple[set[int], set[int]]:
    """Return whom processes call, as their devices tell of it by their names, and who calls the ports they hold."""
    calls: set[int] = set()
    callers: set[int] = set()
    for one in members:
        ports = {str(p) for p in one.ports}
        for place in where[one]:
            calls |= {
                e.on
                for e in graph.on.get(place.asset)
                if e.kind == "talks to" and one.name and one.name in e.process.split(", ")
            }
            callers |= {e.stands for e in graph.under.get(place.asset) if e.kind == "talks to" and e.over in ports}
    return calls, callers


def group(key: str, at: int | None) -> ProgramOut:
    """Return one group with its samples, what of them differs marked, and the rule read from it. Raises
    NoSuchProgram."""
    there, mine = seen(at)
    there_are = groups(at)
    found = next((g for g in there_are if g.key == key), None)
    where = {s: tuple(p for p in places if p.asset in mine) for s, places in unknown(at).items()}
    if found is None or not any(where[s] for s in found.members):
        raise NoSuchProgram(key)
    known = plates({p.asset for s in found.members for p in where[s]}, at)
    # What ran before under the same stem may be it as well; what is of another group now is not.
    others = [s for s in {**running(at), **ever()} if look(s).stem != found.stem]
    others += [s for g in there_are if g.key != key and g.stem == found.stem for s in g.members]
    made = proposed(found.members, others, context(None))
    words = dict(ProgramWord.objects.filter(key__in=[found.key, found.stem]).values_list("word", "why"))
    return {
        **_group(found, where, there, known, at),
        "samples": _samples(found, where, known),
        "name": made.name,
        "rule": made.rule,
        "version": made.version,
        "instance": made.instance,
        "left_alone": "alone" in words,
        "why_alone": words.get("alone", ""),
        "tried": tried(made.rule, made.version, [key], at),
    }


def _samples(
    found: Group, where: Mapping[Seen, Sequence[Place]], known: Mapping[int, dict[str, Any]]
) -> list[ProgramSample]:
    commands = [s.command for s in found.members[:MOST_SAMPLES]]
    out: list[ProgramSample] = []
    # One of each look first, so that what differs is among the samples that are shown.
    turns = sorted(((n, s, p) for s in found.members for n, p in enumerate(where[s])), key=lambda t: t[0])
    for _, one, place in turns[:MOST_SAMPLES]:
        if place.asset in known:
            pieces: list[CommandPiece] = [
                {"text": text, "differs": differs} for text, differs in runs_of_text(commands, one.command)
            ]
            out.append(
                {
                    **end(place.asset, known),
                    "command": pieces,
                    "account": one.account,
                    "listens": one.listens,
                    "started": iso(place.started) if place.started else None,
                }
            )
    return out


def tried(rule: str, version: str, keys: Collection[str], at: int | None) -> TriedOut:
    """Return what a rule would recognise of all that was ever read: of the samples of groups, more that runs now, what
    ran before, and what else it fits. Raises FilterError, RuleFault, ValueError for a pattern that cannot be."""
    there, mine = seen(at)
    holds: Fits = fits(rule, context(None))
    samples = {s for g in groups(at) if g.key in keys for s in g.members}
    now = {s: [p for p in places if p.asset in mine] for s, places in running(at).items() if holds(s)}
    past = {s: {p.asset for p in places} & mine for s, places in ever().items() if holds(s)}
    others: dict[str, list[Seen]] = defaultdict(list)
    stems = {look(s).stem for s in samples}
    for one in past:
        if look(one).stem not in stems:
            others[look(one).stem].append(one)
    calls, called_by = talk_of(now, now, there)
    names = plates(calls, at)
    versions = Counter(version_of(version, s) for s in now for _ in now[s])
    gone = {(s, a) for s, assets in past.items() for a in assets} - {(s, p.asset) for s, ps in now.items() for p in ps}
    return {
        "samples": sum(1 for s in samples if holds(s)),
        "of": len(samples),
        "devices": len({p.asset for ps in now.values() for p in ps}),
        "processes": sum(p.count for ps in now.values() for p in ps),
        "before": len({a for _, a in gone}),
        "others": [
            {"stem": stem, "looks": of[0].command[:120], "processes": len(of)}
            for stem, of in sorted(others.items())[:20]
        ],
        "versions": {v or "none read": n for v, n in sorted(versions.items())},
        "talks_to": sorted(str(names[a]["name"]) for a in calls if a in names)[:10],
        "called_by": len(called_by),
        "wide": too_wide(look(s).stem for s in past),
    }
