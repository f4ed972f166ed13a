"""Drawings at full size in mm, as DXF or SVG: one drawing, two ways to write it."""

from __future__ import annotations

import io
from typing import Any

from omakase.core.errors import OmakaseError

MARGIN = 5.0  # mm round an SVG


def new_drawing() -> Any:
    """An empty drawing, R2010, in mm."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010")
    document.units = units.MM
    document.header["$INSUNITS"] = units.MM
    return document


def drawing_bytes(document: Any, ending: str) -> bytes:
    """The drawing as .dxf, or as .svg whose millimetres are those of the part.  Raises OmakaseError for another."""
    if ending == ".dxf":
        stream = io.StringIO()
        document.write(stream)
        return stream.getvalue().encode("utf-8")
    if ending == ".svg":
        return _svg(document)
    raise OmakaseError(f"a drawing is written as .dxf or .svg, not as '{ending}'")


def _svg(document: Any) -> bytes:
    from ezdxf.addons.drawing import config, layout, svg
    from ezdxf.addons.drawing.frontend import Frontend
    from ezdxf.addons.drawing.properties import RenderContext

    backend = svg.SVGBackend()
    black_on_white = config.Configuration(
        background_policy=config.BackgroundPolicy.WHITE, color_policy=config.ColorPolicy.BLACK
    )
    space = document.modelspace()
    Frontend(RenderContext(document), backend, config=black_on_white).draw_layout(space)
    page = layout.Page(0, 0, layout.Units.mm, layout.Margins.all(MARGIN))
    return str(backend.get_string(page, settings=layout.Settings(scale=1.0, fit_page=False))).encode("utf-8")
