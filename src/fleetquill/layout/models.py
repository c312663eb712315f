"""The formatting models by the box that they lay out."""

from __future__ import annotations

from fleetquill.layout.block import block_content_widths, layout_block
from fleetquill.layout.boxes import (
    AnchorBox,
    BlockBox,
    ColumnsBox,
    FlexBox,
    GridBox,
    LinesBox,
    PictureBox,
    TableBox,
)
from fleetquill.layout.columns import columns_content_widths, layout_columns
from fleetquill.layout.context import Context
from fleetquill.layout.dispatch import MODELS
from fleetquill.layout.flex import flex_content_widths, layout_flex
from fleetquill.layout.fragments import Fragment
from fleetquill.layout.grid import grid_content_widths, layout_grid
from fleetquill.layout.ledger import LedgerBox, layout_ledger, ledger_content_widths
from fleetquill.layout.lines import layout_lines, lines_content_widths
from fleetquill.layout.replaced import layout_picture, picture_content_widths
from fleetquill.layout.space import Laid, Resume, Space
from fleetquill.layout.table import layout_table, table_content_widths


def layout_anchor(box: AnchorBox, _space: Space, _resume: Resume | None) -> Laid:
    """What was taken out of the flow is a point where it stood."""
    return Laid(Fragment(box, 0.0, 0.0), None)


def anchor_content_widths(_box: AnchorBox, _context: Context) -> tuple[float, float]:
    return 0.0, 0.0


MODELS.update(
    {
        BlockBox: (layout_block, block_content_widths),
        LinesBox: (layout_lines, lines_content_widths),
        AnchorBox: (layout_anchor, anchor_content_widths),
        ColumnsBox: (layout_columns, columns_content_widths),
        GridBox: (layout_grid, grid_content_widths),
        FlexBox: (layout_flex, flex_content_widths),
        PictureBox: (layout_picture, picture_content_widths),
        LedgerBox: (layout_ledger, ledger_content_widths),
        TableBox: (layout_table, table_content_widths),
    }
)
