"""The sentence on top of a desk: plain words in the serif, its underlined ones are the controls."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QWheelEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from umber_knot.desktop.parts import Flow, Link, Popup, Text, clear
from umber_knot.desktop.theme import look, sans, serif


@dataclass(frozen=True)
class Choice:
    """A word that stands for one of several values; options are (value, word, what it means)."""

    value: object
    options: Sequence[tuple[object, str, str]]
    chosen: Callable[[object], object]
    name: str = ""
    scrolls: bool = True  # whether the wheel and the arrows change it

    def word(self) -> str:
        return next((word for value, word, _ in self.options if value == self.value), str(self.value))


@dataclass(frozen=True)
class Number:
    """A number within limits; ``step`` multiplies when ``ratio`` is set."""

    value: float
    low: float
    high: float
    chosen: Callable[[float], object]
    step: float = 1.0
    name: str = ""
    hint: str = ""
    digits: int = 0
    zero: str = ""  # the word for nought
    before: str = ""  # what is said before any other number

    def word(self) -> str:
        if self.zero and not self.value:
            return self.zero
        return f"{self.before} {self.value:,.{self.digits}f}".strip()


@dataclass(frozen=True)
class Years:
    """A span of years, or all of them."""

    value: tuple[int, ...]
    low: int
    high: int
    chosen: Callable[[tuple[int, ...]], object]
    name: str = "years"

    def word(self) -> str:
        return f"{self.value[0]} to {self.value[1]}" if self.value else "all years"


@dataclass(frozen=True)
class Free:
    """Words of the scholar's own."""

    value: str
    chosen: Callable[[str], object]
    name: str = ""
    empty: str = "no title"
    hint: str = ""

    def word(self) -> str:
        return f"“{self.value}”" if self.value else self.empty


Control = Choice | Number | Years | Free
Word = str | Control


class Sentence(QWidget):
    """Words and controls in lines. Tab moves between controls, Enter opens one, arrows and the wheel change it."""

    def __init__(self, size: float = 18) -> None:
        super().__init__()
        self.size_ = size
        self.flow = Flow(gap=round(size * 0.28), line_gap=round(size * 0.35))
        self.flow.setContentsMargins(0, 0, 0, 0)
        self.setLayout(self.flow)
        self._words: list[Word] = []
        self._waiting: tuple[Word, ...] | None = None

    def say(self, *words: Word) -> None:
        """Show a sentence; where only values differ from the one shown, the controls stay and keep the focus. While a
        control is unfolded nothing below it is taken away: the sentence waits until it is folded."""
        if any(w.unfolded is not None for w in self.controls()):
            self._waiting = words
            return
        shape = [(type(w), w if isinstance(w, str) else w.name) for w in words]
        if shape == [(type(w), w if isinstance(w, str) else w.name) for w in self._words]:
            controls = iter(self.controls())
            for word in words:
                if not isinstance(word, str):
                    next(controls).take(word)
            self._words = list(words)
            self.flow.invalidate()
            self.updateGeometry()
            return
        self._words = list(words)
        clear(self.flow)
        for word in words:
            if isinstance(word, str):
                for part in word.split():
                    label = Text(part, self.size_, serif_=True)
                    self.flow.addWidget(label)
            else:
                control = SentenceWord(word, self.size_)
                control.folded.connect(self.folded)
                self.flow.addWidget(control)
        for i in range(self.flow.count() - 1):  # a comma follows its word without a gap
            after = self.flow.itemAt(i + 1).widget()
            if isinstance(after, Text) and after.text()[:1] in ",.;:":
                self.flow.itemAt(i).widget().setProperty("tight", True)
        self.flow.invalidate()
        self.updateGeometry()

    def folded(self) -> None:
        """A control was folded: say what waited."""
        words, self._waiting = self._waiting, None
        if words is not None:
            self.say(*words)

    def controls(self) -> list[SentenceWord]:
        widgets = [self.flow.itemAt(i).widget() for i in range(self.flow.count())]
        return [w for w in widgets if isinstance(w, SentenceWord)]

    def text(self) -> str:
        """The whole sentence as read."""
        return " ".join(w if isinstance(w, str) else w.word() for w in self._words)


class SentenceWord(Link):
    """One control of a sentence."""

    WAIT = 260  # milliseconds of quiet before a scrolled value is taken
    folded = pyqtSignal()

    def __init__(self, control: Control, size: float) -> None:
        super().__init__(control.word(), self.unfold, size, serif_=True)
        self.control = control
        self.unfolded: Popup | None = None
        self._pending: object = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._commit)
        self.take(control)

    def take(self, control: Control) -> None:
        """Stand for another control of the same kind."""
        self.control = control
        if self._pending is None:
            self.setText(control.word())
        hint = getattr(control, "hint", "")
        self.setToolTip(hint or f"{control.name}: click, type or scroll")
        self.setAccessibleName(f"{control.name}: {control.word()}")

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.step(1 if event.angleDelta().y() > 0 else -1)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.step(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)

    def step(self, by: int) -> None:
        """Go to the next value; it is taken when the scrolling stops."""
        c = self.control
        if isinstance(c, Choice) and c.scrolls:
            values = [v for v, _, _ in c.options]
            now = self._pending if self._pending is not None else c.value
            at = values.index(now) if now in values else 0
            self._pending = values[(at - by) % len(values)]
            self.setText(next(word for v, word, _ in c.options if v == self._pending))
        elif isinstance(c, Number):
            value = self._pending if isinstance(self._pending, (int, float)) else c.value
            self._pending = min(max(round(float(value) + by * c.step, 6), c.low), c.high)
            self.setText(replace(c, value=self._pending).word())
        else:
            return
        self._timer.start(self.WAIT)

    def _commit(self) -> None:
        value, self._pending = self._pending, None
        if value is not None and value != self.control.value:
            self.control.chosen(value)  # type: ignore[arg-type]

    def _fold(self) -> None:
        self.unfolded = None
        QTimer.singleShot(0, self.folded.emit)  # once what was chosen has been carried out

    def unfold(self) -> None:
        """Open the control in place."""
        popup = self.unfolded = Popup(self)
        popup.closed.connect(self._fold)
        c = self.control
        if isinstance(c, Choice):
            for value, word, meaning in c.options:
                row = Link(word, lambda v=value: (popup.close(), v != c.value and c.chosen(v)), 16, serif_=True)
                popup.body.addWidget(row)
                if meaning:
                    popup.body.addWidget(Text(meaning, 11, faint=True))
                if value == c.value:
                    row.setFocus()
        else:
            edit = QLineEdit(_typed(c))
            edit.setFont(serif(16) if isinstance(c, Free) else sans(14))
            edit.setMinimumWidth(320 if isinstance(c, Free) else 130)
            note = Text(_limits(c), 11, faint=True)
            popup.body.addWidget(edit)
            popup.body.addWidget(note)
            if isinstance(c, Years) and c.value:
                popup.body.addWidget(Link("all years", lambda: (popup.close(), c.chosen(())), 13))

            def enter() -> None:
                try:
                    value = _parsed(c, edit.text())
                except ValueError as error:
                    note.setText(str(error))
                    note.tint(look().madder)
                    return
                popup.close()
                if value != c.value:
                    c.chosen(value)  # type: ignore[arg-type]

            edit.returnPressed.connect(enter)
            edit.selectAll()
            edit.setFocus()
        popup.unfold(self)
        if not isinstance(c, Choice):
            edit.setFocus()


def _typed(c: Control) -> str:
    if isinstance(c, Years):
        return f"{c.value[0]}–{c.value[1]}" if c.value else f"{c.low}–{c.high}"
    return f"{c.value:.{c.digits}f}" if isinstance(c, Number) else str(c.value)


def _limits(c: Control) -> str:
    if isinstance(c, Number):
        return (f"{c.hint}. " if c.hint else "") + "Enter takes it; arrows or the wheel step it"
    if isinstance(c, Years):
        return f"from {c.low} to {c.high}; Enter takes it"
    return f"{c.hint}; Enter takes it" if isinstance(c, Free) and c.hint else "Enter takes it"


def _parsed(c: Control, text: str) -> object:
    """The value typed; ValueError says what is wanted."""
    if isinstance(c, Free):
        return text.strip()
    if isinstance(c, Years):
        parts = text.replace("to", "–").replace("-", "–").split("–")
        if len(parts) != 2 or not all(p.strip().isdecimal() for p in parts):
            raise ValueError("two years, such as 1990–2025")
        first, last = int(parts[0]), int(parts[1])
        if first > last:
            raise ValueError("the earlier year comes first")
        return (first, last)
    assert isinstance(c, Number)
    try:
        value = float(text.replace(",", "").strip())
    except ValueError:
        raise ValueError("a number, please") from None
    if not c.low <= value <= c.high or (c.digits == 0 and value % 1):
        whole = "a whole number " if c.digits == 0 else ""
        raise ValueError(f"{whole}from {c.low:g} to {c.high:g}")
    return value
