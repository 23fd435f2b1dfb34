"""Umber Knot: from bibliographic records to a defensible map of a literature."""

__version__ = "0.1.0"
