"""What wants a hand of tasks: those that wait for a second pair of eyes."""

from tarn.apps.people.scope import asker, visible
from tarn.apps.people.wanting import Want, Wanted, named, several
from tarn.apps.tasks.actions.tasks import may_approve
from tarn.apps.tasks.models import Task
from tarn.core.tasks import KINDS


def _approve() -> Wanted:
    person = asker().person
    held = visible(Task).filter(state="to approve").order_by("pk")
    waiting = [t for t in held if person is None or may_approve(person, t)]
    text = several(len(waiting), "task waits for your yes or no", "tasks wait for your yes or no")
    to = f"/tasks/{waiting[0].pk}" if len(waiting) == 1 else "/tasks"
    names = (f"{KINDS[t.kind].capitalize()} {t.thing}".strip() for t in waiting)
    return Wanted(tuple(str(t.pk) for t in waiting), text, to, {}, named(names))


WANTS = (Want("tasks-to-approve", "warn", "tasks", "Decide", _approve, rank=10),)
