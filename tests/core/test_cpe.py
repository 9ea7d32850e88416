"""Names of platforms: the tables of NISTIR 7696, and what is no name."""

import pytest

from tarn.core.exposure.cpe import ANY, NA, Cpe, OutsideNameError, Relation, compare, compare_attribute, read_cpe

_WILD, _VALUE = "11.*", "11.0"
TABLE_6_2 = [
    (ANY, ANY, "equal"),
    (ANY, NA, "superset"),
    (ANY, _VALUE, "superset"),
    (ANY, _WILD, "undefined"),
    (NA, ANY, "subset"),
    (NA, NA, "equal"),
    (NA, _VALUE, "disjoint"),
    (NA, _WILD, "undefined"),
    (_VALUE, _VALUE, "equal"),
    (_VALUE, "12.0", "disjoint"),
    (_VALUE, _WILD, "undefined"),
    (_VALUE, NA, "disjoint"),
    (_VALUE, ANY, "subset"),
    (_WILD, _VALUE, "superset"),
    (_WILD, "12.0", "disjoint"),
    (_WILD, ANY, "subset"),
    (_WILD, NA, "disjoint"),
    (_WILD, "1*", "undefined"),
]


@pytest.mark.parametrize(("source", "target", "relation"), TABLE_6_2)
def test_attributes_stand_as_table_6_2_says(source, target, relation):
    assert compare_attribute(source, target) is Relation(relation)


@pytest.mark.parametrize(
    ("source", "target", "relation"),
    [
        ("a:quill:office:16.*:*:*:*:*:*:*:*", "a:quill:office:16.1:-:*:*:*:*:*:*", "superset"),
        ("a:quill:office:16.1:*:*:*:*:*:*:*", "a:quill:office:16.1:*:*:*:*:*:*:*", "equal"),
        ("a:quill:office:16.1:*:*:*:*:windows:*:*", "a:quill:office:16.1:*:*:*:*:*:*:*", "subset"),
        ("a:quill:office:*:*:*:*:*:windows:*:*", "a:quill:office:16.1:*:*:*:*:*:*:*", "undefined"),
        ("a:quill:office:*:*:*:*:*:windows:*:*", "a:quill:office:16.1:*:*:*:*:linux:*:*", "disjoint"),
        ("o:quill:office:*:*:*:*:*:*:*:*", "a:quill:office:16.1:*:*:*:*:*:*:*", "disjoint"),
    ],
)
def test_names_stand_as_table_6_4_says(source, target, relation):
    assert compare(read_cpe(f"cpe:2.3:{source}"), read_cpe(f"cpe:2.3:{target}")) is Relation(relation)


@pytest.mark.parametrize(
    ("pattern", "fits", "fails"),
    [("??1", ("1", "a1", "ab1"), ("abc1", "12")), ("1?", ("1", "1a"), ("1ab",)), ("*b*", ("b", "abc"), ("ac",))],
)
def test_wild_cards_match_as_section_6_3_says(pattern, fits, fails):
    for value in fits:
        assert compare_attribute(pattern, value) is Relation.SUPERSET, value
    for value in fails:
        assert compare_attribute(pattern, value) is Relation.DISJOINT, value


def test_a_name_is_read_with_what_is_quoted_in_it():
    name = read_cpe(r"cpe:2.3:a:Tern\:work:tern\!notes:4.1.2:rc1:*:*:*:*:*:-")
    assert name == Cpe("a", r"tern\:work", r"tern\!notes", "4.1.2", "rc1", other="-")
    assert read_cpe(str(name)) == name
    assert compare_attribute(r"1\.0", "1.0") is Relation.EQUAL, "a dot may be quoted or not"


@pytest.mark.parametrize(
    "text",
    [
        "",
        "cpe:/a:quill:office",
        "cpe:2.3:a:quill:office",
        "cpe:2.3:x:quill:office:1:*:*:*:*:*:*:*",
        "cpe:2.3:a:qu*ill:office:1:*:*:*:*:*:*:*",
        "cpe:2.3:a:quill:off ice:1:*:*:*:*:*:*:*",
        "cpe:2.3:a::office:1:*:*:*:*:*:*:*",
    ],
)
def test_what_is_no_name_is_refused(text):
    with pytest.raises(OutsideNameError):
        read_cpe(text)
