"""Applications that recognisers know: their instances as of a moment, whom they call and who calls them."""

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from tarn.apps.services.models import Recogniser
from tarn.apps.services.programs.results import ApplicationOut, RecogniserOut
from tarn.apps.services.programs.shown import talk_of
from tarn.apps.services.running import recognised, recognisers, running
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.plates import plates
from tarn.core.filters.check import Checked, Cond
from tarn.core.filters.plain import compares, holds
from tarn.core.filters.tree import quote
from tarn.core.programs.features import Seen
from tarn.core.programs.recognising import Recogniser as Ready
from tarn.core.programs.recognising import version_of


@dataclass(frozen=True, slots=True)
class Instance:
    """An application on a device, as it runs there; `ports` it listens on."""

    application: str
    asset: int
    version: str
    account: str
    ports: tuple[int, ...]
    general: bool


def instances(at: int | None) -> list[Instance]:
    """Return the instances recognisers know as of a moment."""
    out: dict[tuple[object, ...], Instance] = {}
    by = recognised(at)
    for one, places in running(at).items():
        if (known := by.get(one)) is None:
            continue
        version, apart = version_of(known.version, one), known.apart(one)
        for place in places:
            made = Instance(known.name, place.asset, version, one.account, one.ports, known.general)
            out.setdefault((known.number, place.asset, apart), made)
    return list(out.values())


def numbers(at: int | None, inner: Checked | None) -> dict[int, int]:
    """Return how many instances for which a condition holds each asset has, those with any."""
    met = (i.asset for i in instances(at) if inner is None or holds(inner, partial(_compares, i)))
    return dict(Counter(met))


def _compares(one: Instance, cond: Cond) -> bool:
    if cond.field.name == "port":
        return any(compares(cond, p) for p in one.ports)
    return compares(cond, one.application if cond.field.name == "name" else getattr(one, cond.field.name))


def applications(at: int | None) -> list[ApplicationOut]:
    """Return what recognisers know, those that say which program it is first: instances, releases, whom they call."""
    there, mine = seen(at)
    by: Mapping[Seen, Ready | None] = recognised(at)
    looks: dict[int, list[Seen]] = defaultdict(list)
    for one, known in by.items():
        if known is not None:
            looks[known.number].append(one)
    held = [i for i in instances(at) if i.asset in mine]
    wrong = recognisers().wrong
    out: list[ApplicationOut] = []
    for kept in Recogniser.objects.all():
        of = [i for i in held if i.application == kept.name]
        where = {s: [p for p in running(at)[s] if p.asset in mine] for s in looks[kept.pk]}
        calls, called_by = talk_of(where, where, there)
        names = plates(calls, at)
        devices = {i.asset for i in of}
        out.append(
            {
                **told(kept),
                "instances": len(of),
                "devices": {
                    "devices": len(devices),
                    "filter": f"applications[name = {quote(kept.name)}]" if devices else None,
                },
                "versions": dict(sorted(Counter(i.version or "none read" for i in of).items())),
                "talks_to": sorted(str(names[a]["name"]) for a in calls if a in names)[:10],
                "called_by": len(called_by),
                "wrong": wrong.get(kept.pk, ""),
            }
        )
    return out


def told(one: Recogniser) -> RecogniserOut:
    """Return a recogniser as it is kept."""
    return {
        "id": one.pk,
        "name": one.name,
        "rule": one.rule,
        "version": one.version,
        "instance": one.instance,
        "note": one.note,
        "general": one.general,
        "in_force": one.in_force,
        "made_by": one.made_by,
        "edition": one.edition,
    }
