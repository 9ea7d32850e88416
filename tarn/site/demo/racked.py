"""Where the demo company's servers stand, by rack and height unit, and what feeds those no outlet is marked with."""

import time
from typing import Any

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.decide import decide

DAY = 86_400
SAID_BEFORE = 200
"""Days ago that somebody wrote it down."""
_FIRST = (
    ("salt-ups-01", 1, 2), ("salt-ups-02", 3, 2), ("salt-hv-01", 6, 2), ("salt-hv-02", 8, 2), ("salt-db-01", 11, 2),
    ("salt-tix-01", 13, 2), ("salt-tix-02", 15, 2), ("salt-file-01", 18, 4), ("salt-bak-01", 22, 4),
    ("salt-fw-01", 38, 1), ("salt-gw-01", 39, 1), ("salt-sw-01", 41, 1), ("salt-sw-02", 42, 1),
)  # fmt: skip
_SECOND = (
    ("salt-berth-01", 10, 1), ("salt-crew-01", 11, 1), ("salt-store-01", 12, 1), ("salt-mail-01", 14, 2),
    ("salt-mon-01", 16, 1), ("salt-win-01", 18, 2), ("salt-win-02", 20, 2), ("salt-sw-03", 42, 1),
)  # fmt: skip
_AVERNE = (("avrn-ups-01", 1, 2), ("avrn-pos-01", 4, 1), ("avrn-gate-01", 5, 1), ("avrn-rec-01", 6, 2))
_FED = {"avrn-pos-01": "avrn-ups-01", "avrn-gate-01": "avrn-ups-01"}


def rack(user: Any) -> None:
    """Say of each device where it stands, as the plan on the door of the room has it."""
    at = int(time.time()) - SAID_BEFORE * DAY
    for name, slots in (("Room 1, rack 1", _FIRST), ("Room 1, rack 2", _SECOND), ("Terminal cabinet", _AVERNE)):
        for device, unit, height in slots:
            said: dict[str, Any] = {"rack": name, "rack_unit": unit, "rack_height": height}
            if device in _FED:
                said["fed_by"] = _FED[device]
            if found := ids(question(f"name = {device}")):
                decide(user, found, said, "said where it stands", at)
    for device in ("salt-pdu-01", "salt-pdu-02"):
        if found := ids(question(f"name = {device}")):
            decide(user, found, {"rack": "Room 1, rack 1"}, "said where it stands", at)
