"""Send every operation what its schema allows and what it does not, bounded in number: no answer may be a 500.

Run by `make fuzz`, nightly; `FUZZ` is about how many requests there are in all. What is found is written with the request
that finds it.
"""

import os
import shutil
import sys
import tempfile
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
HOME = tempfile.mkdtemp(prefix="tarn-fuzz-")
os.environ["TARN_HOME"] = HOME

import django  # noqa: E402

django.setup()

import schemathesis  # noqa: E402
from django.conf import settings  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.core.wsgi import get_wsgi_application  # noqa: E402
from hypothesis import HealthCheck, Phase, given  # noqa: E402
from hypothesis import settings as bounds  # noqa: E402

from tarn.apps.people.actions.accounts import make_person  # noqa: E402
from tarn.apps.people.actions.tokens import make_token  # noqa: E402
from tarn.site.api import api  # noqa: E402
from tarn.site.doors import OPENED, OWN  # noqa: E402

LEFT_OUT = {"GET /runs/{number}/events", "POST /sources/test", "POST /sources/{number}/pick", *OWN}
"""A stream without end, calls that go out over the network, and what no token may."""


def fuzzed(operation: Any, application: Any, headers: dict[str, str], each: int) -> tuple[int, list[str]]:
    """Send one operation so many requests; return how many were sent, and those it failed at."""
    sent: list[int] = []
    found: list[str] = []

    @bounds(max_examples=each, deadline=None, database=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck))  # fmt: skip
    @given(case=operation.as_strategy())
    def one(case: schemathesis.Case) -> None:
        answer = case.call(app=application, headers=headers)
        sent.append(answer.status_code)
        if answer.status_code >= 500 and answer.status_code not in (503, 507):
            found.append(case.as_curl_command()[:600])

    one()
    return len(sent), found


def main() -> int:
    """Fuzz; return how many operations failed."""
    call_command("migrate", verbosity=0)
    settings.ALLOWED_HOSTS = ["*"]
    _, token = make_token(make_person(None, "fuzz", "slack-tide-5678", "administrator"), "fuzz")
    schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
    application = get_wsgi_application()
    operations = [o.ok() for o in schema.get_all_operations()]
    each = max(5, int(os.environ.get("FUZZ", "10000")) // len(operations))
    sent, failed = 0, 0
    for operation in operations:
        door = f"{operation.method.upper()} {operation.path.removeprefix('/api')}"
        if door in LEFT_OUT:
            continue
        headers = {} if door in OPENED else {"Authorization": f"Bearer {token}"}
        number, found = fuzzed(operation, application, headers, each)
        sent += number
        if found:
            failed += 1
            sys.stdout.write(f"{door}: {len(found)} × 500\n  {found[0]}\n")
            sys.stdout.flush()
    sys.stdout.write(f"{sent} requests to {len(operations)} operations; {failed} operations failed\n")
    return failed


if __name__ == "__main__":
    try:
        sys.exit(bool(main()))
    finally:
        shutil.rmtree(HOME, ignore_errors=True)
