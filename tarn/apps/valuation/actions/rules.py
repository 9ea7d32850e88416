"""Rules of depreciation, and terms of single assets: made, changed, put in order, dropped."""

from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import Max

from tarn.apps.estate.asking.ask import question, visible_among
from tarn.apps.estate.register.identifiers import documents_of, numbers_of
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.rows import drop, edit, inverse, rows_undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.valuation.inputs import DepreciationRuleIn, TermsIn
from tarn.apps.valuation.models import AssetTerms, DepreciationRule
from tarn.apps.valuation.reads.values import as_core, of_asset
from tarn.core.filters.parse import FilterError
from tarn.core.finance.depreciation import DepreciationError, segments

_RULES = "depreciation rules"
rows_undoer(_RULES, DepreciationRule, "plan")
MOST_CHANGES = 12


def percent(told: object, field: str) -> int:
    """Return a percentage in hundredths of a percent; what is finer is refused, not rounded. Raises Invalid."""
    try:
        exact = Decimal(str(told or 0).strip().replace(",", ".")) * 100
        out = int(exact)
    except (ArithmeticError, ValueError):
        raise Invalid(field, f"“{told}” is no percentage; write it like 12.5.") from None
    if exact != out:
        raise Invalid(
            field, f"“{told}” is finer than a hundredth of a percent, which is as fine as it is kept: {out / 100}."
        )
    if not 0 <= out <= 10_000:
        raise Invalid(field, "A residual value is 0 to 100 percent of the cost.")
    return out


def _rule(data: DepreciationRuleIn) -> dict[str, Any]:
    name = data.name.strip()
    if not name:
        raise Invalid("name", "A rule needs a name.")
    changes = [
        {"day": c.day.isoformat(), "months": c.months, "residual": percent(c.residual, "changes")} for c in data.changes
    ]
    if len(changes) > MOST_CHANGES:
        raise Invalid("changes", f"{len(changes)} changes are too many: at most {MOST_CHANGES}.")
    out: dict[str, Any] = {
        "name": name[:200],
        "filter": data.filter.strip(),
        "months": data.months,
        "residual": percent(data.residual, "residual"),
        "method": data.method,
        "convention": data.convention,
        "factor": data.factor,
        "changes": sorted(changes, key=lambda c: str(c["day"])),
    }
    try:
        question(out["filter"])
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    try:
        as_core(DepreciationRule(**out))
    except DepreciationError as wrong:
        raise Invalid(wrong.field, _sentence(wrong)) from None
    return out


def _sentence(wrong: DepreciationError) -> str:
    said = str(wrong)
    return said[:1].upper() + said[1:] + "."


def make_rule(user: Any, data: DepreciationRuleIn) -> DepreciationRule:
    """Make a rule, after those there are. Raises Invalid."""
    require(user, "plan")
    checked = _rule(data)
    with once("name", f"There is a rule “{checked['name']}” already."):
        last = visible(DepreciationRule).aggregate(last=Max("position"))["last"] or 0
        made = DepreciationRule.objects.create(**checked, position=last + 1, organisation=owner(data.organisation))
        record(user, "made a rule of depreciation", made.name, undo=inverse(_RULES, made, made=True))
    return made


def change_rule(user: Any, number: int, data: DepreciationRuleIn) -> DepreciationRule:
    """Change a rule from the version the edit was made from. Raises Invalid, Stale, DepreciationRule.DoesNotExist."""
    require(user, "plan")
    checked = _rule(data)
    with once("name", f"There is a rule “{checked['name']}” already."):
        verb = "changed a rule of depreciation"
        depreciation_rule: DepreciationRule = edit(user, DepreciationRule, number, data.version, checked, _RULES, verb)
    return depreciation_rule


def move_rule(user: Any, number: int) -> None:
    """Move a rule before the one it follows. Raises DepreciationRule.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        order = list(visible(DepreciationRule))
        at = next((n for n, one in enumerate(order) if one.pk == number), None)
        if at is None:
            raise DepreciationRule.DoesNotExist
        if at:
            order[at - 1], order[at] = order[at], order[at - 1]
        for position, one in enumerate(order, start=1):
            one.position, one.version = position, one.version + 1
            one.save(update_fields=["position", "version"])
        record(user, "put rules of depreciation in order", next(o.name for o in order if o.pk == number))


def drop_rule(user: Any, number: int) -> None:
    """Drop a rule. Raises DepreciationRule.DoesNotExist."""
    require(user, "plan")
    drop(user, DepreciationRule, number, _RULES, "dropped a rule of depreciation")


rows_undoer("asset terms", AssetTerms, "plan")


def set_terms(user: Any, asset: int, data: TermsIn) -> AssetTerms:
    """Give one asset terms of its own, or change them. Raises Invalid, Stale."""
    require(user, "plan")
    documents = documents_of(asset) if visible_among([asset]) else []
    if not documents:
        raise Invalid("asset", f"There is no asset {asset}.")
    values = _terms(data)
    asset_terms = AssetTerms.objects.filter(anchor__in=documents).first()
    now = asset_terms or AssetTerms(anchor=documents[0], version=0)
    require_version(now, data.version, "Its terms", {"version": now.version})
    back = inverse("asset terms", asset_terms) if asset_terms is not None else None
    for name, value in values.items():
        setattr(now, name, value)
    now.made_by, now.version = user.username, now.version + 1
    try:
        segments(of_asset(now))
    except DepreciationError as wrong:
        raise Invalid(wrong.field, _sentence(wrong)) from None
    with transaction.atomic():
        now.save()
        named = numbers_of([asset]).get(asset, str(asset))
        undo = back or inverse("asset terms", now, made=True)
        record(user, "gave terms of its own to", named, detail={"why": now.why}, undo=undo)
    return now


def _terms(data: TermsIn) -> dict[str, Any]:
    own = ledger().currency
    if data.start is None:
        raise Invalid("start", "Say from which day it is written down.")
    revisions = [
        {
            "day": r.day.isoformat(),
            "months_left": r.months_left,
            "residual": read_amount(r.residual, own, field="revisions")[0],
        }
        for r in data.revisions
    ]
    return {
        "cost": read_amount(data.cost, own, field="cost")[0],
        "start": data.start,
        "months": data.months,
        "residual": read_amount(data.residual, own, field="residual")[0],
        "method": data.method,
        "convention": data.convention,
        "factor": data.factor,
        "revisions": sorted(revisions, key=lambda r: str(r["day"])),
        "why": data.why.strip()[:300],
    }


def drop_terms(user: Any, asset: int) -> None:
    """Let an asset's rule hold for it again. Raises Invalid where it has no terms of its own."""
    require(user, "plan")
    documents = documents_of(asset) if visible_among([asset]) else []
    asset_terms = AssetTerms.objects.filter(anchor__in=documents).first()
    if asset_terms is None:
        raise Invalid("asset", "It has no terms of its own.")
    with transaction.atomic():
        back = inverse("asset terms", asset_terms)
        asset_terms.delete()
        record(user, "took back terms of", numbers_of([asset]).get(asset, str(asset)), undo=back)
