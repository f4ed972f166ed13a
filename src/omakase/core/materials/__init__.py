"""Constituents, plies, sheets and cores, each value with its provenance."""
