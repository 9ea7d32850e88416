"""The list of reviewed scripts: written by one administrator, reviewed by another, only then run."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.tasks.inputs import ScriptIn
from tarn.apps.tasks.models import Script
from tarn.core.tasks import WAYS

MOST = 20_000
"""Characters of one script."""


def _checked(data: ScriptIn) -> dict[str, Any]:
    name, text = data.name.strip(), data.text.replace("\r\n", "\n").strip()
    if not name:
        raise Invalid("name", "A script needs a name: it stands in the list and in the audit trail.")
    if data.platform not in WAYS:
        raise Invalid("platform", f"A script is for one of: {', '.join(WAYS)}.")
    if not text:
        raise Invalid("text", "There is nothing in the script.")
    if len(text) > MOST:
        raise Invalid("text", f"{len(text):,} characters are too many for a script of the list: at most {MOST:,}.")
    return {
        "name": name[:120],
        "platform": data.platform,
        "text": text,
        "meaning": data.meaning.strip()[:500],
    }


def write_script(user: Any, data: ScriptIn) -> Script:
    """Put a script on the list, to be reviewed. Raises Invalid."""
    require(user, "scripts")
    values = _checked(data)
    with once("name", f"There is a script “{values['name']}” already."):
        made = Script.objects.create(**values, written_by=user.username, written_at=int(time.time()))
        record(user, "wrote a script", made.name, detail={"platform": made.platform, "text": made.text})
    return made


def change_script(user: Any, number: int, version: int, data: ScriptIn) -> Script:
    """Change a script; what was reviewed before is to be reviewed anew. Raises Invalid, Stale, Script.DoesNotExist."""
    require(user, "scripts")
    values = _checked(data)
    with once("name", f"There is a script “{values['name']}” already."):
        script = Script.objects.get(pk=number)
        require_version(script, version, f"“{script.name}”", {"name": script.name, "version": script.version})
        for field, value in values.items():
            setattr(script, field, value)
        script.written_by, script.written_at, script.version = user.username, int(time.time()), script.version + 1
        script.reviewed_by, script.reviewed_at = "", None
        script.save()
        record(user, "changed a script", script.name, detail={"platform": script.platform, "text": script.text})
    return script


def review_script(user: Any, number: int, version: int) -> Script:
    """Pass a script for use. Raises Invalid, Stale, Script.DoesNotExist."""
    require(user, "scripts")
    with transaction.atomic():
        script = Script.objects.get(pk=number)
        require_version(script, version, f"“{script.name}”", {"name": script.name, "version": script.version})
        if script.written_by == user.username:
            raise Invalid("script", "Another administrator than the one who wrote it reviews a script.")
        script.reviewed_by, script.reviewed_at = user.username, int(time.time())
        script.save(update_fields=["reviewed_by", "reviewed_at"])
        record(user, "reviewed a script", script.name, detail={"text": script.text})
    return script


def drop_script(user: Any, number: int) -> None:
    """Take a script off the list; tasks that ran it keep its text. Raises Script.DoesNotExist."""
    require(user, "scripts")
    with transaction.atomic():
        script = Script.objects.get(pk=number)
        record(user, "dropped a script", script.name, detail={"text": script.text})
        script.delete()
