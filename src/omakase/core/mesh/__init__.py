"""Finite-element meshes for a second opinion by a general solver: nodes, elements, what is held and what pulls."""
