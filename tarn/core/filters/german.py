"""What a filter asks, as a plain German sentence; the English one's sister (`english`)."""

from collections.abc import Mapping

from tarn.core.fields import FIELDS, GROUPS, PLURAL, Field
from tarn.core.filters.english import joined
from tarn.core.filters.tree import (
    All,
    Any_,
    Between,
    Compare,
    Counted,
    Has,
    InSet,
    Moment,
    Node,
    Not,
    Pattern,
    Phrase,
    Plain,
    Presence,
    Related,
    Unread,
    Value,
    Within,
    Words,
)
from tarn.core.speech import said_in

_OPS = {
    "=": "{value} ist",
    "!=": "nicht {value} ist",
    "<": "unter {value} ist",
    "<=": "höchstens {value} ist",
    ">": "über {value} ist",
    ">=": "mindestens {value} ist",
    "~": "{value} enthält",
    "!~": "{value} nicht enthält",
}
_WHEN = {
    "<": "vor {value} liegt",
    ">": "nach {value} liegt",
    "<=": "nicht nach {value} liegt",
    ">=": "nicht vor {value} liegt",
}
_UNITS = {
    "min": ("Minute", "Minuten"),
    "h": ("Stunde", "Stunden"),
    "d": ("Tag", "Tage"),
    "w": ("Woche", "Wochen"),
    "mo": ("Monat", "Monate"),
    "y": ("Jahr", "Jahre"),
}
_RELATIONS = {
    "guest of": "{}als Gäste laufen auf",
    "plugged into": "{}eingesteckt sind in",
    "powered by": "ihren Strom {}haben von",
    "mounts": "Dateisysteme {}einbinden von",
    "talks to": "{}sprechen mit",
    "called by": "{}gerufen werden von",
    "depends on": "{}abhängen von",
    "needed by": "{}gebraucht werden von",
}
_BASES = {"now": "jetzt", "today": "heute"}


def german(node: Node) -> str:
    """Return the sentence, beginning with “Assets” and ending without a stop."""
    return "alle Assets" if node == All(()) else f"Assets, {_clause(node, FIELDS)}"


def _clause(node: Node, known: Mapping[str, Field], deep: bool = False) -> str:
    match node:
        case All(items):
            return joined([_clause(i, known, True) for i in items], "und")
        case Any_(items):
            said = joined([_clause(i, known, True) for i in items], "oder")
            return f"entweder {said}" if deep else said
        case Not(item):
            return f"nicht ({_clause(item, known)})"
        case Compare(name, op, value):
            return _compare(name, op, value, known)
        case Within(name, values):
            listed = joined([_value(v) for v in values], "oder")
            return f"bei denen {_name(name, known)} {'eines von ' if len(values) > 1 else 'in '}{listed} ist"
        case Presence(name, present):
            return f"bei denen {_name(name, known)} {'' if present else 'nicht '}bekannt ist"
        case Has(group, inner, no):
            what = f"die {'keine ' if no or inner is None else ''}{_many(group)} haben"
            return what if inner is None else f"{what}, {_clause(inner, GROUPS.get(group, {}))}"
        case Counted(group, op, number, inner):
            of = f", {_clause(inner, GROUPS.get(group, {}))}," if inner is not None else ""
            return f"bei denen die Zahl von {_many(group)}{of} {_OPS[op].format(value=_value(number))}"
        case Unread(section):
            return f"bei denen {_many(section)} nie gelesen wurden"
        case InSet(name):
            return f"in der Sammlung „{name}“"
        case Related(relation, inner, no, _, heard):
            says = _RELATIONS[relation].format("nicht " if no else "")
            within = f", gehört binnen {_span(int(heard[:-1]), heard[-1])}" if heard else ""
            return f"die {says}: {german(inner)}{within}"
        case Words(words):
            return "in denen vorkommt: " + joined([f"„{w}“" for w in words], "und")
    raise TypeError(node)


def _many(group: str) -> str:
    return said_in(PLURAL.get(group, group), "de")


def _span(number: int, unit: str) -> str:
    one, many = _UNITS[unit]
    return f"{number} {one if number == 1 else many}"


def _name(name: str, known: Mapping[str, Field]) -> str:
    if name.startswith("field:"):
        return f"„{name[6:]}“"
    field = known.get(name.lower())
    return f"„{said_in(field.heading, 'de') if field else name}“"


def _compare(name: str, op: str, value: Value, known: Mapping[str, Field]) -> str:
    field = known.get(name.lower())
    said = _name(name, known)
    no = "nicht " if op[0] == "!" else ""
    if isinstance(value, Pattern):
        return f"bei denen {said} {no}auf das Muster {value.text} passt"
    if isinstance(value, Between):
        return f"bei denen {said} {no}zwischen {_value(value.low)} und {_value(value.high)} liegt"
    words = _WHEN.get(op) if field is not None and field.type == "moment" else None
    return f"bei denen {said} {(words or _OPS[op]).format(value=_value(value))}"


def _value(value: Value) -> str:
    match value:
        case Plain(text):
            return said_in(text, "de")
        case Pattern(text):
            return f"etwas wie {text}"
        case Phrase(name):
            return f"etwas aus der Phrase „{name.replace('_', ' ')}“"
        case Moment(base, shifts):
            out = _BASES.get(base, base)
            for sign, number, unit in shifts:
                out = f"{out} {'+' if sign == '+' else '−'} {_span(number, unit)}"
            return out
        case Between(low, high):
            return f"{_value(low)} bis {_value(high)}"
    raise TypeError(value)
