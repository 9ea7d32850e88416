"""Middleware that watches answers: a number for each request in the log, how long it took, what was slow."""

import re
import secrets
import time
from typing import Any

import structlog
from asgiref.sync import iscoroutinefunction, sync_to_async
from django.conf import settings

from tarn.apps.upkeep.noting import note_slow
from tarn.site.doors import door_of
from tarn.site.measuring import ANSWERS
from tarn.site.middleware import _EitherWay

_NUMBER = re.compile(r"^[A-Za-z0-9._-]{1,64}$")
_LONG = ("GET /runs/{number}/events",)
"""Operations that last as long as somebody looks on."""


class Watched(_EitherWay):
    """Gives each request a number that stands on every line of the log it causes and in its answer (X-Request-Id), and
    measures how long its answer takes."""

    def __call__(self, request: Any) -> Any:
        if iscoroutinefunction(self):
            return self._later(request)
        began = self._begin(request)
        return self._end(request, self.get_response(request), began)

    async def _later(self, request: Any) -> Any:
        began = self._begin(request)
        response = await self.get_response(request)
        return await sync_to_async(self._end)(request, response, began)

    def _begin(self, request: Any) -> float:
        given = request.headers.get("X-Request-Id", "")
        request.number = given if _NUMBER.match(given) else secrets.token_hex(6)
        structlog.contextvars.bind_contextvars(request=request.number)
        return time.perf_counter()

    def _end(self, request: Any, response: Any, began: float) -> Any:
        took = time.perf_counter() - began
        response["X-Request-Id"] = request.number
        if request.path.startswith("/api/"):
            door = door_of(request) if request.resolver_match else f"{request.method} unknown"
            ANSWERS.labels(door, response.status_code).observe(took)
            if took >= settings.TARN_SLOW and door not in _LONG:
                note_slow(door, request.META.get("QUERY_STRING", ""), took, request.user.get_username())
        structlog.contextvars.unbind_contextvars("request")
        return response
