"""Briefs made of mappings, and the words of their pages."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import fleetquill as fq


def as_brief(top: dict[str, Any], base: Path | str = "") -> fq.Brief:
    return fq.Brief.read(json.dumps({"brief": top}, default=str).encode(), kind="json", base=base)


def words(edition: fq.Edition) -> str:
    return " ".join(word for page in edition.pages for word in page.text.split())


def text_of(top: dict[str, Any], base: Path | str = "", **given: Any) -> str:
    """The words of a brief's pages."""
    return words(fq.compose(as_brief({"language": "en", **top}, base), locale="en-IE", **given))
