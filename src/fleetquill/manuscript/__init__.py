"""The authoring model: what is to be said, before anything is laid out."""

from fleetquill.manuscript.manuscript import Manuscript

__all__ = ["Manuscript"]
