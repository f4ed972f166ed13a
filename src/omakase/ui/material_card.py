"""A material with every value, its unit, where it comes from and what was noted: the one of the selected layer."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QLabel,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from omakase.core.materials.areal import fibre_volume_fraction, ply_masses, ply_thickness
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.evaluate.wording import SOURCE_MARKS, SOURCE_WORDS, quantity
from omakase.project.library import materials_of
from omakase.ui.layer_table import LayerTable
from omakase.ui.session import Session
from omakase.ui.theme import SPACE, Theme


class MaterialCard(QWidget):
    """Follows the layer that is selected in the list; another material can be looked up in the box on top."""

    def __init__(self, session: Session, layers: LayerTable) -> None:
        super().__init__()
        self.session, self.layers = session, layers
        self._shown: object = None
        self.chooser = QComboBox()
        self.chooser.setAccessibleName("Material shown")
        self.name = QLabel()
        self.name.setWordWrap(True)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("Properties of the material")
        self.table.setHorizontalHeaderLabels(["", "Value", "From"])
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        vertical, horizontal = self.table.verticalHeader(), self.table.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        horizontal.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        horizontal.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        horizontal.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.addWidget(self.chooser)
        layout.addWidget(self.name)
        layout.addWidget(self.table, 1)
        self.chooser.activated.connect(lambda index: self.show_material(self.chooser.itemData(index)))
        selection = layers.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self.follow())
        session.chosen_changed.connect(self.follow)
        session.brief_changed.connect(self.follow)

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""

    def follow(self) -> None:
        """Shows the material of the selected layer, or of the first."""
        candidate = self.session.candidate
        if candidate is None or not candidate.layers or not self.isVisible():
            return
        row = max(0, min(self.layers.currentIndex().row(), len(candidate.layers) - 1))
        self.show_material(candidate.layers[row].material)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.follow()

    def show_material(self, short_name: str) -> None:
        """Shows a material by its short name."""
        materials = materials_of(self.session.document.project)
        material = materials.get(short_name)
        shown = (material, self.session.units, tuple(materials))
        if material is None or shown == self._shown:
            return
        self._shown = shown
        if self.chooser.count() != len(materials):
            self.chooser.clear()
            for name in materials:
                self.chooser.addItem(name, name)
        self.chooser.setCurrentIndex(self.chooser.findData(short_name))
        self.name.setText(f"{material.name}. {material.note}".strip())
        rows = [*self._worked_out(material), *self._stated(material)]
        self.table.setRowCount(len(rows))
        vertical = self.table.verticalHeader()
        if vertical is not None:
            vertical.setDefaultSectionSize(int(self.fontMetrics().height() * 1.4))
        for row, (label, tip, value, source, note) in enumerate(rows):
            for column, text in enumerate((label, value, source)):
                item = QTableWidgetItem(text)
                item.setToolTip(f"{tip}\n{note}".strip())
                if column == 1:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)

    def _stated(self, material: Material) -> list[tuple[str, str, str, str, str]]:
        rows = []
        for key, spec in PROPERTIES.items():
            if key in material.properties:
                sourced = material.properties[key]
                source = f"{SOURCE_MARKS[sourced.source]} {sourced.note or SOURCE_WORDS[sourced.source]}"
                soft = spec.dimension == "modulus" and sourced.value < 1e9  # a foam's moduli are told in MPa
                value = quantity(sourced.value, "strength" if soft else spec.dimension, self.session.units)
                rows.append((spec.symbol, spec.meaning, value, source, SOURCE_WORDS[sourced.source]))
        return rows

    def _worked_out(self, material: Material) -> list[tuple[str, str, str, str, str]]:
        """Thickness and mass of a ply from cloth and resin, by the bookkeeping of areas."""
        if material.kind != "ply":
            return []
        units = self.session.units
        fraction = fibre_volume_fraction(
            material.value("resin_mass_fraction"), material.value("fibre_density"), material.value("resin_density")
        )
        cloth, resin = ply_masses(material)
        route = "cloth and resin by mass, no voids (ASTM D3171)"
        return [
            ("t", "cured thickness", quantity(ply_thickness(material), "length", units), "computed", route),
            ("V_f", "fibre volume fraction", f"{fraction:.3f}", "computed", route),
            ("m", "areal mass of the ply", quantity(cloth + resin, "areal_mass", units), "computed", route),
        ]
