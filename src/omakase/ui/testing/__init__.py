"""The test bench: series, specimens, curves, statistics, and what is believed of them."""
