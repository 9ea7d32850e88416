"""What wants a hand of licences: what is short."""

from tarn.apps.licences.reads.positions import rows
from tarn.apps.people.wanting import Want, Wanted, named, several


def _short() -> Wanted:
    told = rows(None)
    short = [b for b in told["balances"] if b["short"]]
    text = several(len(short), "balance of licences is short", "balances of licences are short")
    cost = float(told["cure"])
    cure = f"; putting it right costs {cost:,.0f} {told['currency']}" if cost else ""
    things = tuple(f"{b['key']} {b['short']}" for b in short)
    return Wanted(things, text, "/licences", {}, named(b["name"] for b in short) + cure)


WANTS = (Want("licences-short", "warn", "look", "See the working", _short, rank=35),)
