"""The document: records, commands with undo, reading, writing and recovery.  Knows no widget."""
