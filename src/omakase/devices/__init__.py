"""Devices on the bench: what the program expects of a load frame and a scale (``driver``), and simulated ones."""
