"""Decisions, what changed since, and the project's history."""
