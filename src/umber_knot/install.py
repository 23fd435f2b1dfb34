"""Puts the desktop entry, the icon and the file type of studies in place for one user."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

from umber_knot.errors import UserError
from umber_knot.paths import RESOURCES, data_dir


def install_user() -> list[Path]:
    """Write into the user's XDG data folder; returns what was written."""
    share = data_dir().parent
    script = Path(__file__).parents[2] / "umber"
    command = str(script) if script.is_file() else f"{sys.executable} -m umber_knot"
    entry = (RESOURCES / "umber-knot.desktop").read_text(encoding="utf-8").replace("@COMMAND@", _quoted(command))
    targets = {
        share / "applications" / "umber-knot.desktop": entry.encode(),
        share / "mime" / "packages" / "umber-knot.xml": (RESOURCES / "umber-knot-mime.xml").read_bytes(),
        share / "icons" / "hicolor" / "scalable" / "apps" / "umber-knot.svg": (
            RESOURCES / "umber-knot.svg"
        ).read_bytes(),
    }
    try:
        for path, data in targets.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(data)
    except OSError as error:
        raise UserError(f"cannot be written ({error.strerror})", place=str(error.filename)) from error
    for tool, folder in (("update-mime-database", share / "mime"), ("update-desktop-database", share / "applications")):
        if shutil.which(tool):
            subprocess.run([tool, str(folder)], check=False, capture_output=True)
    return list(targets)


def _quoted(command: str) -> str:
    return f'"{command}"' if " " in command and not command.startswith(sys.executable) else command
