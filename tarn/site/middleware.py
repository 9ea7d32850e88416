"""Headers that keep the page to what Tarn itself ships; and who it is that asks."""

import time
from collections.abc import Callable
from typing import Any

from allauth.usersessions.models import UserSession
from asgiref.sync import iscoroutinefunction, markcoroutinefunction, sync_to_async
from django.conf import settings
from django.contrib.auth import logout
from django.utils import timezone

from tarn.apps.people.scope import asked_by

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "font-src 'self'; connect-src 'self'; object-src 'none'; worker-src 'self' blob:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
"""Where the company's own provider signs people in, the way there is one more place a form may lead to."""


class _EitherWay:
    """Middleware that serves requests of both kinds, each as it comes."""

    async_capable = True
    sync_capable = True

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)  # type: ignore[type-var]  # Django's own middleware does the same


class Headers(_EitherWay):
    """Adds to every answer what keeps a page to what Tarn itself ships, and an answer of the API out of every store."""

    def __call__(self, request: Any) -> Any:
        if iscoroutinefunction(self):
            return self._later(request)
        return self._with(request, self.get_response(request))

    async def _later(self, request: Any) -> Any:
        return self._with(request, await self.get_response(request))

    def _with(self, request: Any, response: Any) -> Any:
        response["Content-Security-Policy"] = f"{POLICY} {settings.TARN_OIDC_URL}".rstrip()
        response["X-Frame-Options"] = "DENY"
        response["X-Content-Type-Options"] = "nosniff"
        response["Permissions-Policy"] = "camera=(self), microphone=(), geolocation=(), payment=(), usb=()"
        if request.path.startswith("/api/"):
            response["Cache-Control"] = "no-store"
        return response


class SessionLife(_EitherWay):
    """Ends a session that was not used for long, or has lasted long enough, whatever its cookie says."""

    def __call__(self, request: Any) -> Any:
        if iscoroutinefunction(self):
            return self._later(request)
        _keep_or_end(request)
        return self.get_response(request)

    async def _later(self, request: Any) -> Any:
        await sync_to_async(_keep_or_end)(request)
        return await self.get_response(request)


NOTED_EVERY = 120
"""Seconds between two notes of a session's last use: a reader need not write each time."""


def _keep_or_end(request: Any) -> None:
    if "_auth_user_id" not in request.session:
        return
    now = int(time.time())
    began = request.session.setdefault("began", now)
    seen = request.session.get("seen", now)
    if now - seen > settings.TARN_SESSION_IDLE or now - began > settings.TARN_SESSION_LIFE:
        UserSession.objects.filter(session_key=request.session.session_key).delete()
        logout(request)
    elif now - seen > NOTED_EVERY or "seen" not in request.session:
        request.session["seen"] = now
        UserSession.objects.filter(session_key=request.session.session_key).update(last_seen_at=timezone.now())


class Asking(_EitherWay):
    """Notes who asks, so that every read knows whose things it may show."""

    def __call__(self, request: Any) -> Any:
        forget = asked_by(request)
        response = self.get_response(request)
        # What is streamed is still read in that person's name. Asynchronous requests each have a context of their own.
        if not iscoroutinefunction(self) and not response.streaming:
            forget()
        return response
