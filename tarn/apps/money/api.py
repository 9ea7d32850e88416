"""The company's money over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from tarn.apps.money.actions import ledger as actions
from tarn.apps.money.inputs import LedgerIn
from tarn.apps.money.reads import ledger as reads
from tarn.apps.money.results import RateOut, RatesTaken

router = Router(tags=["money"])


class LedgerOut(LedgerIn):
    pass


class RatesIn(Schema):
    text: str


@router.get("/money/ledger", response=LedgerOut)
def ledger(request: HttpRequest) -> Any:
    """The company's currency, the month its year begins in, and when an installation is idle."""
    return reads.ledger()


@router.put("/money/ledger", response=LedgerOut)
def set_ledger(request: HttpRequest, body: LedgerIn) -> Any:
    """Set them, from the version the edit was made from."""
    return actions.set_ledger(request.user, body)


@router.get("/money/rates", response=list[RateOut])
def rates(request: HttpRequest) -> Any:
    """Rates of exchange: how many of a currency one unit of the company's buys, the latest first."""
    return reads.all_rates()


@router.post("/money/rates", response=RatesTaken)
def take_in_rates(request: HttpRequest, body: RatesIn) -> RatesTaken:
    """Take in a file of rates: date, currency, rate; the same day and currency replaces."""
    return {"taken": actions.take_in_rates(request.user, body.text)}
