"""What every test needs: a data directory of its own, never the one a person works with."""

import atexit
import os
import shutil
import tempfile

os.environ["TARN_HOME"] = tempfile.mkdtemp(prefix="tarn-test-")
# A lab of its own for each test process, beside one that may be running; below the ports the system gives out.
os.environ["TARN_LAB_OFFSET"] = {"gw0": "5000", "gw1": "9000"}.get(os.environ.get("PYTEST_XDIST_WORKER", ""), "13100")

import pytest
from hypothesis import settings

# How long an example takes says how busy the machine is, not whether the code is right.
settings.register_profile("tarn", deadline=None)
settings.load_profile("tarn")

atexit.register(shutil.rmtree, os.environ["TARN_HOME"], ignore_errors=True)


@pytest.fixture(autouse=True)
def _nobody_asks() -> None:
    """A stream is read in its asker's name to the end of the request; the next test asks in nobody's."""
    from tarn.apps.people.scope import asked_by

    asked_by(None)


@pytest.fixture(autouse=True)
def _fresh_door(request: pytest.FixtureRequest) -> None:
    """The door remembers words and identifiers of a database; each test has another."""
    if (
        "db" in request.fixturenames
        or "transactional_db" in request.fixturenames
        or request.node.get_closest_marker("django_db")
    ):
        from tarn.apps.estate.door.entrance import forget

        forget()
