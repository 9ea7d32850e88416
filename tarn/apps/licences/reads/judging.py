"""What is to be said of a position: what lies idle, what is wrong or about to be, and how departments share in it."""

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date

from tarn.apps.estate.asking.ask import assets_in_sight
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.licences.reads.keys import keys
from tarn.apps.licences.reads.reckoning import Reckoned, device_name, money, name_of, reckoned
from tarn.apps.licences.results import IdleOut, ShareOut, WarningOut
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.reads import roster
from tarn.core.licensing.cures import Idle
from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.position import Balance
from tarn.core.licensing.rights import Use

SOON = 60
"""Days before an end from which it is told."""


@dataclass(frozen=True, slots=True)
class Warning:
    """Something wrong with the licences of a balance, or about to be: its sort, in words, and of which licence."""

    sort: str
    text: str
    licence: int | None = None


def idle_of(balance: Balance, whole: Reckoned) -> list[Idle]:
    """Return the uses of a balance that could be given up: the holder has left, or nobody has used it for long."""
    return _idle_among(
        balance.products, {li.key for li in balance.licences}, {u.use.key for u in balance.uncovered}, whole
    )


def _idle_among(products: Iterable[int], mine: set[int], stray: set[int], whole: Reckoned) -> list[Idle]:
    left, after = _left(), ledger().idle_after
    wanted, out = set(products), []
    for use in whole.given.uses:
        licence = whole.held.licence_of.get(use.key)
        if use.product not in wanted or not (use.key in stray or licence in mine):
            continue
        if licence is not None and not whole.given.held[licence].transferable:
            continue  # its unit stays with the device or person it is for, so giving it up frees nothing
        last = whole.given.used.get(use.key)
        days = (whole.given.day - day_of(last)).days if last is not None else 0
        if use.person in left:
            out.append(Idle(use, f"{use.person} has left"))
        elif days > after:
            out.append(Idle(use, f"not used for {days} days"))
    return out


def _left() -> set[str]:
    return {name for name, known in roster().items() if known.left_at is not None}


def idle(at: int | None) -> list[IdleOut]:
    """Return all uses that draw on a licence, or lack one, and could be given up, with what each is worth.

    Of the branch whoever asks stands in.
    """
    whole, here = reckoned(at), assets_in_sight(at)
    out: list[tuple[int, IdleOut]] = []
    for balance in whole.balances:
        for held in idle_of(balance, whole):
            if here is not None and held.use.device not in here:
                continue
            licence = whole.held.licence_of.get(held.use.key)
            units = metric_of(balance.terms).units(balance.terms, [held.use])[0]
            worth = units * balance.price
            told: IdleOut = {
                "balance": balance.key,
                "asset": held.use.device,
                "name": device_name(whole, held.use.device),
                "person": held.use.person,
                "department": whole.given.machines[held.use.device].department,
                "product": whole.given.names[held.use.product],
                "release": held.use.release,
                "licence": whole.given.held[licence].name if licence is not None else "",
                "licence_id": licence,
                "why": held.why,
                "units": units,
                "worth": money(worth, whole) if worth else None,
                "currency": whole.currency,
            }
            out.append((worth, told))
    return [told for _, told in sorted(out, key=lambda r: (-r[0], r[1]["product"], r[1]["name"]))]


def by_department(balance: Balance, whole: Reckoned) -> list[ShareOut]:
    """Return how departments share in a balance, in its units: what is covered, what is short, and uses of each."""
    return shares(balance, lambda use: _department(use, whole), whole)


def shares(balance: Balance, of: Callable[[Use], str], whole: Reckoned) -> list[ShareOut]:
    """Return how groups share in a balance, the largest first; what a bearer needs is its first use's group's."""
    covered: Counter[str] = Counter()
    uses: Counter[str] = Counter()
    for licence in balance.licences:
        for bearer in whole.held.bearers.get(licence.key, ()):
            covered[of(bearer.uses[0])] += bearer.units
            uses.update(of(u) for u in bearer.uses)
    model = balance.terms
    borne: dict[object, list[Use]] = defaultdict(list)
    for stray in balance.uncovered:
        borne[metric_of(model).bearer(model, stray.use)].append(stray.use)
        uses[of(stray.use)] += 1
    lacking: Counter[str] = Counter()
    for some in borne.values():
        lacking[of(some[0])] += metric_of(model).units(model, some)[0]
    names = sorted({*covered, *lacking}, key=lambda n: (-(covered[n] + lacking[n]), n))
    return [{"name": n, "covered": covered[n], "uncovered": lacking[n], "uses": uses[n]} for n in names]


def _department(use: Use, whole: Reckoned) -> str:
    return whole.given.machines[use.device].department or "none known"


def warnings_of(balance: Balance, whole: Reckoned) -> list[Warning]:
    """Return what is wrong, or about to be, with the licences of a balance."""
    day, out = whole.given.day, []
    for licence in balance.licences:
        out += _of_licence(licence.key, balance, whole, day)
    if balance.short_for_right:
        out.append(
            Warning(
                "no right", f"{balance.short_for_right} {balance.unit} are needed that no licence there is may cover."
            )
        )
    if balance.short:
        uses = len(balance.uncovered)
        out.append(
            Warning(
                "unlicensed",
                f"{uses} installation{'s' * (uses != 1)} without a licence: {balance.short} {balance.unit} short.",
            )
        )
    late = sum(any("came after maintenance was over" in why for _, why in u.reasons) for u in balance.uncovered)
    if late:
        out.append(
            Warning("maintenance over", f"{late} newer release{'s' * (late != 1)} came after maintenance was over.")
        )
    disputed = sum(u.use.key in whole.given.disputed for u in balance.uncovered)
    if disputed:
        out.append(Warning("disputed", f"{disputed} disputed, counted as unlicensed."))
    idle_uses = idle_of(balance, whole)
    if people := sorted({i.use.person for i in idle_uses if i.why.endswith("has left")}):
        said = f"Held by people who have left: {', '.join(people[:5])}{' …' if len(people) > 5 else ''}."
        out.append(Warning("leavers", said))
    if unused := sum(i.why.startswith("not used") for i in idle_uses):
        many = f"{unused} installation{'s' * (unused != 1)}"
        out.append(Warning("idle", f"{many} not used for more than {ledger().idle_after} days."))
    return out


def _of_licence(number: int, balance: Balance, whole: Reckoned, day: date) -> list[Warning]:
    held, out = whole.given.held[number], []
    if held.ends and held.ends < day:
        used = " and what it covered is still used" if balance.short else ""
        out.append(
            Warning("term over", f"The term of “{held.name}” was over on {held.ends.isoformat()}{used}.", number)
        )
    elif held.ends and (held.ends - day).days <= SOON:
        left = (held.ends - day).days
        spare = f"; {counted(balance.spare, balance.unit)} spare, renew fewer" if balance.spare else ""
        said = f"“{held.name}” ends on {held.ends.isoformat()}, in {left} days{spare}."
        out.append(Warning("spare soon to renew" if balance.spare else "ends soon", said, number))
    until = held.maintained_until
    if until and until < day:
        said = f"Maintenance of “{held.name}” was over on {until.isoformat()}: newer releases are not covered."
        out.append(Warning("maintenance over", said, number))
    if later := [p for p in whole.given.purchases.get(number, ()) if p.day > day]:
        said = f"“{held.name}”: {len(later)} purchases are dated after this day and do not count."
        out.append(Warning("dated later", said, number))
    for gone in whole.given.unknown.get(number, ()):
        said = f"“{held.name}” covers “{gone}”, which no device has and never had."
        out.append(Warning("unknown product", said, number))
    return out


def counted(number: int, unit: str) -> str:
    """Return so many units in words: 1 person, 3 people, 1 core."""
    one = {"people": "person", "at once": "at once", "site": "site"}.get(unit, unit.removesuffix("s"))
    return f"{number} {one if number == 1 else unit}"


def warnings(at: int | None) -> list[WarningOut]:
    """Return all warnings, those of the costliest balance first; keys that are over-used or nobody's last."""
    whole = reckoned(at)
    out: list[WarningOut] = []
    for balance in sorted(whole.balances, key=lambda b: -(b.cure or 0)):
        for warning in warnings_of(balance, whole):
            name = name_of(balance, whole.given.names)
            out.append(
                {
                    "sort": warning.sort,
                    "text": warning.text,
                    "balance": balance.key,
                    "name": name,
                    "licence": warning.licence,
                }
            )
    for key in keys(at)["keys"]:
        if key["problem"]:
            sort = "over-used key" if key["problem"].startswith("over-used") else "key"
            text = f"The key ending in {key['tail']} is {key['problem']}."
            if key["problem"] == "nobody entered it":
                text = f"A key of {key['product']} ending in {key['tail']} was found that nobody entered."
            out.append({"sort": sort, "text": text, "balance": "", "name": key["licence_name"] or key["product"],
                        "licence": key["licence"]})  # fmt: skip
    return out
