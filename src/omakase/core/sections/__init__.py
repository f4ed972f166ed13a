"""Cross-sections of members: walls put together to stiffness, mass and strains."""
