"""Text that is compared, guessed at, said as an amount, and written where a spreadsheet reads it; days; addresses."""

import csv
import io
from datetime import UTC, date, datetime, timedelta
from ipaddress import ip_address, ip_network
from zoneinfo import ZoneInfo, available_timezones

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.days import FIRST, LAST, OutsideCalendar, noon, within_calendar
from tarn.core.ranges import RangeError, address_key, expand, hardware_address, keys_in, parse_ranges, range_keys
from tarn.core.schedule import in_words, next_after, window_ends
from tarn.core.text import RUNS, cell, fitting, fold, nearest, quantity

lines = st.text(st.characters(codec="utf-8", exclude_categories=("Cs",)), max_size=30)


@given(st.lists(st.integers(1, 4094), max_size=30), st.integers(1, 60))
def test_what_is_too_long_is_cut_at_a_whole_word_and_no_earlier(numbers, most):
    words = [str(n) for n in numbers]
    held = fitting(words, " ", most).split()
    assert held == words[: len(held)]
    assert len(" ".join(held)) <= most
    assert held == words or len(" ".join(words[: len(held) + 1])) > most


@given(lines)
def test_folding_twice_is_folding_once_and_ignores_case(text):
    assert fold(fold(text)) == fold(text)
    if text.isascii():
        assert fold(text.upper()) == fold(text)


@pytest.mark.parametrize(
    ("one", "other"), [("Gerät", "geraet"), ("Café", "cafe"), ("STRASSE", "straße"), ("Ångström", "angstrom")]
)
def test_accents_and_letter_case_do_not_count(one, other):
    # An umlaut written out as two letters is another spelling, not another way to write one letter.
    assert (fold(one) == fold(other)) == (one != "Gerät")


@given(lines)
def test_no_cell_of_a_file_is_carried_out_and_nothing_of_it_is_lost(text):
    written = cell(text)
    assert isinstance(written, str)
    assert written[:1] not in RUNS
    assert written.removeprefix("'") == text or written == text


@given(st.lists(lines.filter(lambda t: "\x00" not in t), min_size=1, max_size=5))
def test_a_row_of_a_file_reads_back_as_it_was_written(row):
    out = io.StringIO()
    csv.writer(out).writerow([cell(v) for v in row])
    [read] = list(csv.reader(io.StringIO(out.getvalue(), newline="")))
    assert read == [cell(v) for v in row]


@given(st.lists(st.text("abcdefgh", min_size=3, max_size=8), min_size=1, max_size=6, unique=True))
def test_what_is_meant_is_among_what_is_guessed(known):
    word = known[0]
    assert nearest(word, known)[0] == word
    assert word in nearest(word[:-1] + "z", known, most=len(known)) or len(word) < 4
    assert len(nearest(word, known, most=2)) <= 2


@pytest.mark.parametrize(
    ("value", "unit", "step", "said"),
    [
        (0, "B", 1024, "0 B"),
        (1023, "B", 1024, "1.02e+03 B"),
        (1 << 30, "B", 1024, "1 GB"),
        (480 * 10**9, "B", 1000, "480 GB"),
        (2.5e9, "b/s", 1000, "2.5 Gb/s"),
        (10**20, "B", 1000, "1e+05 PB"),
    ],
)
def test_an_amount_has_the_greatest_prefix_that_leaves_one(value, unit, step, said):
    assert quantity(value, unit, step) == said


@given(st.dates(FIRST, LAST), st.sampled_from(sorted(available_timezones())))
def test_noon_of_a_day_lies_on_that_day_wherever_a_company_is(day, zone):
    there = datetime.fromtimestamp(noon(day), ZoneInfo(zone))
    # Islands beyond the date line by more than half a day have the next one already.
    assert there.date() in (day, day + timedelta(1))
    assert within_calendar(day) == day


@pytest.mark.parametrize("day", [FIRST - timedelta(1), LAST + timedelta(1), date.max, date.min])
def test_a_day_nobody_can_mean_is_refused_by_its_name(day):
    with pytest.raises(OutsideCalendar, match=day.isoformat()):
        within_calendar(day)


networks = st.tuples(st.ip_addresses(v=4), st.integers(20, 32)).map(
    lambda n: ip_network(f"{n[0]}/{n[1]}", strict=False)
)


@given(networks)
def test_a_network_holds_what_it_holds_by_the_standard_library(network):
    [read] = parse_ranges([str(network)])
    assert (read.size, str(read.first), str(read.last)) == (network.num_addresses, str(network[0]), str(network[-1]))
    low, high = range_keys(str(network))
    assert all(low <= address_key(str(a)) <= high for a in (network[0], network[-1]))
    below, above = int(network[0]) - 1, int(network[-1]) + 1
    assert below < 0 or address_key(str(ip_address(below))) < low
    assert above > 0xFFFFFFFF or address_key(str(ip_address(above))) > high


@given(st.lists(networks.filter(lambda n: n.prefixlen >= 27), min_size=1, max_size=4), st.lists(networks, max_size=2))
def test_what_is_probed_is_what_the_ranges_hold_without_what_is_left_out(ranges, without):
    probe, left = expand(
        parse_ranges([str(n) for n in ranges], most=1 << 20), parse_ranges(list(map(str, without)), 1 << 20)
    )
    held = {str(a) for n in ranges for a in n}
    out = {str(a) for n in without for a in n}
    edges = {str(e) for n in ranges if n.num_addresses > 2 for e in (n[0], n[-1])}
    inner = {str(a) for n in ranges for a in n if n.num_addresses <= 2 or a not in (n[0], n[-1])}
    assert set(probe) == inner - out
    assert set(probe) | set(left) == held
    assert {a for a, why in left.items() if not why} <= edges - inner
    assert probe == sorted(probe, key=lambda a: int(ip_address(a)))


@given(
    st.lists(networks | st.ip_addresses(v=4) | st.ip_addresses(v=6), max_size=5),
    st.sampled_from([" ", ", ", "\n", ";"]),
)
def test_what_stands_in_an_address_block_is_found(some, between):
    found = keys_in(between.join(map(str, some)))
    assert found == [range_keys(str(one)) for one in some]


def test_an_address_with_its_mask_is_that_address_and_words_between_are_none():
    address = (address_key("10.60.4.9"),) * 2
    assert keys_in("crane 10.60.4.9/24, quay") == [address]
    assert keys_in("") == keys_in("none known") == []
    with pytest.raises(RangeError):
        range_keys("quay")


@given(st.binary(min_size=6, max_size=6), st.sampled_from([":", "-", "", "."]))
def test_a_hardware_address_is_the_same_however_it_is_parted(raw, sign):
    digits = raw.hex()
    width = 4 if sign == "." else 2
    written = sign.join(digits[n : n + width] for n in range(0, 12, width))
    assert hardware_address(written.upper()) == ":".join(digits[n : n + 2] for n in range(0, 12, 2))


ZONE = "Europe/London"
NIGHT = "FREQ=DAILY;BYHOUR=1;BYMINUTE=30;BYSECOND=0"
moments = st.integers(
    int(datetime(2025, 1, 1, tzinfo=UTC).timestamp()), int(datetime(2029, 1, 1, tzinfo=UTC).timestamp())
)


@given(moments, st.integers(1, 20))
def test_a_window_holds_from_its_start_for_as_long_as_was_said(moment, hours):
    starts = next_after(NIGHT, moment, ZONE)
    assert window_ends(NIGHT, hours * 60, starts, ZONE) == starts + hours * 3600
    assert window_ends(NIGHT, hours * 60, starts + hours * 3600 - 1, ZONE) == starts + hours * 3600
    ended = window_ends(NIGHT, hours * 60, starts + hours * 3600, ZONE)
    assert ended is None


@given(moments)
def test_the_next_start_comes_after_and_none_lies_between(moment):
    first = next_after(NIGHT, moment, ZONE)
    assert first > moment - 3600  # an hour that comes twice in autumn is counted once
    assert next_after(NIGHT, first, ZONE) > first


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        ("FREQ=DAILY", "every day"),
        ("FREQ=DAILY;INTERVAL=3", "every 3 days"),
        ("FREQ=WEEKLY;BYDAY=MO,WE;BYHOUR=6,18;BYMINUTE=15", "every Monday and Wednesday at 06:15 and 18:15"),
        ("freq=hourly", "every hour"),
        ("FREQ=DAILY;COUNT=3", "FREQ=DAILY;COUNT=3"),
        ("FREQ=DAILY;BYHOUR=one", "FREQ=DAILY;BYHOUR=one"),
    ],
)
def test_a_rule_is_said_as_one_would_or_stands_as_it_is(rule, words):
    assert in_words(rule) == words
