"""The JSON Schema of project files, made from the records."""

from __future__ import annotations

import json

import msgspec

from omakase.project.model import VERSION, Project
from omakase.shipped import shipped

SHIPPED = f"data/schema/project-{VERSION}.schema.json"


def schema_text() -> str:
    """The schema of the present version as JSON text."""
    schema = msgspec.json.schema(Project)
    schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Omakase project", **schema}
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def shipped_schema() -> str:
    """The schema file that ships with the program; a test keeps it equal to ``schema_text``."""
    return shipped(SHIPPED).read_text("utf-8")
