"""The encoding of a text file, from its bytes: marks, then UTF-8, then by the letters that a code page makes of them."""

from __future__ import annotations

import codecs
import operator
import re

#: Code pages of alphabets whose letters mostly stand alone among plain ones.
_WESTERN = ("cp1252", "cp1250", "cp1254")
#: And of those that are written without plain letters.
_OTHER = ("cp1251", "koi8_r", "cp1253", "cp1255", "cp1256")
_EASTERN = {
    "gb18030": re.compile(
        "[的一是在不了有和人这中大为上个国我以要他时来用们生到作地于出就分对成会可主发年动同工也能下过子说产种面而方后多定行学法所民得经]"
    ),
    "big5": re.compile(
        "[的一是在不了有和人這中大為上個國我以要他時來用們生到作地於出就分對成會可主發年動同工也能下過子說產種面而方後多定行學法所民得經]"
    ),
    "euc_kr": re.compile("[가-힣]"),
    "shift_jis": re.compile("[\u3041-\u30ff]"),
    "euc_jp": re.compile("[\u3041-\u30ff]"),
}
#: Encodings offered where a scholar says that the one found is wrong, and what they are called.
OFFERED = {
    "utf-8": "UTF-8",
    "cp1252": "Western (Windows)",
    "cp1250": "Central European (Windows)",
    "cp1251": "Cyrillic (Windows)",
    "koi8_r": "Cyrillic (KOI8)",
    "cp1253": "Greek (Windows)",
    "cp1254": "Turkish (Windows)",
    "cp1255": "Hebrew (Windows)",
    "cp1256": "Arabic (Windows)",
    "gb18030": "Chinese (GB 18030)",
    "big5": "Chinese (Big5)",
    "shift_jis": "Japanese (Shift-JIS)",
    "euc_jp": "Japanese (EUC)",
    "euc_kr": "Korean (EUC)",
}
_LOOKED_AT = 65_536  # bytes of lines with letters beyond the plain ones


def find_encoding(sample: bytes) -> str:
    """The encoding of a text from its first bytes, as Python calls it."""
    if sample.startswith(codecs.BOM_UTF8):
        return "utf-8"
    if sample.startswith(codecs.BOM_UTF16_LE):
        return "utf-16-le"
    if sample.startswith(codecs.BOM_UTF16_BE):
        return "utf-16-be"
    head = sample[:4000]
    if len(head) > 3:  # UTF-16 without a mark: Latin text has a zero in every other byte
        for encoding, zeros in (("utf-16-le", head[1::2]), ("utf-16-be", head[0::2])):
            if zeros.count(0) > 0.4 * len(zeros):
                return encoding
    try:
        codecs.getincrementaldecoder("utf-8")().decode(sample)  # a cut last character is no error
        return "utf-8"
    except UnicodeDecodeError:
        pass
    told = [line for line in sample.split(b"\n")[: -1 if b"\n" in sample else None] if not line.isascii()]
    broken = sum(map(_is_broken, told))
    if len(told) - broken > broken:  # mostly UTF-8 with some lines pasted from elsewhere
        return "utf-8"
    return _by_letters(b"\n".join(told)[:_LOOKED_AT] or sample[:_LOOKED_AT])


def previews(sample: bytes) -> list[tuple[str, str, str]]:
    """(encoding, what it is called, a line read so) for every encoding that the beginning of a text may be in."""
    lines = [line for line in sample[:_LOOKED_AT].split(b"\n") if not line.isascii()][:40]
    found = []
    for encoding, called in OFFERED.items():
        try:
            read = [line.decode(encoding) for line in lines[:-1] or lines]
        except UnicodeDecodeError:
            continue
        found.append(
            (
                encoding,
                called,
                " ".join(max(read, key=lambda text: sum(ch > "\x7f" for ch in text), default="").split()),
            )
        )
    return found


def _by_letters(told: bytes) -> str:
    """Which code page makes most sense of lines that are not plain."""
    high = [ch > 127 for ch in told]
    together = sum(map(operator.and_, high, high[1:]))
    if together < 0.5 * sum(high) and not _eastern(told):
        return _western(told)
    eastern = _eastern(told)
    if eastern:
        return eastern
    from charset_normalizer import from_bytes  # here, because the window offers encodings and must start at once

    best = from_bytes(told, cp_isolation=list(_OTHER)).best()
    return best.encoding if best is not None else "cp1252"


def _eastern(told: bytes) -> str:
    """The encoding of an eastern language whose everyday characters the bytes make, empty where none does."""
    best, most = "", 0.12
    for encoding, usual in _EASTERN.items():
        try:
            text = codecs.getincrementaldecoder(encoding)().decode(told)
        except UnicodeDecodeError:
            continue
        foreign = [ch for ch in text if ch > "\x7f"]
        if len(foreign) < 4 or any("\uff61" <= ch <= "\uff9f" or "\ue000" <= ch <= "\uf8ff" for ch in foreign):
            continue
        share = len(usual.findall(text)) / len(foreign)
        if encoding == "euc_kr" and sum("\u3131" <= ch <= "\u318e" for ch in foreign) > 0.05 * len(foreign):
            continue  # Japanese syllables make single Korean letters, which nobody writes
        if share > most:
            best, most = encoding, share
    return best


def _western(told: bytes) -> str:
    from charset_normalizer import from_bytes

    found = from_bytes(told, cp_isolation=list(_WESTERN))
    western = next((m for m in found if m.encoding == "cp1252"), None)
    best = found.best()
    if re.search(rb"[A-Za-z\xfd\xfe\xf0\xdd]*[\xfd\xfe\xf0][a-z]", told) and not re.search(rb"[\xe5\xe6\xf8]", told):
        turkish = told.decode("cp1254", "replace")  # dotless i, s with cedilla, soft g: rare letters elsewhere
        if len(re.findall("[ışğİŞĞ]", turkish)) >= 0.4 * sum(ch > "\x7f" for ch in turkish):
            return "cp1254"
    if best is None or best.encoding == "cp1254" or str(best) == told.decode("cp1252", "replace"):
        return "cp1252"
    # Western letters unless another reading is plainly cleaner: short exports have too few accents to tell
    return "cp1252" if western is not None and western.chaos <= best.chaos + 0.05 else best.encoding


def _is_broken(line: bytes) -> bool:
    try:
        line.decode("utf-8")
        return False
    except UnicodeDecodeError:
        return True
