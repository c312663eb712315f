"""The command line as tests use it: in this process, unless what is tested is the process."""

import contextlib
import os
import subprocess
import sys
from pathlib import Path

from click.testing import CliRunner

from fleetquill.cli import main


def command(*arguments, folder=None, typed=None, text=True, **variables):
    """What a command says, and the code that it ends with; `variables` are those of the environment."""
    arguments = list(map(str, arguments))
    with contextlib.chdir(folder or Path.cwd()):
        done = CliRunner(env=variables).invoke(main, arguments, prog_name="fleetquill", input=typed)
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    stdout, stderr = (done.stdout, done.stderr) if text else (done.stdout_bytes, done.stderr_bytes)
    return subprocess.CompletedProcess(arguments, done.exit_code, stdout, stderr)


def process(*arguments, folder=None, typed=None, text=True, **variables):
    """The same from a process of its own."""
    done = subprocess.run(
        [sys.executable, "-m", "fleetquill", *map(str, arguments)],
        capture_output=True, text=text, cwd=folder, input=typed, env={**os.environ, **variables},
    )  # fmt: skip
    assert b"Traceback" not in (done.stderr.encode() if text else done.stderr)
    return done
