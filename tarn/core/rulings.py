"""Rulings: what the company says of software. Of several that fit, the narrowest counts, and it is told which.

A ruling is on a product, on some of its releases, on a publisher, or on whatever a phrase names; for the whole
company or for one department; from a day on, and, where it is a toleration, until one.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from tarn.core.naming import names_product, product_key
from tarn.core.text import fold
from tarn.core.versions import version_key

Verdict = Literal["permitted", "tolerated", "barred", "none yet"]
VERDICTS: tuple[Verdict, ...] = ("permitted", "tolerated", "barred", "none yet")
NO_RULING: Verdict = "none yet"
SUBJECTS = ("product", "publisher", "phrase")


class NoRuling(ValueError):
    """A ruling that cannot be; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Ruling:
    """One ruling. `low` and `high` bound the releases, both in, empty where open; `department` empty for the company;
    `organisation` the one of several companies it is of, empty for all of them.

    `begins`, `ends`: from when to when it stood (seconds since 1970; None: still). `until`: a toleration's last
    moment.
    """

    number: int
    subject: str
    name: str
    verdict: Verdict
    low: str = ""
    high: str = ""
    department: str = ""
    begins: int = 0
    ends: int | None = None
    until: int | None = None
    organisation: str = ""

    def stands(self, at: int) -> bool:
        """Whether it was in force at a moment."""
        return self.begins <= at and (self.ends is None or at < self.ends)

    @property
    def narrowness(self) -> tuple[int, int, int, int]:
        """How narrow it is, for comparing: a department before its organisation before all, releases before a product
        before more."""
        subject = {"product": 2, "phrase": 1, "publisher": 0}[self.subject]
        return (int(bool(self.department)), int(bool(self.organisation)), int(bool(self.low or self.high)), subject)

    def covers(self, version: str) -> bool:
        """Whether it speaks of a release."""
        if not self.low and not self.high:
            return True
        key = version_key(version)
        return (not self.low or key >= version_key(self.low)) and (not self.high or key <= version_key(self.high))

    def words(self) -> str:
        """Return the ruling in words."""
        of = {"product": self.name, "publisher": f"all of {self.name}", "phrase": f"@{self.name}"}[self.subject]
        if self.low and self.high:
            of += f" {self.low} to {self.high}"
        elif self.low or self.high:
            of += f" from {self.low}" if self.low else f" up to {self.high}"
        return f"{of}, {self.department or self.organisation or 'the whole company'}: {self.verdict}"


def check(ruling: Ruling) -> None:
    """Raise NoRuling for one that cannot be."""
    if ruling.subject not in SUBJECTS:
        raise NoRuling("subject", f"“{ruling.subject}” is nothing to rule on; {', '.join(SUBJECTS)} are.")
    if not ruling.name.strip():
        raise NoRuling("name", f"Say which {ruling.subject} is ruled on.")
    if ruling.verdict not in VERDICTS:
        raise NoRuling("verdict", f"“{ruling.verdict}” is no verdict; {', '.join(VERDICTS)} are.")
    if ruling.verdict == "tolerated" and ruling.until is None:
        raise NoRuling("until", "A toleration needs its last day.")
    if ruling.until is not None and ruling.verdict != "tolerated":
        raise NoRuling("until", f"Only a toleration has a last day; {ruling.verdict} stands until it is changed.")
    if ruling.until is not None and ruling.until < ruling.begins:
        raise NoRuling("until", "Its last day is over already.")
    if ruling.low and ruling.high and version_key(ruling.low) > version_key(ruling.high):
        raise NoRuling("high", f"{ruling.low} comes after {ruling.high}.")
    if (ruling.low or ruling.high) and ruling.subject != "product":
        raise NoRuling("low", f"Releases are ruled on with their product, not with a {ruling.subject}.")


@dataclass(frozen=True, slots=True)
class Judgement:
    """What is said of one release in one department: the verdict, and the ruling it comes from."""

    verdict: Verdict
    ruling: Ruling | None = None
    over: bool = False

    @property
    def why(self) -> str:
        """Where the verdict comes from, in words."""
        if self.ruling is None:
            return "nobody has ruled on it yet"
        said = self.ruling.words()
        return f"{said} — that toleration is over, so it counts as barred" if self.over else said


class Rulings:
    """The rulings that stand at a moment, looked up by product. `phrases`: their values by name."""

    def __init__(self, rulings: Iterable[Ruling], phrases: Mapping[str, tuple[str, ...]], at: int) -> None:
        self.at = at
        # The narrowest first; of two as narrow the later.
        self.standing = sorted((r for r in rulings if r.stands(at)), key=lambda r: (r.narrowness, r.begins, r.number))
        self.standing.reverse()
        self._phrases = phrases
        self._by_product: dict[str, list[int]] = {}
        self._by_publisher: dict[str, list[int]] = {}
        self._by_phrase: list[int] = []
        for place, ruling in enumerate(self.standing):
            if ruling.subject == "product":
                self._by_product.setdefault(product_key(ruling.name), []).append(place)
            elif ruling.subject == "publisher":
                self._by_publisher.setdefault(fold(ruling.name), []).append(place)
            else:
                self._by_phrase.append(place)

    def of_product(self, product: str, publisher: str) -> list[Ruling]:
        """Return the rulings that speak of a product or some of it, the narrowest first."""
        if not self.standing:
            return []
        places = list(self._by_product.get(product_key(product), ()))
        if publisher and self._by_publisher:
            places += self._by_publisher.get(fold(publisher), ())
        places += [p for p in self._by_phrase if self._in_phrase(self.standing[p].name, product)]
        return [self.standing[p] for p in sorted(places)]

    def _in_phrase(self, phrase: str, product: str) -> bool:
        return any(names_product(value, product) for value in self._phrases.get(phrase, ()))

    def judge(
        self, several: list[Ruling], version: str, department: str | None, organisation: str | None = None
    ) -> Judgement:
        """Judge a release in a department of an organisation, given `of_product`; None for one without its own word."""
        for ruling in several:
            if ruling.department and fold(ruling.department) != fold(department or ""):
                continue
            if ruling.organisation and ruling.organisation != organisation:
                continue
            if not ruling.covers(version):
                continue
            over = ruling.verdict == "tolerated" and ruling.until is not None and self.at > ruling.until
            return Judgement("barred" if over else ruling.verdict, ruling, over)
        return Judgement("none yet")
