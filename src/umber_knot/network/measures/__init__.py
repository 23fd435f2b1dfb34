"""Measures of items and of whole networks, one small file of plain functions each, and the registry that lists them.
Takes a Network (and, where a measure needs them, topics or records); gives arrays over its items, or numbers.
Every definition is METHODS.md's, with its source."""
