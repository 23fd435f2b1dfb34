"""The one exception whose text is meant for the scholar."""

from __future__ import annotations


class UserError(Exception):
    """Something the scholar can put right: what is wrong, where, and the cure.

    ``str(error)`` is one line fit for standard error or a message in the window.
    """

    def __init__(self, message: str, *, place: str = "", cure: str = "") -> None:
        self.message, self.place, self.cure = message, place, cure
        super().__init__(message, place, cure)

    def __str__(self) -> str:
        head = f"{self.place}: {self.message}" if self.place else self.message
        return f"{head}. {self.cure}" if self.cure else head

    def __reduce__(self) -> tuple[object, ...]:
        return (_rebuild, (type(self), self.message, self.place, self.cure))


def _rebuild(kind: type[UserError], message: str, place: str, cure: str) -> UserError:
    return kind(message, place=place, cure=cure)
