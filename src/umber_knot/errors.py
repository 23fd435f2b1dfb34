"""The one exception whose text is meant for the scholar."""

from __future__ import annotations

from pathlib import Path


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


def read_utf8(path: Path, what: str) -> str:
    """The text of a small file of the scholar's own; ``what`` names it in the UserError when it cannot be read."""
    try:
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise UserError(f"{what} is not UTF-8 text", place=str(path), cure="Save it as UTF-8") from error
    except OSError as error:
        raise UserError(f"cannot be read ({error.strerror})", place=str(path), cure="Check the name") from error
