"""The lifecycle room over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.lifecycle.actions import contracts as contract_actions
from tarn.apps.lifecycle.actions import orders as order_actions
from tarn.apps.lifecycle.actions import support
from tarn.apps.lifecycle.actions.feeds import feed_of, make_feed
from tarn.apps.lifecycle.inputs import ContractIn, PurchaseOrderIn
from tarn.apps.lifecycle.models import Contract, Order, OrderLine, SupportEnd
from tarn.apps.lifecycle.reads import cash, contracts, ending, feed, orders
from tarn.apps.lifecycle.results import (
    CashOut,
    ContractName,
    ContractOut,
    ContractRow,
    FeedOut,
    OrderName,
    OrderOut,
    ReceivedOut,
    RiverOut,
    SupportEndOut,
    SupportEndsTaken,
)
from tarn.apps.people.answers import Day, or_404
from tarn.apps.people.scope import limited_to, scope_of, visible

router = Router(tags=["lifecycle"])


class ContractDecision(Schema):
    decision: str
    why: str = ""


class ReceiveIn(Schema):
    serials: str
    day: Day
    place: str = ""
    known: bool = False
    """Those that are known already are these devices."""


class SupportEndsIn(Schema):
    text: str


@router.get("/lifecycle/river", response=RiverOut)
def river(request: HttpRequest, as_of: str | None = None, months: int = 12) -> RiverOut:
    """What ends in the months from this one on, and which notice must go out first."""
    return ending.river(read_dial(as_of), max(1, min(months, cash.MOST_MONTHS)))


@router.get("/lifecycle/cash", response=CashOut)
def cash_calendar(
    request: HttpRequest, as_of: str | None = None, months: int = 36, since: Day | None = None
) -> CashOut:
    """What is to be paid month by month; `since` begins in another month, also a past one."""
    return cash.cash(read_dial(as_of), max(1, min(months, cash.MOST_MONTHS)), since)


@router.get("/lifecycle/contracts", response=list[ContractRow])
def all_contracts(request: HttpRequest, as_of: str | None = None) -> list[ContractRow]:
    """All contracts as they stand, those that end first before the others."""
    return contracts.listed(read_dial(as_of))


@router.post("/lifecycle/contracts", response={201: ContractName})
def enter_contract(request: HttpRequest, body: ContractIn) -> Any:
    """Enter a contract."""
    return Status(201, contract_actions.make_contract(request.user, body))


@router.get("/lifecycle/contracts/{number}", response=ContractOut)
def one_contract(request: HttpRequest, number: int, as_of: str | None = None) -> ContractOut:
    """One contract with the devices it covers and what was decided of it."""
    at = read_dial(as_of)
    return or_404(Contract, lambda n: contracts.opened(visible(Contract).get(pk=n), at), number, "contract")


@router.put("/lifecycle/contracts/{number}", response=ContractName)
def change_contract(request: HttpRequest, number: int, body: ContractIn) -> Any:
    """Change a contract from the version the edit was made from."""
    return or_404(Contract, lambda n: contract_actions.change_contract(request.user, n, body), number, "contract")


@router.post("/lifecycle/contracts/{number}/decision", response=ContractName)
def decide_on(request: HttpRequest, number: int, body: ContractDecision) -> Any:
    """Decide whether the term in force is renewed, replaced or let go; empty takes the decision back."""
    return or_404(
        Contract,
        lambda n: contract_actions.decide_on(request.user, n, body.decision, body.why),
        number,
        "contract",
    )


@router.delete("/lifecycle/contracts/{number}", response={204: None})
def drop_contract(request: HttpRequest, number: int) -> Any:
    """Drop a contract; it can be undone."""
    or_404(Contract, lambda n: contract_actions.drop_contract(request.user, n), number, "contract")
    return Status(204, None)


@router.get("/lifecycle/orders", response=list[OrderOut])
def all_orders(request: HttpRequest) -> list[OrderOut]:
    """All orders with how much of each line has come."""
    return orders.orders()


@router.post("/lifecycle/orders", response={201: OrderName})
def enter_order(request: HttpRequest, body: PurchaseOrderIn) -> Any:
    """Enter an order with its lines."""
    return Status(201, order_actions.make_order(request.user, body))


@router.delete("/lifecycle/orders/{number}", response={204: None})
def drop_order(request: HttpRequest, number: int) -> Any:
    """Drop an order of which nothing was received."""
    or_404(Order, lambda n: order_actions.drop_order(request.user, n), number, "order")
    return Status(204, None)


@router.post("/lifecycle/order-lines/{number}/receive", response=ReceivedOut)
def receive_line(request: HttpRequest, number: int, body: ReceiveIn) -> ReceivedOut:
    """Receive pieces of a line by serial number, all or none: each is an asset with its price and warranty."""
    assets = or_404(
        OrderLine,
        lambda n: order_actions.receive(request.user, n, body.serials, body.day, body.place, body.known),
        number,
        "line",
    )
    return {"assets": assets}


@router.get("/lifecycle/support-ends", response=list[SupportEndOut])
def support_ends(request: HttpRequest) -> Any:
    """Until when makers support systems and products."""
    return list(SupportEnd.objects.all())


@router.post("/lifecycle/support-ends", response=SupportEndsTaken)
def take_in_support_ends(request: HttpRequest, body: SupportEndsIn) -> SupportEndsTaken:
    """Take in a file of ends of support: name, release, day."""
    return {"taken": support.take_in_support_ends(request.user, body.text)}


@router.delete("/lifecycle/support-ends/{number}", response={204: None})
def drop_support_end(request: HttpRequest, number: int) -> Any:
    """Drop an end of support."""
    or_404(SupportEnd, lambda n: support.drop_support_end(request.user, n), number, "end of support")
    return Status(204, None)


@router.post("/lifecycle/feed", response=FeedOut)
def new_feed(request: HttpRequest) -> FeedOut:
    """Make the calendar feed of whoever asks; its address is told once, and the former one no longer holds."""
    return {"path": f"/api/lifecycle/feed/{make_feed(request.user)}.ics"}


@router.get("/lifecycle/feed/{token}.ics", auth=None)
def calendar_feed(request: HttpRequest, token: str) -> HttpResponse:
    """What ends when as a calendar (RFC 5545), for calendar programs that subscribe to an address."""
    user = feed_of(token)
    if user is None:
        raise HttpError(404, "There is no such calendar.")
    with limited_to(scope_of(user)):
        text = feed.calendar(request.build_absolute_uri("/").rstrip("/"))
    return HttpResponse(text, content_type="text/calendar; charset=utf-8")
