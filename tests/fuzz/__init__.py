"""Mutated input for every reader: a few hundred seeded cases in the tests, thousands by ``./run fuzz``."""
