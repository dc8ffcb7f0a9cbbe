"""The items of a session as a list: blocks, doses, and the advice that each would get."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from zesty_lever.log.asked import Advice
from zesty_lever.plan.document import Session
from zesty_lever.ui.kit.controls import plain_tip
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.messages import told
from zesty_lever.wording.records import BLOCK_WORDS, advice_words, dose_words, exercise_words

KEY = Qt.ItemDataRole.UserRole


class ItemList(QListWidget):
    """``picked`` (key); ``moved`` (key, by); ``removed`` (key)."""

    picked = Signal(str)
    moved = Signal(str, int)
    removed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(13))
        self.setWordWrap(True)
        self.setAccessibleName("Items of this session")
        self.setToolTip("Alt with the arrows moves an item, Delete takes it away.")
        self.currentItemChanged.connect(lambda now, _was: self.picked.emit(self._key(now)))

    @staticmethod
    def _key(item: QListWidgetItem | None) -> str:
        return "" if item is None else str(item.data(KEY) or "")

    @property
    def key(self) -> str:
        """The item that is chosen."""
        return self._key(self.currentItem())

    def fill(self, session: Session | None, advised: Mapping[str, Advice], key: str) -> None:
        """Show a session's items; the one named (else the first) is chosen."""
        with QSignalBlocker(self):
            self.clear()
            chosen = None
            for block in () if session is None else session.blocks:
                head = QListWidgetItem(BLOCK_WORDS[block.kind])
                head.setFont(font(12, bold=True))
                head.setFlags(Qt.ItemFlag.NoItemFlags)
                self.addItem(head)
                for item in block.items:
                    between = "\n" if item.setup is not None else "  \N{MIDDLE DOT}  "
                    words = f"{exercise_words(item.name)}{between}{dose_words(block, item)}"
                    advice = advised.get(item.key)
                    if advice is not None and item.load_rule == "advised":
                        words += f"  \N{RIGHTWARDS ARROW} {advice_words(advice)}"
                    line = QListWidgetItem(words + ("  (locked)" if item.locked else ""))
                    line.setData(KEY, item.key)
                    why = [*item.why, *(told(advice) if advice is not None else ())]
                    line.setToolTip(plain_tip(". ".join(why)) if why else "")
                    self.addItem(line)
                    if chosen is None or item.key == key:
                        chosen = line
            if chosen is not None:
                self.setCurrentItem(chosen)
        self.picked.emit(self.key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = self.key
        if key and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
            if by is not None:
                self.moved.emit(key, by)
                return
        if key and event.key() == Qt.Key.Key_Delete:
            self.removed.emit(key)
            return
        super().keyPressEvent(event)
