"""Help in the line-up's place: topics to search, each explained and worked out with the numbers at hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QAction, QKeyEvent, QTextBlockFormat, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QLineEdit, QSplitter, QTextBrowser, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from omakase.evaluate.help.terms import TERMS
from omakase.evaluate.help.topics import Topic, all_topics, example, topic_of
from omakase.evaluate.results.wording import SOURCE_MARKS, SOURCE_WORDS
from omakase.project.library import materials_of
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading
from omakase.ui.kit.theme import SPACE
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

MARKS = (
    ("✓", "the limit is met; under it the margin to the limit"),
    ("✗", "the limit is not met; under it how far it is missed"),
    ("≈", "a tie: closer to the best of the row than the scatter of the data"),
    ("!", "the check has a remark: choose it and read the note below the list"),
    ("…", "a first answer; the full one follows in a moment"),
    *((mark, SOURCE_WORDS[source]) for source, mark in SOURCE_MARKS.items()),
    ("RF", "reserve factor: what it can carry divided by what it must carry at ultimate load"),
    ("E +12%", "right of a value: difference from the baseline"),
)
QUICK_LINE = (
    ("twill200 0", "one ply of twill200 at 0°; angles run from x toward y"),
    ("2 twill200 ±45", "two plies, at +45° and −45°"),
    ("twill200 0/45/90", "three plies, from face A down"),
    ("core pvc80 12", "a core 12 mm thick; any unit may be typed: core pvc80 1/2 in"),
    ("core hc48 12.7 @90", "a honeycomb with its ribbon across"),
    ("al6082 3 mm", "a sheet"),
    ("twill200 [45/0/core pvc80 10]s", "a laminate code; s mirrors it about the core"),
    ("… ns", "counted with its mass only, not with stiffness and strength"),
    ("… turned", "a satin with its other side up"),
    ("(A)   (A)m", "a shared sub-stack, and its mirror image"),
    (";", "parts one part from the next"),
)
GENERAL = "Signs, words and keys"
LIST_WIDTH = 260
REST_MS = 150  # after the last letter of a search


def keys_of(commands: Sequence[QAction]) -> list[tuple[str, str]]:
    """(keys, what they do) of every command that has any."""
    rows = []
    for action in commands:
        keys = [key.toString() for key in action.shortcuts()]
        if keys:
            rows.append((" or ".join(keys), action.text().replace("&", "").rstrip("…")))
    return rows


def _table(rows: Sequence[tuple[str, str]]) -> str:
    cells = "".join(
        f"<tr><td style='padding:1px 16px 1px 0'><b>{escape(first)}</b></td><td>{escape(second)}</td></tr>"
        for first, second in rows
    )
    return f"<table>{cells}</table>"


class SearchLine(QLineEdit):
    """The arrow down leads from what is typed to what was found."""

    def __init__(self, found: QTreeWidget) -> None:
        super().__init__()
        self._found = found
        self.setAccessibleName("Search help")
        self.setPlaceholderText("search: core shear, Tg, ASTM D7264 …")
        self.setClearButtonEnabled(True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._found.setFocus()
        else:
            super().keyPressEvent(event)


class HelpView(TopPage):
    """A list of topics with a search line, and the one to read; Escape goes back."""

    def __init__(self, session: Session, commands: Callable[[], Sequence[QAction]]) -> None:
        super().__init__(session)
        self._commands = commands
        self.list = QTreeWidget()
        self.list.setAccessibleName("Topics of help")
        self.list.setHeaderHidden(True)
        self.list.setIndentation(3 * SPACE)
        self.query = self.entry = SearchLine(self.list)
        self.page = QTextBrowser()
        self.page.setAccessibleName("Help")
        self.page.setOpenLinks(False)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.query)
        column.addWidget(self.list, 1)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setChildrenCollapsible(False)
        split.addWidget(left)
        split.addWidget(self.page)
        split.setSizes([LIST_WIDTH, 3 * LIST_WIDTH])
        layout = page_column(self)
        layout.addWidget(Heading("Help", "F1 on a check, row, property, test or finding explains it; Esc goes back"))
        layout.addWidget(split, 1)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self.search)
        self.query.textChanged.connect(lambda _text: self._rest.start())
        self.list.currentItemChanged.connect(lambda now, _before: self._show(now))

    # --- topics ---------------------------------------------------------------------------------------------

    def search(self) -> None:
        """Lists the topics that have every word of the search line, those with the words in their title first."""
        self._rest.stop()
        query = self.query.text()
        found = [topic for topic in all_topics() if topic.found_by(query)]
        self.list.blockSignals(True)
        self.list.clear()
        first = QTreeWidgetItem(self.list, [GENERAL])
        groups: dict[str, QTreeWidgetItem] = {}
        for topic in found:
            if topic.group not in groups:
                groups[topic.group] = QTreeWidgetItem(self.list, [topic.group])
                groups[topic.group].setFlags(Qt.ItemFlag.ItemIsEnabled)
            item = QTreeWidgetItem(groups[topic.group], [topic.title.partition(": ")[0]])
            item.setToolTip(0, topic.title)
            item.setData(0, Qt.ItemDataRole.UserRole, topic.key)
        if query.strip():
            self.list.expandAll()
        self.list.blockSignals(False)
        titled = [topic for topic in found if query.casefold().strip() in topic.title.casefold()]
        if query.strip() and found:
            self._choose((titled or found)[0].key)
        else:
            self.list.setCurrentItem(first)

    def show_part(self, name: str) -> None:
        """Shows the general page at one of its parts: marks, line, keys or terms."""
        self.query.clear()
        self.search()
        self.page.setHtml(self.html())
        self.page.scrollToAnchor(name)

    def show_topic(self, key: str) -> bool:
        """Shows a topic by its key; tells whether there is one."""
        if topic_of(key) is None:
            return False
        self.query.clear()
        self.search()
        self._choose(key)
        return True

    def _choose(self, key: str) -> None:
        for number in range(self.list.topLevelItemCount()):
            group = self.list.topLevelItem(number)
            for row in range(group.childCount() if group is not None else 0):
                item = group.child(row) if group is not None else None
                if item is not None and item.data(0, Qt.ItemDataRole.UserRole) == key:
                    self.list.setCurrentItem(item)
                    self.list.scrollToItem(item)
                    return

    def _show(self, item: QTreeWidgetItem | None) -> None:
        key = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        topic = topic_of(str(key)) if key else None
        if topic is None:
            if item is not None and item.childCount() == 0:
                self.page.setHtml(self.html())
            return
        self.tell(topic)

    def tell(self, topic: Topic) -> None:
        """Writes a topic: what it is, then worked out with the numbers at hand."""
        project = self.session.document.project
        here = example(topic, self.session.result, project, materials_of(project))
        document = self.page.document()
        assert document is not None
        document.setMarkdown(f"### {topic.title}\n\n{topic.text.replace('``', '*')}\n")
        if here:
            cursor = QTextCursor(document)
            cursor.movePosition(QTextCursor.MoveOperation.End)
            cursor.insertBlock(QTextBlockFormat(), QTextCharFormat())
            cursor.insertHtml(f"<h3>With the numbers here</h3>{here}")
        self.page.moveCursor(QTextCursor.MoveOperation.Start)

    def html(self) -> str:
        """The general page."""
        parts = (
            ("marks", "Marks and symbols", MARKS),
            ("line", "Words of the quick line", QUICK_LINE),
            ("terms", "Terms", TERMS),
            ("keys", "Keys", keys_of(self._commands())),
        )
        return "".join(f"<h3><a name='{name}'></a>{title}</h3>{_table(rows)}" for name, title, rows in parts)
