"""What devices lack: by baseline and by device, those never read kept apart from those that truly lack it."""

from collections.abc import Iterator

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.uses import Kept
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.register.readings import never_read, sections_of
from tarn.apps.people.scope import visible
from tarn.apps.people.speaking import asked_in_words
from tarn.apps.software.models import Baseline
from tarn.apps.software.results import BaselineResult, ConditionOut
from tarn.core.filters.check import READABLE


def result(baseline: Baseline, at: int | None, most: int = 200) -> BaselineResult:
    """Return how a baseline stands: devices it is for, and by condition which lack it and which were never read."""
    scope = set(ids(question(baseline.filter, at)))
    rules: list[ConditionOut] = []
    lacking: dict[int, list[str]] = {}
    unread: dict[int, list[str]] = {}
    for rule in baseline.rules:
        asked = question(rule["filter"], at)
        without = scope - set(ids(asked))
        sections = sections_of(asked.checked)
        blind = never_read(without, sections, at)
        for asset in without - blind:
            lacking.setdefault(asset, []).append(rule["name"])
        for asset in blind:
            unread.setdefault(asset, []).append(rule["name"])
        lacking_here, never = _opened(baseline.filter, rule["filter"], sections)
        rules.append(
            {
                "name": rule["name"],
                "filter": rule["filter"],
                "sentence": asked_in_words(asked.tree),
                "lacking": lacking_here,
                "never": never,
                "have": len(scope) - len(without),
                "lack": len(without - blind),
                "unread": len(blind),
            }
        )
    worst = sorted(lacking, key=lambda a: (-len(lacking[a]), a))[:most]
    return {
        "devices": len(scope),
        "whole": len(scope - set(lacking) - set(unread)),
        "lack": len(lacking),
        "unread": len(set(unread) - set(lacking)),
        "rules": rules,
        "rows": [{**row, "lacks": lacking[row["id"]], "unread": unread.get(row["id"], [])} for row in named(worst, at)],
    }


def kept_filters() -> Iterator[Kept]:
    """Yield the filters that baselines keep."""
    for baseline in visible(Baseline).order_by("name"):
        for text in (baseline.filter, *(r["filter"] for r in baseline.rules)):
            yield Kept("baseline", baseline.name, "/software?tab=baselines", text)


def _opened(scope: str, rule: str, sections: set[str]) -> tuple[str, str]:
    """Return the filters for devices that do not meet a condition: those that lack it, and those never read."""
    without = f"({scope}) and not ({rule})" if scope else f"not ({rule})"
    words = {section: word for word, section in READABLE.items()}
    never = " or ".join(f"unread {words[s]}" for s in sorted(sections) if s in words)
    if not never:
        return without, ""
    return f"{without} and not ({never})", f"{without} and ({never})"
