"""The brief as sentences whose values are edited in place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout

from omakase.core.quantities import BY_LIMIT
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Number, outer_form
from omakase.evaluate.results.wording import (
    AGAINST_WORDS,
    BEHIND_WORDS,
    CRITERIA_WORDS,
    MOISTURE_WORDS,
    TWIST_WORDS,
    WRINKLING_WORDS,
    conditions_text,
)
from omakase.evaluate.vehicle.fields import followed, numbers_of
from omakase.project import edits, model
from omakase.project.commands import EditHeader, replace
from omakase.project.model import Brief, LoadCase, Relative, without_candidates
from omakase.project.validation import brief_problems
from omakase.project.vehicle import formula_at
from omakase.ui.kit.fields import ChoiceField, QuantityField, WordField, positive, within
from omakase.ui.kit.labels import Label
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.paragraph import Follow, Paragraph, menu_button, small_button
from omakase.ui.kit.sentence_writer import write_sentence
from omakase.ui.kit.theme import SPACE
from omakase.ui.session import Session

bend_range = within(0.0, 1000.0, "the radius of a bend must lie between 0 (flat) and 1 km")
service_range = within(173.15, 573.15, "a service temperature must lie between −100 °C and 300 °C")
factor_range = within(0.1, 100.0, "a factor must lie between 0.1 and 100")


class BriefView(QScrollArea):
    """Shows and edits the session's chosen brief.

    ``in_parts`` : what comes below the loads is written when ``finish`` is called, so that a window is there sooner.
    """

    def __init__(self, session: Session, in_parts: bool = False) -> None:
        super().__init__()
        self.session = session
        self.paragraphs: dict[str, Paragraph] = {}
        self._shape: object = None
        self._shown: object = None
        self._names: list[str] = []
        self._in_parts = in_parts
        self._wanted = ""  # accessible name of the field that takes the focus when the sentences are set anew
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Brief")
        session.brief_changed.connect(self.refresh)

    # --- keeping up with the document -----------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the present values; the sentences are set anew only when their kind changes."""
        brief = self.session.brief
        shown = None if brief is None else (brief.id, without_candidates(brief), self.session.units)
        if brief is not None and shown == self._shown and not self._briefs_changed():
            return
        self._shown = shown
        shape = None if brief is None else _shape(brief, [b.name for b in self.session.document.project.briefs])
        focus = ""
        if shape != self._shape or brief is None:
            self._shape = shape
            focus = self._wanted or self._focused_name()
            self._wanted = ""
            self._build(brief)
        if brief is None:
            return
        self._refresh_sentences(brief)
        self._focus(focus)

    def finish(self) -> None:
        """Writes what was left for later."""
        page, brief = self.widget(), self.session.brief
        layout = page.layout() if page is not None else None
        if self._in_parts and brief is not None and isinstance(layout, QVBoxLayout):
            layout.takeAt(layout.count() - 1)  # the room below
            self._build_limits(brief, layout)
            layout.addStretch(1)
            self._refresh_sentences(brief)
        self._in_parts = False

    def _refresh_sentences(self, brief: Brief) -> None:
        for paragraph in self.paragraphs.values():
            paragraph.refresh(brief, self.session.units)
        self._show_problems(brief)

    def _briefs_changed(self) -> bool:
        """Whether other briefs came, went or were renamed since the last time."""
        project = self.session.document.project
        before, self._names = self._names, [project.title, *(brief.name for brief in project.briefs)]
        return before != self._names

    def _show_problems(self, brief: Brief) -> None:
        by_field: dict[str, list[str]] = {}
        wrong = [*brief_problems(brief), *followed(brief, self.session.sheet)[1].items()]
        for field, message in wrong:
            by_field.setdefault(self._paragraph_of(brief, field), []).append(message)
        for key, paragraph in self.paragraphs.items():
            paragraph.set_problem("; ".join(by_field.get(key, [])))

    @staticmethod
    def _paragraph_of(brief: Brief, field: str) -> str:
        if field.startswith("load_cases["):
            case = int(field[len("load_cases[") : field.index("]")])
            return brief.load_cases[case].id if case < len(brief.load_cases) else "more_loads"
        if field == "limits.against":
            return f"against {brief.limits.against[0]}"
        if field.startswith("limits.") and field != "limits.reserve_factor":
            name = field.removeprefix("limits.")
            return name if getattr(brief.limits, name, None) is not None else "more_limits"
        if field.startswith("surroundings"):
            return "surroundings"
        if field.startswith(("judgement", "limits")):
            return "judgement"
        return "panel"

    def _build(self, brief: Brief | None) -> None:
        old = self.takeWidget()
        if old is not None:  # it may be one of its fields that is being left just now: it goes when that is done
            old.hide()
            leave(old)
        page = QFrame()
        page.setProperty("role", "card")
        self.setWidget(page)  # before it is filled: what moves to another parent has its style worked out again
        layout = QVBoxLayout(page)
        layout.setContentsMargins(2 * SPACE, 2 * SPACE, 2 * SPACE, 2 * SPACE)
        layout.setSpacing(SPACE)
        self.paragraphs = {}
        if brief is None:
            hint = Label("No brief yet. Ctrl+Shift+N starts one: a member, its supports, loads and limits.")
            hint.setWordWrap(True)
            layout.addWidget(hint)
        else:
            self._build_sentences(brief, layout)
        layout.addStretch(1)

    def _focus(self, name: str) -> None:
        """Gives the focus to the field of this accessible name."""
        for paragraph in self.paragraphs.values() if name else ():
            for field in paragraph.fields:
                if field.accessibleName() == name:
                    field.setFocus(Qt.FocusReason.TabFocusReason)

    def _focused_name(self) -> str:
        page = self.widget()
        focus = page.focusWidget() if page is not None else None
        return focus.accessibleName() if focus is not None and focus.hasFocus() else ""

    def _add(self, layout: QVBoxLayout, key: str) -> Paragraph:
        paragraph = Paragraph()
        self.paragraphs[key] = paragraph
        layout.addWidget(paragraph)
        return paragraph

    def _build_sentences(self, brief: Brief, layout: QVBoxLayout) -> None:
        self._write_heading(self._add(layout, "heading"))
        self._write_member(self._add(layout, "panel"), brief)
        for index, case in enumerate(brief.load_cases):
            self._write_case(self._add(layout, case.id), brief, index)
        if not self._in_parts:
            self._build_limits(brief, layout)

    def _build_limits(self, brief: Brief, layout: QVBoxLayout) -> None:
        more = self._add(layout, "more_loads")
        add = small_button("+ load case", "Add a load case (Ctrl+Shift+L)")
        add.clicked.connect(self.add_case)
        more.widget(add)
        names = kind_of(brief).limits
        for name in names:
            if getattr(brief.limits, name) is not None:
                self._write_limit(self._add(layout, name), name)
        for name in brief.limits.against:
            self._write_against(self._add(layout, f"against {name}"), name)
        missing = [name for name in names if getattr(brief.limits, name) is None]
        against: list[tuple[str, Callable[[], object]]] = [
            (f"{words} the baseline", lambda name=name: self._set_against(name, True))
            for name, words in AGAINST_WORDS.items() if name not in brief.limits.against
        ]  # fmt: skip
        if missing or against:
            more = self._add(layout, "more_limits")
            entries: list[tuple[str, Callable[[], object]]] = [
                (BY_LIMIT[name].offer, lambda name=name: self._set_limit(name, BY_LIMIT[name].start))
                for name in missing
            ]
            entries += against
            more.widget(menu_button("+ limit", "Add a limit", entries))
        self._write_surroundings(self._add(layout, "surroundings"))
        self._write_judgement(self._add(layout, "judgement"))

    # --- sentences ------------------------------------------------------------------------------------------

    def _write_heading(self, p: Paragraph) -> None:
        title = WordField("Title of the project")
        title.setPlaceholderText("project")
        p.word(title, lambda _brief: self.session.document.project.title, self._rename_project)
        p.text("·")
        briefs = self.session.document.project.briefs
        if len(briefs) > 1:
            number = [b.id for b in briefs].index(self.session.brief_id) + 1
            entries: list[tuple[str, Callable[[], object]]] = [
                (b.name, lambda identity=b.id: self.session.choose_brief(identity)) for b in briefs
            ]
            p.widget(menu_button(f"{number} of {len(briefs)} ▾", "Show another brief (Ctrl+PgUp, Ctrl+PgDn)", entries))
        name = WordField("Name of the brief")
        name.setProperty("role", "title")
        p.word(name, lambda b: b.name, lambda text: self._edit(lambda b: replace(b, name=text), "rename the brief"))

    def _write_member(self, p: Paragraph, brief: Brief) -> None:
        write_sentence(p, kind_of(brief).sentence(brief), self._edit, self._follow)

    def _write_case(self, p: Paragraph, brief: Brief, index: int) -> None:
        case = brief.load_cases[index]
        p.touched.connect(lambda: self.session.look_at_case(case.id))
        name = WordField(f"Name of load case {case.id}")
        name.setProperty("role", "title")
        p.word(
            name,
            lambda b: case_of(b, case.id).name,
            lambda text: self._edit(
                lambda b: edits.set_case(b, replace(case_of(b, case.id), name=text)), "rename the load case"
            ),
        )
        for i in range(len(case.loads)):
            if i:
                p.text("and")
            write_sentence(p, kind_of(brief).load_sentence(brief, index, i), self._edit, self._follow)
            drop = small_button("×", f"Remove load {i + 1} of {case.name}")
            drop.clicked.connect(lambda _on, i=i: self._set_load(case.id, i, None, "remove a load"))
            p.widget(drop)
        if case.loads:
            p.text(", all times")
            p.quantity(
                QuantityField("ratio", f"Factor on the loads of {case.id}", positive),
                lambda b: case_of(b, case.id).factor,
                lambda value: self._edit(
                    lambda b: edits.set_case(b, replace(case_of(b, case.id), factor=value)), "factor of a load case"
                ),
                self._follow_at(("load_cases", index, "factor")),
            )
        entries: list[tuple[str, Callable[[], object]]] = [
            (text, lambda kind=kind: self._add_load(case.id, kind))
            for kind, text in ((offer.kind, offer.text) for offer in kind_of(brief).loads)
        ]
        entries.append((f"remove the load case '{case.name}'", lambda: self._remove_case(case)))
        p.widget(menu_button("+", f"Add a load to {case.name}, or remove the case", entries))

    def _write_limit(self, p: Paragraph, name: str) -> None:
        quantity_ = BY_LIMIT[name]

        def number(dimension: str, what: str) -> None:
            p.quantity(
                QuantityField(dimension, what, positive),
                lambda b: getattr(b.limits, name),
                lambda value: self._set_limit(name, value),
                self._follow_at(("limits", name)),
            )

        if quantity_.way == "outside":
            self._write_band(p)
        else:
            p.text(quantity_.before)
            number(quantity_.dimension, quantity_.field)
            if quantity_.after:
                p.text(quantity_.after)
        drop = small_button("×", f"Remove this limit: {quantity_.offer}")
        drop.clicked.connect(lambda: self._set_limit(name, None))
        p.widget(drop)

    def _write_against(self, p: Paragraph, name: Relative) -> None:
        p.text(f"It is {AGAINST_WORDS[name]} the baseline")
        drop = small_button("×", f"Remove this limit: {AGAINST_WORDS[name]} the baseline")
        drop.clicked.connect(lambda: self._set_against(name, False))
        p.widget(drop)

    def _set_against(self, name: Relative, wanted: bool) -> None:
        def change(brief: Brief) -> Brief:
            kept = tuple(other for other in brief.limits.against if other != name)
            return replace(brief, limits=replace(brief.limits, against=(*kept, name) if wanted else kept))

        self._edit(change, f"limit: {AGAINST_WORDS[name]} the baseline")

    def _write_band(self, p: Paragraph) -> None:
        def end(index: int, what: str) -> None:
            def commit(value: float) -> None:
                low, high = self._brief().limits.frequency_band or (0.0, 0.0)
                self._set_limit("frequency_band", (value, high) if index == 0 else (low, value))

            p.quantity(
                QuantityField("frequency", what, positive),
                lambda b: b.limits.frequency_band[index] if b.limits.frequency_band else None,
                commit,
            )

        p.text("No mode lies between")
        end(0, BY_LIMIT["frequency_band"].field)
        p.text("and")
        end(1, "Upper end of the forbidden band")

    def _write_judgement(self, p: Paragraph) -> None:
        def judged(name: str, what: str) -> Callable[[object], None]:
            return lambda value: self._edit(
                lambda b: replace(b, judgement=replace(b.judgement, **{name: value})), what, what
            )

        p.text("Ultimate load is limit load ×")
        p.quantity(
            QuantityField("ratio", "Factor of safety", factor_range),
            lambda b: b.judgement.factor_of_safety,
            judged("factor_of_safety", "factor of safety"),
            self._follow_at(("judgement", "factor_of_safety")),
        )
        p.text("×")
        p.quantity(
            QuantityField("ratio", "Special factor", factor_range),
            lambda b: b.judgement.special_factor,
            judged("special_factor", "special factor"),
            self._follow_at(("judgement", "special_factor")),
        )
        p.text("for")
        reason = WordField("What the special factor is for")
        reason.setPlaceholderText("reason")
        p.word(reason, lambda b: b.judgement.special_factor_reason, judged("special_factor_reason", "reason"))
        p.text("; reserve factor at least")
        p.quantity(
            QuantityField("ratio", "Reserve factor required", factor_range),
            lambda b: b.limits.reserve_factor,
            lambda value: self._set_limit("reserve_factor", value),
            self._follow_at(("limits", "reserve_factor")),
        )
        p.text(". Plies fail by")
        p.choice(
            ChoiceField("Failure criterion of the plies", CRITERIA_WORDS),
            lambda b: b.judgement.criterion,
            judged("criterion", "failure criterion"),
        )
        p.text(", faces wrinkle by")
        p.choice(
            ChoiceField("Coefficient of face wrinkling", WRINKLING_WORDS),
            lambda b: b.judgement.wrinkling,
            judged("wrinkling", "wrinkling rule"),
        )
        brief = self.session.brief
        if brief is not None and brief.conditions:
            p.text(f". {conditions_text(brief)}")

    def _write_surroundings(self, p: Paragraph) -> None:
        def set_to(name: str, what: str, read: Callable[[Any], object] = lambda value: value) -> Callable[[Any], None]:
            return lambda value: self._edit(
                lambda b: replace(b, surroundings=replace(b.surroundings, **{name: read(value)})), what, what
            )

        p.text("It works at up to")
        p.quantity(
            QuantityField("temperature", "Highest service temperature", service_range),
            lambda b: b.surroundings.temperature,
            set_to("temperature", "service temperature"),
        )
        p.text(",")
        p.choice(
            ChoiceField("Wet or dry", MOISTURE_WORDS),
            lambda b: "wet" if b.surroundings.wet else "dry",
            set_to("wet", "wet or dry", lambda key: key == "wet"),
        )
        p.text(", with")
        p.choice(
            ChoiceField("What lies behind it", BEHIND_WORDS),
            lambda b: "aerial" if b.surroundings.aerial else "nothing",
            set_to("aerial", "what lies behind it", lambda key: key == "aerial"),
        )
        p.text("; tightest bend")
        p.quantity(
            QuantityField("length", "Tightest bend of the shape, 0 for flat", bend_range),
            lambda b: b.surroundings.radius or 0.0,
            set_to("radius", "tightest bend", lambda value: value or None),
        )
        p.text(",")
        p.choice(
            ChoiceField("Twisted or not", TWIST_WORDS),
            lambda b: "yes" if b.surroundings.twisted else "no",
            set_to("twisted", "twisted or not", lambda key: key == "yes"),
        )

    # --- edits ----------------------------------------------------------------------------------------------

    def _brief(self) -> Brief:
        brief = self.session.brief
        assert brief is not None
        return brief

    def _edit(self, change: Callable[[Brief], Brief], text: str, merge_key: str = "") -> None:
        brief = self.session.brief
        if brief is not None:
            self.session.edit_brief(change(brief), text, f"{brief.id} {merge_key}" if merge_key else "")

    def _follow(self, number: Number) -> Follow:
        """How a number of the brief follows a formula of the vehicle sheet."""
        return Follow(lambda b: formula_at(b, number.path), lambda text: self.session.follow(number, text))

    def _follow_at(self, path: tuple[str | int, ...]) -> Follow:
        return Follow(
            lambda b: formula_at(b, path), lambda text: self.session.follow(numbers_of(self._brief())[path], text)
        )

    def _rename_project(self, title: str) -> None:
        project = self.session.document.project
        self.session.do(EditHeader(project.title, title, project.units, project.units, "rename the project"))

    def _set_limit(self, name: str, value: object) -> None:
        if getattr(self._brief().limits, name) is None and value is not None:
            self._wanted = BY_LIMIT[name].field
        text = f"limit: {BY_LIMIT[name].offer if name in BY_LIMIT else 'reserve factor'}"
        self._edit(lambda b: replace(b, limits=replace(b.limits, **{name: value})), text, text if value else "")

    def _set_load(self, case_id: str, index: int, load: model.Load | None, text: str) -> None:
        self._edit(lambda b: edits.set_load(b, case_id, index, load), text)

    def _add_load(self, case_id: str, kind: str) -> None:
        brief = self._brief()
        count = len(case_of(brief, case_id).loads)
        self._set_load(case_id, count, kind_of(brief).default_load(brief, kind), "add a load")
        paragraph = self.paragraphs.get(case_id)
        if paragraph is not None:
            fields = [field for field in paragraph.fields if isinstance(field, QuantityField)]
            mine = [field for field in fields if field.accessibleName().endswith(f"load {count + 1}")] or fields[-1:]
            if mine:
                mine[0].setFocus(Qt.FocusReason.TabFocusReason)

    def add_case(self) -> None:
        """Adds a load case and shows it."""
        brief = self.session.brief
        if brief is not None:
            kind = kind_of(brief)
            new = edits.add_case(brief, kind.default_load(brief, kind.first_load))
            self._wanted = f"Name of load case {new.load_cases[-1].id}"
            self.session.edit_brief(new, "add a load case")
            self.session.look_at_case(new.load_cases[-1].id)

    def _remove_case(self, case: LoadCase) -> None:
        self._edit(lambda b: edits.remove_case(b, case.id), f"remove the load case {case.name}")


def _shape(brief: Brief, names: list[str]) -> object:
    """What decides which sentences there are; values are not part of it."""
    kind = kind_of(brief)
    return (
        brief.id,
        tuple(names),
        kind.name,
        outer_form(kind.sentence(brief)),
        tuple(
            (case.id, case.name, tuple(outer_form(kind.load_sentence(brief, i, k)) for k in range(len(case.loads))))
            for i, case in enumerate(brief.load_cases)
        ),
        tuple(getattr(brief.limits, name) is None for name in kind.limits),
        brief.limits.against,
        conditions_text(brief),
    )


def case_of(brief: Brief, case_id: str) -> LoadCase:
    """A load case of a brief by its id."""
    return next(case for case in brief.load_cases if case.id == case_id)
