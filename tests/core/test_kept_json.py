"""Small values as they are kept: as the library writes and reads them, whatever they hold."""

import json

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tarn.core.kept_json import kept, kept_close, read_kept

scalars = st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text()
values = st.recursive(scalars, lambda v: st.lists(v, max_size=3) | st.dictionaries(st.text(), v, max_size=3))


@given(values)
@example('say "so"')
@example("back\\slash")
@example("")
@example('"')
def test_what_is_kept_is_read_again_and_written_as_the_library_does(value):
    assert kept(value) == json.dumps(value, ensure_ascii=False)
    assert kept_close(value) == json.dumps(value, separators=(",", ":"))
    assert read_kept(kept(value)) == value
    assert read_kept(kept_close(value)) == value


@pytest.mark.parametrize("text", ["", '"', '"half', 'half"', '"a"b"', "nope", '"a" "b"'])
def test_what_is_no_value_is_refused(text):
    with pytest.raises(ValueError):
        read_kept(text)
