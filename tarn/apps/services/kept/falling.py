"""What stops if some devices stop, services with it, and the single points: what nothing stands in for."""

from collections import Counter
from collections.abc import Collection, Iterable
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.services.kept.health import Standing, standing
from tarn.apps.services.kept.singles import told_singles
from tarn.apps.services.results import FallenOut, LayersOut, ProgramFallen, ServiceFallen, SingleOut, StopsOut
from tarn.apps.services.standing.impact import end, seen, told_nodes, words
from tarn.apps.services.standing.picture import Drawn, beneath, counted, picture, picture_of, shown_of
from tarn.apps.services.standing.plates import people_of, plates
from tarn.core.standing.falling import Fallen, stops
from tarn.core.standing.graph import order_of_return, related
from tarn.core.standing.services import Fate, PartFate


def if_stops(
    assets: Iterable[int], at: int | None, programs: Collection[str] = (), unfolded: Collection[int] = ()
) -> StopsOut:
    """Return what stops if some assets stop, and all instances of some programs; those that are not to be seen are left
    out."""
    stood, (_, mine) = standing(at), seen(at)
    there = stood.full
    gone = [a for a in dict.fromkeys(assets) if a in mine]
    gone += [node for node, name in there.names.items() if name in programs]
    every = stops(there, gone)
    fallen = [f for f in every if f.asset not in there.hosts]
    ends = {e for f in every for edge in f.because for e in (edge.stands, edge.on)} | {x for f in every for x in f.left}
    known = told_nodes({*gone, *ends, *beneath(there, gone), *(f.asset for f in every)}, there, at)
    stopped = [f.asset for f in fallen if f.fate == "stops"]
    where = Counter(known[a]["place"] or "no place" for a in stopped)
    met = sorted({known[f.asset]["person"] for f in fallen if known[f.asset]["person"]})
    down = {*gone, *(f.asset for f in every if f.fate == "stops")}
    # A device that stops for its programs alone is up all the while.
    idle = {f.asset for f in fallen if f.fate == "stops" and all(e.stands in there.hosts for e in f.because)}
    back = order_of_return(there, down - idle)
    fates = stood.watching.fates(down, {f.asset for f in every})
    persons = plates({a for fate in fates for a in stood.members[fate.service].all} - known.keys(), at) | known
    return {
        "gone": [end(a, known) for a in gone],
        "stops": counted(stopped, known),
        "weakened": counted([f.asset for f in fallen if f.fate == "weakened"], known),
        "services": [_service(fate, stood, persons, at) for fate in fates],
        "people": met,
        "places": [{"place": p, "stops": n} for p, n in sorted(where.items(), key=lambda x: (-x[1], x[0]))],
        "programs": [_program(f, known) for f in every if f.asset in there.hosts],
        "rows": [_fallen(f, known) for f in fallen],
        "back": [[known[a]["name"] for a in step] for step in back],
        "picture": picture(there, gone, every, known, [_drawn(fate, stood) for fate in fates], unfolded),
    }


def _program(fallen: Fallen, known: dict[int, dict[str, Any]]) -> ProgramFallen:
    return {**_fallen(fallen, known), "program": known[fallen.asset]["program"]}


def _fallen(fallen: Fallen, known: dict[int, dict[str, Any]]) -> FallenOut:
    plate = known[fallen.asset]
    return {
        "asset": plate["asset"],
        "number": plate["number"],
        "name": plate["name"],
        "kind": plate["kind"],
        "place": plate["place"],
        "fate": fallen.fate,
        "because": "; ".join(words(e, known) for e in fallen.because[:4]),
        "left": [known[a]["name"] for a in fallen.left],
        "hops": fallen.hops,
    }


def map_of(asked: Question, unfolded: Collection[int] = ()) -> LayersOut:
    """Return a selection and what it stands on as layers, with the services it serves above; nothing has stopped."""
    stood, (_, mine) = standing(asked.at), seen(asked.at)
    chosen = set(ids(asked)) & mine
    drawn = [
        Drawn(number, service.name, "carries on", stood.members[number].all)
        for number, service in stood.services.items()
        if stood.members[number].all & chosen
    ]
    known = told_nodes(shown_of(stood.full, chosen), stood.full, asked.at)
    return picture_of(stood.full, chosen, known, drawn, unfolded)


def single_points(asked: Question) -> list[SingleOut]:
    """Return the single points of failure of a selection, worst first."""
    mine = set(ids(asked))
    stood = standing(asked.at)
    return told_singles([s for s in stood.singles if s.asset in mine][:200], stood)


def _service(fate: Fate, stood: Standing, known: dict[int, dict[str, Any]], at: int | None) -> ServiceFallen:
    service, members = stood.services[fate.service], stood.members[fate.service].all
    stand_on_it = related(stood.graph, "depends on", members) - members
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
