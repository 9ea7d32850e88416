"""Boards: what cards show opens exactly its rows; boards are laid out, shared and never lost."""

import json

import pytest

from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.today.boards import answers as answering
from tarn.apps.today.boards.shipped import BOARDS, CARDS
from tarn.apps.today.models import Board
from tarn.core.cards import checked

pytestmark = pytest.mark.django_db


def send(client, method, path, body):
    return getattr(client, method)(f"/api{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def show(as_role, estate, monkeypatch):
    client = as_role("viewer")
    monkeypatch.setattr(answering, "BUDGET", 600)  # a machine that tests may be busy

    def shown(*cards, as_of=None):
        said = [{"key": f"c{n}", **c} for n, c in enumerate(cards)]
        answer = send(client, "post", "/boards/answers", {"cards": said, "as_of": as_of})
        assert answer.status_code == 200, answer.content
        return answer.json()

    return shown


@pytest.fixture
def opens(as_role):
    client = as_role("viewer")

    def number(text, as_of=None):
        asked = {"filter": text, "limit": 0} | ({"as_of": as_of} if as_of else {})
        return client.get("/api/assets", asked).json()["total"]

    return number


def test_every_part_of_a_card_opens_exactly_its_rows(show, opens):
    bars, ring, heat, share = show(
        {"shown": "bars", "by": "kind", "filter": "place = Saltholm"},
        {"shown": "ring", "by": "platform"},
        {"shown": "heat", "by": "place", "and_by": "kind"},
        {"shown": "ring", "filter": "memory >= 16GB", "whole": "kind = server"},
    )
    assert {p["label"]: p["count"] for p in bars["parts"]} == {"server": 1, "laptop": 1}
    assert bars["count"] == opens("place = Saltholm") == 2
    cells = [p for row in heat["parts"] for p in row["parts"]]
    assert len(cells) >= 4
    for row in heat["parts"]:
        assert sum(p["count"] for p in row["parts"]) == row["count"]
    for part in (*bars["parts"], *ring["parts"], *heat["parts"], *cells, *share["parts"]):
        assert opens(part["filter"]) == part["count"], part
    assert (share["whole"], [p["count"] for p in share["parts"]]) == (2, [1, 1])


def test_a_map_is_counted_here_and_drawn_elsewhere(show, opens):
    (told,) = show({"shown": "map", "filter": "kind = server"})
    assert (told["count"], told["trouble"], told["parts"]) == (opens("kind = server"), "", [])


def test_a_figure_and_a_line_tell_how_it_was(show, opens):
    figure, line = show(
        {"shown": "figure", "filter": "memory >= 32GB", "days": 30},
        {"shown": "line", "filter": "", "days": 100},
    )
    assert (figure["count"], figure["before"]) == (1, 0)
    assert figure["points"][-1]["count"] == figure["count"]
    counts = [p["count"] for p in line["points"]]
    assert (counts[0], counts[-1]) == (0, opens(""))
    for point in line["points"]:
        assert opens("", point["day"]) == point["count"]


def test_lists_of_questions_and_of_reports(show, opens):
    rows, report, counted = show(
        {"shown": "list", "filter": "kind = server", "columns": ["name", "memory"]},
        {"of": "report", "report": "by-place", "shown": "list"},
        {"of": "report", "report": "by-place", "shown": "bars", "by": "kind"},
    )
    assert [r[0] for r in rows["rows"]] == ["avrn-gate-01", "salt-tix-01"]
    assert rows["count"] == 2
    assert None not in rows["assets"]
    assert report["count"] == opens("") == len(report["rows"])
    assert {p["label"]: p["count"] for p in counted["parts"]} == {"server": 2, "laptop": 1, "printer": 1}


@pytest.mark.parametrize(
    ("card", "says"),
    [
        ({"filter": "memory > lots"}, "memory"),
        ({"shown": "bars", "by": "colour"}, "colour"),
        ({"shown": "list", "columns": ["colour"]}, "colour"),
        ({"of": "report", "report": "gone", "shown": "figure"}, "gone"),
        ({"of": "report", "report": "late", "shown": "bars", "by": "colour"}, "colour"),
        ({"shown": "sculpture"}, "shown"),
        ({"at": "some day"}, "at"),
    ],
)
def test_a_card_that_cannot_be_asked_says_so_and_holds_no_other_up(show, card, says):
    wrong, right = show(card, {"shown": "figure"})
    assert says in wrong["trouble"]
    assert (right["trouble"], right["count"]) == ("", 4)


def test_a_slow_card_waits_and_the_next_time_goes_last(show, monkeypatch):
    monkeypatch.setattr(answering, "BUDGET", 0)
    first, second = show({"shown": "figure"}, {"shown": "figure", "filter": "kind = server"})
    assert (first["waits"], first["count"], second["waits"]) == (False, 4, True)
    first, second = show({"shown": "figure"}, {"shown": "figure", "filter": "kind = server"})
    assert (first["waits"], second["waits"], second["count"]) == (True, False, 2), "what never was slow goes first"


def test_all_that_ships_can_be_shown(show):
    for card in CARDS.values():
        checked(card)
    assert {c for b in BOARDS.values() for c in b.cards} <= CARDS.keys()
    wanted = [c.model_dump() for c in CARDS.values()]
    for _ in range(len(wanted)):
        told = show(*wanted)
        assert [t["trouble"] for t in told if t["trouble"]] == []
        wanted = [w for w, t in zip(wanted, told, strict=True) if t["waits"]]
        if not wanted:
            return
    pytest.fail("cards wait for ever")


def board(name="Mine", *cards, **more):
    return {"name": name, "cards": list(cards) or [CARDS["contact"].model_dump()], **more}


def test_a_board_is_ones_own_and_a_card_taken_off_is_found_again(as_role, estate):
    client, other = as_role("viewer"), as_role("manager")
    first = client.get("/api/boards").json()
    assert first["chosen"] == "morning"
    mine = {"key": "laptops", "title": "Laptops", "shown": "figure", "filter": "kind = laptop"}
    told = send(client, "post", "/boards", board("Mine", CARDS["contact"].model_dump(), mine)).json()
    made = next(b for b in told["boards"] if b["key"] == told["chosen"])
    assert (made["name"], made["mine"], [c["key"] for c in made["cards"]]) == ("Mine", True, ["contact", "laptops"])
    assert "Mine" not in {b["name"] for b in other.get("/api/boards").json()["boards"]}
    body = board("Mine", CARDS["contact"].model_dump(), drawer=[mine], version=made["version"])
    told = send(client, "put", f"/boards/{made['key']}", body).json()
    made = next(b for b in told["boards"] if b["key"] == made["key"])
    assert made["drawer"][0]["key"] == "laptops"
    assert {c["key"] for c in made["drawer"]} >= CARDS.keys() - {"contact"}, "what ships is always to be had"
    assert send(client, "put", f"/boards/{made['key']}", body).status_code == 409, "it was laid out anew meanwhile"


def test_a_shared_board_is_changed_by_those_who_may_and_a_roles_board_is_its_first(as_role, people, estate):
    administrator, viewer, operator = as_role("administrator"), as_role("viewer"), as_role("operator")
    body = board("For viewers", access="all", role="viewer")
    assert send(as_role("operator"), "post", "/boards", body).status_code == 403, "whose it is says who sees to people"
    made = send(administrator, "post", "/boards", body).json()["chosen"]
    assert viewer.get("/api/boards").json()["chosen"] == made
    assert operator.get("/api/boards").json()["chosen"] == "morning"
    grab = board("Mine now", access="own", version=1)
    assert send(viewer, "put", f"/boards/{made}", grab).status_code == 403
    assert viewer.delete(f"/api/boards/{made}").status_code == 403
    anew = board("For all viewers", access="all", role="viewer", version=1)
    assert send(operator, "put", f"/boards/{made}", anew).status_code == 200
    send(viewer, "post", "/boards/chosen", {"board": "money"})
    assert viewer.get("/api/boards").json()["chosen"] == "money"
    assert administrator.delete(f"/api/boards/{made}").status_code == 204
    undo(people["administrator"], AuditEntry.objects.order_by("-pk").first().pk)
    assert Board.objects.get(pk=made).name == "For all viewers"


@pytest.mark.parametrize(
    ("body", "place"),
    [
        (board("  "), "name"),
        (board("A", {"key": "x", "shown": "bars"}), "cards"),
        (board("A", {"key": "x", "filter": "memory > lots"}), "cards"),
        (board("A", {"key": "x"}, {"key": "x"}), "cards"),
        (board("A", role="viewer"), "role"),
        (board("A", role="captain", access="all"), "role"),
    ],
)
def test_a_board_that_cannot_be_is_refused_at_its_place(as_role, estate, body, place):
    answer = send(as_role("administrator"), "post", "/boards", body)
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["field"] == place if "errors" in answer.json() else place in str(answer.json())
    assert send(as_role("viewer"), "post", "/boards/chosen", {"board": "gone"}).status_code == 422


def test_a_card_that_stopped_being_askable_is_no_reason_to_refuse_its_board(as_role, people, estate):
    held = Board.objects.create(
        name="Old", made_by="viewer", made_at=1, cards=[checked(CARDS["contact"]).model_dump() | {"by": "own.gone"}]
    )
    body = board("Old, renamed", *held.cards, version=1)
    assert send(as_role("viewer"), "put", f"/boards/{held.pk}", body).status_code == 200


def test_everybody_may_have_a_board_of_the_same_name(as_role, estate):
    for role in ("viewer", "operator"):
        assert send(as_role(role), "post", "/boards", board("The morning, mine")).status_code == 200
    assert send(as_role("viewer"), "post", "/boards", board("The morning, mine")).status_code == 422
