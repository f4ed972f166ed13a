"""Checks: one file per failure mode, one registry (``registry``)."""
