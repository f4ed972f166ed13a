"""Where loads enter: fasteners, inserts, bonds, edges."""
