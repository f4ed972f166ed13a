"""What the chosen layup should be warned of, each with reason and fix, and a line to accept it with a reason."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from omakase.core.findings.details import DETAIL_RULES
from omakase.core.findings.finding import Finding
from omakase.core.findings.registry import all_rules, told_of
from omakase.evaluate.results.wording import finding_words
from omakase.project import edits
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import WordField
from omakase.ui.kit.labels import SteadyLabel
from omakase.ui.kit.theme import SPACE
from omakase.ui.session import Session
from omakase.units import UnitSystem

Shown = tuple[str, tuple[Finding, ...], Mapping[str, str], UnitSystem]


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
        self._texts: dict[str, SteadyLabel] = {}
        self._rows: QVBoxLayout | None = None
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
        shown = (self.session.candidate_id, findings, accepted, self.session.units)
        if shown == self._shown:
            return
        same = self._shown is not None and (self._shown[0], self._shown[2]) == (shown[0], accepted)
        self._shown = shown
        if not same:
            page = QWidget()
            self.setWidget(page)
            self._rows = QVBoxLayout(page)
            self._rows.setContentsMargins(0, 0, SPACE, 0)
            self._rows.setSpacing(2)
            self._rows.addStretch(1)
            self.fields, self._texts = {}, {}
        # rows that are not wanted now are kept out of sight: a step back and forth would make them again and again
        for finding in findings:
            if finding.rule not in self._texts:
                self._add(finding, accepted.get(finding.rule, ""))
            self._say(self._texts[finding.rule], finding, accepted.get(finding.rule, ""))
        speaking = {finding.rule for finding in findings}
        for rule, text in self._texts.items():
            if text.isHidden() == (rule in speaking):
                text.setVisible(rule in speaking)
                self.fields[rule].setVisible(rule in speaking)
        self.setVisible(bool(findings))

    def help_topic(self) -> str:
        """What F1 explains: the finding whose reason has the keyboard, or the first one."""
        rules = [rule for rule, field in self.fields.items() if field.hasFocus()] or list(self.fields)
        return f"finding:{rules[0].partition(':')[0]}" if rules else ""

    def _say(self, text: SteadyLabel, finding: Finding, reason: str) -> None:
        what, fix = finding_words(finding, self.session.units)
        text.setText(f"✓ {what}, accepted:" if reason else f"! {what}. {fix[:1].upper()}{fix[1:]}.")
        text.setToolTip(f"{finding.reason.capitalize()}.\n{told_of(finding.rule)[1]}.")

    def _add(self, finding: Finding, reason: str) -> None:
        """Puts a row in its place, in the order of the rules."""
        assert self._rows is not None
        place = 2 * sum(_order(rule) < _order(finding.rule) for rule in self._texts)
        text = SteadyLabel(told_of(finding.rule)[0], wrapped=True)
        text.setProperty("role", "quiet" if reason else "")
        self._texts[finding.rule] = text
        field = ReasonField(f"Reason to accept: {told_of(finding.rule)[0]}")
        field.set_value(reason)
        field.committed.connect(lambda words, rule=finding.rule: self._accept(rule, words))
        self._rows.insertWidget(place, text)
        self._rows.insertWidget(place + 1, field)
        self.fields[finding.rule] = field

    def _accept(self, rule: str, reason: str) -> None:
        candidate = self.session.candidate
        if candidate is not None:
            what = f"accept the finding '{rule.replace('_', ' ')}'" if reason else "withdraw an acceptance"
            self.session.edit_candidate(edits.accept(candidate, rule, reason, today()), what)


def _order(rule: str) -> tuple[int, str]:
    """Rules about layups first, each in the order of the registry; then those about details, detail by detail."""
    name, _, detail = rule.partition(":")
    return ([*all_rules(), *DETAIL_RULES].index(name), detail)
