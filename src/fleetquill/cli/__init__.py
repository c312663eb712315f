"""The command line. It has nothing that a library user would miss."""

from fleetquill.cli.main import main

__all__ = ["main"]
