"""What tells of power and physical parts: supplies that cannot be interrupted, outlets, modules.

Supplies: RFC 1628 (UPS-MIB). Parts and outlets: RFC 6933 (ENTITY-MIB). Sensors: RFC 3433 (ENTITY-SENSOR-MIB).
"""

from typing import Any

from tarn.collect.snmp.client import Walker
from tarn.collect.snmp.values import column, text
from tarn.core.gear import Outlet
from tarn.core.items import Module
from tarn.core.sections import Condition
from tarn.core.sightings import make_reading

_UPS, _ENTITY, _SENSOR = "1.3.6.1.2.1.33.1", "1.3.6.1.2.1.47.1.1.1.1", "1.3.6.1.2.1.99.1.1.1"
BATTERY = f"{_UPS}.2.1.0"
_ENERGY = 13
"""entPhysicalClass of what gives or takes power (IANA-ENTITY-MIB)."""
_WATTS, _ONE = 6, 9
"""EntitySensorDataType of power; EntitySensorDataScale of units as they are, each step three powers of ten."""

_BATTERY = {1: "unknown", 2: "normal", 3: "low", 4: "depleted"}


_FED = {2: "nothing", 3: "mains", 4: "bypass", 5: "battery", 6: "mains", 7: "mains"}
"""upsOutputSource: a booster and a reducer take from the mains as well."""


async def power(walker: Walker) -> list[Any]:
    """Read the battery of an uninterruptible supply: state, charge, minutes it would last;
    and its output: the load of the line that has most, and what it feeds from."""
    got = await walker.get([*(f"{_UPS}.2.{n}.0" for n in (1, 3, 4)), f"{_UPS}.4.1.0"])
    loads = [n for n in (await column(walker, f"{_UPS}.4.4.1.5")).values() if isinstance(n, int) and 0 <= n <= 1_000]
    charge = got.get(f"{_UPS}.2.4.0")
    facts = Condition(
        battery=min(100, round(charge / 5) * 5) if isinstance(charge, int) and charge >= 0 else None,
        runtime=got.get(f"{_UPS}.2.3.0"),
        battery_state=_BATTERY.get(got.get(f"{_UPS}.2.1.0", 1), "unknown"),
        load=round(max(loads) / 5) * 5 if loads else None,
        feeding_from=_FED.get(got.get(f"{_UPS}.4.1.0", 0)),
    )
    return [make_reading("condition", facts, "snmp.power")]


_SORTS = {3: "chassis", 6: "power supply", 9: "module"}


async def parts(walker: Walker) -> list[Any]:
    """Read physical parts that have a serial number: stack members, line cards, supplies; and the outlets of what
    distributes power."""
    sorts = await column(walker, f"{_ENTITY}.5")
    if _ENERGY in sorts.values():
        return [*await _modules(walker, sorts), *await _outlets(walker, sorts)]
    return await _modules(walker, sorts)


async def _modules(walker: Walker, sorts: dict[str, Any]) -> list[Any]:
    if sum(1 for s in sorts.values() if s in _SORTS) < 2:
        return []  # a single chassis is the device itself
    serials = await column(walker, f"{_ENTITY}.11")
    names = await column(walker, f"{_ENTITY}.7")
    models = await column(walker, f"{_ENTITY}.13")
    items: dict[str, Module] = {}
    for index, sort in sorts.items():
        serial = text(serials.get(index, ""))
        if sort in _SORTS and serial:
            name = text(names.get(index, "")) or f"part {index}"
            items[name] = Module(name=name, sort=_SORTS[sort], model=text(models.get(index, "")), serial=serial)
    return [make_reading("modules", [items[k] for k in sorted(items)], "snmp.parts")]


async def _outlets(walker: Walker, sorts: dict[str, Any]) -> list[Any]:
    """Read outlets: energy objects with a name, what was written on them, and the watts a sensor in them tells."""
    names = await column(walker, f"{_ENTITY}.7")
    written = await column(walker, f"{_ENTITY}.14")
    within = await column(walker, f"{_ENTITY}.4")
    units = await column(walker, f"{_SENSOR}.1")
    scales = await column(walker, f"{_SENSOR}.2")
    digits = await column(walker, f"{_SENSOR}.3")
    values = await column(walker, f"{_SENSOR}.4")
    watts: dict[str, float] = {}
    for index, unit in units.items():
        if unit == _WATTS and isinstance(value := values.get(index), int) and value >= 0:
            watts[str(within.get(index, 0))] = value * 10 ** (
                3 * (scales.get(index, _ONE) - _ONE) - digits.get(index, 0)
            )
    items: dict[str, Outlet] = {}
    for index, sort in sorts.items():
        name = text(names.get(index, ""))
        if sort == _ENERGY and name:
            load = watts.get(index)
            items[name] = Outlet(
                name=name, feeds=text(written.get(index, "")), load=None if load is None else round(load / 50) * 50
            )
    return [make_reading("outlets", [items[k] for k in sorted(items)], "snmp.outlets")]
