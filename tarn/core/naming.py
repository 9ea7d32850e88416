"""Names made one: from what a system lists as installed to product, edition, architecture, language and role.

The rules are general and know no product. What the company corrects comes first, as rules of its own.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

from tarn.core.makers import maker
from tarn.core.patterns import pattern
from tarn.core.text import fold

ROLES = ("product", "update", "driver", "run-time", "component")
"""What an entry is: a product in its own right, an update of one, a driver, a run-time others need, or a part."""


@dataclass(frozen=True, slots=True)
class Named:
    """What a listed name was taken for. `why`: by which rules; `understood`: whether any made sense of it."""

    product: str
    publisher: str
    role: str = "product"
    edition: str = ""
    arch: str = ""
    language: str = ""
    release: str = ""
    why: tuple[str, ...] = ()
    understood: bool = True

    @property
    def key(self) -> str:
        """What two spellings of one product have in common."""
        return product_key(self.product)


@dataclass(frozen=True, slots=True)
class NamingRule:
    """A correction: entries whose `field` (name, product or publisher) is `match` get what is not empty.

    `match` is compared without letter case and accents, or is a pattern between slashes.
    """

    number: int
    field: str
    match: str
    product: str = ""
    publisher: str = ""
    role: str = ""


@lru_cache(maxsize=100_000)
def product_key(name: str) -> str:
    """Return a product's name without case, accents, spaces and signs: “Quill Office” and “quill-office” share one."""
    bare = re.sub(r"[^\w+#]|_", "", fold(name))
    return bare or fold(name).strip()


_ARCHES = {
    "x64": "x64", "64-bit": "x64", "64 bit": "x64", "x86_64": "x64", "amd64": "x64", "win64": "x64",
    "x86": "x86", "32-bit": "x86", "32 bit": "x86", "i386": "x86", "i686": "x86", "win32": "x86",
    "arm64": "arm64", "aarch64": "arm64",
}  # fmt: skip
_LANGUAGES = frozenset(
    (
        *("english", "german", "deutsch", "french", "français", "spanish", "español", "italian", "italiano", "dutch"),
        *("nederlands", "norwegian", "norsk", "swedish", "svenska", "danish", "dansk", "finnish", "suomi", "polish"),
        *("polski", "portuguese", "português", "multilingual"),
    )
)
_EDITIONS = frozenset(
    (
        *("standard", "professional", "pro", "enterprise", "home", "community", "ultimate", "premium", "express"),
        *("datacenter", "lite", "basic", "personal", "business", "education", "lts", "trial"),
    )
)
_TAG = re.compile(r"^[a-z]{2}[-_][A-Za-z]{2}$")
_BRACKET = re.compile(r"\s*[(\[]([^()\[\]]*)[)\]]\s*")
_TAIL_RELEASE = re.compile(r"[\s_-]+(?:version|release|ver\.?|v|r)?[\s.]*(\d+(?:\.\d+)+[\w.+-]*)$", re.I)
_TAIL_YEAR = re.compile(r"[\s_-]+((?:19|20)\d\d)$")
_TAIL_NUMBER = re.compile(r"[\s_-]+v?(\d{1,3})$", re.I)
_UPDATE_OF = re.compile(
    r"^(?:cumulative |security |critical |feature )?(?:update|hotfix|patch|service pack(?: \d+)?|upgrade)(?: \d+)? "
    r"(?:rollup )?(?:for|to) (.+)$", re.I,
)  # fmt: skip
_UPDATE_WORD = re.compile(r"\b(?:KB\d{5,8}|hotfix|service pack \d+|security update)\b", re.I)
_UPDATE_NUMBER = re.compile(r"\s*[(\[]?\bKB\d{5,8}\b[)\]]?", re.I)
_DRIVER = re.compile(r"\b(?:drivers?|firmware|chipset)\b|^(?:linux-)?firmware-", re.I)
_RUN_TIME = re.compile(r"\b(?:run-?time|redistributable|shared framework|interpreter)\b|^lib[a-z0-9+._-]+$", re.I)
_LIBRARY_LANGUAGE = re.compile(r"^(?:python\d?|perl|ruby|node|golang|ghc)[-_]", re.I)
_COMPONENT = re.compile(
    r"[-_](?:dev|devel|dbg|dbgsym|debuginfo|doc|docs|common|data|core|base|utils?|tools|libs?|locale|l10n|lang|plugins?|"
    r"extras?|headers|minimal)$"
)
_PACKAGE = re.compile(r"^[a-z0-9][a-z0-9+._:@-]*$")
_NO_NAME = re.compile(r"^\{?[0-9a-f]{8}-[0-9a-f]{4}-|^[\W\d_]*$|\.(?:exe|msi|dll|tmp|cab)$", re.I)


def recognise(name: str, publisher: str = "", version: str = "") -> Named:
    """Return what a listed name stands for, by the general rules."""
    why: list[str] = []
    made_by = maker(publisher)
    if made_by != publisher.strip():
        why.append(f"the publisher “{publisher.strip()}” is {made_by} without its legal form")
    if _NO_NAME.search(name.strip()):
        said = "it looks like an identifier or a file, not a name"
        return Named(name.strip(), made_by, "component", why=(said,), understood=False)
    if _PACKAGE.match(name):
        return _package(name, made_by, why)
    text = re.sub(r"\((?:R|TM|C)\)|[®™©]", " ", name, flags=re.I)
    role = "product"
    if _UPDATE_WORD.search(text) or _UPDATE_OF.match(text):
        role = "update"
        text = _UPDATE_NUMBER.sub(" ", text).strip()
        if match := _UPDATE_OF.match(text):
            text = match[1]
        why.append("its name says that it is an update")
    elif _DRIVER.search(text):
        role = "driver"
        why.append("its name says that it drives hardware")
    elif _RUN_TIME.search(text):
        role = "run-time"
        why.append("its name says that other programs need it to run")
    text, arch, language = _brackets(text, why)
    text, release = _release(text, version, why)
    text, arch = _tail_arch(text, arch, why)
    text, edition = _edition(text, why)
    # A product of one word is commonly called by its maker's name with it; two words are a name by themselves.
    own = text[len(made_by) :].strip() if made_by and fold(text).startswith(fold(made_by) + " ") else ""
    if role in ("product", "update") and " " in own:
        text = own
        why.append(f"“{made_by}” in front is its publisher")
    text = " ".join(text.split()).strip(" -–,")
    if not text:
        return Named(name.strip(), made_by, role, why=("nothing of its name is left over",), understood=False)
    return Named(text, made_by, role, edition, arch, language, release, tuple(why))


def _package(name: str, made_by: str, why: list[str]) -> Named:
    """A package of a Linux system: its role shows in how its name begins or ends."""
    bare, _, arch = name.partition(":")
    if _DRIVER.search(bare) or bare.startswith(("linux-image", "linux-modules", "kernel-")):
        return Named(bare, made_by, "driver", arch=arch, why=(*why, "a kernel, its modules or firmware"))
    if _RUN_TIME.search(bare) or _LIBRARY_LANGUAGE.match(bare):
        return Named(bare, made_by, "run-time", arch=arch, why=(*why, "a library, by how its name begins"))
    if _COMPONENT.search(bare):
        return Named(bare, made_by, "component", arch=arch, why=(*why, "a part of something, by how its name ends"))
    return Named(bare, made_by, arch=arch, why=tuple(why))


def _brackets(text: str, why: list[str]) -> tuple[str, str, str]:
    arch = language = ""
    kept: list[str] = []
    for inner in _BRACKET.findall(text):
        rest = []
        for word in re.split(r"[,;]\s*|\s+(?=\S+$)", inner.strip()):
            folded = fold(word.strip())
            if folded in _ARCHES:
                arch = _ARCHES[folded]
            elif folded in _LANGUAGES or _TAG.match(word.strip()):
                language = word.strip()
            elif folded in ("user", "machine", "current user", "all users", ""):
                continue
            else:
                rest.append(word.strip())
        if rest:
            kept.append(f"({' '.join(rest)})")
    text = _BRACKET.sub(" ", text).strip()
    if arch:
        why.append(f"“{arch}” is the architecture")
    if language:
        why.append(f"“{language}” is the language")
    return (" ".join([text, *kept]) if text else " ".join(kept)), arch, language


def _tail_arch(text: str, arch: str, why: list[str]) -> tuple[str, str]:
    head, _, last = text.rpartition(" ")
    if head and fold(last) in _ARCHES:
        why.append(f"“{last}” is the architecture")
        return head, _ARCHES[fold(last)]
    return text, arch


def _release(text: str, version: str, why: list[str]) -> tuple[str, str]:
    """Take a release off the end: one with points, a year, or a number with which the listed version begins."""
    for shape in (_TAIL_RELEASE, _TAIL_YEAR, _TAIL_NUMBER):
        match = shape.search(text)
        if not match or not text[: match.start()].strip():
            continue
        if shape is _TAIL_NUMBER and version.split(".")[0].lstrip("v") != match[1]:
            continue
        why.append(f"“{match[1]}” at the end is the release")
        return text[: match.start()].strip(), match[1]
    return text, ""


def _edition(text: str, why: list[str]) -> tuple[str, str]:
    words = text.split()
    if len(words) > 2 and fold(words[-1]) == "edition":
        words = words[:-1]
    if len(words) > 1 and fold(words[-1]) in _EDITIONS:
        why.append(f"“{words[-1]}” is the edition")
        return " ".join(words[:-1]), words[-1]
    return text, ""


class Naming:
    """The general rules with the company's corrections before them. Answers are remembered."""

    def __init__(self, rules: Iterable[NamingRule] = ()) -> None:
        self._rules = list(rules)
        self._known: dict[tuple[str, str, str], Named] = {}

    def recognise(self, name: str, publisher: str = "", version: str = "") -> Named:
        """Return what a listed name stands for."""
        known = self._known.get((name, publisher, version))
        if known is None:
            known = self._corrected(name, recognise(name, publisher, version))
            self._known[name, publisher, version] = known
        return known

    def _corrected(self, name: str, named: Named) -> Named:
        for rule in self._rules:
            said = {"name": name, "product": named.product, "publisher": named.publisher}[rule.field]
            if not _fits(rule, said):
                continue
            named = replace(
                named,
                product=rule.product or named.product,
                publisher=rule.publisher or named.publisher,
                role=rule.role or named.role,
                understood=True,
                why=(*named.why, f"correction {rule.number}: the {rule.field} is {rule.match}"),
            )
        return named


def _fits(rule: NamingRule, said: str) -> bool:
    if len(rule.match) > 2 and rule.match.startswith("/") and rule.match.endswith("/"):
        return pattern(rule.match[1:-1]).search(said) is not None
    if rule.field == "product":
        return product_key(rule.match) == product_key(said)
    return fold(rule.match) == fold(said)


def names_product(value: str, product: str) -> bool:
    """Whether a word of a phrase (any spelling), or a pattern between slashes, names a product."""
    if len(value) > 2 and value.startswith("/") and value.endswith("/"):
        return pattern(value[1:-1]).search(product) is not None
    return product_key(value) == product_key(product)


def better(one: str, other: str) -> str:
    """Return which of two spellings to show: one with capitals and spaces, then the shorter, then by letter."""

    def worth(text: str) -> tuple[bool, bool, int, str]:
        return (text == text.lower(), "-" in text or "_" in text, len(text), text)

    return min(one, other, key=worth)
