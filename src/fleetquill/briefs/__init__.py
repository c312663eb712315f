"""Briefs: reports that a file describes, made of data at run time."""
