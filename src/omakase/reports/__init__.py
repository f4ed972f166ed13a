"""What goes on paper and into other programs: line-up as CSV, PDF and plain text."""
