"""`./lamp export`, `import`, `archive`, `unarchive`: an account leaves by the command line and comes back on a fresh installation."""

import io
import sys

import polars
import pytest

from mudlamp.cli.__main__ import main
from tests.services.keep.conftest import account, everything, fresh  # noqa: F401 - fixtures
from tests.services.trips.conftest import OWNER


def run(monkeypatch, account, *words):  # noqa: F811
    monkeypatch.setattr(sys, "stdin", io.StringIO(account.engine.url.render_as_string(hide_password=False) + "\n"))
    monkeypatch.setenv("MUDLAMP_RUN_DIR", str(account.run_dir))
    monkeypatch.setenv("MUDLAMP_LEAST_FREE_BYTES", "0")
    return main([str(word) for word in words])


def test_an_account_leaves_and_comes_back_to_the_last_row(monkeypatch, account, fresh, tmp_path, capsys):  # noqa: F811
    file = tmp_path / "all.zip"
    assert run(monkeypatch, account, "archive", file) == 0
    assert run(monkeypatch, fresh, "unarchive", file) == 0
    assert everything(fresh.engine) == everything(account.engine)
    assert "rows were new, 2 files came along" in capsys.readouterr().err


def test_tables_are_written_and_sheets_read(monkeypatch, account, fresh, tmp_path, capsys):  # noqa: F811
    table = tmp_path / "catches.csv"
    assert run(monkeypatch, account, "export", "catches", table, "--angler", "Jo") == 0
    assert polars.read_csv(table).height == 2
    assert run(monkeypatch, account, "export", "spots", tmp_path / "spots.gpx") == 0
    for words in (("archive", tmp_path / "a.zip"),):
        assert run(monkeypatch, account, *words) == 0
    run(monkeypatch, fresh, "unarchive", tmp_path / "a.zip")
    before = len(fresh.trips.all(OWNER, limit=99))
    sheet = tmp_path / "trips.csv"
    sheet.write_text("When,Lake\n2026-09-01,Other\n")
    assert run(monkeypatch, fresh, "import", "trips", sheet, "--map", "When=day", "Lake=water") == 0
    assert len(fresh.trips.all(OWNER, limit=99)) == before + 1
    assert run(monkeypatch, fresh, "import", "spots", tmp_path / "spots.gpx") == 0
    capsys.readouterr()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("export", "passwords", "x.csv"), "invalid choice: 'passwords'"),
        (("export", "catches", "{tmp}/x.exe"), "it must end in .csv, .json, .parquet"),
        (("export", "catches", "{tmp}/none/x.csv"), "its folder must exist"),
        (("export", "catches", "{tmp}/x.csv", "--angler", "Nobody"), "--angler is Nobody: it must be one of Jo"),
        (("import", "catches", "{tmp}/none.csv"), "No such file"),
        (("import", "catches", "{tmp}/bad.csv"), "row 2: Species is salmon"),
        (("import", "catches", "{tmp}/bad.csv", "--map", "Fish"), "--map is Fish: it must be COLUMN=FIELD"),
        (("import", "recordings", "{tmp}/bad.csv"), "recording"),
        (("archive", "{tmp}/x.tar"), "it must end in .zip"),
        (("unarchive", "{tmp}/bad.csv"), "is no whole archive"),
    ],
)
def test_what_is_wrong_is_one_line_and_leaves_no_file(monkeypatch, account, tmp_path, capsys, words, said):  # noqa: F811
    (tmp_path / "bad.csv").write_text("day,species\n2026-10-01,salmon\n")
    before, files = everything(account.engine), sorted(tmp_path.iterdir())
    try:
        status = run(monkeypatch, account, *(word.replace("{tmp}", str(tmp_path)) for word in words))
    except SystemExit as left:
        status = left.code
    told = capsys.readouterr()
    assert (status, told.out) == (2, "")
    assert said in told.err
    assert told.err.count("\n") == 1
    assert sorted(tmp_path.iterdir()) == files
    assert everything(account.engine) == before
