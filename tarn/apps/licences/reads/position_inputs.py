"""What a position is reckoned from on a day: licences as the core knows them, uses, and what does not count."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cache

from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.selections.phrases import phrase_values
from tarn.apps.estate.software.installed import (
    Installed,
    Machine,
    hosts_of,
    installed,
    is_trial,
    machines,
    product_names,
    products_named,
)
from tarn.apps.licences.models import Licence as Held
from tarn.apps.licences.models import Need, Pin, Purchase, UseRecord
from tarn.apps.licences.reads.terms import as_of
from tarn.apps.lifecycle.reads.support import release_days
from tarn.apps.money.reads.ledger import rates
from tarn.apps.people.reads import roster
from tarn.apps.people.scope import visible
from tarn.core.finance.money import Rates
from tarn.core.licensing.position import LeftOut
from tarn.core.licensing.records import peak
from tarn.core.licensing.rights import Licence, Use
from tarn.core.patterns import pattern
from tarn.core.text import fold

OUT_OF_USE = ("retired", "disposed", "lost or stolen")
"""States of devices on which an installation does not count; in stock it counts, for installed is installed."""


@dataclass(slots=True)
class Counted:
    """What counts on one device and what does not: uses, products left out by reason, the disputed and pinned ones,
    and when each was used last."""

    uses: list[Use] = field(default_factory=list)
    out: list[tuple[str, int]] = field(default_factory=list)
    disputed: list[int] = field(default_factory=list)
    pins: dict[int, int] = field(default_factory=dict)
    used: dict[int, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Given:
    """Everything a position of a day follows from. `unknown`: by licence the products it names that nobody has
    seen; `used`: by use the moment of its last use, where the system tells; `of_device`, `product_of` and `person_of`:
    what it was put together from, to carry it on."""

    day: date
    licences: list[Licence]
    held: dict[int, Held]
    purchases: dict[int, list[Purchase]]
    uses: list[Use]
    pins: dict[int, int]
    peaks: dict[int, int]
    left_out: list[LeftOut]
    aside: dict[int, list[tuple[int, str]]]
    disputed: set[int]
    machines: dict[int, Machine]
    names: dict[int, str]
    unknown: dict[int, list[str]]
    used: dict[int, int]
    of_device: dict[int, Counted]
    product_of: dict[str, int | None]
    person_of: dict[str, str]


def given(at: int | None, before: Given | None = None, touched: Iterable[int] = ()) -> Given:
    """Gather what the position of a moment follows from. Raises MoneyError where a rate is missing.

    `before`: what it was when only the evidence of the `touched` devices was another; they alone are read anew.
    """
    day = day_of(at)
    held = as_of(day)
    named = {one.pk: products_of(one.products) for one in held.values()}
    bought: dict[int, list[Purchase]] = defaultdict(list)
    for one in visible(Purchase):
        bought[one.licence_id].append(one)
    wanted = {n for some in named.values() for n in some} | set(visible(Need).values_list("product", flat=True))
    product_of = products_named(sorted(wanted))
    known = rates()
    licences = [_as_core(one, named[one.pk], bought[one.pk], product_of, day, known) for one in held.values()]
    person_of = {known.account: name for name, known in roster(at).items() if known.account}
    if before is not None and (before.product_of, before.person_of) != (product_of, person_of):
        before = None
    devices, of_device = _devices(at, before, touched, product_of, person_of, day)
    counted = list(of_device.values())
    left_out: dict[str, dict[int, list[int]]] = defaultdict(lambda: defaultdict(list))
    aside: dict[int, list[tuple[int, str]]] = defaultdict(list)
    for asset, one_ in of_device.items():
        for reason, product in one_.out:
            left_out[reason][product].append(asset)
            aside[product].append((asset, reason))
    return Given(
        day=day,
        licences=[one for one in licences if one.products],
        held=held,
        purchases=bought,
        uses=[use for c in counted for use in c.uses],
        pins={key: licence for c in counted for key, licence in c.pins.items()},
        peaks=_peaks(licences, product_names(), day),
        left_out=[LeftOut(r, {p: sorted(d) for p, d in c.items()}) for r, c in sorted(left_out.items())],
        aside=dict(aside),
        disputed={key for c in counted for key in c.disputed},
        machines=devices,
        names=product_names(),
        used={key: last for c in counted for key, last in c.used.items()},
        unknown={k: gone for k, one in held.items() if (gone := [n for n in named[k] if product_of[n] is None])},
        of_device=of_device,
        product_of=product_of,
        person_of=person_of,
    )


def _devices(
    at: int | None,
    before: Given | None,
    touched: Iterable[int],
    product_of: dict[str, int | None],
    person_of: dict[str, str],
    day: date,
) -> tuple[dict[int, Machine], dict[int, Counted]]:
    """Return the devices and what counts on each, in the order of their numbers; those not touched as they were."""
    products = {t for t in product_of.values() if t is not None}
    says = _said(day, product_of)
    if before is None:
        devices = machines(at)
        return devices, _counted(installed(products, at), devices, says, person_of)
    hosts, again = hosts_of(at), set(touched)
    # What a guest needs follows from its host as well.
    again |= {guest for guest, host in hosts.items() if host in again}
    again |= {a for a, machine in before.machines.items() if machine.host != hosts.get(a)}
    fresh = machines(at, sorted(again))
    devices = {a: m for a, m in before.machines.items() if a not in again} | fresh
    counted = {a: c for a, c in before.of_device.items() if a not in again}
    counted |= _counted(installed(products, at, sorted(again)), devices, says, person_of)
    return devices, {a: counted[a] for a in sorted(counted)}


def differing(before: Given, now: Given, devices: Iterable[int]) -> set[int]:
    """Return the products of which a use, or what is left out, differs on some devices."""
    out: set[int] = set()
    none = Counted()
    for asset in devices:
        was, is_ = before.of_device.get(asset, none), now.of_device.get(asset, none)
        old, new = {u.product: u for u in was.uses}, {u.product: u for u in is_.uses}
        named = _called(before.machines.get(asset)) == _called(now.machines.get(asset))
        out |= {p for p in {*old, *new} if not named or old.get(p) != new.get(p)}
        out |= {product for _, product in set(was.out) ^ set(is_.out)}
    return out


def _called(machine: Machine | None) -> str:
    return "" if machine is None else machine.name or machine.number


def products_of(names: list[str]) -> list[str]:
    """Return the products a licence names, those of its phrases among them; a phrase's patterns are looked up."""
    out: list[str] = []
    phrases: dict[str, tuple[str, ...]] | None = None
    for name in names:
        if not name.startswith("@"):
            out.append(name)
            continue
        phrases = phrase_values() if phrases is None else phrases
        for value in phrases.get(name[1:], ()):
            if len(value) > 2 and value.startswith("/") and value.endswith("/"):
                wanted = pattern(value[1:-1])
                out += [product for product in product_names().values() if wanted.search(product)]
            else:
                out.append(value)
    return list(dict.fromkeys(out))


def _as_core(
    held: Held,
    products: list[str],
    bought: Iterable[Purchase],
    product_of: dict[str, int | None],
    day: date,
    known: Rates,
) -> Licence:
    lines = [purchase for purchase in bought if purchase.day <= day]
    last = next((purchase for purchase in reversed(lines) if purchase.quantity > 0), None)
    return Licence(
        key=held.pk,
        name=held.name,
        metric=held.metric,
        quantity=None if held.without_limit else max(0, sum(purchase.quantity for purchase in lines)),
        products=frozenset(t for n in products if (t := product_of[n]) is not None),
        release=held.release,
        downgrade=held.downgrade,
        maintained_until=held.maintained_until,
        starts=held.starts or date.min,
        ends=held.ends,
        departments=frozenset(fold(d) for d in held.departments),
        second_device=held.second_device,
        guests="host" if held.guests == "host" else "own",
        per_processor=held.per_processor,
        pack=held.pack,
        per_host=held.per_host,
        formula=held.formula,
        edition=fold(held.edition),
        organisation=held.organisation.name if held.organisation else "",
        shared=held.shared,
        price=known.convert(last.price, last.currency, known.base, last.day) if last else 0,
    )


def _counted(
    found: list[Installed],
    devices: dict[int, Machine],
    says: dict[tuple[int, int], Pin],
    person_of: dict[str, str],
) -> dict[int, Counted]:
    """Return by device what counts and what does not."""
    released, people = release_days(), _spelt(devices)
    names = product_names()
    days: dict[int, date] = {}
    folded = cache(fold)
    holder: _Holder | None = None
    out: dict[int, Counted] = {}
    for one in found:
        machine = devices.get(one.asset)
        if machine is None:
            continue
        if holder is None or holder.asset != one.asset:
            holder = _holder(one.asset, machine, devices, person_of, people)
        mine = out.setdefault(one.asset, Counted())
        pin = says.get((one.asset, one.product))
        reason = ""
        if machine.state in OUT_OF_USE:
            reason = f"on devices that are {machine.state}"
        elif is_trial(one.edition):
            reason = "trial or free editions"
        elif pin is not None and pin.says == "exempt":
            reason = "exempt: " + (pin.why or "no reason given") + (f", until {pin.until}" if pin.until else "")
        if reason:
            mine.out.append((reason, one.product))
            continue
        day, dated = released.of(names.get(one.product, ""), one.version), "released"
        if day is None:
            moment, dated = (one.since, "first seen") if one.installed is None else (one.installed, "installed")
            day = days.get(moment) or days.setdefault(moment, day_of(moment))
        use = holder.use(one, day, dated, folded(one.edition))
        mine.uses.append(use)
        if one.used is not None:
            mine.used[use.key] = one.used
        if pin is not None and pin.says == "disputed":
            mine.disputed.append(use.key)
        elif pin is not None and pin.licence_id:
            mine.pins[use.key] = pin.licence_id
    return out


def _spelt(devices: dict[int, Machine]) -> dict[str, str]:
    """Return by folded name how people's names are written, for one is one whatever the case of letters."""
    out: dict[str, str] = {}
    for asset in sorted(devices):
        if devices[asset].person:
            out.setdefault(fold(devices[asset].person), devices[asset].person)
    return out | {fold(name): name for name in roster()}


@dataclass(frozen=True, slots=True)
class _Holder:
    """What licences ask of the device, the same for all that is on it."""

    asset: int
    person: str
    department: str
    organisation: str
    host: int | None
    processors: int
    cores: int
    host_processors: int
    host_cores: int
    facts: dict[str, float]

    def use(self, one: Installed, since: date, dated: str, edition: str) -> Use:
        """Return the use of a product here; `edition`: folded."""
        return Use(
            one.asset << 32 | one.product,
            one.product,
            one.version,
            one.asset,
            self.person,
            since,
            self.department,
            self.host is not None,
            self.host,
            self.processors,
            self.cores,
            self.host_processors,
            self.host_cores,
            dated,
            edition,
            self.organisation,
            self.facts,
        )


def _holder(
    asset: int,
    machine: Machine,
    devices: dict[int, Machine],
    person_of: dict[str, str],
    people: dict[str, str],
) -> _Holder:
    host = devices.get(machine.host) if machine.host is not None else None
    return _Holder(
        asset=asset,
        person=people.get(fold(machine.person), "") or person_of.get(machine.account, ""),
        department=fold(machine.department),
        organisation=machine.organisation,
        host=machine.host if host is not None else None,
        processors=machine.processors,
        cores=machine.cores,
        host_processors=host.processors if host is not None else 0,
        host_cores=host.cores if host is not None else 0,
        # What is not known is no nought: a formula says so.
        facts={n: v for n, v in (("memory", machine.memory), ("cores", float(machine.cores))) if v},
    )


def _said(day: date, product_of: dict[str, int | None]) -> dict[tuple[int, int], Pin]:
    """Return what people say of products on devices on a day; the latest word holds."""
    pins = [p for p in visible(Pin).order_by("pk") if p.begins <= day and (p.until is None or day <= p.until)]
    also = products_named({p.product for p in pins} - set(product_of))
    named = {**product_of, **also}
    return {(p.asset, product): p for p in pins if (product := named[p.product]) is not None}


def _peaks(licences: list[Licence], names: dict[int, str], day: date) -> dict[int, int]:
    """Return of concurrent licences the most that used one of their products at once in the year up to a day."""
    out = {}
    until = int(datetime(day.year, day.month, day.day, tzinfo=zone()).timestamp()) + 86_400
    for licence in licences:
        if licence.metric != "concurrent use":
            continue
        records = visible(UseRecord).filter(
            product__in=[names[p] for p in licence.products], begins__lt=until, ends__gt=until - 365 * 86_400
        )
        if spans := list(records.values_list("begins", "ends")):
            out[licence.key] = peak(spans)
    return out
