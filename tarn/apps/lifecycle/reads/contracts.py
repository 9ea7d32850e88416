"""Contracts as they stand on a day."""

import time
from datetime import date, datetime

from django.db.models import Count, Sum

from tarn.apps.estate.asking.ask import assets_in_sight, ids, question
from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.estate.selections.membership import members_of
from tarn.apps.licences.reads.dated import licence_names
from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.results import ContractOut, ContractRow, FormerOut
from tarn.apps.people.actions.audit import open_entries
from tarn.apps.people.reads import KnownPerson, roster
from tarn.apps.people.scope import asker, visible
from tarn.core.finance.agreed import Former, Stretch, stretches, with_terms
from tarn.core.finance.contracts import Agreed, standing
from tarn.core.finance.money import from_minor

DECISIONS = ("renew", "replace", "let go")
VERBS = ("entered a contract", "changed a contract", "undecided", *(f"decided to {d}" for d in DECISIONS))
"""What the audit trail says of a contract."""


def today() -> date:
    """Return the day it is in the company's time zone."""
    return day_of(None)


def as_agreed(held: Contract) -> Agreed:
    """Return the term of a contract as the core knows it."""
    return Agreed(held.starts, held.ends, held.renews, held.notice)


DATED = (
    *("provider", "number", "starts", "ends", "renews", "notice", "cost", "currency", "every", "first_payment"),
    *("covers", "licences", "people"),
)
"""What of a contract is told of a past day as it was then."""
_DAYS = ("starts", "ends", "first_payment")


def former_terms(held: Contract) -> list[Former]:
    """Return the terms a contract had before they were changed, in order of their days."""
    return [Former(date.fromisoformat(one["until"]), one["terms"]) for one in held.former]


def terms_over_time(held: Contract) -> list[Stretch]:
    """Return what a contract was from when to when, as it is now last."""
    return list(stretches(held, former_terms(held), DATED, _DAYS))


def then(held: Contract, day: date) -> Contract:
    """Return a contract with the terms it had on a day."""
    return next(s.terms for s in terms_over_time(held) if s.until is None or day < s.until)


def as_of(day: date) -> list[Contract]:
    """Return the contracts whoever asks may see, with the terms each had on a day."""
    return [then(contract, day) for contract in visible(Contract)]


def covered(held: Contract, at: int | None) -> list[int]:
    """Return the assets of the register a contract covers; none where it says nothing of devices."""
    if not held.covers:
        return []
    whole = asker().everywhere()
    return sorted(members_of(held.covers, whole) if at is None else ids(question(held.covers, at, whole)))


def row(held: Contract, at: int | None) -> ContractRow:
    """Return a contract as it is listed."""
    day = day_of(at)
    stands = standing(as_agreed(held), day)
    decided = held.decided if held.decided_for == stands.ends else ""
    return {
        "id": held.pk,
        "name": held.name,
        "provider": held.provider,
        "kind": held.kind,
        "number": held.number,
        "state": stands.state,
        "starts": held.starts.isoformat(),
        "ends": stands.ends.isoformat() if stands.ends else None,
        "notice_by": stands.notice_by.isoformat() if stands.notice_by else None,
        "days_left": (stands.ends - day).days if stands.ends else None,
        "notice_days": (stands.notice_by - day).days if stands.notice_by else None,
        "renews": held.renews,
        "times": stands.times,
        "cost": str(from_minor(held.cost, held.currency)) if held.every else None,
        "currency": held.currency,
        "every": held.every,
        "covers": held.covers,
        "devices": len(covered(held, at)),
        "decided": decided,
    }


def covering(here: frozenset[int] | None, at: int | None) -> list[Contract]:
    """Return the contracts that cover some of these assets; all, for None."""
    contracts = as_of(day_of(at))
    return (
        contracts
        if here is None
        else [contract for contract in contracts if not here.isdisjoint(covered(contract, at))]
    )


def listed(at: int | None) -> list[ContractRow]:
    """Return all contracts, those that end first before the others, what is over last.

    In a branch: those that cover a device there.
    """
    rows = [row(contract, at) for contract in covering(assets_in_sight(at), at)]
    return sorted(rows, key=lambda r: (r["state"] == "over", r["ends"] or "9999", r["name"]))


def opened(held: Contract, at: int | None) -> ContractOut:
    """Return one contract with the devices it covers and what was decided of it."""
    former = [_said(held, one) for one in reversed(former_terms(held))]
    held = then(held, day_of(at))
    assets = covered(held, at)
    people = roster(at)
    history = open_entries().filter(thing=held.name, verb__in=VERBS).order_by("-at")[:50]
    return {
        **row(held, at),
        "agreed_until": held.ends.isoformat() if held.ends else None,
        "notice": held.notice,
        "notices": held.notices,
        "first_payment": held.first_payment.isoformat() if held.first_payment else None,
        "note": held.note,
        "former": former,
        "version": held.version,
        "assets": named(assets[:200], at),
        "gone": _gone(held, set(assets), at),
        "licences": [{"name": n, "there": n in licence_names()} for n in held.licences],
        "people": [{"name": n, "there": _works_here(people.get(n))} for n in held.people],
        "history": [
            {"at": entry.at, "who": entry.who, "verb": entry.verb, "why": entry.detail.get("why", "")}
            for entry in history
        ],
    }


def _said(held: Contract, former: Former) -> FormerOut:
    """Return what was agreed before, as it is shown."""
    was = with_terms(held, former.terms, DATED, _DAYS)
    cost = str(from_minor(was.cost, was.currency)) if was.every else None
    return {
        "until": former.until.isoformat(),
        "cost": cost,
        "currency": was.currency,
        "every": was.every,
        "provider": was.provider,
    }


def _gone(held: Contract, now: set[int], at: int | None) -> list[NamedDevice]:
    """Return the devices that were covered when the contract began and are no longer."""
    began = int(datetime(held.starts.year, held.starts.month, held.starts.day, tzinfo=zone()).timestamp()) + 86_399
    if not held.covers or began >= time.time():
        return []
    before = set(covered(held, began)) - now
    there = {row["id"]: row for row in named(sorted(before)[:200], at)}
    rows = [there.get(a) for a in sorted(before)[:200]]
    return [row for row in rows if row is not None]


def _works_here(known: KnownPerson | None) -> bool:
    return known is not None and known.left_at is None


def running(at: int | None) -> list[tuple[Contract, list[int]]]:
    """Return the contracts in force at a moment that cost something again and again, with the assets they cover."""
    day = day_of(at)
    contracts = [one for one in as_of(day) if one.every not in ("", "once")]
    return [
        (contract, covered(contract, at))
        for contract in contracts
        if standing(as_agreed(contract), day).state == "in force"
    ]


def contracts_version() -> tuple[int, int]:
    """Return what changes whenever a contract does."""
    told = Contract.objects.aggregate(number=Count("pk"), versions=Sum("version"))
    return told["number"], told["versions"] or 0


def standing_over(asset: int, at: int | None) -> list[tuple[Contract, date | None]]:
    """Return the contracts in force at a moment that cover an asset, each with the end of its term."""
    day, out = day_of(at), []
    for contract in as_of(day):
        stands = standing(as_agreed(contract), day)
        if contract.covers and stands.state == "in force" and asset in covered(contract, at):
            out.append((contract, stands.ends))
    return out
