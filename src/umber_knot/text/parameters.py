"""What of a record is read for terms."""

from __future__ import annotations

#: The names that a recipe gives the parts of a record's text.
FIELDS = ("title", "abstract", "text")
