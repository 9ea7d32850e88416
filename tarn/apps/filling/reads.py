"""Fill rules as they are shown, and what they may read and fill."""

from collections import Counter
from collections.abc import Iterable

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.uses import Kept
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.estate.register.pages import named
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.filling.actions.rules import Rehearsed
from tarn.apps.filling.models import FillRule
from tarn.apps.filling.results import FillableOut, FillChoicesOut, FilledAssetOut, FillRehearsalOut, FillRuleOut
from tarn.apps.people.scope import visible
from tarn.core.fields import FIELDS
from tarn.core.filling import FILLABLE, OUTCOMES, READS, WHEN
from tarn.core.filters.tree import quote
from tarn.core.own import PREFIX


def kept_filters() -> Iterable[Kept]:
    """Return the filters of rules, so that what they speak of is not dropped."""
    for rule in visible(FillRule):
        yield Kept("fill rule", rule.name, "/fill-rules", rule.filter)


def rules() -> list[FillRuleOut]:
    """Return the rules in their order, each with on how many assets its word stands."""
    return _rows(list(visible(FillRule)))


def row(rule: FillRule) -> FillRuleOut:
    """Return a rule as it is shown."""
    return _rows([rule])[0]


def _rows(held: list[FillRule]) -> list[FillRuleOut]:
    asked = question("filled_by != none", None)
    said = (row["filled_by"] for row in rows_of("asset", ["filled_by"], asked, "", []))
    filled = Counter(name for names in said for name in str(names).split("; "))
    return [
        {
            "id": rule.pk,
            "version": rule.version,
            "filled": filled[rule.name],
            "stands": f"filled_by = {quote(rule.name)}",
            "name": rule.name,
            "filter": rule.filter,
            "fills": rule.fills,
            "reads": rule.reads,
            "formula": rule.formula,
            "pattern": rule.pattern,
            "compose": rule.compose,
            "table": rule.table,
            "when": rule.when,
            "in_force_at": rule.in_force_at,
        }
        for rule in held
    ]


def rehearsal(found: Rehearsed) -> FillRehearsalOut:
    """Return a rehearsal with the devices' names."""
    assets = [v.asset for v in found["rows"]]
    names = {r["id"]: r["name"] for r in named(assets, None)}
    numbers = numbers_of(assets)
    rows: list[FilledAssetOut] = [
        {
            "asset": v.asset,
            "name": names.get(v.asset) or numbers.get(v.asset, ""),
            "read": v.read,
            "before": v.before,
            "value": v.value,
            "outcome": v.outcome,
            "words": v.words,
        }
        for v in found["rows"]
    ]
    return {"assets": found["assets"], "counts": found["counts"], "rows": rows, "notes": found["notes"]}


def choices() -> FillChoicesOut:
    """Return what a rule may read and fill, and when."""
    own = [n for n in FIELDS if n.startswith(PREFIX)]
    read: list[FillableOut] = [{"name": n, "label": n, "meaning": said} for n, said in READS.items()]
    fields: list[FillableOut] = [{"name": f.name, "label": f.heading, "meaning": f.meaning} for f in FIELDS.values()]
    return {
        "fills": [{"name": n, "label": FIELDS[n].heading, "meaning": FIELDS[n].meaning} for n in (*FILLABLE, *own)],
        "reads": [*read, *fields],
        "when": WHEN,
        "outcomes": OUTCOMES,
    }
