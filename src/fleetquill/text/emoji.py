"""Signs that are shown in colours of their own (UTS #51, Unicode 17): which they are, and where text asks for them."""

from __future__ import annotations

import re
from typing import Final

FAMILY: Final = "Noto Color Emoji"  # that comes along
AS_TEXT, IN_COLOR = "\ufe0e", "\ufe0f"  # the variation selectors, which follow a sign
# Emoji_Presentation: in colour where nothing is said
PRESENTED: Final = (
    "\u231a\u231b\u23e9-\u23ec\u23f0\u23f3\u25fd\u25fe\u2614\u2615\u2648-\u2653\u267f\u2693\u26a1\u26aa\u26ab\u26bd\u26be"
    "\u26c4\u26c5\u26ce\u26d4\u26ea\u26f2\u26f3\u26f5\u26fa\u26fd\u2705\u270a\u270b\u2728\u274c\u274e\u2753-\u2755\u2757"
    "\u2795-\u2797\u27b0\u27bf\u2b1b\u2b1c\u2b50\u2b55\U0001f004\U0001f0cf\U0001f18e\U0001f191-\U0001f19a"
    "\U0001f1e6-\U0001f1ff\U0001f201\U0001f21a\U0001f22f\U0001f232-\U0001f236\U0001f238-\U0001f23a\U0001f250\U0001f251"
    "\U0001f300-\U0001f320\U0001f32d-\U0001f335\U0001f337-\U0001f37c\U0001f37e-\U0001f393\U0001f3a0-\U0001f3ca"
    "\U0001f3cf-\U0001f3d3\U0001f3e0-\U0001f3f0\U0001f3f4\U0001f3f8-\U0001f43e\U0001f440\U0001f442-\U0001f4fc"
    "\U0001f4ff-\U0001f53d\U0001f54b-\U0001f54e\U0001f550-\U0001f567\U0001f57a\U0001f595\U0001f596\U0001f5a4"
    "\U0001f5fb-\U0001f64f\U0001f680-\U0001f6c5\U0001f6cc\U0001f6d0-\U0001f6d2\U0001f6d5-\U0001f6d8"
    "\U0001f6dc-\U0001f6df\U0001f6eb\U0001f6ec\U0001f6f4-\U0001f6fc\U0001f7e0-\U0001f7eb\U0001f7f0"
    "\U0001f90c-\U0001f93a\U0001f93c-\U0001f945\U0001f947-\U0001f9ff\U0001fa70-\U0001fa7c\U0001fa80-\U0001fa8a"
    "\U0001fa8e-\U0001fac6\U0001fac8\U0001facd-\U0001fadc\U0001fadf-\U0001faea\U0001faef-\U0001faf8"
)
COLORED: Final = re.compile(f"[{IN_COLOR}{PRESENTED}]")
FIRST: Final = "\u203c"  # no sign stands before it that is no letter of Latin text


def may_be_colored(text: str, variant: str) -> bool:
    """Whether any cluster of a text asks for colours."""
    if text.isascii():
        return False
    return variant == "emoji" or (max(text) >= FIRST and COLORED.search(text) is not None)


def is_colored(cluster: str, variant: str) -> bool:
    """Whether a cluster is shown in colours where a font has them (CSS Fonts 4 §6.13, font-variant-emoji)."""
    if IN_COLOR in cluster or AS_TEXT in cluster:
        return IN_COLOR in cluster
    return variant != "text" and ((variant == "emoji" and not cluster.isascii()) or COLORED.match(cluster) is not None)
