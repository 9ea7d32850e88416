"""Headers that keep the page to what Tarn itself ships."""

from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "font-src 'self'; connect-src 'self'; worker-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'self'"
)


class ContentPolicy:
    """Adds the content security policy to every answer."""

    async_capable = True
    sync_capable = True

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

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
