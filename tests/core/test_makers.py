"""Spellings of one maker."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.identifiers import identifiers
from tarn.core.makers import maker, model
from tarn.core.sections import Identity


@pytest.mark.parametrize(
    ("spelt", "one"),
    [
        ("HALBERD CORPORATION", "Halberd"),
        ("Halberd Corp.", "Halberd"),
        ("Halberd, Inc.", "Halberd"),
        ("Halberd  Co., Ltd.", "Halberd"),
        ("Halberd(R)", "Halberd"),
        ("Selkie Networks GmbH", "Selkie Networks"),
        ("SELKIE NETWORKS", "Selkie Networks"),
        ("ORN", "ORN"),
        ("ORN Ltd", "ORN"),
        ("Corp.", "Corp."),
        ("Co Inc", "Co Inc"),
        ("", ""),
    ],
)
def test_spellings_come_to_one(spelt, one):
    assert maker(spelt) == one


@pytest.mark.parametrize(
    ("spelt", "one"),
    [
        ("Halberd Keel 14", "Keel 14"),
        ("HALBERD Corp. Keel(TM)  14", "Keel 14"),
        ("Keel_14", "Keel 14"),
        ("Halberd", "Halberd"),
        ("Halberdier 3", "Halberdier 3"),
    ],
)
def test_models_come_to_one(spelt, one):
    assert model(spelt, "Halberd") == one


@given(st.text(max_size=40), st.text(max_size=20))
def test_a_model_that_is_one_already_stays(name, made_by):
    assert model(model(name, made_by), made_by) == model(name, made_by)


@given(st.text(max_size=40))
def test_what_is_one_already_stays(name):
    assert maker(maker(name)) == maker(name)


def test_a_serial_number_is_the_makers_whatever_its_spelling():
    one = identifiers(Identity(serial="HB-00001", manufacturer="HALBERD INC."))[0]
    assert one.key == identifiers(Identity(serial="HB-00001", manufacturer="Halberd"))[0].key
