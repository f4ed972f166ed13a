"""What a designer should be warned of in a layup, with reason and fix: one file per rule, one registry."""
