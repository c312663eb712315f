"""fleetquill seal: signing a finished PDF, and telling who has."""

from __future__ import annotations

import sys

import click

from fleetquill.cli.locking import asked_for


@click.command()
@click.argument("file", metavar="FILE")
@click.option("--key", default=None, metavar="FILE", help="Sign with the key of this PKCS #12 file.")
@click.option("--key-password", default="-", metavar="PASSWORD", help="Opens the key. Default: ask for it.")
@click.option("-o", "--output", default=None, metavar="OUT", help="The file to write.")
@click.option("--reason", default="", help="Why it is signed.")
@click.option("--place", default="", help="Where it is signed.")
@click.option("--field", default="", metavar="NAME", help="Show it in this signature field.")
@click.option("--certify", default="", metavar="nothing|fill|comment", help="What may be done to the file afterwards.")
@click.option("--time-server", default="", metavar="ADDRESS", help="Ask this server for a time stamp (RFC 3161).")
@click.option("--unlock", default=None, metavar="PASSWORD", help="Open a locked file with this ('-' asks for it).")
def seal(
    file: str,
    key: str | None,
    key_password: str,
    output: str | None,
    reason: str,
    place: str,
    field: str,
    certify: str,
    time_server: str,
    unlock: str | None,
) -> None:
    """Sign a finished PDF with --key and -o; without, tell who has signed it.

    The exit code is 1 where a signature does not hold.
    """
    from fleetquill.bindery.seal import Seal
    from fleetquill.bindery.seal import seal as seal_file

    password = asked_for(unlock, "Password")
    if key is None:
        _tell(file, password)
        return
    if output is None:
        raise click.UsageError("A signed file is another: name it with -o.")
    opens = asked_for(key_password, "Password of the key")
    wish = Seal(key, opens, reason=reason, place=place, shown=field, certify=certify, time_server=time_server)
    seal_file(file, output, wish, password=password)
    _tell(output, password)


def _tell(file: str, password: str | None) -> None:
    from fleetquill.bindery.volume import Volume

    seals = Volume(file, password).seals
    if not seals:
        click.echo(f"{file}: nobody has signed it.")
    for one in seals:
        when = f", {one.signed_at:%Y-%m-%d %H:%M %Z}" if one.signed_at is not None else ""
        stamped = f", time stamp {one.stamped_at:%Y-%m-%d %H:%M %Z}" if one.stamped_at is not None else ""
        state = "holds" if one.holds else f"does not hold: {one.fault}"
        later = "" if one.covers_all else "; something was added later"
        click.echo(f"{one.field}: {one.signer}{when}{stamped}: {state}{later}")
    if not all(one.holds for one in seals):
        sys.exit(1)
