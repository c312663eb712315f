"""Boxes out of the flow: positioned ones, running elements and footnotes (Positioned Layout 3 §3, GCPM 3 §2)."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import AnchorBox, Box, Element, InlineBox
from fleetquill.layout.boxes.containers import Containers
from fleetquill.layout.boxes.generated_content import GeneratedContent
from fleetquill.layout.boxes.styles import ElementStyles
from fleetquill.layout.contract.findings import Findings
from fleetquill.style.box_values import Running
from fleetquill.style.cascade import MatchNode
from fleetquill.style.properties import ComputedStyle


class OutOfFlow:
    """Takes boxes out of the flow; each leaves an anchor where it stood."""

    def __init__(
        self, styles: ElementStyles, containers: Containers, content: GeneratedContent, found: Findings
    ) -> None:
        self._styles = styles
        self._containers = containers
        self._content = content
        self._found = found

    def anchors(
        self, element: Element, node: MatchNode, style: ComputedStyle, parent: ComputedStyle, boxes: list[Box]
    ) -> list[Box]:
        """What stands in the flow in the place of an element's boxes."""
        kind = style.outside
        anchors: list[Box] = []
        for box in boxes:
            if kind == "fixed":
                self._found.fixed.append(box)
                continue
            inline = style.display.startswith("inline") or kind == "footnote"
            anchor = AnchorBox(self._styles.anonymous(parent, "block"), kind, box, inline)
            if kind == "footnote":
                self._found.footnotes = True
                self._found.note_numbers[box] = self._content.counters.value("footnote")
                self._add_footnote_marker(box, element, node)
                anchors.append(self._footnote_call(element, node, parent))
            elif kind == "area float":
                self._found.area_floats = True
            elif kind == "running":
                if isinstance(style.position, Running):
                    self._found.running.setdefault(style.position.name, box)
                self._found.page_marks = True
            anchors.append(anchor)
        return anchors

    def _footnote_call(self, element: Element, node: MatchNode, parent: ComputedStyle) -> InlineBox:
        """What refers to a footnote from the text (GCPM 3 §2.4)."""
        call = self._styles.pseudo(element, node, "footnote-call", parent)
        call = call or self._styles.anonymous(parent, "inline")
        return InlineBox(call, None, self._content.boxes(call, element))

    def _add_footnote_marker(self, box: Box, element: Element, node: MatchNode) -> None:
        marker = self._styles.pseudo(element, node, "footnote-marker", box.style)
        if marker is not None and isinstance(marker.content, tuple):
            self._containers.prepend(box, [InlineBox(marker, None, self._content.boxes(marker, element))])
