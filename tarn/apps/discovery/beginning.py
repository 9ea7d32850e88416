"""What a first sweep needs: where to look, which this machine knows of its networks; a credential; and has it run."""

from pathlib import Path

from tarn.apps.discovery.models import Credential, Network, Run
from tarn.core.own_networks import attached

TABLE = Path("/proc/net/route")
"""Where Linux tells of its routes (proc(5)); other systems propose nothing."""


def proposed_networks() -> list[str]:
    """Return the networks this machine is attached to, less those that are entered."""
    if not TABLE.exists():
        return []
    known = set(Network.objects.values_list("range", flat=True))
    return [text for network in attached(TABLE.read_text().splitlines()) if (text := str(network)) not in known]


def credentials_there() -> bool:
    """Whether there is any credential."""
    return Credential.objects.exists()


def anything_swept() -> bool:
    """Whether any sweep has run."""
    return Run.objects.exists()
