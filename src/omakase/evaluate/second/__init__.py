"""A second opinion: a member as a finite-element mesh, and what a general solver says beside our own."""
