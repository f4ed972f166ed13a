"""Specimens: reduction of tests by method (``methods``, one file each), statistics, and what a test should show."""
