"""Omakase: a workbench for the designer of composite sandwich structures."""

__version__ = "0.1.0"
