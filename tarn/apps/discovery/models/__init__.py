"""Tables of discovery: what is asked, with what, and what came of it."""

from tarn.apps.discovery.models.arrivals import Enrolment, FileImport, FileMapping, Hook, IntakeRule, Reporter, Ruled
from tarn.apps.discovery.models.sources import Source, SourceDevice, Sync
from tarn.apps.discovery.models.sweeps import (
    AcceptedKey,
    Credential,
    Lease,
    Network,
    Outpost,
    Run,
    RunAddress,
    Sweep,
    Trial,
    Worked,
)

__all__ = [
    "AcceptedKey",
    "Credential",
    "Enrolment",
    "FileImport",
    "FileMapping",
    "Hook",
    "IntakeRule",
    "Lease",
    "Network",
    "Outpost",
    "Reporter",
    "Ruled",
    "Run",
    "RunAddress",
    "Source",
    "SourceDevice",
    "Sweep",
    "Sync",
    "Trial",
    "Worked",
]
