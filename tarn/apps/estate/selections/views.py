"""Views: how the register was looked at, kept under a name: question, columns, order and bands."""

import time
from collections.abc import Iterable
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import context
from tarn.apps.estate.asking.uses import Kept
from tarn.apps.estate.models import KeptView
from tarn.apps.estate.register.pages import GIVEN, field_named
from tarn.apps.estate.register.strata import bands_there_are
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sharing import read_access, require_change
from tarn.core.filters.check import check
from tarn.core.filters.parse import FilterError, parse

EVIDENCE = "evidence"
"""The column of evidence marks, which is no field."""
_SAYS = ("name", "filter", "columns", "sort", "bands", "access")


def views() -> list[dict[str, Any]]:
    """Return the kept views whoever asks may see, by name."""
    held = visible(KeptView).select_related("made_by").order_by("name")
    return [{**{n: getattr(v, n) for n in ("id", *_SAYS)}, "made_by": _maker(v)} for v in held]


def _maker(held: KeptView) -> str:
    return held.made_by.username if held.made_by else ""


@dataclass(frozen=True)
class WantedView:
    """A view as it is to be kept; `columns` and `bands` in order, none for the usual ones."""

    name: str
    filter: str = ""
    columns: list[str] = field(default_factory=list)
    sort: str = ""
    bands: list[str] = field(default_factory=list)
    access: str = "all"

    def checked(self) -> "WantedView":
        """Return it as it may be kept. Raises Invalid, FieldError."""
        name, text, sort = self.name.strip()[:120], self.filter.strip(), self.sort.strip()
        if not name:
            raise Invalid("name", "A view needs a name.")
        try:
            check(parse(text), context(None))
        except FilterError as error:
            raise Invalid("filter", error.message) from None
        for column in [*self.columns, *([sort.lstrip("-")] if sort else [])]:
            if column not in (EVIDENCE, GIVEN):
                field_named(column)
        if unknown := next((b for b in self.bands if b not in bands_there_are()), None):
            raise Invalid("bands", f"There is no band “{unknown}”; of: {', '.join(bands_there_are())}.")
        return replace(self, name=name, filter=text, sort=sort, access=read_access(self.access))


def keep_view(user: Any, wanted: WantedView) -> KeptView:
    """Keep a view; one of that name is kept anew, if its maker lets others. Raises Invalid, FieldError, NotAllowed."""
    require(user, "keep")
    values, whose = asdict(wanted.checked()), owner(None)
    with once("name", f"There is a view “{values['name']}” of somebody's own already; choose another name."):
        kept_view = visible(KeptView).filter(name=values["name"], organisation=whose).first()
        before = None
        if kept_view is not None:
            require_change(user, kept_view.access, _maker(kept_view))
            before = {n: getattr(kept_view, n) for n in _SAYS}
            KeptView.objects.filter(pk=kept_view.pk).update(**values)
            kept_view.refresh_from_db()
        else:
            kept_view = KeptView.objects.create(**values, organisation=whose, made_by=user, made_at=int(time.time()))
        undo = {"action": "view", "number": kept_view.pk, "values": before}
        record(user, "kept a view", kept_view.name, detail={"filter": kept_view.filter}, undo=undo)
    return kept_view


def drop_view(user: Any, number: int) -> None:
    """Drop a view. Raises KeptView.DoesNotExist, NotAllowed."""
    require(user, "keep")
    with transaction.atomic():
        kept_view = visible(KeptView).get(pk=number)
        require_change(user, kept_view.access, _maker(kept_view))
        undo = {"action": "view", "number": None, "values": {n: getattr(kept_view, n) for n in _SAYS}}
        record(user, "dropped a view", kept_view.name, undo=undo)
        kept_view.delete()


@undoer("view", needs="keep")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    """Put a view back as it was: make it again, give it its former values, or take it away."""
    kept_view = visible(KeptView).filter(pk=inverse["number"] or 0).first()
    now = {n: getattr(kept_view, n) for n in _SAYS} if kept_view is not None else None
    if inverse["values"] is None:
        if kept_view is not None:
            kept_view.delete()
        return {"action": "view", "number": None, "values": now}
    if kept_view is None:
        with once("name", f"There is a view “{inverse['values']['name']}” by now."):
            kept_view = KeptView.objects.create(
                **inverse["values"], organisation=owner(None), made_by=user, made_at=int(time.time())
            )
    else:
        KeptView.objects.filter(pk=kept_view.pk).update(**inverse["values"])
    return {"action": "view", "number": kept_view.pk, "values": now}


def kept_filters() -> Iterable[Kept]:
    """Yield the filters views keep."""
    for kept_view in visible(KeptView).exclude(filter="").order_by("name"):
        yield Kept("view", kept_view.name, f"/estate?view={kept_view.pk}", kept_view.filter)
