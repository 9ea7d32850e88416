"""Unknown programs: what looks alike is one group whatever the order; and the rule read from it fits it and no other."""

from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.filters.check import Context
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.values import Clock
from tarn.core.programs.features import Seen, likeness, look
from tarn.core.programs.grouping import Grouping, grouped, runs_of_text
from tarn.core.programs.recognising import (
    INSTANCES,
    Recogniser,
    RuleFault,
    fits,
    proposed,
    recognised,
    too_wide,
    version_of,
)

ROTA = [
    Seen("java -Xmx512m -jar /opt/rota/rota-feed.jar --port 8080", "java", "rota", "8080"),
    Seen("java -Xmx1g -jar /opt/rota-2.4/rota-feed.jar --port 8080 --admin 9091", "java", "rota", "8080 9091"),
    Seen("/usr/lib/jvm/bin/java -Xmx512m -jar /opt/rota-2.3/rota-feed.jar --port 8080", "java", "svc-rota", "8080"),
]
LABELS = Seen("java -Xmx256m -jar /opt/stores/label-print.jar --queue labels", "java", "stores", "8085")
OTHERS = [
    LABELS,
    Seen("python3 /opt/tides/serve.py --port 8000", "python3", "tides", "8000"),
    Seen("node /srv/kiosk-shell/main.js --kiosk avrn-kiosk-01", "node", "kiosk"),
    Seen("berthd --config /etc/berthd.conf", "berthd", "berth", "7410"),
    Seen("relay -l 0.0.0.0:2525 -t 10.60.4.26:25", "relay", "relay", "2525"),
    Seen("/usr/sbin/sshd -D", "sshd", "root", "22"),
]


def context():
    return Context(Clock(1_790_000_000, ZoneInfo("Europe/London")), {}, parse)


def test_three_spellings_of_one_application_are_one_group_and_others_are_others():
    groups = grouped([*ROTA, *OTHERS])
    assert {g.stem: len(g.members) for g in groups} == {
        "rota-feed": 3,
        "label-print": 1,
        "tides/serve": 1,
        "kiosk-shell/main": 1,
        "berthd": 1,
        "relay": 1,
        "sshd": 1,
    }
    rota = next(g for g in groups if g.stem == "rota-feed")
    assert 0.6 < rota.alike < 1


@pytest.mark.parametrize(
    ("command", "program", "runs", "system"),
    [
        ("java -cp /a.jar:/b.jar com.example.Main --x", "java", "com.example.Main", False),
        ("python3.11 -m tides.serve --port 1", "python", "tides.serve", False),
        ("/usr/bin/perl /opt/gulls/count-1.2.pl", "perl", "count", False),
        ('"C:\\Program Files\\Berth\\berth.exe" /server:x', "berth", "", False),
        ("/usr/sbin/cron -f", "cron", "", True),
        ("C:\\Windows\\system32\\svchost.exe -k RPCSS", "svchost", "", True),
        ("System", "System", "", True),
        ("/opt/quay-2.4/bin/quay", "quay", "", False),
    ],
)
def test_what_a_process_is_told_by(command, program, runs, system):
    found = look(Seen(command))
    assert (found.program, found.runs, found.of_system) == (program, runs, system)


def test_values_of_options_do_not_part_what_is_one_program():
    many = [Seen(f"node /srv/kiosk-shell/main.js --kiosk avrn-kiosk-{n:02}", "node", "kiosk") for n in range(30)]
    (group,) = grouped(many)
    assert (len(group.members), group.alike) == (30, 1.0)


def test_two_programs_whose_scripts_have_one_name_are_parted_by_people():
    two = [Seen("python3 /opt/a/feed.py --a", "python3"), Seen("python3 /opt/b/feed.py --b", "python3")]
    assert len(grouped(two)) == 1
    assert len(grouped(two, {"feed"})) == 2


LOOKS = st.lists(
    st.builds(
        Seen,
        st.lists(st.sampled_from(["java", "-jar", "/opt/a/a.jar", "/opt/b.jar", "--x=1", "-v", "run"]), min_size=1).map(
            " ".join
        ),
        st.sampled_from(["java", "run"]),
        st.sampled_from(["", "a", "b"]),
        st.sampled_from(["", "80", "80 443"]),
    ),
    max_size=25,
)


@given(LOOKS, st.randoms())
def test_groups_do_not_hang_on_the_order_and_hold_each_process_once(seen, shuffled):
    before = grouped(seen)
    again = list(seen)
    shuffled.shuffle(again)
    assert grouped(again) == before
    held = [m for g in before for m in g.members]
    assert (len(held), set(held)) == (len(set(held)), set(seen))
    assert len({g.key for g in before}) == len(before)


@given(LOOKS)
def test_likeness_is_a_share_and_the_same_both_ways(seen):
    looks = [look(s) for s in seen]
    for one in looks:
        assert likeness(one, one) == pytest.approx(1.0)
        for other in looks:
            assert 0 <= likeness(one, other) <= 1
            assert likeness(one, other) == pytest.approx(likeness(other, one))


def test_the_rule_that_is_read_fits_its_samples_and_nothing_else():
    made = proposed(ROTA, OTHERS, context())
    assert (made.name, made.rule, made.instance) == ("Rota feed", "command ~ rota-feed.jar", "a device and port")
    holds = fits(made.rule, context())
    assert [holds(s) for s in ROTA] == [True] * 3
    assert not any(holds(s) for s in OTHERS)
    assert [version_of(made.version, s) for s in ROTA] == ["", "2.4", "2.3"]


def test_a_rule_gets_as_narrow_as_others_make_it():
    mine = [Seen("relay -l 1", "relay", "quay", "2525")]
    other = Seen("relay -l 2", "relay", "tide", "2626")
    made = proposed(mine, [*mine, other], context())
    assert made.rule == "name = relay and account = quay"
    assert not fits(made.rule, context())(other)


@given(LOOKS.filter(bool))
def test_whatever_the_samples_the_rule_fits_them(seen):
    for group in grouped(seen):
        made = proposed(group.members, seen, context())
        holds = fits(made.rule, context())
        assert all(holds(m) for m in group.members), made.rule


def test_what_differs_is_marked():
    commands = [s.command for s in ROTA[:2]]
    marked = [text for text, differs in runs_of_text(commands, commands[0]) if differs]
    assert marked == ["512m"] or marked == ["512", "m"]
    assert "".join(text for text, _ in runs_of_text(commands, commands[1])) == commands[1]


def test_a_recogniser_that_says_which_comes_before_one_that_says_what_sort():
    web = Recogniser(1, "Web server", fits("listens = 8080", context()), general=True)
    rota = Recogniser(2, "Rota feed", fits("command ~ rota-feed", context()))
    assert recognised(ROTA[0], [web, rota]) is rota
    assert recognised(Seen("x", "x", "", "8080 1"), [web, rota]) is web
    assert recognised(LABELS, [web, rota]) is None


def test_rules_that_cannot_be_are_refused():
    with pytest.raises(FilterError):
        fits("comand ~ x", context())
    with pytest.raises(RuleFault):
        fits("count > 3", context())
    assert too_wide(f"program{n}" for n in range(30)).startswith("It fits 30 different programs")
    assert too_wide(["one", "one"]) == ""
    assert INSTANCES[0] == "a device"


@given(st.lists(st.tuples(LOOKS, st.sets(st.sampled_from(["a", "b", "run"]))), min_size=1, max_size=4))
def test_carried_on_groups_are_what_grouping_all_of_it_anew_says(times):
    grouping = Grouping()
    for seen, parted in times:
        assert grouping.of(seen, parted) == grouped(seen, parted)
