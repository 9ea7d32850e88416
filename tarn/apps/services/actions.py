"""Saying which talk is noise, and taking that back."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.services.inputs import NoiseIn
from tarn.apps.services.models import Noise


def say_noise(user: Any, data: NoiseIn) -> Noise:
    """Say that talk of a process, over a port, or both is noise. Raises Invalid."""
    if user is not None:
        require(user, "plan")
    process, why = " ".join(data.process.split())[:300], data.why.strip()[:300]
    if not process and data.port is None:
        raise Invalid("process", "Name a process, a port, or both: all talk cannot be noise.")
    if data.port is not None and not 1 <= data.port <= 65_535:
        raise Invalid("port", f"{data.port} is no port: 1 to 65,535.")
    if not why:
        raise Invalid("why", "Say why it says nothing of what stands on what.")
    with transaction.atomic():
        name = user.username if user is not None else ""
        made = Noise.objects.create(process=process, port=data.port, why=why, made_by=name, made_at=int(time.time()))
        record(user, "said that talk is noise", str(made), detail={"why": why})
    return made


def take_noise_back(user: Any, number: int) -> None:
    """Have talk count again. Raises Noise.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = Noise.objects.get(pk=number)
        record(user, "took back that talk is noise", str(held))
        held.delete()
