"""The door of plain data: a file that describes a manuscript, or a report that is made at run time (`brief`)."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from fleetquill.errors import DataError, OptionError, Where
from fleetquill.intake.order import Order
from fleetquill.tree.data import read_data
from fleetquill.tree.document import Document

NAME: Final = "manuscript"
BRIEF: Final = "brief"


def read(order: Order) -> Document:
    """The document that a file of JSON, YAML or TOML describes; its links are relative to its folder."""
    path = Path(order.source)
    data = read_data(path)
    if BRIEF in data:
        return order.brief(path)
    if NAME not in data:
        raise DataError(
            f"The file has no '{NAME}': it describes no document.",
            where=Where(str(path)),
            remedy=f"Write one under the name '{NAME}' or '{BRIEF}', or give the file as the data of a template.",
        )
    if order.data is not None:
        raise OptionError("A manuscript takes no data: all of it stands there.", remedy="Write a template or a brief.")
    others = [name for name in data if name != NAME]
    if others:
        raise DataError(
            f"Beside '{NAME}' the file says '{others[0]}', which is not used.",
            where=Where(str(path)), remedy="Put it into the manuscript, or leave it out.",
        )  # fmt: skip
    return order.build(data[NAME], path)
