"""The test bench: series, specimens, curves, statistics, and what is believed of them."""

SPECIMENS, STATISTICS, PLAN, COMPARE, BELIEF, IMPORT, FRAME = range(7)  # pages, in the order of their tabs
