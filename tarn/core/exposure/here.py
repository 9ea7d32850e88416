"""What is here, under the names the world knows it by: releases, systems, firmware, models."""

import re
from collections.abc import Iterable

from tarn.core.exposure.outside import Distribution, Thing, distribution
from tarn.core.makers import maker
from tarn.core.naming import product_key
from tarn.core.text import fold

_MAKERS = (
    ("windows", "microsoft", "windows"),
    ("macos", "apple", "macos"),
    ("android", "google", "android"),
    ("debian", "debian", "debian linux"),
    ("ubuntu", "canonical", "ubuntu linux"),
)
"""Systems that name their maker nowhere: how their names begin, and maker and product as CPE names have them."""
_WINDOWS = re.compile(r"^windows (?:server )?(\d+)(?: r2)?")
_BUILDS = {"22000": "21h2", "22621": "22h2", "22631": "23h2", "26100": "24h2", "19044": "21h2", "19045": "22h2"}


def product_name_key(by: str, product: str) -> str:
    """Return the key of a product by its maker's and its own name; `*` where the maker is not known."""
    return f"product/{product_key(maker(by)) if by.strip() else '*'}/{product_key(product)}"


def release_thing(
    product: str,
    by: str,
    version: str,
    *,
    package: str = "",
    order: str = "",
    of: Distribution | None = None,
    platform: str = "",
    hardware: str = "",
    edition: str = "",
    named: Iterable[str] = (),
) -> Thing:
    """Return a release of a product: a package of a distribution where `order` says so. `named`: keys people gave."""
    keys = [(key, "rule") for key in named]
    if order:
        keys.append((f"package/{fold(package)}", "package"))
    keys.append((product_name_key(by, product), "name"))
    if package and product_key(package) != product_key(product):
        keys.append((product_name_key(by, package), "name"))
    return Thing("a", package or product, version, _once(keys), order, of, platform, hardware, edition)


def system_thing(name: str, by: str, version: str, platform: str = "", named: Iterable[str] = ()) -> Thing:
    """Return an operating system or firmware, `by` its maker where that is known."""
    keys = [(key, "rule") for key in named]
    folded, order = fold(name), "plain"
    for begins, made_by, product in _MAKERS:
        if folded.startswith(begins):
            keys.append((product_name_key(made_by, product), "name"))
            if begins == "windows" and (match := _WINDOWS.match(folded)):
                order = "windows"
                keys.append((product_name_key(made_by, match[0]), "name"))
                if release := _BUILDS.get(version.split(".")[2] if version.count(".") >= 2 else ""):
                    keys.append((product_name_key(made_by, f"{match[0]} {release}"), "name"))
    keys.append((product_name_key(by, name), "name"))
    return Thing("o", name, version, _once(keys), order, distribution(name, version), platform)


def model_thing(model: str, by: str, named: Iterable[str] = ()) -> Thing:
    """Return a model of hardware."""
    return Thing("h", model, "", _once([*((k, "rule") for k in named), (product_name_key(by, model), "name")]))


def _once(keys: Iterable[tuple[str, str]]) -> tuple[tuple[str, str], ...]:
    """Return keys with the first way each was come to."""
    told: dict[str, str] = {}
    for key, how in keys:
        told.setdefault(key, how)
    return tuple(told.items())
