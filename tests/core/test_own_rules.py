"""Rules of our own walked day by day, and promises reckoned; held against plain reckonings."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.exposure.grade import GRADES, of_vulnerability
from tarn.core.exposure.own_rules import SHIPPED, RuleSpan, walked
from tarn.core.exposure.promises import Promises
from tarn.core.exposure.score_here import score_here
from tarn.core.filters.check import Context, check
from tarn.core.filters.parse import parse
from tarn.core.filters.values import Clock

DAY = 86_400
ZONE = ZoneInfo("Europe/London")
flips = st.dictionaries(
    st.integers(1, 4), st.lists(st.integers(1, 9 * DAY), unique=True, max_size=6).map(sorted), max_size=4
)


def fits(moments, at):
    """An asset begins not to fit and turns at each moment."""
    return sum(m <= at for m in moments) % 2 == 1


@given(flips, st.integers(1, 8))
def test_a_walk_says_what_holds_at_the_end_of_every_day_and_may_be_carried_on(turns, settled):
    def met(at):
        return {a for a, moments in turns.items() if fits(moments, at)}

    def readings(assets, after, until):
        return {a: [m for m in turns[a] if after <= m <= until] for a in assets}

    days = [(d * DAY, (d + 1) * DAY - 1) for d in range(10)]
    spans = walked({}, days, met, readings)
    for _, last in days:
        held = {s.asset for s in spans if s.begins <= last and (s.ends is None or s.ends > last)}
        assert held == met(last)
    for span in spans:  # where one reading brought it, to the second
        if span.ends is not None and span.ends // DAY > span.begins // DAY:
            assert span.begins in turns[span.asset]
    edge = settled * DAY - 1
    standing = {s.asset: s.begins for s in spans if s.begins <= edge and (s.ends is None or s.ends > edge)}
    again = walked(standing, days[settled:], met, readings)
    assert {s for s in spans if s.ends is None or s.ends > edge} == set(again)


def test_what_turns_by_the_clock_turns_at_the_beginning_of_the_day_and_by_a_reading_with_it():
    days = [(0, DAY - 1), (DAY, 2 * DAY - 1), (2 * DAY, 3 * DAY - 1)]
    by_clock = walked({}, days, lambda at: {7} if at >= DAY else set(), lambda *_: {7: [DAY + 50]})
    assert by_clock == [RuleSpan(7, DAY, None)]
    by_reading = walked({}, days, lambda at: {7} if DAY + 50 <= at < 2 * DAY + 9 else set(),
                        lambda _, after, __: {7: [DAY + 50] if after == DAY else [2 * DAY + 9]})  # fmt: skip
    assert by_reading == [RuleSpan(7, DAY + 50, 2 * DAY + 9)]


@pytest.mark.parametrize("rule", SHIPPED, ids=lambda r: r.key)
def test_a_rule_that_ships_can_be_asked(rule):
    context = Context(Clock(1_700_000_000, ZONE), {}, lambda name: parse(""), list, lambda *_: ())
    check(parse(rule.filter), context)
    assert rule.todo.endswith(".")


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(1_600_000_000, 1_800_000_000)), max_size=12), st.booleans())
def test_a_promise_is_so_many_days_of_the_calendar_or_of_work(told, working):
    promises = Promises(dict(zip(GRADES, (3, 7, 30, None), strict=True)), working, (date(2023, 12, 25),))
    grades = np.array([g for g, _ in told], dtype=np.int8)
    since = np.array([s for _, s in told], dtype=np.uint32)
    ends = promises.ends(since, promises.of_grades(grades), ZONE).tolist()
    for (grade, began), end in zip(told, ends, strict=True):
        days = promises.days[GRADES[grade]]
        if days is None:
            assert end == 0
        elif not working:
            assert end == began + days * DAY
        else:
            day = datetime.fromtimestamp(began, ZONE).date()
            while day.weekday() > 4 or day == date(2023, 12, 25):
                day -= timedelta(1)
            for _ in range(days):
                day += timedelta(1)
                while day.weekday() > 4 or day == date(2023, 12, 25):
                    day += timedelta(1)
            after = day + timedelta(1)
            assert end == datetime(after.year, after.month, after.day, tzinfo=ZONE).timestamp()


@pytest.mark.parametrize(
    ("version", "vector", "used", "outside", "important", "threat", "here"),
    [
        # Worked by hand on the first's own calculator rules: E:U takes 9 %, MAV:A another step.
        ("3.1", "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H", True, True, False, 9.8, 9.8),
        ("3.1", "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H", True, False, False, 9.8, 8.8),
        ("3.1", "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H", False, True, False, 9.0, 9.0),
        ("3.1", "CVSS:3.1/AV:L/AC:L/PR:N/UI:R/S:U/C:H/I:N/A:N", True, False, True, 5.5, 7.3),
        ("4.0", "CVSS:4.0/AV:N/AC:L/AT:N/PR:N/UI:N/VC:H/VI:H/VA:H/SC:N/SI:N/SA:N", True, True, True, 9.3, 9.3),
    ],
)
def test_a_score_is_reckoned_with_use_and_where_it_stands(version, vector, used, outside, important, threat, here):
    told = score_here(version, vector, used, None, outside, important)
    assert (told.threat, told.environment) == (threat, here)
    assert score_here(version, "CVSS:9.9/what", used, None, outside, important) is None


def test_an_answer_without_a_score_takes_the_graver():
    assert of_vulnerability(False, None, "")["impact"][0] == "total"
