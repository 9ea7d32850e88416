"""The data directory: its owner's alone, nobody else's files touched, keys made once and kept apart where asked."""

import os
import stat

import pytest
from cryptography.fernet import Fernet

from tarn.site import home as module
from tarn.site.home import SECRETS, home, keep_close, keys, secrets_keys, session_key, write_secrets_keys


@pytest.fixture
def place(tmp_path, monkeypatch):
    """A data directory of this test, and the umask as it was."""
    before = os.umask(0o022)
    monkeypatch.setenv("TARN_HOME", str(tmp_path / "data"))
    monkeypatch.delenv("TARN_KEYS", raising=False)
    monkeypatch.setattr(module, "_kept_close", [])
    yield tmp_path / "data"
    os.umask(before)


def mode(path):
    return stat.S_IMODE(path.lstat().st_mode)


def test_the_directory_is_made_and_its_owner_s_alone_and_so_is_what_is_made_in_it(place):
    assert home() == place
    assert mode(place) == 0o700
    (place / "note.json").write_text("{}")
    assert mode(place / "note.json") & 0o077 == 0


def test_what_others_might_have_read_is_taken_from_them(place):
    (place / "papers").mkdir(parents=True)
    for name in ("tarn.sqlite3", "tarn.sqlite3-wal", "papers/a.pdf"):
        (place / name).write_bytes(b"x")
        (place / name).chmod(0o644)
    keep_close(place)
    assert {mode(place / n) for n in ("tarn.sqlite3", "tarn.sqlite3-wal", "papers/a.pdf")} == {0o600}


def test_a_folder_that_is_shared_keeps_its_own_mode_and_its_other_files(place, tmp_path):
    place.mkdir(mode=0o755)
    place.chmod(0o755)
    for name in ("tarn.log", "holiday.txt"):
        (place / name).write_text("x")
        (place / name).chmod(0o644)
    outside = tmp_path / "elsewhere.key"
    outside.write_text("x")
    outside.chmod(0o644)
    (place / "linked.key").symlink_to(outside)
    keep_close(place)
    assert (mode(place), mode(place / "holiday.txt"), mode(outside)) == (0o755, 0o644, 0o644)
    assert mode(place / "tarn.log") == 0o600


def test_keys_are_made_once_and_are_nobody_else_s(place):
    first = session_key()
    assert session_key() == first
    assert len(first) >= 50
    (made,) = secrets_keys()
    Fernet(made)  # it can seal
    assert secrets_keys() == [made]
    assert {mode(place / n) for n in ("session.key", SECRETS)} == {0o600}


def test_keys_stand_outside_the_data_where_that_is_asked(place, tmp_path, monkeypatch):
    monkeypatch.setenv("TARN_KEYS", str(tmp_path / "safe"))
    assert keys() == tmp_path / "safe"
    secrets_keys()
    assert (tmp_path / "safe" / SECRETS).exists()
    assert not (place / SECRETS).exists()
    assert mode(tmp_path / "safe") == 0o700


def test_several_keys_are_kept_in_their_order_and_an_empty_file_is_said(place):
    two = [Fernet.generate_key(), Fernet.generate_key()]
    home()
    write_secrets_keys(two)
    assert secrets_keys() == two
    assert not (place / SECRETS).with_suffix(".part").exists()
    (place / SECRETS).write_text("\n")
    with pytest.raises(RuntimeError, match=f"{SECRETS} holds no key"):
        secrets_keys()
