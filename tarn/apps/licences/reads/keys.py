"""Keys: those entered and those found on devices, held against each other."""

from collections import defaultdict

from django.conf import settings

from tarn.apps.estate.software.installed import keys_found, products_named
from tarn.apps.licences.models import Key
from tarn.apps.licences.reads.position_inputs import OUT_OF_USE
from tarn.apps.licences.reads.reckoning import Reckoned, reckoned
from tarn.apps.licences.results import KeyDevice, KeysOut, LicenceKeyOut
from tarn.apps.people.scope import visible
from tarn.core.licensing.keys import digest_of, tail_of


def keys(at: int | None) -> KeysOut:
    """Return keys by licence with the devices each is on, and those found that nobody entered.

    A found key nobody entered joins the licence its device's installation is assigned to; what joins none was bought
    by nobody, as far as is known.
    """
    whole = reckoned(at)
    found = keys_found(at)
    on: dict[str, set[int]] = defaultdict(set)
    said: dict[str, tuple[str, str]] = {}
    for asset, product, key in found:
        machine = whole.given.machines.get(asset)
        if machine is not None and machine.state in OUT_OF_USE:
            continue  # a device that is gone activates nothing
        digest = digest_of(key, settings.TARN_SECRETS_KEY)
        on[digest].add(asset)
        said[digest] = (product, key)
    entered = list(visible(Key).select_related("licence"))
    out = [_entered(one, on.get(one.digest, set()), whole) for one in entered]
    known = {one.digest for one in entered}
    product_of = products_named({product for product, _ in said.values()})
    for digest in sorted(set(said) - known, key=lambda d: said[d]):
        product, key = said[digest]
        joined = _joined(on[digest], product_of[product], whole)
        out.append(
            {
                "id": None,
                "licence": joined,
                "licence_name": whole.given.held[joined].name if joined else "",
                "product": product,
                "tail": tail_of(key),
                "activations": None,
                "devices": _devices(on[digest], whole),
                "problem": _wrong_with(key, len(on[digest]), joined),
            }
        )
    return {"keys": out}


def _wrong_with(key: str, devices: int, joined: int | None) -> str:
    """Return what is wrong with a found key. Of one that shows its end alone (“…Q6YDW”) nobody can say it is one."""
    if devices > 1 and not key.startswith("…"):
        return "on two devices or more"
    return "" if joined else "nobody entered it"


def _joined(assets: set[int], product: int | None, whole: Reckoned) -> int | None:
    if product is None:
        return None
    for asset in sorted(assets):
        licence = whole.held.licence_of.get(asset << 32 | product)
        if licence is not None:
            return licence
    return None


def _entered(key: Key, assets: set[int], whole: Reckoned) -> LicenceKeyOut:
    most = key.activations
    over = most is not None and len(assets) > most
    return {
        "id": key.pk,
        "licence": key.licence_id,
        "licence_name": key.licence.name,
        "product": "",
        "tail": key.tail,
        "activations": most,
        "devices": _devices(assets, whole),
        "problem": f"over-used: on {len(assets)} of at most {most}" if over else "",
    }


def _devices(assets: set[int], whole: Reckoned) -> list[KeyDevice]:
    known = whole.given.machines
    return [{"asset": a, "name": known[a].name or known[a].number} for a in sorted(assets) if a in known]
