"""One folder, one server, nobody else's: the lock, copies before a change, restore, and every failure in one line."""

from __future__ import annotations

import gzip
import re
import shutil
import signal
import socket
import sqlite3
import stat
from collections.abc import Iterator
from pathlib import Path

import pytest

from muster.cli import database
from muster.core.errors import MusterError
from tests.records.test_files_of_before import FILES
from tests.serving import Browser, Serving, muster

SEALED = FILES / "sealed-2.muster.zip"


@pytest.fixture(scope="module")
def filled(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with one job in it."""
    folder = tmp_path_factory.mktemp("filled")
    assert muster("import", str(SEALED), "--data", str(folder)).returncode == 0
    return folder


@pytest.fixture
def own(filled: Path, tmp_path: Path) -> Path:
    """A copy of that folder, for one test."""
    return Path(shutil.copytree(filled, tmp_path / "own"))


@pytest.fixture(scope="module")
def served(filled: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Serving, Path]]:
    """A server on a copy of that folder."""
    folder = Path(shutil.copytree(filled, tmp_path_factory.mktemp("served") / "own"))
    with Serving(folder) as serving:
        yield serving, folder


def one_line(ran, *words: str) -> None:  # type: ignore[no-untyped-def]
    assert ran.returncode == 2
    assert ran.stderr.count("\n") == 1, ran.stderr
    for word in words:
        assert word in ran.stderr


def test_a_second_server_of_a_folder_is_told_who_has_it(served: tuple[Serving, Path]) -> None:
    serving, folder = served
    one_line(muster("up", "--port", "0", "--data", str(folder)), f"process {serving.process.pid}", "muster up")
    one_line(muster("restore", str(folder / "muster.sqlite3"), "--data", str(folder)), str(serving.process.pid))


def test_a_lock_left_behind_by_a_kill_holds_nobody_up(own: Path) -> None:
    first = Serving(own)
    first.end(signal.SIGKILL)
    with Serving(own) as second:
        assert second.browser().get("/").status == 200


def test_commands_work_beside_a_server_and_break_off_nothing(served: tuple[Serving, Path], tmp_path: Path) -> None:
    """An import, an export and a backup leave what the server is reading in alone."""
    _, folder = served
    with sqlite3.connect(folder / "muster.sqlite3") as database:
        session = database.execute("select max(id) from records_sessionrow").fetchone()[0]
        user = database.execute("select min(id) from auth_user").fetchone()[0]
        database.execute(
            "insert into records_importrow (session_id, file_name, path, size_bytes, state, done_bytes, rows, message, stop_asked, created_by_id, created_at)"
            " values (?, 'long.csv', '', 1, 'reading', 0, 0, '', 0, ?, '2026-11-27')",
            (session, user),
        )
    assert muster("import", str(SEALED), "--data", str(folder)).returncode == 0
    assert muster("export", "1", str(tmp_path / "out.muster.zip"), "--data", str(folder)).returncode == 0
    assert muster("backup", str(tmp_path / "copy.sqlite3"), "--data", str(folder)).returncode == 0
    with sqlite3.connect(folder / "muster.sqlite3") as database:
        assert database.execute("select state from records_importrow").fetchall() == [("reading",)]
        database.execute("delete from records_importrow")


def test_a_browser_is_let_in_once_by_an_address_then_by_its_cookie(served: tuple[Serving, Path]) -> None:
    serving, folder = served
    link = muster("url", "--data", str(folder)).stdout.strip()
    first, stranger = Browser(serving.address), Browser(serving.address)
    assert "The pilot house" in first.get(link).text
    assert first.get("/").status == 200
    refused = stranger.get(link)
    assert (refused.status, "has been used" in refused.text) == (403, True)
    told = stranger.get("/")
    assert (told.status, "muster url" in told.text, "pilot house" in told.text) == (403, True, False)
    assert stranger.post("/let-in/").status == 403


def test_the_printed_address_lets_in_and_a_browser_that_is_in_lets_in_another(served: tuple[Serving, Path]) -> None:
    serving, _ = served
    first, second = serving.browser(), Browser(serving.address)
    first.get("/help/")
    address = re.search(r'value="(http[^"]*/in/[^"]*)"', first.post("/let-in/").text)
    assert address is not None
    assert second.get(address[1]).status == 200
    assert second.get("/").status == 200


def test_no_session_is_kept_of_a_stranger(served: tuple[Serving, Path]) -> None:
    serving, folder = served

    def sessions() -> int:
        with sqlite3.connect(folder / "muster.sqlite3") as database:
            return int(database.execute("select count(*) from django_session").fetchone()[0])

    before = sessions()
    for _ in range(3):
        Browser(serving.address).get("/")
        Browser(serving.address).get("/in/nothing/")
    assert sessions() == before


def test_the_folder_and_all_in_it_are_this_accounts_alone(served: tuple[Serving, Path]) -> None:
    _, folder = served
    assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    modes = {path.name: stat.S_IMODE(path.stat().st_mode) for path in folder.rglob("*") if path.is_file()}
    assert set(modes.values()) == {0o600}, modes


def test_a_backup_is_restored_and_what_stood_there_is_kept(own: Path, tmp_path: Path) -> None:
    copy = tmp_path / "monday.sqlite3"
    assert muster("backup", str(copy), "--data", str(own)).returncode == 0
    assert muster("import", str(SEALED), "--data", str(own)).returncode == 0
    assert muster("restore", str(copy), "--data", str(own)).returncode == 0
    (kept,) = own.glob("muster.before-restore-*.sqlite3")
    assert jobs_in(own / "muster.sqlite3") == 1
    assert jobs_in(kept) == 2


def jobs_in(path: Path) -> int:
    with sqlite3.connect(path) as database:
        return int(database.execute("select count(*) from records_job").fetchone()[0])


def test_what_is_no_backup_is_not_restored(own: Path, tmp_path: Path) -> None:
    other = tmp_path / "other.sqlite3"
    with sqlite3.connect(other) as database:
        database.execute("create table mine (x)")
    text = tmp_path / "text.sqlite3"
    text.write_text("no database at all, but long enough to be looked at as one" * 20)
    for path, words in (
        (other, "not a database of Muster"),
        (text, "not a database"),
        (tmp_path / "none", "no such file"),
    ):
        one_line(muster("restore", str(path), "--data", str(own)), words, str(path))
    assert jobs_in(own / "muster.sqlite3") == 1
    assert list(own.glob("*before*")) == []


def test_a_backup_that_cannot_be_leaves_nothing_behind(own: Path, tmp_path: Path) -> None:
    one_line(muster("backup", str(tmp_path / "no" / "where.sqlite3"), "--data", str(own)), "no such folder")
    one_line(muster("backup", str(tmp_path), "--data", str(own)), str(tmp_path))
    (own / "muster.sqlite3").write_bytes(b"SQLite format 3\x00" + b"\x00" * 4000)
    one_line(muster("backup", str(tmp_path / "copy.sqlite3"), "--data", str(own)), "copy.sqlite3")
    assert [path.name for path in tmp_path.iterdir()] == ["own"]


def test_a_copy_is_kept_before_a_database_is_changed(tmp_path: Path) -> None:
    path = tmp_path / "muster.sqlite3"
    path.write_bytes(gzip.decompress((FILES / "sealed-1.sqlite3.gz").read_bytes()))
    assert muster("export", "1", str(tmp_path / "out.muster.zip"), "--data", str(tmp_path)).returncode == 0
    (kept,) = tmp_path.glob("muster.before-*.sqlite3")
    assert database.migrations_in(kept)[-1] == "0007_characters"
    assert database.migrations_in(path) == database.known_migrations()


def test_a_database_of_a_newer_muster_is_refused_untouched(own: Path) -> None:
    path = own / "muster.sqlite3"
    with sqlite3.connect(path) as database:
        database.execute(
            "insert into django_migrations (app, name, applied) values ('records', '9999_later', '2030-01-01')"
        )
    before = path.read_bytes()
    one_line(muster("up", "--port", "0", "--data", str(own)), "newer Muster", "9999_later")
    one_line(muster("export", "1", "-", "--data", str(own)), "newer Muster")
    assert path.read_bytes() == before


def _is_text(folder: Path) -> None:
    (folder / "muster.sqlite3").write_text("these are my notes, not a database, and there are many of them\n" * 90)


def _is_truncated(folder: Path) -> None:
    path = folder / "muster.sqlite3"
    path.write_bytes(path.read_bytes()[:9000])


def _is_a_folder(folder: Path) -> None:
    (folder / "muster.sqlite3").unlink()
    (folder / "muster.sqlite3").mkdir()


def _has_no_secret(folder: Path) -> None:
    (folder / "secret.txt").write_text("")


UP, IN, OUT = ["up", "--port", "0"], ["import", str(SEALED)], ["export", "1", "-"]


@pytest.mark.parametrize(
    ("spoil", "command"),
    [
        (_is_text, UP),
        (_is_text, IN),
        (_is_truncated, UP),
        (_is_truncated, OUT),
        (_is_a_folder, UP),
        (_has_no_secret, UP),
        (_has_no_secret, OUT),
    ],
)
def test_a_folder_that_cannot_be_used_is_told_in_one_line(own: Path, spoil, command: list[str]) -> None:  # type: ignore[no-untyped-def]
    for beside in own.glob("muster.sqlite3-*"):
        beside.unlink()
    spoil(own)
    one_line(muster(*command, "--data", str(own)), str(own))


def test_a_folder_that_cannot_be_made_is_told_in_one_line(tmp_path: Path) -> None:
    (tmp_path / "file").touch()
    one_line(muster("up", "--data", str(tmp_path / "file" / "folder")), str(tmp_path / "file"))


def test_a_folder_that_cannot_be_written_is_told_in_one_line() -> None:
    one_line(muster("up", "--data", "/proc/muster"), "/proc/muster")


def test_a_port_in_use_or_out_of_range_is_told_in_one_line(own: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        one_line(muster("up", "--port", str(taken.getsockname()[1]), "--data", str(own)), "in use", "--port")
    one_line(muster("up", "--port", "70000", "--data", str(own)), "0 to 65535")


def test_a_url_is_given_only_where_something_is_served(own: Path) -> None:
    one_line(muster("url", "--data", str(own)), "nothing is served")


def test_an_error_of_the_disk_names_its_file(tmp_path: Path) -> None:
    with pytest.raises(MusterError, match="is a directory") as told, database.as_one_line(tmp_path):
        tmp_path.open("rb").close()
    assert str(tmp_path) in str(told.value)


def test_a_backup_holds_the_photos_and_says_which_it_does_not(own: Path, tmp_path: Path) -> None:
    """A database whose session has a photo: backed up, lost, restored."""
    digest = "ab" * 32
    folder, copy = own / "photos", tmp_path / "monday.sqlite3"
    folder.mkdir()
    for end in (".jpg", ".thumb.jpg"):
        (folder / f"{digest}{end}").write_bytes(b"a picture")
    with sqlite3.connect(own / "muster.sqlite3") as database:
        database.execute("pragma foreign_keys = off")
        database.execute(
            "insert into records_photorow (created_at, sha256, caption, width, height, created_by_id, entry_id, session_id)"
            " select '2026-11-28', ?, '', 1, 1, who_id, id, session_id from records_entryrow limit 1",
            (digest,),
        )
    assert "its photos to" in muster("backup", str(copy), "--data", str(own)).stdout
    for file in folder.iterdir():
        file.unlink()
    assert "not found" not in muster("restore", str(copy), "--data", str(own)).stdout
    assert (folder / f"{digest}.jpg").read_bytes() == b"a picture"
    (folder / f"{digest}.jpg").unlink()
    assert "1 photo not found" in muster("backup", str(tmp_path / "next.sqlite3"), "--data", str(own)).stdout
