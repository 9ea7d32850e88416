"""Things: what is here, or was, by its own words, made of the estate's spans; and which device has which."""

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, NamedTuple

from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.core.exposure.here import model_thing, release_thing, system_thing
from tarn.core.exposure.outside import Thing, distribution
from tarn.core.naming import product_key
from tarn.core.text import fold

FIRMWARE = "firmware"
COMPONENT = "c"
"""The part of what stands in a bill of materials."""
COLUMNS = (
    *("part", "package", "product", "maker", "version", "order"),
    *("distribution", "release", "platform", "hardware", "edition", "within"),
)
_QUOTED = ", ".join(f'"{c}"' for c in COLUMNS)


class Row(NamedTuple):
    """A thing as its table holds it."""

    part: str
    package: str
    product: str
    maker: str
    version: str
    order: str
    distribution: str
    release: str
    platform: str
    hardware: str
    edition: str
    within: str = ""
    """Of a component: the product and release it is part of."""

    @property
    def called(self) -> str:
        """What a list shows for it: a package by its own name."""
        return self.product if self.part == COMPONENT else self.package or self.product


class OnDevice(NamedTuple):
    """What a release and the system it stands on are, as far as a thing follows from it."""

    listed: str
    product: str
    publisher: str
    version: str
    system: str
    arch: str
    edition: str


class System(NamedTuple):
    """What a device is: its system, platform, maker and model."""

    os_name: str
    os_version: str
    platform: str
    maker: str
    model: str


def of_release(found: OnDevice, system: System) -> Row:
    """Return the thing a release is on a system. Only a package of a distribution depends on which that is."""
    # A release is of several systems where two list it alike: packages are those of Linux.
    packaged = found.system in ("deb", "rpm") and _platform(system) in ("linux", "")
    there = distribution(system.os_name, system.os_version) if packaged and system.os_name else None
    return Row(
        "a",
        found.listed if packaged else "",
        found.product,
        found.publisher,
        found.version,
        found.system if packaged else "",
        there.name if there else "",
        there.release if there else "",
        _platform(system),
        found.arch,
        found.edition,
    )


def of_system(system: System) -> list[Row]:
    """Return the things a device is itself: its system or firmware, and its model."""
    out = []
    empty = ("", "", "", "")
    if system.platform == FIRMWARE and system.model:
        name = f"{system.model} firmware"
        out.append(Row("o", "", name, system.maker, system.os_version, "", *empty, ""))
    elif system.os_name:
        out.append(Row("o", "", system.os_name, "", system.os_version, "", "", "", _platform(system), "", ""))
    if system.model:
        out.append(Row("h", "", system.model, system.maker, "", "", *empty, ""))
    return out


def _platform(system: System) -> str:
    told = fold(system.platform or system.os_name)
    return next((p for p in ("windows", "linux", "macos", "android", "ios") if p in told), "")


def under(row: Row) -> str:
    """Return what a thing stands under: its distribution, or the sort of system; of what is no software its maker."""
    if row.part == COMPONENT:
        return row.within
    if row.distribution:
        return f"{row.distribution} {row.release}".strip()
    return row.platform if row.part == "a" else row.maker


@dataclass(frozen=True)
class Names:
    """What people say of names outside: keys by product and maker, and those nobody knows."""

    keys: dict[tuple[str, str], tuple[str, ...]]
    unknown: frozenset[tuple[str, str]]

    def thing(self, row: Row) -> Thing:
        """Return a row as the core weighs it, with the names people gave it."""
        at = product_and_maker(row.product, row.maker)
        named = self.keys.get(at, ())
        if row.part == COMPONENT:
            return Thing("a", row.product, row.version, ((row.package, "component"),), row.order)
        if row.part == "o":
            thing = system_thing(row.product, row.maker, row.version, row.platform, named)
        elif row.part == "h":
            thing = model_thing(row.product, row.maker, named)
        else:
            thing = release_thing(
                row.product,
                row.maker,
                row.version,
                package=row.package,
                order=row.order,
                of=distribution(row.distribution, row.release) if row.distribution else None,
                platform=row.platform,
                hardware=row.hardware,
                edition=row.edition,
                named=named,
            )
        if at not in self.unknown:
            return thing
        kept = tuple(k for k in thing.keys if k[1] in ("rule", "package"))
        return Thing(
            thing.part, thing.name, thing.version, kept, thing.order, thing.distribution, thing.platform, thing.hardware
        )


def product_and_maker(product: str, by: str) -> tuple[str, str]:
    """Return a product's and its maker's name without spelling: what people say of names holds by these."""
    return product_key(product), product_key(by)


def names() -> Names:
    """Return the names outside as people have them now."""
    keys: dict[tuple[str, str], tuple[str, ...]] = {}
    unknown = set()
    for product, by, key in raw_connection().execute(
        "SELECT product, maker, key FROM exposure_outsidename ORDER BY id"
    ):
        if key:
            at = product_and_maker(product, by)
            keys[at] = (*keys.get(at, ()), key)
        else:
            unknown.add(product_and_maker(product, by))
    return Names(keys, frozenset(unknown))


_TEXT = "ifnull((SELECT w.text FROM estate_term w WHERE w.id = s.{}_id), '')"
SYSTEM_SQL = ", ".join(
    (
        _TEXT.format("os_name"),
        "ifnull(s.os_version, '')",
        _TEXT.format("platform"),
        _TEXT.format("manufacturer"),
        _TEXT.format("model"),
    )
)
"""The columns of a System, of an asset's span `s`."""
_RELEASE = (
    "SELECT r.id, l.name, ifnull(p.name, l.name), coalesce(nullif(p.publisher, ''), l.publisher), r.version, r.system, "
    "l.arch, l.edition FROM estate_release r JOIN estate_listing l ON l.id = r.listing_id "
    "LEFT JOIN estate_product p ON p.id = l.product_id WHERE l.role != 'update'"
)
_STANDING = (
    "SELECT DISTINCT i.release_id, s.os_name_id, s.os_version, s.platform_id FROM estate_installspan i "
    "JOIN estate_assetspan s ON s.asset_id = i.asset_id AND s.valid_from < ifnull(i.valid_to, 1e18) "
    "AND ifnull(s.valid_to, 1e18) > i.valid_from"
)


def releases(only: Iterable[int] | None = None) -> dict[int, OnDevice]:
    """Return the releases there are by number, these or all, updates of other products left out."""
    among, values = "", []
    if only is not None:
        among, values = " AND r.id IN (SELECT value FROM json_each(?))", [json.dumps(list(only))]
    return {number: OnDevice(*told) for number, *told in raw_connection().execute(_RELEASE + among, values)}


def found_here(devices: list[int] | None = None, *, now: bool = False, at: int | None = None) -> set[Row]:
    """Return the things that are or ever were on devices, all where none are named; only those that are there `now`,
    or were at a moment."""
    db = raw_connection()
    asked: list[Sql] = []
    if devices is not None:
        asked.append(Sql("s.asset_id IN (SELECT value FROM json_each(?))", [json.dumps(devices)]))
    then = [holds("s", at)] if now or at is not None else []
    among, values = _joined([*asked, *then])
    installed, of_installed = _joined([*asked, *then, *([holds("i", at)] if then else [])])
    words = dict(db.execute("SELECT id, text FROM estate_term WHERE field IN ('os_name', 'platform')"))
    there = db.execute(_STANDING + installed, of_installed).fetchall()
    by_number, rows = releases({r for r, *_ in there} if devices is not None else None), set[Row]()
    for release, os_name, os_version, platform in there:
        if (found := by_number.get(release)) is not None:
            system = System(words.get(os_name, ""), os_version or "", words.get(platform, ""), "", "")
            rows.add(of_release(found, system))
    for told in db.execute(f"SELECT DISTINCT {SYSTEM_SQL} FROM estate_assetspan s{among}", values):
        rows.update(of_system(System(*told)))
    return rows


def _joined(conditions: list[Sql]) -> tuple[str, list[Any]]:
    if not conditions:
        return "", []
    return " WHERE " + " AND ".join(f"({c.text})" for c in conditions), [v for c in conditions for v in c.values]


def numbers(rows: Iterable[Row]) -> dict[Row, int]:
    """Return the numbers of things, of those that have one."""
    wanted = set(rows)
    return {row: i for i, row in everything().items() if row in wanted}


_ONE = "SELECT 1 FROM exposure_thing WHERE " + " AND ".join(f'"{c}" = ?' for c in COLUMNS)
FEW = 2_000
"""Things up to which each is looked up by itself: beyond that all are read at once."""


def add(rows: Iterable[Row]) -> list[int]:
    """Add those of things that are new; return their numbers."""
    db, asked = raw_connection(), list(dict.fromkeys(rows))
    if len(asked) <= FEW:
        fresh = [r for r in asked if db.execute(_ONE, r).fetchone() is None]
    else:
        held = set(everything().values())
        fresh = [r for r in asked if r not in held]
    if not fresh:
        return []
    (last,) = db.execute("SELECT coalesce(max(id), 0) FROM exposure_thing").fetchone()
    added = list(enumerate(sorted(fresh), start=last + 1))
    marks = ", ".join("?" * (len(COLUMNS) + 1))
    db.executemany(f"INSERT INTO exposure_thing (id, {_QUOTED}) VALUES ({marks})", [(i, *row) for i, row in added])
    return [i for i, _ in added]


def some(numbers: list[int]) -> dict[int, Row]:
    """Return things by number."""
    cursor: Any = raw_connection().execute(
        f"SELECT id, {_QUOTED} FROM exposure_thing WHERE id IN (SELECT value FROM json_each(?))", [json.dumps(numbers)]
    )
    return {i: Row(*told) for i, *told in cursor}


_rows: Remembered[dict[int, Row]] = Remembered("things", most=1, one_at_a_time=True)


def everything() -> dict[int, Row]:
    """Return all things by number; they are only ever added, so those that came since are read alone. Read it only."""
    held = _rows.get("all", dict)
    last = next(reversed(held), 0)
    cursor: Any = raw_connection().execute(f"SELECT id, {_QUOTED} FROM exposure_thing WHERE id > ? ORDER BY id", [last])
    for number, *told in cursor:
        held[number] = Row(*told)
    return held
