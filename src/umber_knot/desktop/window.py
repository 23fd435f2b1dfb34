"""The window: the thread on the left, one desk at a time, the status line below."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import QApplication, QFileDialog, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from umber_knot.corpus.file import DamagedStudy
from umber_knot.desktop import theme
from umber_knot.desktop.brush import Brush
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.desks.chart import ChartDesk
from umber_knot.desktop.desks.gather import GatherDesk
from umber_knot.desktop.desks.group import GroupDesk
from umber_knot.desktop.desks.reconcile import ReconcileDesk
from umber_knot.desktop.desks.relate import RelateDesk
from umber_knot.desktop.desks.report import ReportDesk
from umber_knot.desktop.desks.standing import StandingDesk
from umber_knot.desktop.finder import Command, Finder
from umber_knot.desktop.house import dress
from umber_knot.desktop.parts import Curtain, Link, Text
from umber_knot.desktop.session import STAGES, Session
from umber_knot.desktop.start import Start
from umber_knot.desktop.status import StatusLine
from umber_knot.desktop.thread_strip import TITLES, ThreadStrip
from umber_knot.errors import UserError
from umber_knot.paths import config_dir

HEAD = b"SQLite format 3\0"


class Window(QWidget):
    """Holds the session and the desks; knows the commands and their keys."""

    def __init__(self, session: Session, brush: Brush) -> None:
        super().__init__()
        self.session, self.brush = session, brush
        self.settings = QSettings(str(config_dir() / "window.ini"), QSettings.Format.IniFormat)
        self.setWindowTitle("Umber Knot")
        self.setAcceptDrops(True)
        self.setMinimumSize(900, 620)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        self.start = Start(self.new_study, self.ask_open, self.open_demo, self.open_path)
        self.work = QWidget()
        row = QHBoxLayout(self.work)
        row.setContentsMargins(0, 0, 12, 0)
        row.setSpacing(4)
        self.side = QWidget()
        self.side.setLayout(self._side())
        row.addWidget(self.side)
        gather = GatherDesk(session)
        gather.desk_asked.connect(self.show_desk)
        self.desks: dict[str, Desk] = {
            "gather": gather,
            "reconcile": ReconcileDesk(session),
            "relate": RelateDesk(session),
            "group": GroupDesk(session),
            "chart": ChartDesk(session, brush),
            "report": ReportDesk(session),
            "standing": StandingDesk(session),
        }
        self.stack = QStackedWidget()
        for desk in self.desks.values():
            self.stack.addWidget(desk)
        row.addWidget(self.stack, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.pages.addWidget(self.work)
        outer.addWidget(self.pages, 1)
        self.status = StatusLine(session, self.salvage)
        outer.addWidget(self.status)
        self.curtain = Curtain(self)
        self.finder = Finder(self, session, self.commands, self.show_desk)
        self._keys()
        session.opened.connect(self._opened)
        session.said.connect(lambda head, text, kind: self._saved())
        session.said.connect(self._said_at_start)
        self.start.show_recent(self.recent())
        self.status.hide()
        geometry = self.settings.value("geometry")
        if not (isinstance(geometry, QByteArray) and self.restoreGeometry(geometry)):
            self.resize(1280, 800)

    def _side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setContentsMargins(8, 10, 0, 10)
        side.setSpacing(2)
        self.name = Text("", 15, bold=True)
        self.name.setContentsMargins(8, 0, 0, 0)
        self.name.setMaximumWidth(140)
        self.saved = Text("", 12, faint=True)
        self.saved.setContentsMargins(8, 0, 0, 0)
        side.addWidget(self.name)
        side.addWidget(self.saved)
        side.addSpacing(14)
        self.thread_strip = ThreadStrip(self.session)
        self.thread_strip.chosen.connect(self.show_desk)
        side.addWidget(self.thread_strip, 1)
        links = QVBoxLayout()
        links.setContentsMargins(8, 0, 0, 0)
        links.addWidget(Link("Standing", lambda: self.show_desk("standing"), 13, key="Ctrl 7"))
        links.addSpacing(6)
        links.addWidget(Link("Find anything", self.find, 12, key="Ctrl K"))
        side.addLayout(links)
        return side

    # -- commands

    def commands(self) -> list[Command]:
        """Everything that can be done now, for the finder; the menus of this window are its desks."""
        always = [
            Command("New study", "Ctrl+N", self.new_study),
            Command("Open a study", "Ctrl+Shift+O", self.ask_open),
            Command("Open the demo study", "Ctrl+D", self.open_demo),
            Command("Light or dark theme", "Ctrl+T", self.switch_theme),
            Command("Quit", "Ctrl+Q", self.close),
        ]
        if self.session.study is None:
            return always
        chart = self.desks["chart"]
        assert isinstance(chart, ChartDesk)
        gather = self.desks["gather"]
        assert isinstance(gather, GatherDesk)
        desks = [
            Command(f"Go to {TITLES[n]}", f"Ctrl+{k + 1}", lambda n=n: self.show_desk(n)) for k, n in enumerate(STAGES)
        ]
        return [
            *desks,
            Command("Go to Standing", "Ctrl+7", lambda: self.show_desk("standing")),
            Command("Undo", "Ctrl+Z", self.session.undo),
            Command("Redo", "Ctrl+Shift+Z", self.session.redo),
            Command("Add files", "Ctrl+O", gather.ask_files),
            Command("Add a folder", "", gather.ask_folder),
            Command("Paste records or text", "", lambda: (self.show_desk("gather"), gather.paste())),
            Command("Ask a catalogue", "", lambda: (self.show_desk("gather"), gather.open_catalogue())),
            Command("Save the report", "Ctrl+E", self.save_report),
            Command("A further network", "Ctrl+Shift+N", self.further_network),
            Command("Save a copy of the study", "Ctrl+Shift+S", self.save_copy),
            *(
                Command(f"Look at {name}", "", lambda n=s.id: self.session.look_at(n))
                for s, name in zip(self.session.recipe.strands, self.session.recipe.names())
            ),
            Command("Fit the chart", "0", chart.canvas.fit),
            Command("Lay the chart out again", "", self.session.lay_out_again),
            Command("Stop what is running", "", self.session.stop_work),
            Command("Close the study", "Ctrl+W", self.close_study),
            *always,
        ]

    def _keys(self) -> None:
        for key, deed in (
            ("Ctrl+K", self.find),
            ("Ctrl+N", self.new_study),
            ("Ctrl+Shift+O", self.ask_open),
            ("Ctrl+O", self._add_or_open),
            ("Ctrl+D", self.open_demo),
            ("Ctrl+T", self.switch_theme),
            ("Ctrl+Q", self.close),
            ("Ctrl+W", self.close_study),
            ("Ctrl+Z", self.session.undo),
            ("Ctrl+Shift+Z", self.session.redo),
            ("Ctrl+Y", self.session.redo),
            ("Ctrl+E", self.save_report),
            ("/", self._focus_filter),
            ("Ctrl+Shift+N", self.further_network),
            ("Ctrl+Shift+S", self.save_copy),
            *((f"Ctrl+{k + 1}", lambda n=n: self.show_desk(n)) for k, n in enumerate((*STAGES, "standing"))),
        ):
            QShortcut(QKeySequence(key), self).activated.connect(deed)

    def _focus_filter(self) -> None:
        desk = self.stack.currentWidget()
        if self.session.study is not None and hasattr(desk, "focus_filter"):
            desk.focus_filter()

    def _add_or_open(self) -> None:
        gather = self.desks["gather"]
        assert isinstance(gather, GatherDesk)
        gather.ask_files() if self.session.study is not None else self.ask_open()

    def find(self) -> None:
        self.finder.unfold()

    def show_desk(self, name: str) -> None:
        if self.session.study is None:
            return
        self.session.need(self.desks[name].needs)
        self.stack.setCurrentWidget(self.desks[name])
        self.thread_strip.show_desk(name)
        self.settings.setValue("desk", name)
        if name == "chart":
            self.desks["chart"].canvas.setFocus()  # type: ignore[attr-defined]

    def further_network(self) -> None:
        """Unfold the end of Relate's sentence, where a further network is made."""
        self.show_desk("relate")
        relate = self.desks["relate"]
        assert isinstance(relate, RelateDesk)
        for word in relate.recipe.controls():
            if word.control.name == "further network":
                word.unfold()

    def save_copy(self) -> None:
        """Save a copy of the study under another name; this one stays open."""
        if self.session.study is None:
            return
        path = self.session.study.path
        name, _ = QFileDialog.getSaveFileName(
            self, "Save a copy of the study", str(path.with_name(f"{path.stem} copy.umber")), "Studies (*.umber)"
        )
        if name:
            self.session.save_copy(Path(name if name.endswith(".umber") else name + ".umber"))

    def save_report(self) -> None:
        report = self.desks["report"]
        assert isinstance(report, ReportDesk)
        self.show_desk("report")
        report._save_all()

    def switch_theme(self) -> None:
        self.apply_theme("light" if theme.look().chart.name == "dark" else "dark")

    def apply_theme(self, name: str) -> None:
        """Show everything in another look: coloured, then told again, then painted, so that no step takes long."""
        self.curtain.fall()
        dress(name)
        self.settings.setValue("theme", name)
        QTimer.singleShot(1, self._tell_again)

    def _tell_again(self) -> None:
        chart = self.desks["chart"]
        assert isinstance(chart, ChartDesk)
        chart.retheme()
        for desk in self.desks.values():
            desk.refresh()  # those not shown, when they are
        self.status.retheme()
        self.session.selected.emit()
        QTimer.singleShot(1, self.curtain.lift)

    def _said_at_start(self, head: str, text: str, kind: str) -> None:
        """What happens before a study is open is said on the start screen."""
        if self.session.study is None:
            self.start.say(f"{head}: {text}" if text else head)

    # -- studies

    def recent(self) -> list[Path]:
        value = self.settings.value("recent") or []
        names = [value] if isinstance(value, str) else list(value)
        return [Path(n) for n in names if Path(n).is_file()]

    def open_path(self, path: Path) -> None:
        """Open a study; a fault is said where the scholar looks."""
        try:
            self.session.open(path)
        except UserError as error:
            self.session.damaged = path if isinstance(error, DamagedStudy) else None
            if self.session.study is None:
                self.start.say(str(error), self.salvage if self.session.damaged else None)
            else:
                self.session.said.emit("Not opened", str(error), "fault")

    def salvage(self) -> None:
        """Ask where to save what can be read of a damaged study."""
        path = self.session.damaged
        if path is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Save what can be read as a new study",
            str(path.with_name(f"{path.stem} saved.umber")),
            "Studies (*.umber)",
        )
        if name:
            self.session.salvage(Path(name if name.endswith(".umber") else name + ".umber"))

    def open_files(self, paths: list[Path]) -> None:
        """What was given on the command line or dropped: a study is opened, anything else is added to one."""
        studies = [p for p in paths if p.suffix == ".umber" or _is_database(p)]
        others = [p for p in paths if p not in studies]
        if studies:
            self.open_path(studies[0])
        if others and self.session.study is None and not studies:
            first = others[0]
            home = first.parent if first.is_absolute() else Path.cwd()
            path, k = home / f"{first.stem}.umber", 2
            while path.exists():
                path, k = home / f"{first.stem} {k}.umber", k + 1
            try:
                self.session.create(path)
            except UserError as error:
                self.start.say(str(error))
                return
        if others and self.session.study is not None:
            self.show_desk("gather")
            self.session.add_files(others)

    def new_study(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "A new study", str(Path.home() / "study.umber"), "Studies (*.umber)"
        )
        if not name:
            return
        path = Path(name if name.endswith(".umber") else name + ".umber")
        try:
            self.session.create(path)
            self.show_desk("gather")
        except UserError as error:
            self.start.say(str(error))

    def ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a study", str(Path.home()), "Studies (*.umber);;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def open_demo(self) -> None:
        from umber_knot.demo import demo_study

        try:
            self.open_path(demo_study())
        except OSError as error:
            self.start.say(f"the demo cannot be written ({error.strerror})")

    def close_study(self) -> None:
        self.session.close()
        self.pages.setCurrentWidget(self.start)
        self.status.hide()
        self.start.show_recent(self.recent())
        self.setWindowTitle("Umber Knot")

    def _opened(self) -> None:
        path = self.session.study.path
        self.name.setText(self.name.fontMetrics().elidedText(path.stem, Qt.TextElideMode.ElideRight, 132))
        self.name.setToolTip(str(path))
        self.setWindowTitle(f"{path.stem} – Umber Knot")
        names = [str(path.absolute()), *(str(p) for p in self.recent() if p != path.absolute())]
        self.settings.setValue("recent", names[:8])
        self.pages.setCurrentWidget(self.work)
        self.status.show()
        self.status.say("", "", "note")
        self._saved()
        has_records = any(s.active and s.records for s in self.session.sources)
        desk = str(self.settings.value("desk") or "chart")
        self.show_desk(desk if has_records and desk in self.desks else "chart" if has_records else "gather")

    def _saved(self) -> None:
        from datetime import datetime

        if self.session.study is not None:
            self.saved.setText("read only" if self.session.study.read_only else f"saved {datetime.now():%H:%M}")

    # -- the window itself

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        self.open_files([Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()])

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.finder.hide()
        super().resizeEvent(event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        self.settings.sync()
        gather = self.desks["gather"]
        assert isinstance(gather, GatherDesk)
        gather.shut_down()
        self.session.shut_down()
        self.brush.shut_down()
        super().closeEvent(event)
        QTimer.singleShot(0, QApplication.quit)


def _is_database(path: Path) -> bool:
    try:
        with path.open("rb") as file:
            return file.read(16) == HEAD
    except OSError:
        return False
