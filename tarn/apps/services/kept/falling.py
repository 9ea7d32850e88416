"""What stops if some devices stop, services with it, and the single points: what nothing stands in for."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.services.kept.health import Standing, standing
from tarn.apps.services.kept.singles import told_singles
from tarn.apps.services.results import FallenOut, LayersOut, ServiceFallen, SingleOut, StopsOut
from tarn.apps.services.standing.edges import people_of, plates
from tarn.apps.services.standing.impact import end, seen, words
from tarn.apps.services.standing.picture import Drawn, beneath, counted, picture, picture_of
from tarn.core.standing.graph import Fallen, Graph, order_of_return, related, standing_on, stops
from tarn.core.standing.services import Fate, PartFate


def if_stops(assets: Iterable[int], at: int | None) -> StopsOut:
    """Return what stops if some assets stop; those that are not to be seen are left out."""
    there, mine = seen(at)
    gone = [a for a in dict.fromkeys(assets) if a in mine]
    fallen = stops(there, gone)
    ends = {e for f in fallen for edge in f.because for e in (edge.stands, edge.on)} | {
        x for f in fallen for x in f.left
    }
    known = plates({*gone, *ends, *beneath(there, gone), *(f.asset for f in fallen)}, at)
    stopped = [f.asset for f in fallen if f.fate == "stops"]
    where = Counter(known[a]["place"] or "no place" for a in stopped)
    met = sorted({known[f.asset]["person"] for f in fallen if known[f.asset]["person"]})
    back = order_of_return(there, {*gone, *stopped})
    stood = standing(at)
    fates = stood.watching.fates({*gone, *stopped}, {f.asset for f in fallen})
    persons = plates({a for fate in fates for a in stood.members[fate.service].all} - known.keys(), at) | known
    return {
        "gone": [end(a, known) for a in gone],
        "stops": counted(stopped, known),
        "weakened": counted([f.asset for f in fallen if f.fate == "weakened"], known),
        "services": [_service(fate, stood, there, persons, at) for fate in fates],
        "people": met,
        "places": [{"place": p, "stops": n} for p, n in sorted(where.items(), key=lambda x: (-x[1], x[0]))],
        "rows": [_fallen(f, known) for f in fallen],
        "back": [[known[a]["name"] for a in step] for step in back],
        "picture": picture(there, gone, fallen, known, [_drawn(fate, stood) for fate in fates]),
    }


def _fallen(fallen: Fallen, known: dict[int, dict[str, Any]]) -> FallenOut:
    plate = known[fallen.asset]
    return {
        "asset": fallen.asset,
        "number": plate["number"],
        "name": plate["name"],
        "kind": plate["kind"],
        "place": plate["place"],
        "fate": fallen.fate,
        "because": "; ".join(words(e, known) for e in fallen.because[:4]),
        "left": [known[a]["name"] for a in fallen.left],
        "hops": fallen.hops,
    }


def map_of(asked: Question) -> LayersOut:
    """Return a selection and what it stands on as layers, with the services it serves above; nothing has stopped."""
    there, mine = seen(asked.at)
    chosen = set(ids(asked)) & mine
    stood = standing(asked.at)
    drawn = [
        Drawn(number, service.name, "carries on", stood.members[number].all)
        for number, service in stood.services.items()
        if stood.members[number].all & chosen
    ]
    return picture_of(there, chosen, plates(standing_on(there, chosen), asked.at), drawn)


def single_points(asked: Question) -> list[SingleOut]:
    """Return the single points of failure of a selection, worst first."""
    mine = set(ids(asked))
    stood = standing(asked.at)
    return told_singles([s for s in stood.singles if s.asset in mine][:200], stood)


def _service(
    fate: Fate, stood: Standing, graph: Graph, known: dict[int, dict[str, Any]], at: int | None
) -> ServiceFallen:
    service, members = stood.services[fate.service], stood.members[fate.service].all
    stand_on_it = related(graph, "depends on", members) - members
    return {
        "id": service.pk,
        "name": service.name,
        "fate": fate.fate,
        "because": [_part_words(p, known) for p in fate.parts] or ["a member of it is weakened"],
        "owner": service.owner,
        "promise": service.promise,
        "hours": service.hours,
        "importance": service.importance,
        "devices": len(stand_on_it),
        "people": people_of(stand_on_it, at),
    }


def _part_words(fate: PartFate, known: dict[int, dict[str, Any]]) -> str:
    down = sorted(known[a]["name"] for a in fate.down if a in known)
    lost = ", ".join(down[:3]) + (f" and {len(down) - 3} more" if len(down) > 3 else "")
    left = sorted(known[a]["name"] for a in fate.left if a in known)
    if not left:
        return f"{fate.part}: {lost} {'is' if len(down) == 1 else 'are'} down and nothing is left of it"
    still = f"{', '.join(left[:3])} {'is' if len(left) == 1 else 'are'} left"
    if fate.fate == "stops":
        return f"{fate.part}: without {lost} it has {len(left)} of the {fate.needed} it needs ({still})"
    return f"{fate.part}: without {lost}, {still}"


def _drawn(fate: Fate, stood: Standing) -> Drawn:
    return Drawn(fate.service, stood.services[fate.service].name, fate.fate, stood.members[fate.service].all)
