"""The demo project that ships with the program: three briefs of a made-up workshop."""

from __future__ import annotations

from omakase.project.model import Project
from omakase.project.storage import from_bytes
from omakase.shipped import shipped

DEMO_FILE = "data/demo/heronwick.omakase.json"


def demo_project() -> Project:
    """The demo, read as any other file is."""
    return from_bytes(shipped(DEMO_FILE).read_bytes(), "demo")
