"""One proposed change as a whole: what it ends and why it stands where it does, whether it may be made, who can."""

from collections import Counter

from tarn.apps.discovery.credentials.acting_access import Ways
from tarn.apps.discovery.sources.tickets import desks
from tarn.apps.estate.asking.ask import Question, ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.targets import known, product_number
from tarn.apps.exposure.doing.ending_it import Change, telling_measures
from tarn.apps.exposure.doing.first import change_named
from tarn.apps.exposure.doing.given import given_for
from tarn.apps.exposure.doing.results import ChangePage, ChangeWordOut, DoableOut, ProposedChange, RightsOut, WhyNot
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.finding.findings import Knowledge
from tarn.apps.exposure.models import ChangeWord
from tarn.apps.licences.reads.upgrading import rights_to
from tarn.apps.software.reads.rulings import of_products
from tarn.apps.tasks.reads import latest_of
from tarn.core.filters.tree import EVERYTHING, to_text
from tarn.core.tasks import order_for

TASK_OF = {"update": "update", "remove": "uninstall"}
"""The task on devices that makes a change, by its verb; of others there is none."""


def change_page(asked: Question, key: str, knowledge: Knowledge = "then") -> ChangePage | None:
    """Return a change proposed on a selection; None where it ends nothing there by now."""
    found = change_named(asked, key, knowledge)
    if found is None:
        return None
    change, row = found
    within = to_text(asked.tree) if asked.tree != EVERYTHING else ""
    text = f"({within}) and {row['filter']}" if within else row["filter"]
    assets = ids(question(text, asked.at))
    product = product_number(change.what) if change.verb in ("update", "remove", "replace") else None
    judged = of_products(asked.at, [product])[product][0] if product is not None else None
    return {
        "change": row,
        "filter": text,
        "product_id": product,
        "task": TASK_OF.get(change.verb, "") if product is not None else "",
        "ruling": judged.verdict if judged else "",
        "ruling_why": judged.why if judged else "",
        "rights": _rights(change, row, assets, asked.at),
        "doable": _doable(change, product, assets),
        "measures": _measures(change, row),
        "desks": [{"id": n, "name": name} for n, name in desks().items()],
        "words": _words(key),
        "given": given_for(key),
        "tasks": [{"id": t.pk, "kind": t.kind, "state": t.state, "asked_at": iso(t.asked_at)} for t in latest_of(text)],
    }


def _rights(change: Change, row: ProposedChange, assets: list[int], at: int | None) -> RightsOut | None:
    if change.verb != "update" or not row["target"]:
        return None
    told = rights_to(change.what, row["target"], assets, at)
    return None if told is None else {"of": told.of, "without": told.without, "why": told.why}


def _doable(change: Change, product: int | None, assets: list[int]) -> DoableOut:
    """Return on how many devices Tarn can make a change itself, and why not on the others, most often first."""
    kind = TASK_OF.get(change.verb)
    if kind is None or product is None:
        return {"devices": 0, "of": len(assets), "why": []}
    ways, refused, able = Ways(), Counter[str](), 0
    for device in known(assets, product):
        order = order_for(kind, device.target)
        why = order.refused or ways.to(device.target.address).refused
        if why:
            refused[why] += 1
        else:
            able += 1
    reasons: list[WhyNot] = [{"why": why, "devices": times} for why, times in refused.most_common(4)]
    return {"devices": able, "of": len(assets), "why": reasons}


def _measures(change: Change, row: ProposedChange) -> list[str]:
    if change.verb != "take measures":
        return []
    number = number_of(change.what)
    return telling_measures([number]).get(number, []) if number is not None else []


def _words(key: str) -> list[ChangeWordOut]:
    held = ChangeWord.objects.filter(key=key, ended_at=None)
    return [
        {"id": w.pk, "word": w.word, "reason": w.reason, "made_by": w.made_by, "made_at": iso(w.made_at)} for w in held
    ]
