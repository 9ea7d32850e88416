"""A lab with a few devices with each fault."""

from collections.abc import AsyncIterator

import pytest

from tarn.lab.serve import Lab

FEW = {"salt-pc-01", "salt-pc-05", "salt-pc-06", "salt-berth-01", "salt-crew-01", "avrn-till-06", "salt-ws-15",
       "salt-sw-01", "salt-prn-01", "salt-gw-01", "salt-cam-01"}  # fmt: skip


@pytest.fixture
async def lab() -> AsyncIterator[Lab]:
    running = Lab(400)
    await running.start(FEW)
    yield running
    await running.stop()
