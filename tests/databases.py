"""Databases to ask: SQLite, and a PostgreSQL server of the tests' own."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

LOCKS = ("Saltgate", "Stonecross", "Fenny Bridge")


def _programs() -> Path | None:
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"))
    if found:
        return found[-1].parent
    path = shutil.which("postgres")
    return Path(path).parent if path else None


def _as_server(command: list[str]) -> list[str]:
    """The command as a user that the server accepts: it refuses the superuser."""
    if os.geteuid() != 0:
        return command
    return ["setpriv", "--reuid=postgres", "--regid=postgres", "--clear-groups", *command]


@pytest.fixture(scope="session")
def postgresql() -> Iterator[str]:
    """The address of a PostgreSQL server on a free port, in a folder that is gone afterwards."""
    programs = _programs()
    if programs is None:
        if os.environ.get("POSTGRESQL") == "needed":
            pytest.fail("There is no PostgreSQL server, and this run needs one.")
        pytest.skip("no PostgreSQL server is installed")
    pytest.importorskip("psycopg")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    folder = Path(tempfile.mkdtemp(prefix="tolls-"))
    if os.geteuid() == 0:
        shutil.chown(folder, "postgres", "postgres")
    initdb = [str(programs / "initdb"), "-D", str(folder / "data"), "-U", "keeper", "-A", "trust", "-E", "UTF8"]
    subprocess.run(_as_server(initdb), check=True, capture_output=True, cwd=folder)
    options = f"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories={folder} -c fsync=off"
    control = [str(programs / "pg_ctl"), "-D", str(folder / "data"), "-w", "-l", str(folder / "log")]
    subprocess.run(_as_server([*control, "-o", options, "start"]), check=True, capture_output=True, cwd=folder)
    try:
        yield f"postgresql+psycopg://keeper@127.0.0.1:{port}/postgres"
    finally:
        subprocess.run(_as_server([*control, "-m", "immediate", "stop"]), capture_output=True, cwd=folder, check=False)
        shutil.rmtree(folder, ignore_errors=True)


TOLLS = [
    (number, f"2026-0{1 + number % 3}-{1 + number % 28:02}", LOCKS[number // 40], f"B{number % 5}", number * 5 / 4)
    for number in range(120)
]


def _filled(address: str) -> str:
    sqlalchemy = pytest.importorskip("sqlalchemy")
    engine = sqlalchemy.create_engine(address)
    with engine.begin() as connection:
        run = connection.execute
        run(sqlalchemy.text("drop table if exists tolls"))
        run(sqlalchemy.text("create table tolls (no integer, day date, lock text, barge text, toll numeric(10, 2))"))
        names = ("no", "day", "lock", "barge", "toll")
        insert = sqlalchemy.text("insert into tolls values (:no, :day, :lock, :barge, :toll)")
        run(insert, [dict(zip(names, row, strict=True)) for row in TOLLS])
    engine.dispose()
    return address


@pytest.fixture(scope="session")
def lite(tmp_path_factory: pytest.TempPathFactory) -> str:
    return _filled(f"sqlite:///{tmp_path_factory.mktemp('lite') / 'tolls.sqlite'}")


@pytest.fixture(params=["SQLite", "PostgreSQL"])
def database(request: pytest.FixtureRequest) -> str:
    """The address of a database with tolls in it: of each kind."""
    if request.param == "SQLite":
        return str(request.getfixturevalue("lite"))
    return _filled(str(request.getfixturevalue("postgresql")))
