"""Members: geometry and loads in, response out."""
