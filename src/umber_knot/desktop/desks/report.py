"""Report: the plate as it will print, the files, and the method in words."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QImageReader, QPainter, QPaintEvent, QTextDocument
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QTextBrowser, QVBoxLayout, QWidget

from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.parts import Link, Panel, Text, clear
from umber_knot.desktop.sentence import Choice, Free, Number
from umber_knot.desktop.session import Session
from umber_knot.desktop.strands import strand_words
from umber_knot.desktop.theme import colour, look, serif
from umber_knot.errors import UserError
from umber_knot.lineage.nodes import CHARTED
from umber_knot.report.tables import for_spreadsheet
from umber_knot.report.write import write_files

FILES = {
    "chart.svg": "the plate, to be edited or printed",
    "chart.png": "the plate as a picture",
    "items.csv": "every item with its numbers",
    "ties.csv": "every tie",
    "matrix.csv": "the weights as a matrix, with labels",
    "topics.csv": "topics and what sets them apart",
    "records.csv": "every record with its source",
    "decisions.csv": "the ledger",
    "network.graphml": "the network for other programs",
    "methods.md": "the method in words",
    "flow.svg": "from what was read to what was kept",
}


def _unpacked(png: bytes) -> QImage:
    """A picture; a reader lets other threads work meanwhile, ``QImage.fromData`` does not."""
    buffer = QBuffer()
    buffer.setData(QByteArray(png))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    return QImageReader(buffer, QByteArray(b"png")).read()


class Sheet(QWidget):
    """The plate as it will print, scaled to fit."""

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.waiting = "drawing the plate …"

    def show_image(self, image: QImage) -> None:
        self.image = image
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.image.isNull():
            p.setPen(colour(look().faint))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.waiting)
            return
        s = min((self.width() - 2) / self.image.width(), (self.height() - 2) / self.image.height())
        w, h = self.image.width() * s, self.image.height() * s
        at = QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h)
        p.drawImage(at, self.image)
        p.setPen(colour(look().line))
        p.drawRect(at)


class ReportDesk(Desk):
    sets_aside = True
    shows = ("gather", "chart", "stability", "files", "strand")
    needs = frozenset({"gather", "relate", *CHARTED, "stability"})

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        grid = QGridLayout()
        grid.setSpacing(8)
        plate = Panel("The plate", margins=(14, 10, 14, 14))
        self.sheet = Sheet()
        plate.body.addWidget(self.sheet, 1)
        files = Panel("Files")
        self.files = QVBoxLayout()
        self.files.setSpacing(3)
        files.body.addLayout(self.files)
        files.body.addStretch(1)
        method = Panel("Method", margins=(14, 10, 6, 8))
        self.copy = Link("copy", self._copy, 12)
        method.head.addWidget(self.copy)
        self.method = QTextBrowser()
        self.method.setOpenLinks(False)
        method.body.addWidget(self.method, 1)
        grid.addWidget(plate, 0, 0, 2, 1)
        grid.addWidget(files, 0, 1)
        grid.addWidget(method, 1, 1)
        grid.setColumnStretch(0, 58)
        grid.setColumnStretch(1, 42)
        grid.setRowStretch(1, 1)
        self.body.addLayout(grid, 1)
        self._asked: object = None
        self._asked_of: tuple[object, object] = (None, None)
        self._unpacked: bytes = b""
        self._listed: tuple[dict[str, bytes], str] = ({}, "")  # the files shown, and in which ink
        self._told: tuple[bytes, str] | None = None  # the method shown, and its ink
        session.loader.loaded.connect(self._loaded)
        session.staled.connect(lambda: self.isVisible() and self.refresh())

    def _loaded(self, what: object, image: QImage) -> None:
        if what == "plate":
            self.sheet.show_image(image)

    def bring_up_to_date(self) -> None:
        s = self.session
        r = s.recipe.report

        def set_(**values: object) -> None:
            s.set_recipe("report", **values)

        formats = [
            (("svg", "png"), "SVG and PNG", "both"),
            (("svg",), "SVG", "lines and letters, to be edited or printed at any size"),
            (("png",), "PNG", "a picture of fixed resolution"),
        ]
        now = tuple(f for f in r.formats if f in ("svg", "png"))
        others = [f for f in r.formats if f not in now]  # asked for in the recipe
        self.sentence.say(
            *strand_words(s),
            "A plate",
            Number(r.width_mm, 40, 2000, lambda v: set_(width_mm=v), 10, "width", "in millimetres", 0),
            "mm wide, at",
            Number(r.dpi, 50, 1200, lambda v: set_(dpi=v), 50, "resolution", "for the PNG", 0),
            "dots per inch, with",
            Free(r.title, lambda v: set_(title=v), "title"),
            ", as",
            Choice(now, formats, lambda v: set_(formats=(*v, *others)), "formats"),
        )
        if s.drawing is None:
            return
        key, of = (s.shown.serial, s.strand_id, r, look().chart.name), (s.drawing, s.stable)
        if (key != self._asked or any(a is not b for a, b in zip(of, self._asked_of))) and "stability" in s.current:
            self._asked, self._asked_of = key, of
            s.wants(f"report:{look().chart.name}")
        if not s.files:
            return
        if "chart.png" in s.files:
            data = s.files["chart.png"]
            if self._unpacked is not data:
                self._unpacked = data
                s.loader.load("plate", lambda: _unpacked(data))
        else:
            self.sheet.image, self.sheet.waiting = (
                QImage(),
                "the plate is written as SVG only; choose PNG to see it here",
            )
            self.sheet.update()
        if self._listed != (s.files, look().ink):
            self._listed = s.files, look().ink
            self._show_files()
            QTimer.singleShot(1, self._show_method)  # in a turn of its own: laying it out takes as long as the rest

    def _show_method(self) -> None:
        """The method as the file has it, in the present ink."""
        text = self.session.files.get("methods.md", b"")
        if self._told == (text, look().ink):
            return
        self._told = text, look().ink
        document = QTextDocument(self.method)  # laid out once, when it is in place
        document.setDefaultFont(serif(14))
        document.setDefaultStyleSheet(f"body {{ color: {look().ink}; }}")
        document.setMarkdown(text.decode())
        self.method.setDocument(document)

    def _show_files(self) -> None:
        clear(self.files)
        row = QHBoxLayout()
        row.addWidget(Link("save all into a folder", self._save_all, key="Ctrl+E"))
        row.addStretch(1)
        self.files.addLayout(row)
        for name, text in FILES.items():
            if name in self.session.files:
                row = QHBoxLayout()
                row.addWidget(Link(name, lambda n=name: self._save(n), 13))
                row.addWidget(Text(text, 12, faint=True))
                if name.endswith(".csv"):
                    sheet = Link("for a spreadsheet", lambda n=name: self._save_for_spreadsheet(n), 12)
                    sheet.setToolTip("the same table, in which no text can be run as a formula")
                    row.addWidget(sheet)
                row.addStretch(1)
                row.addWidget(Text(_size(len(self.session.files[name])), 12, faint=True))
                self.files.addLayout(row)

    def _save_all(self) -> None:
        if not self.session.files:
            return
        name = QFileDialog.getExistingDirectory(self, "Save the report into a folder")
        if name:
            self._write(Path(name), dict(self.session.files))

    def _save(self, name: str) -> None:
        chosen, _ = QFileDialog.getSaveFileName(self, f"Save {name}", name)
        if chosen:
            path = Path(chosen)
            self._write(path.parent, {path.name: self.session.files[name]})

    def _save_for_spreadsheet(self, name: str) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, f"Save {name} for a spreadsheet", name.replace(".csv", " for a spreadsheet.csv")
        )
        if chosen:
            path, table = Path(chosen), self.session.files[name].decode()
            self._write(path.parent, {path.name: for_spreadsheet(table).encode("utf-8-sig")})

    def _write(self, folder: Path, files: dict[str, bytes]) -> None:
        try:
            write_files(folder, files)
            self.session.said.emit("Saved", f"{len(files)} file{'s' * (len(files) != 1)} in {folder}", "note")
        except UserError as error:
            self.session.said.emit("Not saved", str(error), "fault")

    def _copy(self) -> None:
        from PyQt6.QtGui import QGuiApplication

        if "methods.md" in self.session.files:
            QGuiApplication.clipboard().setText(self.session.files["methods.md"].decode())
            self.session.said.emit("Copied", "the method, as Markdown", "note")


def _size(n: int) -> str:
    return f"{n / 1e6:.1f} MB" if n >= 1e6 else f"{max(n / 1e3, 0.1):.1f} kB"
