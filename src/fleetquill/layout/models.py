"""The formatting models by the box that they lay out."""

from __future__ import annotations

from fleetquill.layout.block import block_content_widths, layout_block
from fleetquill.layout.boxes import BlockBox, FlexBox, LinesBox, PictureBox, TableBox
from fleetquill.layout.dispatch import MODELS
from fleetquill.layout.flex import flex_content_widths, layout_flex
from fleetquill.layout.ledger import LedgerBox, layout_ledger, ledger_content_widths
from fleetquill.layout.lines import layout_lines, lines_content_widths
from fleetquill.layout.replaced import layout_picture, picture_content_widths
from fleetquill.layout.table import layout_table, table_content_widths

MODELS.update(
    {
        BlockBox: (layout_block, block_content_widths),
        LinesBox: (layout_lines, lines_content_widths),
        FlexBox: (layout_flex, flex_content_widths),
        PictureBox: (layout_picture, picture_content_widths),
        LedgerBox: (layout_ledger, ledger_content_widths),
        TableBox: (layout_table, table_content_widths),
    }
)
