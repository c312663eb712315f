"""The command line. It has nothing that a library user would miss."""

from fleetquill.process import making

with making():  # what is loaded stays, too
    from fleetquill.cli.main import main, run

__all__ = ["main", "run"]
