"""What the chosen layup should be warned of, each with reason and fix, and a line to accept it with a reason."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from omakase.core.findings.finding import Finding
from omakase.core.findings.registry import all_rules
from omakase.project import edits
from omakase.ui.fields import WordField
from omakase.ui.session import Session
from omakase.ui.theme import SPACE

Shown = tuple[str, tuple[Finding, ...], Mapping[str, str]]


class ReasonField(WordField):
    """Takes the room there is."""

    extra_height = 6

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.setPlaceholderText("accept it: say why")
        self.setMaxLength(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def minimumSizeHint(self) -> QSize:
        return QSize(60, self.sizeHint().height())


class FindingsView(QScrollArea):
    """Hidden while there is nothing to say; set anew only when the findings are others."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.fields: dict[str, ReasonField] = {}
        self._shown: Shown | None = None
        self._texts: dict[str, QLabel] = {}
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Findings on the layup")
        self.hide()
        session.results_changed.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Shows the findings of the newest result, with the reasons of the candidate."""
        candidate, result = self.session.candidate, self.session.result
        findings = result.findings if result is not None and candidate is not None else ()
        accepted = candidate.reasons if candidate is not None else {}
        shown = (self.session.candidate_id, findings, accepted)
        if shown == self._shown:
            return
        same = self._shown is not None and self._shown[0] == shown[0] and self._rules(self._shown) == self._rules(shown)
        self._shown = shown
        if same:  # other numbers in the same words, as with most edits
            for finding in findings:
                self._say(self._texts[finding.rule], finding, accepted.get(finding.rule, ""))
            return
        page = QWidget()
        self.setWidget(page)
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, SPACE, 0)
        layout.setSpacing(2)
        self.fields, self._texts = {}, {}
        for finding in findings:
            self._add(layout, finding, accepted.get(finding.rule, ""))
        layout.addStretch(1)
        self.setVisible(bool(findings))

    @staticmethod
    def _rules(shown: Shown) -> object:
        """What decides the rows: which rules speak, and the reasons they are accepted with."""
        _, findings, accepted = shown
        return [finding.rule for finding in findings], accepted

    @staticmethod
    def _say(text: QLabel, finding: Finding, reason: str) -> None:
        text.setText(f"✓ {finding.text}, accepted:" if reason else f"! {finding.text}. {finding.fix.capitalize()}.")
        text.setToolTip(f"{finding.reason.capitalize()}.\n{all_rules()[finding.rule].basis}.")

    def _add(self, layout: QVBoxLayout, finding: Finding, reason: str) -> None:
        text = QLabel()
        text.setWordWrap(True)
        text.setProperty("role", "quiet" if reason else "")
        self._say(text, finding, reason)
        self._texts[finding.rule] = text
        field = ReasonField(f"Reason to accept: {all_rules()[finding.rule].summary}")
        field.set_value(reason)
        field.committed.connect(lambda words, rule=finding.rule: self._accept(rule, words))
        layout.addWidget(text)
        layout.addWidget(field)
        self.fields[finding.rule] = field

    def _accept(self, rule: str, reason: str) -> None:
        candidate = self.session.candidate
        if candidate is not None:
            what = f"accept the finding '{rule.replace('_', ' ')}'" if reason else "take an acceptance back"
            self.session.edit_candidate(edits.accept(candidate, rule, reason), what)
