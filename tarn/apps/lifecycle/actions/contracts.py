"""Contracts: entered, changed, decided on, dropped."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.licences.reads.dated import licence_names
from tarn.apps.lifecycle.inputs import ContractIn
from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.reads.contracts import DATED, DECISIONS, as_agreed, former_terms, today
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.actions.rows import drop, edit, inverse, rows_undoer
from tarn.apps.people.reads import roster
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.filters.parse import FilterError
from tarn.core.finance.agreed import changed_from, told, with_terms
from tarn.core.finance.contracts import standing
from tarn.core.finance.payments import EVERY

KINDS = ("support", "maintenance", "lease", "subscription", "service")
MOST_NOTICES = 6

rows_undoer("contracts", Contract, "plan")


def _checked(data: ContractIn) -> dict[str, Any]:
    out: dict[str, Any] = {n: getattr(data, n).strip() for n in ("name", "provider", "kind", "number", "note")}
    for field, word in (("name", "a name"), ("provider", "a provider")):
        if not out[field]:
            raise Invalid(field, f"A contract needs {word}.")
    if out["kind"] not in KINDS:
        raise Invalid("kind", f"“{out['kind']}” is no kind of contract; one of: {', '.join(KINDS)}.")
    if data.starts is None:
        raise Invalid("starts", "Say when it begins.")
    out |= {"starts": data.starts, "ends": data.ends, "covers": data.covers.strip()}
    if out["ends"] and out["ends"] < out["starts"]:
        raise Invalid("ends", "The term ends before it begins.")
    for field in ("renews", "notice"):
        out[field] = getattr(data, field)
        if out[field] < 0:
            raise Invalid(field, "This is not less than nothing.")
    if out["renews"] and not out["ends"]:
        raise Invalid("renews", "What has no end does not go on after it; say when the first term ends.")
    for field in ("licences", "people"):
        out[field] = list(dict.fromkeys(n.strip()[:300] for n in getattr(data, field) if n.strip()))
    if unknown := sorted(set(out["licences"]) - licence_names()):
        raise Invalid("licences", f"There is no licence “{unknown[0]}”.")
    if unknown := sorted(set(out["people"]) - set(roster())):
        raise Invalid("people", f"Nobody of the company is called “{unknown[0]}”.")
    out["notices"] = sorted(set(data.notices), reverse=True)
    if any(n < 0 for n in out["notices"]) or len(out["notices"]) > MOST_NOTICES:
        raise Invalid("notices", f"Days before the end, at most {MOST_NOTICES} of them: 90, 45, 14.")
    try:
        question(out["covers"])
    except FilterError as error:
        raise Invalid("covers", error.message) from None
    return out | _cost(data, out)


def _cost(data: ContractIn, agreed: dict[str, Any]) -> dict[str, Any]:
    every = data.every
    if not every:
        return {"cost": 0, "currency": "", "every": "", "first_payment": None}
    if every not in EVERY:
        raise Invalid("every", f"“{every}” is no rhythm of payment; one of: {', '.join(EVERY)}.")
    first = data.first_payment or agreed["starts"]
    cost, currency = read_amount(data.cost, data.currency, first, field="cost")
    return {"cost": cost, "currency": currency, "every": every, "first_payment": first}


def make_contract(user: Any, data: ContractIn) -> Contract:
    """Enter a contract. Raises Invalid."""
    require(user, "plan")
    checked = _checked(data)
    with once("name", f"There is a contract “{checked['name']}” already."):
        made = Contract.objects.create(
            **checked, made_by=user.username, made_at=int(time.time()), organisation=owner(data.organisation)
        )
        record(user, "entered a contract", made.name, undo=inverse("contracts", made, made=True))
    return made


def change_contract(user: Any, number: int, data: ContractIn) -> Contract:
    """Change a contract from the version the edit was made from.

    `holds_from`: the day from which its new terms hold; what was paid before stays as it was agreed then. None: it was
    always so, and what was said before was wrong. Raises Invalid, Stale, Contract.DoesNotExist.
    """
    require(user, "plan")
    checked, since = _checked(data), data.holds_from
    if since is not None and since > today():
        raise Invalid("holds_from", "This day is still to come.")
    with once("name", f"There is a contract “{checked['name']}” already."):
        contract = visible(Contract).get(pk=number)
        before = told(contract, DATED)
        after = told(with_terms(contract, checked, DATED, ()), DATED)
        if since is None:
            checked["former"] = []
        elif before != after:
            former = changed_from(former_terms(contract), before, since)
            checked["former"] = [{"until": one.until.isoformat(), "terms": dict(one.terms)} for one in former]
        changed: Contract = edit(user, Contract, number, data.version, checked, "contracts", "changed a contract")
    return changed


def decide_on(user: Any, number: int, decision: str, why: str) -> Contract:
    """Decide whether the term in force is renewed, replaced or let go; empty takes the decision back.

    Raises Invalid, Contract.DoesNotExist.
    """
    require(user, "plan")
    if decision and decision not in DECISIONS:
        raise Invalid("decided", f"One of {', '.join(DECISIONS)} can be decided.")
    with transaction.atomic():
        held = visible(Contract).get(pk=number)
        back = inverse("contracts", held)
        held.decided = decision
        held.decided_for = standing(as_agreed(held), today()).ends if decision else None
        held.version += 1
        held.save()
        record(user, f"decided to {decision}" if decision else "undecided", held.name, detail={"why": why}, undo=back)
    return held


def drop_contract(user: Any, number: int) -> None:
    """Drop a contract. Raises Contract.DoesNotExist."""
    require(user, "plan")
    drop(user, Contract, number, "contracts", "dropped a contract")
