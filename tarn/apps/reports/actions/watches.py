"""Watches: made, changed, asked when they are due, and what they write."""

import logging
import time
from collections.abc import Collection
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError as BadAddress
from django.core.validators import validate_email
from django.db import transaction
from django.http import Http404

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.reads import KnownPerson, roster
from tarn.apps.people.roles import ROLES, require
from tarn.apps.people.scope import limited_to, scope_of, visible
from tarn.apps.people.sealing import seal
from tarn.apps.reports.calling import check_call, is_call
from tarn.apps.reports.composing import ReportAnswer, addressed, answer, called, compose, held_rows
from tarn.apps.reports.inputs import WatchIn
from tarn.apps.reports.models import Letter, Watch
from tarn.apps.reports.reads.asking import found
from tarn.apps.reports.writing import FORMATS
from tarn.core.filters.parse import FilterError
from tarn.core.reports import ReportError
from tarn.core.schedule import ScheduleError, next_after
from tarn.core.signing import new_secret
from tarn.core.watching import CONDITIONS, Finding, WatchError, gathered_at, quiet_hours, sendable, weigh

log = logging.getLogger("tarn.reports")
MOST_HELD = 20_000
"""Rows a watch remembers; a longer answer is too wide to watch."""


def _checked(data: WatchIn) -> dict[str, Any]:
    name = " ".join(data.name.split())[:120]
    if not name:
        raise Invalid("name", "A watch needs a name: it stands in the subject of its letters.")
    try:
        found(data.report)
    except Http404:
        raise Invalid("report", "Choose the report that is asked.") from None
    if data.condition not in CONDITIONS:
        raise Invalid("condition", f"“{data.condition}” is no condition; {', '.join(CONDITIONS)} are.")
    to = [t.strip() for t in data.to if t.strip()]
    if not to:
        raise Invalid("to", "Say to whom it writes.")
    for one in to:
        _check_recipient(one, data.report)
    if CONDITIONS[data.condition].of_devices and found(data.report).definition.row == "product":
        raise Invalid("condition", "A row of this report is no device's, so it has no share of all devices.")
    if data.attach and data.attach not in FORMATS:
        raise Invalid("attach", f"“{data.attach}” cannot be attached; {', '.join(FORMATS)} can.")
    try:
        quiet_hours(data.quiet)
        due = next_after(data.rule, int(time.time()), settings.TIME_ZONE)
    except WatchError as error:
        raise Invalid(error.field, str(error)) from None
    except ScheduleError as error:
        raise Invalid("rule", str(error)) from None
    return {
        "name": name,
        "report": data.report,
        "rule": data.rule,
        "condition": data.condition,
        "number": data.number,
        "to": to,
        "attach": data.attach,
        "quiet": data.quiet,
        "on": data.on,
        "insists": data.insists,
        "gathered": data.gathered,
        "next_at": due,
    }


def _check_recipient(one: str, report: str) -> None:
    """Raise Invalid where nobody could be meant."""
    kind, _, name = one.partition(":")
    if kind == "role":
        if name not in ROLES:
            raise Invalid("to", f"“{name}” is no role; one of: {', '.join(ROLES)}.")
    elif kind == "person":
        if not roster().get(name, KnownPerson("")).email:
            raise Invalid("to", f"No address of “{name}” is known; write it out, or have a source tell it.")
    elif one == "holder":
        if found(report).definition.row == "product":
            raise Invalid("to", "A row of this report is no device's, so it has no holder to write to.")
    elif is_call(one):
        check_call(one)
    else:
        try:
            validate_email(one)
        except BadAddress:
            raise Invalid("to", f"“{one}” is no address for mail.") from None


def _sealed(user: Any, held: Watch) -> str:
    """Give a watch that calls on the web its secret where it has none; return it: it is shown here and never again.

    Whoever lets Tarn speak to another system needs the right to deal in credentials.
    """
    if not any(is_call(one) for one in held.to):
        held.sealed = None
        return ""
    require(user, "credentials")
    if held.sealed is not None:
        return ""
    secret = new_secret()
    held.sealed = seal({"secret": secret})
    return secret


def make_watch(user: Any, data: WatchIn) -> tuple[Watch, str]:
    """Make a watch. What its report holds now is what later answers are compared with. Raises Invalid.

    Returns it with the secret its calls are signed with, empty where it calls nobody.
    """
    require(user, "keep")
    checked = _checked(data)
    with once("name", f"There is a watch “{checked['name']}” already."):
        made = Watch(**checked, owner=user, organisation=owner(data.organisation))
        secret = _sealed(user, made)
        _remember(made, answer(made, None))
        made.asked_at = int(time.time())
        made.save()
        record(user, "made a watch", made.name, detail={"to": made.to, "report": made.report})
    return made, secret


def _remember(watch: Watch, told: ReportAnswer, *, share: bool = True) -> None:
    watch.held = told.keys[:MOST_HELD]
    watch.rows = dict(list(held_rows(told).items())[:MOST_HELD])
    if share or watch.share is None:
        watch.share = told.share


def change_watch(user: Any, number: int, data: WatchIn) -> tuple[Watch, str]:
    """Change a watch, made from `version`. Raises Invalid, Stale, Watch.DoesNotExist.

    Returns it with a new secret where it calls on the web for the first time.
    """
    require(user, "keep")
    checked = _checked(data)
    with once("name", f"There is a watch “{checked['name']}” already."):
        watch = visible(Watch).get(pk=number)
        require_version(watch, data.version, watch.name, {f: getattr(watch, f) for f in checked if f != "next_at"})
        other = watch.report != checked["report"]
        for field, value in checked.items():
            setattr(watch, field, value)
        secret = _sealed(user, watch)
        if other:
            _remember(watch, answer(watch, None))
        watch.version += 1
        watch.save()
        record(user, "changed a watch", watch.name, detail={"to": watch.to, "report": watch.report})
    return watch, secret


def drop_watch(user: Any, number: int) -> None:
    """Drop a watch and the letters it wrote. Raises Watch.DoesNotExist."""
    require(user, "keep")
    with transaction.atomic():
        watch = visible(Watch).get(pk=number)
        record(user, "dropped a watch", watch.name, detail={"to": watch.to, "report": watch.report})
        watch.delete()


def try_out(user: Any, number: int) -> Letter:
    """Write what a watch would write now, to whoever tries it alone; what it remembers stays. Raises Invalid."""
    require(user, "keep")
    watch = visible(Watch).get(pk=number)
    if not user.email:
        raise Invalid("to", "You have no address for mail; an administrator can give you one.")
    now = int(time.time())
    report_answer = answer(watch, None)
    letter = compose(watch, report_answer, _weighed(watch, report_answer), now)
    letter.to, letter.due_at, letter.subject = [user.email], now, f"Try-out: {letter.subject}"[:200]
    letter.save()
    return letter


def hasten(rows: Collection[str]) -> int:
    """Have the watches asked within a minute whose reports have such rows: something has come that they wait for.

    Returns how many. A watch whose report is gone is left alone; it says so when its turn comes.
    """
    now, waiting = int(time.time()), []
    for watch in Watch.objects.filter(on=True, next_at__gt=now):
        try:
            if found(watch.report).definition.row in rows:
                waiting.append(watch.pk)
        except (Http404, ReportError):
            continue
    return Watch.objects.filter(pk__in=waiting).update(next_at=now)


def ask_due(now: int) -> int:
    """Ask every watch that is due, once however long the server was off; return how many wrote."""
    wrote = 0
    for watch in Watch.objects.select_related("owner").filter(on=True, next_at__lte=now):
        wrote += _ask_one(watch, now)
    return wrote


def _ask_one(watch: Watch, now: int) -> bool:
    letters: list[Letter] = []
    try:
        with limited_to(scope_of(watch.owner)):
            report_answer: ReportAnswer = answer(watch, None)
            finding = _weighed(watch, report_answer)
            if finding.fires or (watch.insists and report_answer.rows and _unheeded(watch)):
                everybody = addressed(watch, report_answer, finding)
                letters += [_written(watch, to, mine, theirs, now) for to, mine, theirs in everybody]
        _remember(watch, report_answer, share=finding.fires)
        watch.trouble = ""
    except (ReportError, FilterError, Http404) as error:
        # Its report was dropped, or asks for what is no longer there: the page says so, and it goes on being asked.
        letters, watch.trouble = [], str(error)[:500] or type(error).__name__
    except Exception as error:  # whatever one watch meets, the others are asked, and its page says what it met
        log.exception("the watch “%s” could not be asked", watch.name)
        letters, watch.trouble = [], f"{type(error).__name__}: {error}"[:500]
    watch.asked_at = now
    watch.next_at = next_after(watch.rule, now, settings.TIME_ZONE)
    with transaction.atomic():
        watch.save(update_fields=["held", "rows", "share", "trouble", "asked_at", "next_at"])
        for letter in letters:
            letter.save()
    return bool(letters)


def _weighed(watch: Watch, told: ReportAnswer) -> Finding:
    shares = watch.share, told.share
    # Rows were known by their words once; what was kept then says nothing of what is new now.
    before = watch.held if all(str(k).startswith('["') for k in watch.held) else None
    return weigh(watch.condition, watch.number, before, told.keys, shares)


def _written(watch: Watch, to: list[str], told: ReportAnswer, finding: Finding, now: int) -> Letter:
    """Return what is written to some: a call at once, a letter when it may come, or with the day's others."""
    if is_call(to[0]):
        letter = called(watch, told, finding, now)
        letter.to = to
        return letter
    letter = compose(watch, told, finding, now)
    letter.to, letter.gathered = to, watch.gathered
    due = gathered_at(now, settings.TIME_ZONE) if watch.gathered else now
    letter.due_at = sendable(due, quiet_hours(watch.quiet), settings.TIME_ZONE)
    return letter


def _unheeded(watch: Watch) -> bool:
    """Whether the last letters of a watch were sent and nobody has acknowledged one."""
    last = watch.letter_set.order_by("-made_at").first()
    return last is not None and not watch.letter_set.filter(made_at=last.made_at, acknowledged_at__gt=0).exists()


def acknowledge(user: Any, number: int) -> Letter:
    """Acknowledge a letter: its watch does not insist on it any more. Raises Letter.DoesNotExist."""
    require(user, "look")
    with transaction.atomic():
        letter = Letter.objects.filter(watch__in=visible(Watch)).select_related("watch").get(pk=number)
        if letter.acknowledged_at is None:
            letter.acknowledged_at, letter.acknowledged_by = int(time.time()), user.username
            letter.save(update_fields=["acknowledged_at", "acknowledged_by"])
            record(user, "acknowledged a letter of", letter.watch.name, detail={"subject": letter.subject})
    return letter
