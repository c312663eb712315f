"""fleetquill serve: other programs ask for a shelf's documents over HTTP."""

from __future__ import annotations

from pathlib import Path

import click

from fleetquill.errors import OptionError

KEPT = 75  # seconds for which a connection waits: in fewer, a busy service would close one that has just asked again
GRACE = 60  # seconds in which it ends what it has begun
HERE = ("127.0.0.1", "localhost", "::1")


@click.command()
@click.argument("shelf")
@click.option("--host", default="127.0.0.1", show_default=True, help="The address to listen at.")
@click.option("--port", default=8000, show_default=True, metavar="NUMBER", help="0 for any that is free.")
@click.option("--tokens", default=None, metavar="FILE", help="Who may ask: a TOML file with the hashes of tokens.")
@click.option("--new-token", default=None, metavar="NAME", help="Add a token to the file, say it, and end.")
@click.option("--workers", default=0, show_default=True, metavar="NUMBER", help="Processes that make documents.")
@click.option("--take", "takes", multiple=True, metavar="SOURCE", help="Documents to be sent: html, markdown, data, "
              "address.")  # fmt: skip
@click.option("--from", "hosts", multiple=True, metavar="HOST", help="What addresses may be of.")
@click.option("--origin", "origins", multiple=True, metavar="ORIGIN", help="Whose pages may ask from a browser.")
@click.option("--pages", default=2_000, show_default=True, metavar="NUMBER", help="That one document may have.")
@click.option("--seconds", default=30.0, show_default=True, metavar="NUMBER", help="That one document may take.")
@click.option("--job-seconds", default=600.0, show_default=True, metavar="NUMBER", help="That one job may take.")
@click.option("--megabytes", default=4.0, show_default=True, metavar="NUMBER", help="That one request may send.")
@click.option("--memory", default=1_024, show_default=True, metavar="NUMBER", help="Megabytes that a worker may come "
              "to have.")  # fmt: skip
@click.option("--per-minute", default=0, metavar="NUMBER", help="Documents that each may have made in a minute.")
def serve(
    shelf: str,
    host: str,
    port: int,
    tokens: str | None,
    new_token: str | None,
    workers: int,
    takes: tuple[str, ...],
    hosts: tuple[str, ...],
    origins: tuple[str, ...],
    pages: int,
    seconds: float,
    job_seconds: float,
    megabytes: float,
    memory: int,
    per_minute: int,
) -> None:
    """Make the documents of SHELF for other programs, over HTTP.

    POST JSON to /documents/NAME and get the file; GET /documents lists them, /openapi.json describes them. At / they
    are tried by hand. Without tokens it answers programs of this machine alone.
    """
    if new_token is not None:
        _add_token(tokens, new_token)
        return
    try:
        import uvicorn

        from fleetquill.serve.service.limits import Limits
        from fleetquill.serve.service.service import Service
        from fleetquill.serve.service.tokens import Tokens
        from fleetquill.shelf.shelf import Shelf
    except ImportError:
        raise OptionError(
            "The service needs packages that are not there.", remedy="Install fleetquill[serve]."
        ) from None
    found = Shelf(shelf)
    if not found.names:
        raise OptionError(f"The shelf '{shelf}' has no documents.")
    if tokens is None and host not in HERE:
        raise OptionError(f"Without tokens nobody else may ask: '{host}' is not this machine.", remedy="Give --tokens.")
    holders = None if tokens is None else Tokens.read(Path(tokens), found.names)
    limits = Limits(int(megabytes * 2**20), pages, seconds, job_seconds, per_minute=per_minute, memory=memory)
    application = Service(found, holders, limits, workers=workers, takes=takes, hosts=hosts, origins=origins).app()
    settings = uvicorn.Config(
        application, host=host, port=port, log_level="warning", timeout_keep_alive=KEPT, timeout_graceful_shutdown=GRACE
    )
    listening = settings.bind_socket()
    listening.listen()  # who asks before all is ready waits
    click.echo(f"{shelf}: http://{host}:{listening.getsockname()[1]}/")
    uvicorn.Server(settings).run(sockets=[listening])


def _add_token(tokens: str | None, name: str) -> None:
    from fleetquill.serve.service.tokens import hash_of, new_token

    if tokens is None:
        raise OptionError("A new token needs the file that it is added to.", remedy="Give --tokens FILE.")
    if not name.replace("-", "").replace("_", "").isalnum() or not name.isascii():
        raise OptionError(f"'{name}' is no name for a holder of a token.", remedy="Use letters, digits, '-' and '_'.")
    path = Path(tokens)
    text = path.read_text(encoding="utf-8") if path.is_file() else ""
    if f"[tokens.{name}]" in text:
        raise OptionError(f"'{name}' has a token already.", remedy="Take its table out of the file first.")
    token = new_token()
    path.write_text(f'{text}{chr(10) if text else ""}[tokens.{name}]\nsha256 = "{hash_of(token)}"\n', encoding="utf-8")
    click.echo(token)
    click.echo(f"Keep it: the file '{tokens}' has only its hash.", err=True)
