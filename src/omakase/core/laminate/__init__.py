"""Stacks of layers and their stiffness, ply states and first-ply failure."""
