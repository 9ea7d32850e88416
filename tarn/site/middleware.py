"""Headers that keep the page to what Tarn itself ships; and who it is that asks."""

from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction

from tarn.apps.people.scope import asked_by

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "font-src 'self'; connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'self'"
)


class _EitherWay:
    """Middleware that serves requests of both kinds, each as it comes."""

    async_capable = True
    sync_capable = True

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)


class ContentPolicy(_EitherWay):
    """Adds the content security policy to every answer."""

    def __call__(self, request: Any) -> Any:
        if iscoroutinefunction(self):
            return self._later(request)
        response = self.get_response(request)
        response["Content-Security-Policy"] = POLICY
        return response

    async def _later(self, request: Any) -> Any:
        response = await self.get_response(request)
        response["Content-Security-Policy"] = POLICY
        return response


class Asking(_EitherWay):
    """Notes who asks, so that every read knows whose things it may show."""

    def __call__(self, request: Any) -> Any:
        forget = asked_by(request)
        response = self.get_response(request)
        # What is streamed is still read in that person's name. Asynchronous requests each have a context of their own.
        if not iscoroutinefunction(self) and not response.streaming:
            forget()
        return response
