"""The way to the first sweep, on an installation that is still empty."""

from tarn.apps.discovery.beginning import anything_swept, credentials_there, proposed_networks
from tarn.apps.discovery.networks.shown import networks
from tarn.apps.estate.asking.ask import count, question
from tarn.apps.today.results import FirstStepOut


def first_steps() -> list[FirstStepOut]:
    """Return the steps to the first sweep with those that are done; none once there are devices in the register."""
    if count(question("", None)):
        return []
    proposed = proposed_networks()
    beside = f": this machine is in {', '.join(proposed)}" if proposed else ""
    waits = bool(count(question("", None, standing="intake")))
    return [
        {"key": "networks", "text": f"Say where to look{beside}", "done": bool(networks()), "to": "/discovery"},
        {"key": "credentials", "text": "Give Tarn a credential, and try it on one address", "done": credentials_there(),
         "to": "/discovery"},
        {"key": "sweep", "text": "Sweep the network", "done": anything_swept(), "to": "/discovery"},
        {"key": "intake", "text": "Take what was found into the register", "done": False,
         "to": "/discovery/intake" if waits else "/discovery"},
    ]  # fmt: skip
