"""What a count says: each device that was expected and each thing that was met besides, as the evidence stands now."""

from collections import defaultdict
from dataclasses import dataclass
from typing import cast

from tarn.apps.counts.models import Count, Expected, Met
from tarn.apps.estate.asking.branches import trees
from tarn.apps.estate.register.identifiers import assets_of
from tarn.core import counting
from tarn.core.counting import State, held_against, near_by


@dataclass(frozen=True, slots=True)
class CountedLine:
    """A line of a count; `asset`: the device it is of now, where it is of one and whoever asks may see it."""

    state: State
    expected: Expected | None
    met: Met | None
    asset: int | None
    times: int = 0


def lines_of(count: Count) -> list[CountedLine]:
    """Return what a count says; once it is closed, what it said then."""
    expected = list(count.expected.order_by("place", "name", "pk"))
    met = list(count.met.filter(taken_back_by="").order_by("pk"))
    of = assets_of({e.anchor for e in expected} | {m.anchor for m in met if m.anchor})
    if count.state == "closed":
        return _as_closed(expected, met, of)
    expected_as: dict[int, list[Expected]] = defaultdict(list)
    for one in expected:
        if (asset := of.get(one.anchor)) is not None:
            expected_as[asset].append(one)
    noted = []
    for thing in met:
        # Two that were expected and are one device by now were both met.
        keys: list[int | None] = [e.pk for e in expected_as.get(of.get(thing.anchor, 0), ())]
        noted += [counting.Met(thing.pk, key, thing.anchor in of, thing.place, thing.at) for key in keys or [None]]
    said = held_against([counting.Expected(e.pk, e.place) for e in expected], noted, near_by(trees()["place"]))
    devices, things = {e.pk: e for e in expected}, {m.pk: m for m in met}
    out = []
    for line in said:
        device, last = devices.get(line.expected or 0), things.get(line.met or 0)
        anchor = device.anchor if device else last.anchor if last else ""
        out.append(CountedLine(line.state, device, last, of.get(anchor), line.times))
    return out


def _as_closed(expected: list[Expected], met: list[Met], of: dict[str, int]) -> list[CountedLine]:
    by_asset: dict[int, list[Met]] = defaultdict(list)
    for one in met:
        if one.anchor in of:
            by_asset[of[one.anchor]].append(one)
    out = []
    for device in expected:
        asset = of.get(device.anchor)
        several = sorted(by_asset.get(asset or 0, ()), key=lambda m: (m.at, m.pk))
        out.append(
            CountedLine(cast(State, device.state), device, several[-1] if several else None, asset, len(several))
        )
    besides = (one for one in met if one.state)
    out += [CountedLine(cast(State, one.state), None, one, of.get(one.anchor), 1) for one in besides]
    return out
