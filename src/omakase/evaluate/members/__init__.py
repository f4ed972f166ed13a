"""Kinds of members: one file each, and their registry."""
