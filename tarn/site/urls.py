"""Addresses: the API, and the one page of the front end for everything else."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from tarn.site.api import api


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse | FileResponse:
    """Return the front end; its own router takes it from there."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built: run `make install`.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


def worker(request: HttpRequest) -> HttpResponse:
    """Return the service worker of the pocket: from the root, for it serves no pages but those below its own place."""
    held = settings.WEB_DIST / "sw.js"
    if not held.exists():
        return HttpResponse("The front end is not built: run `make install`.", status=503, content_type="text/plain")
    return HttpResponse(held.read_bytes(), content_type="text/javascript", headers={"Cache-Control": "no-cache"})


def no_such_call(request: HttpRequest) -> HttpResponse:
    """Answer an unknown address below /api/ as a problem (RFC 9457)."""
    body = '{"type":"about:blank","title":"Not found","status":404,"detail":"There is no such call."}'
    return HttpResponse(body, status=404, content_type="application/problem+json")


urlpatterns = [
    path("api/account/", include("allauth.headless.urls")),
    path("accounts/", include("allauth.socialaccount.providers.openid_connect.urls")),
    path("api/", api.urls),
    re_path(r"^api/.*$", no_such_call),
    path("sw.js", worker),
    re_path(r"^(?!static/).*$", page),
]
