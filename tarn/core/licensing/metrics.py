"""Metrics: how many units of a licence the uses of one bearer need, and why. One small function each.

The bearer is who or what one unit is for: a device, a person, a virtual host. Uses of several products of one licence
on one bearer share its units.
"""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal

from tarn.core.formula import Formula, FormulaError
from tarn.core.licensing.rights import Licence, Use


class MetricError(ValueError):
    """A licence that its metric cannot reckon with; the message says why."""


@dataclass(frozen=True, slots=True)
class Metric:
    """`text` explains it; `bearer` names whom a use falls to; `units` reckons the units of one bearer's uses, with the
    arithmetic in words. `pooled`: one figure for everybody, such as a peak, and no choice of whom to cover; `of_facts`:
    units follow from what is known of the device, so that uses of one bearer may differ in them. `reads`: the
    terms of a licence it goes by, asked for where it is chosen; `records`: it goes by records of use too."""

    name: str
    unit: str
    text: str
    bearer: Callable[[Licence, Use], Hashable]
    units: Callable[[Licence, Sequence[Use]], tuple[int, str]]
    pooled: bool = False
    of_facts: bool = False
    reads: tuple[str, ...] = ()
    records: bool = False


def _up(units: int, pack: int) -> int:
    return -(-units // max(pack, 1)) * max(pack, 1)


def _by_device(licence: Licence, use: Use) -> Hashable:
    return ("person", use.person) if licence.second_device and use.person else ("device", use.device)


def _devices(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    count = len({u.device for u in uses})
    if licence.second_device and count > 1:
        return -(-count // 2), f"{count} devices of one person, two to a unit"
    return count, "one device" if count == 1 else f"{count} devices"


def _person(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    count = len({u.device for u in uses})
    return 1, "one person" + (f" on {count} devices" if count > 1 else "")


def _of_host(licence: Licence, use: Use) -> bool:
    return licence.guests == "host" and use.host is not None


def _processors(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    count = max(u.host_processors if _of_host(licence, u) else u.processors for u in uses)
    if not count:
        return 1, "processors not known, counted as one"
    return _up(count, licence.pack), f"{count} processor{'s' * (count != 1)}"


def _cores(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    cores = max(u.host_cores if _of_host(licence, u) else u.cores for u in uses)
    processors = max(1, *(u.host_processors if _of_host(licence, u) else u.processors for u in uses), 1)
    least = licence.per_processor * processors
    if not cores and not least:
        return licence.pack, "cores not known, counted as one pack"
    said = f"{processors} processor{'s' * (processors != 1)}, {cores or 'unknown'} cores"
    if least > cores:
        said += f", at least {licence.per_processor} a processor"
    counted = _up(max(cores, least), licence.pack)
    if licence.pack > 1:
        said += f", in packs of {licence.pack}"
    return counted, said


def _machines(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    guests = len({u.device for u in uses})
    if licence.guests == "host" and guests > 1:
        return -(-guests // licence.per_host), f"{guests} guests of one host, {licence.per_host} to a unit"
    return guests, "one machine" if guests == 1 else f"{guests} machines"


def _by_host(licence: Licence, use: Use) -> Hashable:
    return ("device", use.host if _of_host(licence, use) else use.device)


def _capacity(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    try:
        formula = Formula(licence.formula, licence.name)
    except FormulaError as wrong:
        raise MetricError(str(wrong)) from wrong
    facts = dict(max(uses, key=lambda u: len(u.facts)).facts)
    if unknown := sorted(n for n in formula.names if facts.get(n) is None):
        return licence.pack, f"{', '.join(unknown)} not known, counted as one"
    value = formula.value(facts)
    if value is None or value < 0:
        return licence.pack, f"{licence.formula} has no value here, counted as one"
    units = int(Decimal(str(value)).to_integral_value(ROUND_CEILING))
    return _up(max(units, 1), licence.pack), f"{licence.formula} = {value:g}"


def _all(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    return 0, "the whole company"


def _by_person(licence: Licence, use: Use) -> Hashable:
    return ("person", use.person) if use.person else ("device", use.device)


def _by_own_device(licence: Licence, use: Use) -> Hashable:
    return ("device", use.device)


def _by_installation(licence: Licence, use: Use) -> Hashable:
    return ("installation", use.device, use.product)


def _installation(licence: Licence, uses: Sequence[Use]) -> tuple[int, str]:
    return 1, "one installation"


def _by_everybody(licence: Licence, use: Use) -> Hashable:
    return ("everybody",)


_KNOWN = (
    Metric(
        "device",
        "devices",
        "One unit a device it is installed on; with a second-device right one unit serves two devices of one person.",
        _by_device,
        _devices,
        reads=("second_device",),
    ),
    Metric("named person", "people", "One unit a person, on however many devices.", _by_person, _person),
    Metric(
        "concurrent use",
        "at once",
        "The most that used it at one moment, from records of use; without records every device counts.",
        _by_own_device,
        _devices,
        pooled=True,
        records=True,
    ),
    Metric(
        "processor",
        "processors",
        "One unit a processor of the device, or of the host where its units carry the guests.",
        _by_host,
        _processors,
        of_facts=True,
        reads=("pack", "guests"),
    ),
    Metric(
        "core",
        "cores",
        "One unit a core, with a least number a processor, in packs.",
        _by_host,
        _cores,
        of_facts=True,
        reads=("per_processor", "pack", "guests"),
    ),
    Metric(
        "virtual machine",
        "machines",
        "One unit a machine; where the host's units carry the guests, so many guests a unit.",
        _by_host,
        _machines,
        reads=("guests", "per_host"),
    ),
    Metric(
        "site",
        "site",
        "The whole company, or the departments named, on however many devices.",
        _by_everybody,
        _all,
    ),
    Metric(
        "capacity unit",
        "units",
        "A formula over what is known of the device, rounded up to whole units.",
        _by_host,
        _capacity,
        of_facts=True,
        reads=("pack", "formula", "guests"),
    ),
    Metric(
        "installation",
        "installations",
        "One unit an installation: of several products it covers on one device, each.",
        _by_installation,
        _installation,
    ),
    Metric("activation", "activations", "One unit a device its key is activated on.", _by_own_device, _devices),
)
METRICS = {m.name: m for m in _KNOWN}
"""By name, in the order they are offered."""


def falls_alone(licence: Licence) -> bool:
    """Whether each use of a licence has a bearer of its own, so that it shares units with no other use."""
    bearer = metric_of(licence).bearer
    if bearer is _by_installation:
        return True
    return (
        licence.breadth == 1
        and bearer in (_by_device, _by_own_device, _by_host)
        and not licence.second_device
        and licence.guests != "host"
    )


def metric_of(licence: Licence) -> Metric:
    """Return a licence's metric. Raises MetricError for a name that is none."""
    try:
        return METRICS[licence.metric]
    except KeyError:
        raise MetricError(f"“{licence.metric}” is no metric; one of: {', '.join(METRICS)}") from None
