"""The group of commands, and what happens to errors: one line, no traceback, exit code 1."""

from __future__ import annotations

import atexit
import os
import sys
from typing import Any, NoReturn

import click

import fleetquill
from fleetquill.cli.bind import bind, unbind
from fleetquill.cli.check import check
from fleetquill.cli.compare import compare
from fleetquill.cli.demo import demo
from fleetquill.cli.faces import faces
from fleetquill.cli.fields import fields
from fleetquill.cli.fleet import fleet
from fleetquill.cli.invoice_data import invoice_data
from fleetquill.cli.press import press
from fleetquill.cli.proof import proof
from fleetquill.cli.seal import seal
from fleetquill.cli.serve import serve
from fleetquill.cli.shelf import shelf
from fleetquill.cli.sketch import sketch
from fleetquill.errors import FleetQuillError


class Commands(click.Group):
    """Turns errors of the family into one line on standard error."""

    def invoke(self, ctx: click.Context) -> Any:
        try:
            return super().invoke(ctx)
        except FleetQuillError as error:
            self._fail(str(error))
        except (click.ClickException, click.exceptions.Exit, click.Abort):
            raise
        except BrokenPipeError:
            sys.exit(1)
        except OSError as error:
            name = error.filename or "Standard output"
            self._fail(f"{name} cannot be read or written ({error.strerror or error}).")
        except RecursionError:
            self._fail("The document is nested too deep to be laid out. Nest its elements less.")
        except Exception as error:
            if ctx.params.get("trace"):
                raise
            self._fail(
                f"This is a fault of Fleet Quill itself ({type(error).__name__}: {error}). "
                "Please report it with the document; 'fleetquill --trace …' shows where it arose."
            )

    @staticmethod
    def _fail(message: str) -> None:
        click.echo(f"fleetquill: {message}", err=True)
        sys.exit(1)


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(fleetquill.__version__, prog_name="fleetquill")
@click.option("--trace", is_flag=True, help="Show where in the program an internal fault arose.")
def main(trace: bool) -> None:
    """Lays out HTML and templates into paginated PDF files."""


main.add_command(press)
main.add_command(demo)
main.add_command(faces)
main.add_command(sketch)
main.add_command(check)
main.add_command(invoice_data)
main.add_command(bind)
main.add_command(unbind)
main.add_command(fields)
main.add_command(fleet)
main.add_command(compare)
main.add_command(seal)
main.add_command(shelf)
main.add_command(proof)
main.add_command(serve)


def run() -> NoReturn:
    """The command line as a process of its own.

    It ends without taking down what it has built, object by object: that takes longer than laying
    out a short document.
    """
    try:
        main(prog_name="fleetquill")
        code = 0
    except SystemExit as leaving:
        if leaving.code is not None and not isinstance(leaving.code, int):
            raise
        code = leaving.code or 0
    atexit._run_exitfuncs()
    for stream in (sys.stdout, sys.stderr):
        try:
            if stream is not None:
                stream.flush()
        except OSError:  # nobody reads on, or its device is full
            code = code or 1
    os._exit(code)
