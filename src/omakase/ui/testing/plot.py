"""Plots of curves: panned and zoomed with the mouse, thinned to the pixels there are, in the application's colours."""

from __future__ import annotations

import warnings
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from omakase.ui.kit.theme import Theme, font

SMOOTH = 5000  # points up to which a curve is drawn with smoothed edges


def plotting() -> Any:
    """The plotting package, imported at first use: it takes a quarter of a second."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import pyqtgraph

    pyqtgraph.setConfigOptions(antialias=True, foreground="k")
    return pyqtgraph


class CurvePlot(QWidget):
    """One curve with its modulus line, a region to drag, a predicted line and single points.

    The plot itself is made when it is first shown.  ``region_moved`` while the region is dragged, ``region_set`` when
    it is let go, both in the units shown.
    """

    region_moved = pyqtSignal(float, float)
    region_set = pyqtSignal(float, float)

    def __init__(self, theme: Theme, name: str) -> None:
        super().__init__()
        self.theme = theme
        self.setAccessibleName(name)
        self.setAccessibleDescription("no curve")
        self._axes = name
        self.setMinimumHeight(120)
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._plot: Any = None
        self._quiet = False

    @property
    def plot(self) -> Any:
        if self._plot is None:
            self._make()
        return self._plot

    def _make(self) -> None:
        pg = plotting()
        self._plot = pg.PlotWidget(self)
        self._plot.setAccessibleName(self.accessibleName())
        self._plot.setMenuEnabled(False)
        self._plot.hideButtons()
        self._layout.addWidget(self._plot)
        item = self._plot.getPlotItem()
        self.curve = item.plot([], [])
        # thinned to a point or two for each pixel: what lies between is drawn as the least and the largest
        self.curve.opts["autoDownsampleFactor"] = 1.0
        self.curve.setClipToView(True)
        self.others: list[Any] = []
        self.line = item.plot([], [])
        self.predicted = item.plot([], [])
        self.points = pg.ScatterPlotItem(size=8)
        item.addItem(self.points)
        self.region = pg.LinearRegionItem(swapMode="sort")
        self.region.setZValue(-5)
        self.region.sigRegionChanged.connect(lambda: self._tell(self.region_moved))
        self.region.sigRegionChangeFinished.connect(lambda: self._tell(self.region_set))
        item.addItem(self.region)
        self.region.hide()
        self.set_theme(self.theme)

    def _tell(self, signal: Any) -> None:
        if not self._quiet:
            low, high = self.region.getRegion()
            signal.emit(float(low), float(high))

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        if self._plot is None:
            return
        pg = plotting()
        self._plot.setBackground(theme.raised)
        for name in ("left", "bottom"):
            axis = self._plot.getAxis(name)
            axis.setPen(theme.line)
            axis.setTextPen(theme.quiet)
            axis.setTickFont(font("small"))
            axis.enableAutoSIPrefix(False)
            axis.setStyle(maxTickLevel=0)  # small ticks between the numbers took half the time of a drawing
        self.curve.setPen(pg.mkPen(theme.ink, width=1))
        self.line.setPen(pg.mkPen(theme.alarm, width=1, style=Qt.PenStyle.DashLine))
        self.predicted.setPen(pg.mkPen(theme.accent, width=1, style=Qt.PenStyle.DotLine))
        self.points.setPen(pg.mkPen(theme.ink))
        self.points.setBrush(pg.mkBrush(theme.accent))
        tone = QColor(theme.accent)
        tone.setAlpha(36)
        self.region.setBrush(tone)
        stronger = QColor(theme.accent)
        stronger.setAlpha(60)
        self.region.setHoverBrush(stronger)
        for edge in self.region.lines:
            edge.setPen(pg.mkPen(theme.accent, width=2))

    def set_axes(self, across: str, up: str) -> None:
        self._axes = f"{up} against {across}"
        style = {"color": self.theme.quiet, "font-size": f"{font('small').pointSizeF()}pt"}
        self.plot.setLabel("bottom", across, **style)
        self.plot.setLabel("left", up, **style)

    def show_curve(self, x: np.ndarray, y: np.ndarray) -> None:
        _ = self.plot
        # a long noisy curve is a band of lines upon lines, and smoothing them takes time; a short one is drawn as it is
        short = len(x) < SMOOTH
        self.curve.setDownsampling(ds=1, auto=not short, method="peak")
        self.curve.setData(x, y, antialias=short)
        ends = f"{len(x)} points, highest {float(np.max(y)):.4g} at {float(x[int(np.argmax(y))]):.4g}" if len(x) else ""
        self.setAccessibleDescription(f"{self._axes}: {ends}" if ends else "no curve")

    def show_behind(self, curves: list[tuple[np.ndarray, np.ndarray]]) -> None:
        """Other specimens' curves, faint behind the chosen one."""
        pg, item = plotting(), self.plot.getPlotItem()
        while len(self.others) < len(curves):
            self.others.append(item.plot([], []))
            self.others[-1].setZValue(-3)
        for i, other in enumerate(self.others):
            other.setPen(pg.mkPen(self.theme.line, width=1))
            other.setData(*(curves[i] if i < len(curves) else ([], [])))

    def show_lines(self, line: tuple[np.ndarray, np.ndarray] | None, predicted: np.ndarray | None) -> None:
        """The modulus line as (x, y), and the predicted one as (n, 2)."""
        _ = self.plot
        self.line.setData(*(line if line is not None else ([], [])))
        self.predicted.setData(*(([], []) if predicted is None else (predicted[:, 0], predicted[:, 1])))

    def show_points(self, points: np.ndarray | None) -> None:
        _ = self.plot
        self.points.setData(*(([], []) if points is None else (points[:, 0], points[:, 1])))

    def show_region(self, region: tuple[float, float] | None) -> None:
        _ = self.plot
        self._quiet = True
        self.region.setVisible(region is not None)
        if region is not None:
            self.region.setRegion(region)
        self._quiet = False

    def fit(self) -> None:
        """Shows all of it."""
        _ = self.plot
        shown = [item.getOriginalDataset() for item in (self.curve, *self.others)]
        shown = [(x, y) for x, y in shown if x is not None and len(x)]
        if shown:
            x, y = (np.concatenate(parts) for parts in zip(*shown, strict=True))
            self.plot.setXRange(float(x.min()), float(x.max()), padding=0.04)
            self.plot.setYRange(min(float(y.min()), 0.0), float(y.max()), padding=0.04)
