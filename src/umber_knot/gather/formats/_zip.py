"""Office documents are ZIP archives: their parts, never more of them than a document can honestly hold."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Iterable

from umber_knot.errors import UserError
from umber_knot.gather.stream import Stream

#: Bytes that the parts of one document may have together once unpacked.
LARGEST = 300_000_000
_STEP = 1 << 20


def parts(stream: Stream, wanted: Iterable[str] | None = None) -> dict[str, bytes]:
    """The wanted parts of a document (all, unread, when None is given); more than LARGEST bytes are refused.

    Sizes are counted while unpacking, because an archive can lie about them.
    """
    found: dict[str, bytes] = {}
    names = None if wanted is None else set(wanted)
    left = LARGEST
    try:
        with stream.open() as file, zipfile.ZipFile(file) as archive:
            for info in archive.infolist():
                if info.flag_bits & 1:
                    raise UserError("the document is encrypted", cure="Save it without a password")
                keep = names is not None and info.filename in names
                if names is not None and not keep:
                    continue
                pieces = []
                with archive.open(info) as part:
                    while data := part.read(_STEP):
                        left -= len(data)
                        if left < 0:
                            raise UserError(
                                f"the document unpacks to more than {LARGEST:,} bytes and was not read",
                                cure="Save it again from the program that made it",
                            )
                        if keep:
                            pieces.append(data)
                found[info.filename] = b"".join(pieces)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, ValueError, RuntimeError) as error:
        raise UserError(f"the document is damaged ({error})", cure="Save it again, or copy it again") from error
    return found
