"""Names outside: what the world calls a product, brought to keys that what is here is looked up by.

Three sorts of key: `package/NAME`, a package of a distribution (whose distribution is compared beside it);
`TYPE/NAME`, a package of an ecosystem, by its purl's type; `product/MAKER/PRODUCT`, a product by its maker's name and
its own, without spelling, as records and CPE names tell it.
"""

import re
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import unquote

from packageurl import PackageURL

from tarn.core.exposure.cpe import ANY, NA, Cpe, OutsideNameError, quoted, unquoted
from tarn.core.makers import maker
from tarn.core.naming import product_key
from tarn.core.text import fold

DISTRIBUTED = {"deb": "deb", "rpm": "rpm", "apk": "", "alpm": ""}
"""Types of purl whose packages are a distribution's, with the order of their versions ("" for the plain one)."""
ORDER_OF_TYPE = {
    **DISTRIBUTED,
    "npm": "npm",
    "pypi": "pypi",
    "maven": "maven",
    "cargo": "semver",
    "golang": "semver",
    "hex": "semver",
    "pub": "semver",
    "swift": "semver",
}
"""The order of versions of each type of purl; others have the plain one."""

_TYPE_OF_ECOSYSTEM = {
    "npm": "npm",
    "pypi": "pypi",
    "maven": "maven",
    "go": "golang",
    "crates.io": "cargo",
    "nuget": "nuget",
    "rubygems": "gem",
    "packagist": "composer",
    "hex": "hex",
    "pub": "pub",
    "swifturl": "swift",
    "cran": "cran",
    "hackage": "hackage",
    "conancenter": "conan",
}
"""Ecosystems of OSV that are no distribution (OSV schema, “Defined ecosystems”), by their purl's type."""


@dataclass(frozen=True, slots=True)
class Distribution:
    """A distribution of packages: its name as letters alone, and its release ("" where none is told)."""

    name: str
    release: str = ""

    def holds(self, other: "Distribution") -> bool:
        """Whether what is said of this one is said of another: of the same, or of a release below this."""
        if self.name != other.name:
            return False
        return not self.release or f"{other.release}.".startswith(f"{self.release}.")


@lru_cache(maxsize=10_000)
def distribution(system: str, release: str = "") -> Distribution:
    """Return the distribution a system's name names: “Debian GNU/Linux” 12 is debian 12, “Tallow Linux” tallow."""
    bare = re.sub(r"\b(?:gnu/linux|linux|enterprise)\b", " ", fold(system))
    return Distribution(re.sub(r"[^a-z0-9]", "", bare) or re.sub(r"[^a-z0-9]", "", fold(system)), release.strip())


@dataclass(frozen=True, slots=True)
class Subject:
    """What a statement is about: `key` (see above), `name` as the document has it; `distribution` of a package;
    `cpe` where it was named so; `order` of its versions ("" where it follows from what is here)."""

    key: str
    name: str
    distribution: Distribution | None = None
    cpe: Cpe | None = None
    order: str = ""
    type: str = ""


def product_subject(vendor: str, product: str) -> Subject:
    """Return what a maker's and a product's name name. Raises OutsideNameError where the product has none."""
    if not product.strip() or product.strip().lower() in ("n/a", "unspecified", "*"):
        raise OutsideNameError("It names no product.")
    by = maker(vendor)
    return Subject(f"product/{product_key(by)}/{product_key(product)}", f"{vendor.strip()} {product.strip()}".strip())


def cpe_subject(name: Cpe) -> Subject:
    """Return what a CPE name names, its versions told beside it. Raises OutsideNameError where it names no product."""
    if name.product in (ANY, NA):
        raise OutsideNameError(f"{name} names no product.")
    vendor = "" if name.vendor in (ANY, NA) else unquoted(name.vendor).replace("_", " ")
    product = unquoted(name.product).replace("_", " ")
    key = f"product/{product_key(maker(vendor))}/{product_key(product)}"
    return Subject(key, f"{vendor} {product}".strip(), cpe=name)


def read_purl(text: str) -> PackageURL:
    """Return a package URL. Raises OutsideNameError."""
    try:
        return PackageURL.from_string(text)
    except ValueError as error:
        raise OutsideNameError(f"“{text[:120]}” is no package URL: {error}") from None


def purl_subject(purl: PackageURL) -> Subject:
    """Return what a package URL names, its version left out."""
    if purl.type in DISTRIBUTED:
        qualifiers = purl.qualifiers if isinstance(purl.qualifiers, dict) else {}
        release = re.search(r"(?<=-)[0-9][0-9.]*$", qualifiers.get("distro", ""))
        of = distribution(purl.namespace, release[0] if release else "") if purl.namespace else None
        return Subject(f"package/{fold(purl.name)}", purl.name, of, order=DISTRIBUTED[purl.type], type=purl.type)
    name = f"{purl.namespace}/{purl.name}" if purl.namespace else purl.name
    order = ORDER_OF_TYPE.get(purl.type, "plain")
    return Subject(f"{purl.type}/{_package_name(purl.type, name)}", name, order=order, type=purl.type)


def ecosystem_subject(ecosystem: str, name: str) -> Subject:
    """Return what an ecosystem of OSV and a name in it name: `Debian:12`, `npm`. One that is not known is taken for a
    distribution, whose order of versions follows from the package that is here."""
    bare, _, release = ecosystem.partition(":")
    type_ = _TYPE_OF_ECOSYSTEM.get(fold(bare))
    if type_ is None:
        return Subject(f"package/{fold(name)}", name, distribution(bare, release.lstrip("v")))
    bare_name = name.replace(":", "/", 1) if type_ == "maven" else name
    order = ORDER_OF_TYPE.get(type_, "plain")
    return Subject(f"{type_}/{_package_name(type_, bare_name)}", name, order=order, type=type_)


def _package_name(type_: str, name: str) -> str:
    name = unquote(name)
    if type_ == "pypi":
        return re.sub(r"[-_.]+", "-", name).lower()  # PEP 503, "Normalized names"
    return name if type_ in ("maven", "golang") else fold(name)


@dataclass(frozen=True, slots=True)
class Thing:
    """Something here that statements may be about: a release, a system, a model with its firmware, a component.

    `part`: a, o or h as in CPE; `keys`: what it is looked up by, each with how it came to it; `order` of its version;
    `platform`: the sort of system it runs on (windows, linux …), `hardware` its architecture, "" where unknown.
    """

    part: str
    name: str
    version: str
    keys: tuple[tuple[str, str], ...]
    order: str = ""
    distribution: Distribution | None = None
    platform: str = ""
    hardware: str = ""
    edition: str = ""

    def cpe(self, vendor: str, product: str) -> Cpe:
        """Return its name as CPE; what is not known of it is ANY."""
        return Cpe(
            self.part,
            vendor,
            product,
            quoted(self.version) if self.version else ANY,
            target_sw=quoted(self.platform) if self.platform and self.part == "a" else ANY,
            target_hw=quoted(self.hardware) if self.hardware else ANY,
            sw_edition=quoted(self.edition) if self.edition else ANY,
        )
