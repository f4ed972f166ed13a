"""The vehicle sheet: what follows its quantities, and what a change of them does to every brief."""
