"""Turns among writers: one at a time over threads and processes, and what somebody waits for goes first."""

import subprocess
import sys
import threading
import time

import pytest
from django.db import OperationalError, connection, connections, transaction

from tarn.apps.people import turns
from tarn.apps.people.breath import Breath
from tarn.apps.people.models import Organisation
from tarn.apps.people.turns import Turns, can_wait


def waiting(path):
    """Whether anybody waits who cannot: that one holds the second file."""
    probe = Turns(str(path))
    _, second = probe._opened()
    try:
        return not turns._locked(second)
    finally:
        probe.close()


def until(true):
    for _ in range(2_000):
        if true():
            return
        time.sleep(0.002)
    raise AssertionError("it never came")


def test_only_one_writes_at_a_time(tmp_path):
    beside, inside, most, order = str(tmp_path / "db"), [], [], []

    def write(who):
        mine = Turns(beside)
        for _ in range(20):
            assert mine.take(30)
            inside.append(who)
            most.append(len(inside))
            time.sleep(0)
            inside.remove(who)
            mine.give()
        order.append(who)
        mine.close()

    threads = [threading.Thread(target=write, args=(n,)) for n in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert (len(order), max(most)) == (6, 1)


def test_what_can_wait_stands_back_however_long_it_waits_already(tmp_path, monkeypatch):
    monkeypatch.setattr(turns, "PATIENCE", 60)
    beside, order = str(tmp_path / "db"), []
    holder = Turns(beside)
    assert holder.take(1)

    def patient():
        with can_wait():
            mine = Turns(beside)
            assert mine.take(30)
        order.append("sweep")
        mine.close()

    def person():
        mine = Turns(beside)
        assert mine.take(30)
        order.append("person")
        time.sleep(0.02)
        mine.close()

    first = threading.Thread(target=patient)
    first.start()
    time.sleep(0.05)
    second = threading.Thread(target=person)
    second.start()
    # Who is patient holds that file for a moment at each look of its own, so one look does not tell them apart.
    until(lambda: all(waiting(beside) for _ in range(5)))
    holder.give()
    second.join(30)
    first.join(30)
    assert order == ["person", "sweep"]


def test_what_waited_long_stands_back_no_more(tmp_path, monkeypatch):
    monkeypatch.setattr(turns, "PATIENCE", 0.02)
    beside = str(tmp_path / "db")
    holder, other = Turns(beside), Turns(beside)
    assert holder.take(1)
    with can_wait():
        thread = threading.Thread(target=lambda: None)
        thread.start()
        assert not other.take(0.1), "the turn is held"
    assert not waiting(beside), "who gave up waiting is not waited for"
    holder.give()
    assert other.take(1)


def test_a_writer_that_is_killed_holds_nobody_up(tmp_path):
    beside = str(tmp_path / "db")
    script = f"from tarn.apps.people.turns import Turns; t = Turns({beside!r}); t.take(5); print('held', flush=True); input()"
    held = subprocess.Popen([sys.executable, "-c", script], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert held.stdout.readline() == b"held\n"
    mine = Turns(beside)
    assert not mine.take(0.05)
    held.kill()
    held.wait()
    assert mine.take(5)
    held.stdin.close()
    held.stdout.close()


@pytest.mark.django_db(transaction=True)
def test_a_person_writes_between_two_pieces_of_a_long_work():
    started, order = threading.Event(), []

    def work():
        for piece in Breath(1).pieces(range(40)):
            with transaction.atomic():
                Organisation.objects.create(name=f"piece {piece[0]}", made_at=1)
                order.append("piece")
                started.set()
                time.sleep(0.02)
        connections.close_all()

    thread = threading.Thread(target=work)
    thread.start()
    started.wait(10)
    for n in range(3):
        before = len(order)
        Organisation.objects.create(name=f"person {n}", made_at=1)
        order.append("person")
        assert order[before:].count("piece") <= 1, "at most the piece that was at work"
    thread.join(60)
    assert order.count("piece") >= 4
    assert Organisation.objects.count() >= 7


@pytest.mark.django_db(transaction=True)
def test_the_turn_is_given_at_commit_at_rollback_and_after_what_fails():
    other = Turns(str(connection.settings_dict["NAME"]))

    def is_free():
        free = other.take(0)
        other.give()
        return free

    with transaction.atomic():
        assert not is_free()
        transaction.on_commit(lambda: told.append(is_free()))
        told = []
    assert told == [True], "what waits for the commit holds nobody up"
    with transaction.atomic():
        transaction.set_rollback(True)
        assert not is_free()
    assert is_free()
    with pytest.raises(OperationalError), connection.cursor() as cursor:
        cursor.execute("INSERT INTO nowhere VALUES (1)")
    assert is_free()
    assert other.take(0)
    connection.settings_dict["OPTIONS"]["timeout"], before = 0.05, connection.settings_dict["OPTIONS"]["timeout"]
    try:
        with pytest.raises(OperationalError, match="locked"):
            Organisation.objects.create(name="late", made_at=1)
    finally:
        connection.settings_dict["OPTIONS"]["timeout"] = before
        other.close()
    Organisation.objects.create(name="in time", made_at=1)
